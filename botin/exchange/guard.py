"""Cells that a spreadsheet would run as a formula are exported with an apostrophe before them."""

from __future__ import annotations

import re

_RUNS = re.compile(r"'*[=+\-@\t\r]")
_GUARDED = re.compile(r"'+[=+\-@\t\r]")


def guard(cell: str) -> str:
    """Put an apostrophe before a cell that begins with = + - @ (or with apostrophes and one of them)."""
    return f"'{cell}" if _RUNS.match(cell) else cell


def unguard(cell: str) -> str:
    """Take the apostrophe of `guard` off again; the round trip gives the same cell."""
    return cell[1:] if _GUARDED.match(cell) else cell
