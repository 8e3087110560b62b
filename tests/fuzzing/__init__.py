"""Inputs nobody meant: every reader and every form must answer them in words, quickly, with nothing half stored."""
