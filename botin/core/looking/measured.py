"""What a measurement says of a card."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True, slots=True)
class Wear:
    """Whitening in millimetres, 0 where none is claimed, None where it cannot show.

    Attributes
    ----------
    corners : tuple
        Upper left, then clockwise.
    edges : tuple
        Top, right, bottom, left.
    """

    corners: tuple[float | None, ...] = (None,) * 4
    edges: tuple[float | None, ...] = (None,) * 4


@dataclass(frozen=True, slots=True)
class Measured:
    """A card on a picture.

    Attributes
    ----------
    corners : tuple of (x, y)
        Upper left, then clockwise, pixels of the picture after its own note of turning.
    borders : mapping or None
        Millimetres by side; None when there is none to measure, and ``why`` says so.
    left_right, top_bottom : float or None
        The left border in percent of left and right, the top one of top and bottom.
    low, high : (left_right, top_bottom) or None
        A 90 % interval.
    per_mm : float
        Pixels a millimetre, by the outline.
    outlined : bool
        Whether the outline is a card's; without it nothing is measured.
    notes : tuple of str
        What was assumed.
    """

    corners: tuple[tuple[float, float], ...]
    per_mm: float
    borders: dict[str, float] | None = None
    left_right: float | None = None
    top_bottom: float | None = None
    low: tuple[float, float] | None = None
    high: tuple[float, float] | None = None
    why: str = ""
    outlined: bool = True
    wear: Wear = field(default_factory=Wear)
    notes: tuple[str, ...] = ()

    def document(self) -> dict[str, Any]:
        """Shape it as the contract has it."""
        return {
            "corners": [[round(x, 2), round(y, 2)] for x, y in self.corners],
            "measured": self.borders is not None,
            "why": self.why,
            "left_right": _rounded(self.left_right),
            "top_bottom": _rounded(self.top_bottom),
            "low": self.low and [round(part, 2) for part in self.low],
            "high": self.high and [round(part, 2) for part in self.high],
            "borders": self.borders and {side: round(width, 3) for side, width in self.borders.items()},
            "wear": {
                "corners": [_rounded(one) for one in self.wear.corners],
                "edges": [_rounded(one) for one in self.wear.edges],
            },
            "notes": list(self.notes),
        }


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)
