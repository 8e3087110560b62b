"""What is said of a price: how much, how sure, and what it rests on."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from botin.core.pricing.comps import CompEstimate

Z80 = 1.2815515655446004
NO_SPREAD = 1.2
"""Spread on the log scale where nothing is known; a choice."""


class Found(StrEnum):
    """Where an estimate comes from, the surest first."""

    COMPS = "sold prices of its own"
    GRADE = "its own sales in other grades"
    MODEL = "its player and its finish"
    TIER = "the usual price of its section and finish"
    GUIDE = "a price guide"
    WIDE = "nothing of its section and finish: the spread between finishes"
    NONE = "no price known"


@dataclass(frozen=True, slots=True)
class Guess:
    """A price with where it comes from (major units).

    Attributes
    ----------
    amount, low, high : float
        Median of what a copy sells for, and its 80 % interval.
    mean : float
        What it is worth in money: the mean.
    spread : float
        Of the level, on the log scale; a single sale scatters around it by ``noise``.
    """

    amount: float
    low: float
    high: float
    found: Found
    spread: float
    sales: int = 0
    newest: date | None = None
    own: CompEstimate | None = None
    mean: float = 0.0
    noise: float = 0.0

    @property
    def drawn(self) -> bool:
        """Whether the others moved what its own sales say by more than a fiftieth."""
        return self.own is not None and abs(self.amount / self.own.amount - 1) > 0.02

    @property
    def known(self) -> bool:
        """Whether it rests on a price of the card, its player or its finish."""
        return self.found not in (Found.NONE, Found.WIDE)


NOTHING = Guess(0.0, 0.0, 0.0, Found.NONE, NO_SPREAD)


def plain_guess(middle: float, spread: float, found: Found, noise: float, mean: float | None = None) -> Guess:
    """A log-normal estimate, its mean cut as that of a belief is unless it is given."""
    wide = math.exp(Z80 * spread)
    amount = math.exp(middle)
    return Guess(
        amount,
        amount / wide,
        amount * wide,
        found,
        spread,
        mean=amount * math.exp(min(spread, 1.5) ** 2 / 2) if mean is None else mean,
        noise=noise,
    )
