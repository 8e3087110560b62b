"""The books: entries, orders, sums."""
