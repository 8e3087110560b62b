"""Botin: log box openings, and know what a card and a box cost and are worth."""

__version__ = "0.8.0"
