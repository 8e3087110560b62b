"""Scans of cards with a known truth, for measuring the measuring."""
