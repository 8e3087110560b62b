"""Centering: borders in millimetres, the share of the larger one, and the grade each house's limits then allow."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from botin.core.grading.grades import GRADES, Inspection, Standard

WIDEST_MM = 30.0
_TYPED = re.compile(r"\s*(\d{1,2}(?:[.,]\d)?)\s*[/:\s-]\s*(\d{1,2}(?:[.,]\d)?)\s*")


@dataclass(frozen=True, slots=True)
class Borders:
    """The widths of a card's printed border, millimetres."""

    left: float
    right: float
    top: float
    bottom: float

    def by_side(self) -> dict[str, float]:
        """Return them by name."""
        return {"left": self.left, "right": self.right, "top": self.top, "bottom": self.bottom}

    @property
    def left_right(self) -> float:
        """The left one in percent of left and right."""
        return _share(self.left, self.right)

    @property
    def top_bottom(self) -> float:
        """The top one in percent of top and bottom."""
        return _share(self.top, self.bottom)

    @property
    def larger(self) -> float:
        """The larger border of the worse axis, in percent: 55 is 55/45."""
        return max(max(share, 100 - share) for share in (self.left_right, self.top_bottom))


def _share(one: float, other: float) -> float:
    return 100 * one / (one + other) if one + other > 0 else 50.0


def larger_of(text: str) -> float | None:
    """Read ``30/70``, ``70-30`` or ``55``: the larger border in percent; None when it is no centering.

    Both must add up to 100, as a centering does.
    """
    found = _TYPED.fullmatch(text)
    if found:
        one, other = (float(part.replace(",", ".")) for part in found.groups())
        return max(one, other) if abs(one + other - 100) < 0.11 else None
    try:
        one = float(text.strip().replace(",", "."))
    except ValueError:
        return None
    return max(one, 100 - one) if 0 < one < 100 else None


def allowed(standards: Mapping[str, Standard], front: float | None, back: float | None) -> dict[str, float]:
    """Return by house the highest grade that the centering allows."""
    seen = Inspection(front=front, back=back)
    return {house: min(GRADES[0], standard.cap(seen)) for house, standard in standards.items()}
