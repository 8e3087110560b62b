"""Cells that a spreadsheet would run as a formula are exported with an apostrophe before them."""

from __future__ import annotations

import re

_SIGN = "[=+\\-@\uff1d\uff0b\uff0d\uff20\ufe66\ufe62\ufe63\ufe6b\u2212]"
"""Signs a formula begins with: also in full width, small, and the minus of typesetters."""
_UNSEEN = "[\\s\x00-\x1f\u00ad\u180e\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]"
"""What a spreadsheet may drop before it looks: blanks, line ends, control characters, what has no width."""
_STARTS = f"(?:{_UNSEEN}*{_SIGN}|[\\t\\r])"
_RUNS = re.compile(f"'*{_STARTS}")
_GUARDED = re.compile(f"'+{_STARTS}")


def guard(cell: str) -> str:
    """Put an apostrophe before a cell that begins with = + - @ (or with apostrophes and one of them).

    What a spreadsheet drops before it looks (blanks, line ends, characters without width) does not hide the sign.
    """
    return f"'{cell}" if _RUNS.match(cell) else cell


def unguard(cell: str) -> str:
    """Take the apostrophe of `guard` off again; the round trip gives the same cell."""
    return cell[1:] if _GUARDED.match(cell) else cell
