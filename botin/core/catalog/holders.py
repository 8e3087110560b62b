"""How thick a card is, and which holder takes it. Thickness is told in points: 1 pt is a thousandth of an inch."""

from __future__ import annotations

from botin.core.catalog.product import Kind

MM_PER_POINT = 0.0254
"""1 pt = 0.001 inch = 0.0254 mm (the inch is 25.4 mm exactly, ISO 80000-3)."""
HOLDERS = (35, 55, 75, 100, 130, 180, 260, 360)
"""Sizes rigid holders are usually sold in (points); from memory, no source."""
USUAL = {Kind.RELIC: 130, Kind.AUTOGRAPH_RELIC: 130, Kind.AUTOGRAPH: 35, Kind.BUYBACK: 35}
"""Thickness to reckon with where the product does not say (points); a choice, no source. Everything else: 20."""


def millimetres(points: float) -> float:
    """Return a thickness in millimetres."""
    return points * MM_PER_POINT


def thickness(kind: Kind) -> int:
    """Return the thickness to reckon with for a kind of card, in points."""
    return USUAL.get(kind, 20)


def holder(points: int) -> int | None:
    """Return the smallest holder that takes a card; None when none does."""
    return next((size for size in HOLDERS if size >= points), None)
