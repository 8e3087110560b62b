"""Boxes, their packs, the log, steps."""
