"""Simulated outside services behind small protocols; each says that it is simulated."""
