"""Flags of copies and versions."""
