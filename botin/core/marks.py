"""Marks on a card: their kind, and how bad a case it is."""

from __future__ import annotations

SEVERITY = {"slight": 0.5, "light": 0.5, "": 1.0, "heavy": 1.7, "bad": 1.7}
"""How much stronger (in the log) a case is than the plain one; a choice, no source."""


def severity_of(mark: str) -> tuple[str, float]:
    """Split a mark into its kind and how strong it is."""
    words = mark.casefold().split()
    strong = [word for word in words if word in SEVERITY]
    kind = " ".join(word for word in words if word not in SEVERITY)
    return kind, SEVERITY[strong[0]] if strong else 1.0
