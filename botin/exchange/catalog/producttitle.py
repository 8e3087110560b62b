"""The product's name before the name of every section: it is taken off, and names the product."""

from __future__ import annotations

import re
from collections.abc import Sequence

_YEAR = re.compile(r"(?:19|20)\d\d(?:[-/]\d{2,4})?")
FEWEST = 2
"""Lines that must go on behind the same words, and words that these are at least."""


def title_before(lines: Sequence[str]) -> str:
    """Return the words with a year that begin the first line and others, longest first; empty when there are none."""
    first = lines[0].split() if lines else []
    for size in range(len(first), FEWEST - 1, -1):
        words = first[:size]
        start = " ".join(words)
        if not any(_YEAR.fullmatch(word) for word in words):
            return ""
        if sum(len(rest_of(line, start)) > 0 for line in lines) >= FEWEST:
            return start
    return ""


def rest_of(line: str, title: str) -> str:
    """Return what a line says behind the title; empty when it does not begin so, or says no more."""
    text = " ".join(line.split())
    if not title or not text.casefold().startswith(f"{title.casefold()} "):
        return ""
    return text[len(title) :].strip(" -–—:|,")
