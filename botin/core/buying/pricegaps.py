"""Which prices matter: most cards have no price, and few of them could move the answer."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from botin.core.counts import FloatArray
from botin.core.pricing.priced import PricedBox, PricedLine

FEWEST = 4
"""A relation between scarcity and price is fitted from this many priced lines on."""
SPREAD = 2.0
"""The dear end of a plausible price is two of the fit's standard deviations up."""
BLIND = (1.0, 1.5)
"""Without a fit, a card ten times scarcer is taken to be worth ten times more, within a factor e^1.5; a choice."""


@dataclass(frozen=True, slots=True)
class PriceGap:
    """A line without a price, or with some cards without one.

    Attributes
    ----------
    likely, high : float
        What a card of its scarcity sells for in this product, and the dear end of it (major units).
    swing : float
        How far the mean of a box could move: expected unpriced copies times ``high``.
    """

    line: PricedLine
    cards: int
    copies: float
    likely: float
    high: float
    swing: float


def price_gaps(box: PricedBox) -> tuple[PriceGap, ...]:
    """Rank the lines that lack prices by how much they could move the mean.

    A card's scarcity is how often it comes in a box; log price against log scarcity over the priced lines gives
    what is plausible, by least squares.
    """
    slope, level, spread = _fit(box)
    found = []
    for line in box.all_lines:
        if not line.unpriced or not line.expected:
            continue
        each = line.expected / len(line.values)
        likely = float(np.exp(level + slope * np.log(each)))
        copies = line.expected * line.unpriced / len(line.values)
        high = likely * float(np.exp(SPREAD * spread))
        found.append(PriceGap(line, line.unpriced, copies, likely, high, copies * high))
    return tuple(sorted(found, key=lambda gap: -gap.swing))


def _fit(box: PricedBox) -> tuple[float, float, float]:
    """Slope, level and spread of log price against log scarcity."""
    rows = [
        (np.log(line.expected / len(line.values)), np.log(_middle(line.values)))
        for line in box.all_lines
        if line.expected and line.unpriced < len(line.values) and _middle(line.values) > 0
    ]
    if len(rows) < FEWEST:
        x, y = (np.array(rows).mean(axis=0)) if rows else (0.0, 0.0)
        return -BLIND[0], float(y + BLIND[0] * x), BLIND[1]
    x, y = np.array(rows).T
    slope = min(0.0, float(np.polyfit(x, y, 1)[0])) if np.ptp(x) > 0 else 0.0
    level = float(np.mean(y - slope * x))
    return slope, level, float(np.std(y - slope * x - level))


def _middle(values: FloatArray) -> float:
    known = values[values > 0]
    return float(np.median(known)) if len(known) else 0.0
