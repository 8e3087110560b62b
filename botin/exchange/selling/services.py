"""What a grading house does with a card, as it stands in the fees."""

from __future__ import annotations

SERVICES = ("", "review", "cross over", "new holder")
"""What a house does with a card: grades it (empty), looks at its own slab again, takes one of another house, or puts
a slab into a new holder."""


def service_named(text: str) -> str | None:
    """Return the service that a text names, empty for grading; None when it names none."""
    word = text.strip().casefold()
    word = "" if word in ("grade", "grading") else word
    return word if word in SERVICES else None
