"""Marks on a card: their kind, and how bad a case it is."""

from __future__ import annotations

import re

SEVERITY = {"slight": 0.5, "light": 0.5, "": 1.0, "heavy": 1.7, "bad": 1.7}
"""How much stronger (in the log) a case is than the plain one; a choice, no source."""


def severity_of(mark: str) -> tuple[str, float]:
    """Split a mark into its kind and how strong it is."""
    words = mark.casefold().split()
    strong = [word for word in words if word in SEVERITY]
    kind = " ".join(word for word in words if word not in SEVERITY)
    return kind, SEVERITY[strong[0]] if strong else 1.0


CENTERING = "centering "
"""What a centering typed while opening is marked with: ``centering 30/70``, left and right of the front."""
_CENTRED = re.compile(CENTERING + r"(\d{1,2})/(\d{1,2})")


def centering_of(mark: str) -> tuple[int, int] | None:
    """Return both borders in percent of a mark that is a centering."""
    found = _CENTRED.fullmatch(mark)
    return (int(found[1]), int(found[2])) if found else None
