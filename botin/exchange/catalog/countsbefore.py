"""Headings with their count before them, “24 Night Sprints”, over as many lines that begin with a bullet or a #."""

from __future__ import annotations

import re
from collections.abc import Sequence

from botin.exchange.catalog.textreader import is_nested

Numbered = tuple[int, str]
_COUNTED = re.compile(r"(?P<n>\d{1,4})\s+(?P<label>[^\W\d_][^,;|()\[\]]{2,50})")
FEWEST = 3
"""Lines below from which the count is evidence: one or two may be chance (a choice)."""


def with_counts(lines: Sequence[Numbered]) -> list[Numbered]:
    """Return the lines of a text with such headings as “Night Sprints (24 cards)”.

    The number would read as that of a card. It is a count where exactly so many lines of another form follow.
    """
    made = list(lines)
    for at, (number, text) in enumerate(lines):
        found = _COUNTED.fullmatch(text.strip())
        if found and not _is_marked(text) and _marked_below(lines, at) == int(found["n"]) >= FEWEST:
            made[at] = (number, f"{found['label']} ({found['n']} cards)")
    return made


def _is_marked(text: str) -> bool:
    return is_nested(text) or text.lstrip().startswith("#")


def _marked_below(lines: Sequence[Numbered], at: int) -> int:
    """Count the lines right below that begin with a mark."""
    below = 0
    while at + below + 1 < len(lines) and _is_marked(lines[at + below + 1][1]):
        below += 1
    return below
