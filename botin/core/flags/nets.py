"""What each route of a copy nets after all costs: sold raw now or later, graded in each tier, bulk."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from botin.core.counts import FloatArray
from botin.core.flags.ways import (
    FAR,
    LATER_WEEKS,
    NODES,
    WEEKS_A_MONTH,
    CopyFacts,
    Go,
    GradingCosts,
    Priced,
    Route,
    Tier,
)
from botin.core.selling.costs import TINY, Channel, SaleCosts


@lru_cache(maxsize=1)
def _points() -> FloatArray:
    """Equally likely points of a standard normal."""
    from scipy.special import ndtri  # noqa: PLC0415  (slow to load)

    return np.asarray(ndtri((np.arange(NODES) + 0.5) / NODES))


@lru_cache(maxsize=4096)
def _nodes(spread: float) -> FloatArray:
    """Multipliers at equally likely points of a log-normal price whose mean is the estimate."""
    found = np.exp(spread * _points())
    return np.asarray(found / found.mean())


@dataclass(frozen=True, slots=True)
class _Sum:
    """Mean, 80 % interval and chance of a loss of a route."""

    mean: float
    p10: float
    p90: float
    loss: float


def _summed(nets: FloatArray, weights: FloatArray) -> _Sum:
    """Sum up the nets of a route by their weights, which sum to one."""
    order = np.argsort(nets)
    below = np.cumsum(weights[order])
    at = np.minimum(np.searchsorted(below, (0.1, 0.9)), len(nets) - 1)
    low, high = nets[order[at]].tolist()
    return _Sum(float(nets @ weights), low, high, float(weights[nets < -TINY].sum()))


LOW, HIGH = (math.ceil(share * NODES) - 1 for share in (0.1, 0.9))
"""Places of the 80 % interval among equally likely nets in order."""


def _summed_even(nets: FloatArray) -> list[_Sum]:
    """Sum up the nets of several routes (routes × nodes), all nodes equally likely."""
    ordered = np.sort(nets, axis=1)
    figures = (nets.mean(axis=1), ordered[:, LOW], ordered[:, HIGH], (nets < -TINY).mean(axis=1))
    return [_Sum(*row) for row in zip(*(figure.tolist() for figure in figures), strict=True)]


def sale_nets(prices: FloatArray, costs: SaleCosts) -> FloatArray:
    """Net of selling singly; a price that leaves less goes to bulk instead, as one would."""
    return np.maximum(costs.single(prices), costs.bulk_each)


def routes_of(
    copy: CopyFacts,
    costs: SaleCosts,
    grading: GradingCosts,
    weeks: float = LATER_WEEKS,
    *,
    sales: GradedSales | None = None,
) -> list[Route]:
    """Work out every route of a copy but keeping.

    Parameters
    ----------
    copy : CopyFacts
        Prices and chances.
    costs, grading : SaleCosts, GradingCosts
        What selling and grading cost.
    weeks : float
        How long “later” is.
    sales : GradedSales, optional
        What the copy brings in its grades, where that was worked out already.
    """
    found = [Route(Go.BULK, "", costs.bulk_each, costs.bulk_each, costs.bulk_each, 0.0)]
    if copy.raw.amount > 0:
        ways = costs.open_to(copy.raw.sale)
        found += _singly(Go.SELL, ways, costs, sale_points(copy.raw))
        if copy.fade is not None and ways:
            found.append(later_route(copy, costs, grading, weeks))
    if copy.chances and may_pay(copy, costs, grading):
        sales = sales or GradedSales(copy, costs, grading)
        found += [graded_route(sales, tier, tier.days / 7) for tier in grading.tiers]
    return found


def _singly(go: Go, ways: Sequence[Channel], costs: SaleCosts, prices: FloatArray, wait: float = 1.0) -> list[Route]:
    """Sell at equally likely prices in each channel; waiting leaves a share of it."""
    if not ways:
        return []
    sums = _summed_even(np.stack(costs.by_each(ways, prices)) * wait)
    return [
        Route(go=go, tier="", mean=s.mean, p10=s.p10, p90=s.p90, loss=s.loss, channel=way.name)
        for way, s in zip(ways, sums, strict=True)
    ]


def sale_points(price: Priced) -> FloatArray:
    """Equally likely prices of the next sale."""
    return np.asarray(price.sale * _nodes(price.wide))


def sale_interval(price: Priced) -> tuple[float, float]:
    """Return between what the next sale is expected, 8 times of 10."""
    points = np.sort(sale_points(price))
    return float(points[LOW]), float(points[HIGH])


def later_route(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float) -> Route:
    """Sell raw after some weeks, in the channel that then leaves most."""
    left = left_after(copy, weeks)
    ways = costs.open_to(copy.raw.sale * left) or costs.ways
    routes = _singly(Go.LATER, ways, costs, left * sale_points(copy.raw), waited(grading, weeks))
    return max(routes, key=lambda route: route.mean)


def waited(grading: GradingCosts, weeks: float) -> float:
    """Share that is left of what comes in after some weeks."""
    return 1 - grading.monthly * weeks / WEEKS_A_MONTH


def may_pay(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, side: float = 0.0) -> bool:
    """Whether grading could beat bulk even at the dear end of its prices; most commons stop here.

    ``side`` moves all prices to an end of their interval first.
    """
    tops = [price for price in copy.graded.values() if price.amount > 0]
    if not tops or not grading.tiers:
        return False
    dearest = max(price.sale * math.exp(FAR * price.wide + side * price.spread) for price in tops)
    line = costs.bulk_each + min(tier.fee + grading.each(tier.house) for tier in grading.tiers)
    return max(dearest, costs.bulk_each) > line and costs.net(dearest) > line


def plainly_bulk(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts) -> bool:
    """Whether nothing but bulk can come out of it, even at the dear end of its prices: most commons."""
    if copy.guessed or may_pay(copy, costs, grading):
        return False
    dear, line = copy.raw.sale * math.exp(FAR * copy.raw.wide), max(costs.bulk_each, costs.bulk_below)
    return dear < line or float(costs.single(np.array([dear]))[0]) < line


def left_after(copy: CopyFacts, weeks: float) -> float:
    """Share of today's raw price that is left after some weeks of fading (or of rising)."""
    if copy.fade is None:
        return 1.0
    return float(copy.fade.share(copy.age_weeks + weeks)) / float(copy.fade.share(copy.age_weeks))


class GradedSales:
    """What a copy brings in every grade it may get, after some weeks: worked out once for all tiers of as many days.

    A grade without a price sells as if raw. While the card is away its price fades (or rises) like the raw one.

    Parameters
    ----------
    sides : sequence of float
        Ends of the prices' own intervals to look at, in standard deviations of the level; with none, the prices as
        they are. Everything returned has them as a first axis.
    """

    def __init__(self, copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, sides: Sequence[float] = ()) -> None:
        self.copy, self.costs, self.grading, self.sides = copy, costs, grading, sides
        likely = [grade for chances in (copy.chances, *copy.by_house.values()) for grade in chances]
        seen = [grade for ahead in copy.looks.values() for grade in ahead.grades]
        self.row = {grade: at for at, grade in enumerate(dict.fromkeys((*likely, *seen)))}
        self._known: dict[float, tuple[FloatArray, FloatArray]] = {}

    @cached_property
    def prices(self) -> FloatArray:
        """Equally likely prices of the next sale in each grade, today (grades × nodes)."""
        raw, graded = self.copy.raw, self.copy.graded
        each = [price if (price := graded.get(grade, raw)).amount > 0 else raw for grade in self.row]
        spread = np.exp(np.array([price.wide for price in each])[:, None] * _points())
        level = np.array([price.sale for price in each])[:, None]
        prices = level * spread / spread.mean(axis=1, keepdims=True)
        if not self.sides:
            return np.asarray(prices)
        unknown = np.array([price.spread for price in each])
        return np.asarray(prices * np.exp(np.multiply.outer(self.sides, unknown))[:, :, None])

    def after(self, weeks: float) -> tuple[FloatArray, FloatArray]:
        """Prices after some weeks, and what selling leaves of them, waiting paid."""
        if weeks not in self._known:
            values = left_after(self.copy, weeks) * self.prices
            self._known[weeks] = values, sale_nets(values, self.costs) * waited(self.grading, weeks)
        return self._known[weeks]

    def nets(self, tier: Tier, weeks: float, grades: Sequence[float]) -> FloatArray:
        """Nets in some grades of a tier (grades × nodes), its fee and everything else paid."""
        values, sold = self.after(weeks)
        rows = [self.row[grade] for grade in grades]
        if len(rows) != len(self.row) or rows != sorted(rows):
            values, sold = (found.take(rows, axis=-2) for found in (values, sold))
        grading = self.grading
        share = grading.membership_share(tier.house) if tier.member else 0.0
        left = sold - (tier.fee + grading.each(tier.house) + share)
        if grading.insured:
            left = left - grading.insured * values
        if tier.ceiling is not None and tier.upcharge:
            left = left - tier.upcharge * (values > tier.ceiling)
        return np.asarray(left)


def likely_at(copy: CopyFacts, house: str) -> dict[float, float]:
    """Grades that a copy may get at a house, with their chances."""
    return {grade: chance for grade, chance in copy.by_house.get(house, copy.chances).items() if chance > 0}


def more_for(tier: Tier, grading: GradingCosts) -> int:
    """How many more cards must go along for a tier to take the order."""
    return max(0, tier.least - grading.together)


def graded_route(sales: GradedSales, tier: Tier, weeks: float) -> Route:
    """Grade in one tier and sell after some weeks in all."""
    grading, likely = sales.grading, likely_at(sales.copy, tier.house)
    nets = sales.nets(tier, weeks, tuple(likely))
    chances = np.array(list(likely.values()))
    s = _summed(nets.reshape(-1), np.repeat(chances / (NODES * chances.sum()), NODES))
    alone = s.mean + grading.each(tier.house) - grading.alone(tier.house)
    alone -= grading.alone_membership(tier.house) if tier.member else 0.0
    more = more_for(tier, grading)
    return Route(Go.GRADE, tier.label, s.mean, s.p10, s.p90, s.loss, house=tier.house, more=more, alone=alone)
