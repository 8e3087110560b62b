"""Looks at copies: which first, what a scan shows, what the flag becomes."""
