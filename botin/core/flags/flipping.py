"""Whether a flag would be another one at an end of its price's own interval."""

from __future__ import annotations

from bisect import bisect_left
from typing import Any

import numpy as np

from botin.core.counts import FloatArray
from botin.core.flags.nets import GradedSales, left_after, likely_at, may_pay, more_for, sale_points, waited
from botin.core.flags.ways import CopyFacts, Go, GradingCosts
from botin.core.selling.costs import SaleCosts

ENDS = (-1.2815515655446004, 1.2815515655446004)
"""Standard normal quantiles of 10 % and 90 %."""

Means = dict[Go, FloatArray]
"""What the best route of each kind nets on average at each end; minus infinity where none may be taken."""


def flips(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float, best: Go) -> bool:
    """Whether another kind of route than the best wins when all prices lie at one end of their 80 % interval.

    Both ends are worked out in one go, by means only: the interval of a route does not matter for who wins.
    """
    if copy.raw.spread <= 0 and all(price.spread <= 0 for price in copy.graded.values()):
        return False
    ends = np.array(ENDS)
    means = means_at(copy, costs, grading, weeks, ends, ends)
    return any(max(means, key=lambda go: float(means[go][at])) is not best for at in range(len(ENDS)))


def means_at(
    copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float, raw: FloatArray, graded: FloatArray
) -> Means:
    """Return what the best way of each kind nets on average when prices lie aside of their estimates.

    Parameters
    ----------
    raw, graded : array of float
        By how many standard deviations of its level the raw price, and those of the grades, are moved.
    """
    means: Means = {Go.BULK: np.full(len(raw), costs.bulk_each)}
    if copy.raw.amount > 0:
        means |= _singly(copy, costs, grading, weeks, raw)
    if copy.chances and grading.tiers:
        means[Go.GRADE] = _graded(copy, costs, grading, graded)
    return means


def _singly(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float, sides: FloatArray) -> Means:
    """Sold raw now or later, in the best of the channels that are open at each end."""
    moved = np.exp(sides * copy.raw.spread)
    prices, middles = np.multiply.outer(moved, sale_points(copy.raw)), copy.raw.sale * moved
    now = _best_way(costs, middles, prices)
    found = {Go.SELL: now}
    if copy.fade is not None:
        left = left_after(copy, weeks)
        later = _best_way(costs, left * middles, left * prices)
        if not np.isfinite(later).all():
            later = np.where(np.isfinite(later), later, _best_way(costs, None, left * prices))
        found[Go.LATER] = np.where(np.isfinite(now), later * waited(grading, weeks), -np.inf)
    line = max(costs.bulk_below, costs.bulk_each)
    return {go: np.where(means >= line, means, -np.inf) for go, means in found.items()}


def _best_way(costs: SaleCosts, middles: FloatArray | None, prices: FloatArray) -> FloatArray:
    """Mean net in the best channel that takes the price of each end (ends × nodes); all take it without middles."""
    best = np.full(len(prices), -np.inf)
    for way, nets in zip(costs.ways, costs.by_each(costs.ways, prices), strict=True):
        means = nets.mean(axis=1)
        if middles is not None and (way.least > 0 or way.most is not None):
            most = np.inf if way.most is None else way.most
            means = np.where((way.least <= middles) & (middles <= most), means, -np.inf)
        np.maximum(best, means, out=best)
    return best


def _may_pay(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, sides: FloatArray) -> np.ndarray[Any, Any]:
    """Whether grading could pay at each side: from some side on it may, so it is sought and not tried everywhere."""
    order = np.argsort(sides)
    first = bisect_left(order, 1, key=lambda at: int(may_pay(copy, costs, grading, float(sides[at]))))
    found = np.zeros(len(sides), dtype=bool)
    found[order[first:]] = True
    return found


def _graded(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, sides: FloatArray) -> FloatArray:
    """Grade in the best tier that takes the order as it is."""
    best = np.full(len(sides), -np.inf)
    may = _may_pay(copy, costs, grading, sides)
    if not may.any():
        return best
    sales = GradedSales(copy, costs, grading, tuple(sides.tolist()))
    for tier in grading.tiers:
        if more_for(tier, grading) == 0:
            likely = likely_at(copy, tier.house)
            chances = np.array(list(likely.values()))
            nets = sales.nets(tier, tier.days / 7, tuple(likely)).mean(axis=2)
            np.maximum(best, nets @ chances / chances.sum(), out=best)
    return np.where(may, best, -np.inf)
