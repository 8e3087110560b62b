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
