"""The books: what everything cost and brought."""
