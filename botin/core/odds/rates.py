"""Printed odds: what was printed, what it means, and what it may have been before rounding."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from botin.core.errors import BadOddsError

_NUMBER = re.compile(r"(?:1\s*(?::|/|in)\s*)?(\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d+(?:\.\d*)?|\.\d+)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Printed:
    """A number as printed, with the interval that rounds to it.

    ``1:29`` was between 28.5 and 29.5 packs a hit, ``1:7.0`` between 6.95 and 7.05.
    """

    text: str
    value: float
    low: float
    high: float


@lru_cache(maxsize=65_536)
def parse_printed(text: str) -> Printed:
    """Read ``24``, ``1:24``, ``1 in 24``, ``7.0`` or ``1,473``; for odds the part after the colon.

    Raises
    ------
    BadOddsError
        When it is no positive number.
    """
    found = _NUMBER.fullmatch(text.strip())
    if not found:
        raise BadOddsError(text)
    digits = found[1].replace(",", "")
    value = float(digits)
    if value <= 0:
        raise BadOddsError(text)
    decimals = len(digits.partition(".")[2])
    half = 0.5 * 10.0**-decimals
    return Printed(text.strip(), value, max(value - half, 0.0), value + half)


@dataclass(frozen=True, slots=True)
class Span:
    """An estimate with the interval that the print allows."""

    low: float
    mid: float
    high: float

    def times(self, factor: float) -> Span:
        """Return the span scaled by a factor that is not negative."""
        return Span(self.low * factor, self.mid * factor, self.high * factor)

    def plus(self, other: Span) -> Span:
        """Return the sum of two spans."""
        return Span(self.low + other.low, self.mid + other.mid, self.high + other.high)

    def meets(self, other: Span, *, widen: float = 0.0) -> bool:
        """Whether the two intervals have a point in common, each widened by a share of itself."""
        return self.low * (1 - widen) <= other.high * (1 + widen) + 1e-12 and other.low * (1 - widen) <= (
            self.high * (1 + widen) + 1e-12
        )


def odds_span(text: str) -> Span:
    """Cards per pack behind printed odds ``1:N``: 1/N, between the largest and the smallest N that rounds to it."""
    printed = parse_printed(text)
    return Span(1 / printed.high, 1 / printed.value, 1 / printed.low if printed.low > 0 else float("inf"))


def count_span(text: str, promise: str, packs: float) -> Span:
    """Cards per pack behind a count over ``packs`` packs.

    ``exact`` is exact; ``at_least`` has no upper end; an average lies where it rounds to what is printed.
    """
    printed = parse_printed(text)
    each = printed.value / packs
    if promise == "exact":
        return Span(each, each, each)
    if promise in ("at_least", "guaranteed"):
        return Span(each, each, float("inf"))
    return Span(printed.low / packs, each, printed.high / packs)
