"""The grading desk: choose, order, pack, send, pay, take in, and what it brought."""
