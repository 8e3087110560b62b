"""What a version sells for, robustly: recent sales count more, odd ones are marked and kept but do not count.

Weighted median with exponential age weights, drop what lies beyond 3.5 weighted median absolute deviations of the
log prices, weighted median again. Sold, guide and asking prices are never mixed.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property

import numpy as np

from botin.core.counts import FloatArray
from botin.core.pricing.prices import PriceKind, PriceRow, age_weight, weighted_median

CUT = 3.5
"""Iglewicz and Hoaglin (1993), How to detect and handle outliers: a modified z score beyond 3.5 (from memory)."""
CONSISTENT = 1.4826
"""Median absolute deviation to standard deviation of a normal (standard)."""
FEWEST_TO_DROP = 4
MEDIAN_ERROR = 1.2533
"""Standard error of a median against that of a mean, √(π/2) at the normal (standard)."""
SMALLEST_SPREAD = 0.05
"""Two equal sales do not make a price certain: a spread of 5 % at least; a choice."""
LONELY_SPREAD, LONELY_WORTH = 0.35, 3.0
"""Usual spread of log prices, and the sales it counts as beside those of a version: a few sales that happen to agree
say little of how they scatter; a choice, held against simulated sales in the tests."""
Z80 = 1.2815515655446004


@dataclass(frozen=True)
class CompEstimate:
    """An estimate from sales (major units).

    Attributes
    ----------
    amount : float
        The estimate.
    spread : float
        Robust standard deviation of the log prices of single sales.
    effective : float
        (Σw)² ÷ Σw²: how many equally recent sales they are worth.
    used, outliers : tuple of PriceRow
        What counted, and what was too far off.
    """

    amount: float
    spread: float
    effective: float
    used: tuple[PriceRow, ...]
    outliers: tuple[PriceRow, ...]

    @cached_property
    def trend(self) -> float | None:
        """Change a week as a share, from the sales that counted; None with too few or at one date."""
        return _trend(self.used)

    @property
    def sigma(self) -> float:
        """Spread of log prices to reckon with: that of its sales, pulled towards the usual one while they are few."""
        own, usual = self.effective * self.spread**2, LONELY_WORTH * LONELY_SPREAD**2
        return math.sqrt((own + usual) / (self.effective + LONELY_WORTH))

    @property
    def error(self) -> float:
        """Standard error of the log of the estimate."""
        return self.sigma * MEDIAN_ERROR / math.sqrt(max(self.effective, 0.5))

    def at_share(self, z: float) -> float:
        """Price so many standard errors of a normal up or down, wider by what few sales leave unknown of the spread.

        Student's t by its first correction, z + (z³ + z)/4ν (Fisher 1926; Abramowitz and Stegun 26.7.5, from memory).
        """
        free = self.effective + LONELY_WORTH - 1
        return self.amount * math.exp((z + (z**3 + z) / (4 * free)) * self.error)

    @property
    def low(self) -> float:
        """Lower end of its 80 % interval."""
        return self.at_share(-Z80)

    @property
    def high(self) -> float:
        """Upper end of its 80 % interval."""
        return self.at_share(Z80)


def comp_estimate(rows: Sequence[PriceRow], as_of: date, kind: PriceKind = PriceKind.SOLD) -> CompEstimate | None:
    """Estimate one version from its prices; None when none of the kind is there.

    Parameters
    ----------
    rows : sequence of PriceRow
        Prices of one version in one grade.
    as_of : date
        Day the ages are counted from.
    kind : PriceKind
        Sold prices by default; a guide or asking prices only when they are asked for by name.
    """
    mine = [row for row in rows if row.kind is kind and row.amount > 0]
    if not mine:
        return None
    logs = [math.log(row.amount) for row in mine]
    weights = [age_weight(row.sold_on, as_of) + 1e-9 for row in mine]
    middle, spread = _middle(logs, weights)
    keep = [abs(x - middle) <= CUT * spread for x in logs] if len(mine) >= FEWEST_TO_DROP else [True] * len(mine)
    kept = [(x, w, row) for x, w, row, ok in zip(logs, weights, mine, keep, strict=True) if ok]
    middle, spread = _middle([x for x, _, _ in kept], [w for _, w, _ in kept])
    if len(kept) < 3:
        spread = max(spread, LONELY_SPREAD)
    total = sum(w for _, w, _ in kept)
    effective = total**2 / sum(w * w for _, w, _ in kept)
    return CompEstimate(
        math.exp(middle),
        spread,
        effective,
        tuple(row for _, _, row in kept),
        tuple(row for row, ok in zip(mine, keep, strict=True) if not ok),
    )


def _middle(logs: Sequence[float], weights: Sequence[float]) -> tuple[float, float]:
    middle = weighted_median(logs, weights)
    away = weighted_median([abs(x - middle) for x in logs], weights)
    return middle, max(SMALLEST_SPREAD, CONSISTENT * away)


def _trend(rows: Sequence[PriceRow]) -> float | None:
    """Change a week by the median of all pairwise slopes of log prices (Theil 1950, Sen 1968)."""
    dated = [(row.sold_on.toordinal() / 7, math.log(row.amount)) for row in rows if row.sold_on]
    if len(dated) < 4:
        return None
    weeks, logs = (np.array(column) for column in zip(*dated, strict=True))
    gaps = weeks[:, None] - weeks[None, :]
    rises: FloatArray = logs[:, None] - logs[None, :]
    later = gaps > 0.5
    return float(np.expm1(np.median(rises[later] / gaps[later]))) if later.any() else None


def shrink(own: CompEstimate, tier_amount: float, tier_spread: float) -> float:
    """Pull an estimate towards its tier on the log scale: (n_eff/σ²·m + μ/τ²) ÷ (n_eff/σ² + 1/τ²)."""
    if tier_amount <= 0:
        return own.amount
    mine, prior = own.effective / own.spread**2, 1 / tier_spread**2
    return math.exp((mine * math.log(own.amount) + prior * math.log(tier_amount)) / (mine + prior))
