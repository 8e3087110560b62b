"""Prices and rates."""
