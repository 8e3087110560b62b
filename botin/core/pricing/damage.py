"""What known damage leaves of a raw price: a factor for each kind and severity, a table the user edits."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import lru_cache

from botin.core.errors import DamageTableError
from botin.core.marks import severity_of

USUAL = {
    "off-centre": 0.75,
    "miscut": 0.6,
    "soft corner": 0.7,
    "edge chip": 0.75,
    "print line": 0.85,
    "dimple": 0.85,
    "fingerprint": 0.95,
    "signature bubble": 0.7,
    "gum stain": 0.55,
    "wax stain": 0.7,
    "stain": 0.55,
    "crease": 0.3,
    "fading": 0.5,
    "scratch": 0.8,
    "nick": 0.75,
    "bubble": 0.8,
}
"""Share of the clean card's raw price that a plain case of each leaves; a choice, no source."""
LEAST = 0.05


def damage(marks: Iterable[str], table: Mapping[str, float] = USUAL) -> float:
    """Return what a copy's marks leave of the clean card's raw price.

    Parameters
    ----------
    marks : iterable of str
        Kinds of damage, each with a severity before or after it: ``gum stain``, ``heavy crease``.
    table : mapping
        Share that a plain case of each leaves; what is not in it costs nothing.
    """
    left = 1.0
    for mark in marks:
        kind, strength = severity_of(mark)
        left *= float(table.get(kind, 1.0)) ** strength
    return max(LEAST, left) if left < 1 else left


@lru_cache(maxsize=8)
def damage_table(text: str) -> Mapping[str, float]:
    """Read the table as it is edited: a line a kind, ``gum stain; 55`` leaves 55 %.

    Raises
    ------
    DamageTableError
        When a line is not a kind and a percentage.
    """
    found = {}
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        kind, _, share = line.rpartition(";")
        try:
            percent = float(share.strip().removesuffix("%").strip().replace(",", "."))
        except ValueError:
            percent = -1.0
        if not kind.strip() or not 0 <= percent <= 100:
            raise DamageTableError(number, line)
        found[" ".join(kind.casefold().split())] = percent / 100
    return found
