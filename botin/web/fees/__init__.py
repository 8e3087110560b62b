"""Fees, postage, limits and rates of exchange: tables the user edits, versioned by their day."""
