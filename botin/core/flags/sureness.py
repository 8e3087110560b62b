"""How sure a flag is: the chance that its kind of way is the best one, over what is unknown of the prices.

The raw level and the levels of the grades are uncertain, and move together as far as they rest on the same sales:
where a graded price is the raw one times a ratio, what is unknown of the raw one is in both. A price is a mean: the
level it is as likely above as below lies half its variance lower on the log scale. While one waits, a price also
moves by itself, beside the fade. Fees and the chances of grades are taken as they are.
"""

from __future__ import annotations

import math
from functools import cache
from statistics import NormalDist

import numpy as np

from botin.core.counts import FloatArray
from botin.core.flags.flipping import means_at
from botin.core.flags.nets import left_after, waited
from botin.core.flags.ways import LATER_WEEKS, CopyFacts, Go, GradingCosts
from botin.core.selling.costs import SaleCosts

RAW, REST = 15, 7
"""Equally likely values of the raw level, and of what the graded ones have of their own."""
MOVES = 0.03
"""How far the price of a card moves by itself in a week, on the log scale; as the root of the weeks (a choice)."""
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
    timing, aside = 1.0, {go}
    if Go.LATER in means and go in (Go.SELL, Go.LATER):
        now = now_beats_later(copy, grading, weeks)
        timing, aside = now if go is Go.SELL else 1 - now, {Go.SELL, Go.LATER}
    others = [values for way, values in means.items() if way not in aside]
    return timing * float((means[go] >= np.max(others, axis=0) - LEVEL).mean()) if others else timing


def now_beats_later(copy: CopyFacts, grading: GradingCosts, weeks: float = LATER_WEEKS) -> float:
    """Return the chance that selling at once leaves no less than selling after some weeks.

    The price then is today’s times what the fade leaves, times a move of its own with mean 1; whatever it is, both
    sales cost the same beside the price.
    """
    move = MOVES * math.sqrt(weeks)
    left = left_after(copy, weeks) * waited(grading, weeks)
    return NormalDist().cdf((-math.log(left) + move**2 / 2) / move) if left > 0 else 1.0


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
    return tuple(NormalDist().inv_cdf((at + 0.5) / count) for at in range(count))


def _sides(together: float) -> tuple[FloatArray, FloatArray]:
    """Standard normal moves of the raw level and of the graded levels, all pairs equally likely."""
    one, rest = np.array(_points(RAW)), np.array(_points(REST))
    raw = np.repeat(one, REST)
    return raw, together * raw + math.sqrt(max(0.0, 1 - together**2)) * np.tile(rest, RAW)
