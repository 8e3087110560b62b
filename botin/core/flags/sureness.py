"""How sure a flag is: the chance that its kind of way is the best one, over what is unknown of the prices.

The raw level and the levels of the grades are uncertain, and move together as far as they rest on the same sales:
where a graded price is the raw one times a ratio, what is unknown of the raw one is in both. A price is a mean: the
level it is as likely above as below lies half its variance lower on the log scale. Fees, chances of grades and the
fade are taken as they are.
"""

from __future__ import annotations

import math
from functools import cache

import numpy as np

from botin.core.counts import FloatArray
from botin.core.flags.flipping import means_at
from botin.core.flags.ways import LATER_WEEKS, CopyFacts, Go, GradingCosts
from botin.core.selling.costs import SaleCosts

RAW, REST = 15, 7
"""Equally likely values of the raw level, and of what the graded ones have of their own."""
LEVEL = 1e-9
"""Nets that differ by less (major units) are the same: then the flag is as good as the other."""


def chance_best(
    copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, go: Go, weeks: float = LATER_WEEKS
) -> float:
    """Return the chance that a kind of way nets most on average, given what its prices truly are.

    Parameters
    ----------
    go : Go
        The kind of way: bulk, sell now, sell later, grade.

    Returns
    -------
    float
        1.0 where nothing is unknown of the prices and it is the best.
    """
    graded_spread = _usual_spread(copy)
    raw, graded = _sides(_together(copy, graded_spread))
    means = means_at(copy, costs, grading, weeks, raw - copy.raw.spread / 2, graded - graded_spread / 2)
    if go not in means:
        return 0.0
    others = [values for way, values in means.items() if way is not go]
    return float((means[go] >= np.max(others, axis=0) - LEVEL).mean()) if others else 1.0


def _usual_spread(copy: CopyFacts) -> float:
    """Middle one of the spreads of the graded levels; 0 when none has a price."""
    spreads = sorted(price.spread for price in copy.graded.values() if price.amount > 0)
    return spreads[len(spreads) // 2] if spreads else 0.0


def _together(copy: CopyFacts, graded: float) -> float:
    """How far the graded levels move with the raw one, 0 to 1: the share of the wider spread that both have."""
    wide = max(copy.raw.spread, graded)
    return min(copy.raw.spread, graded) / wide if wide > 0 else 0.0


@cache
def _points(count: int) -> tuple[float, ...]:
    from statistics import NormalDist  # noqa: PLC0415  (only who asks how sure a flag is needs it)

    return tuple(NormalDist().inv_cdf((at + 0.5) / count) for at in range(count))


def _sides(together: float) -> tuple[FloatArray, FloatArray]:
    """Standard normal moves of the raw level and of the graded levels, all pairs equally likely."""
    one, rest = np.array(_points(RAW)), np.array(_points(REST))
    raw = np.repeat(one, REST)
    return raw, together * raw + math.sqrt(max(0.0, 1 - together**2)) * np.tile(rest, RAW)
