"""What each route of a copy nets after all costs: sold raw now or later, graded in each tier, bulk."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property, lru_cache

import numpy as np

from botin.core.counts import FloatArray
from botin.core.routing import (
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
from botin.core.selling import SaleCosts


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


def _summed(
    go: Go, tier: str, nets: FloatArray, weights: FloatArray, channel: str = "", *, brief: bool = False
) -> Route:
    """Sum up the nets of a route; in brief only their mean."""
    if brief:
        return Route(go, tier, float(nets @ weights / weights.sum()), 0.0, 0.0, 0.0, channel)
    order = np.argsort(nets)
    below = np.cumsum(weights[order]) / weights.sum()
    low, high = (float(nets[order][min(int(np.searchsorted(below, share)), len(nets) - 1)]) for share in (0.1, 0.9))
    loss = float(weights[nets < -1e-9].sum() / weights.sum())
    return Route(go, tier, float(nets @ weights / weights.sum()), low, high, loss, channel)


def sale_nets(prices: FloatArray, costs: SaleCosts) -> FloatArray:
    """Net of selling singly; a price that leaves less goes to bulk instead, as one would."""
    return np.maximum(costs.single(prices), costs.bulk_each)


def routes_of(
    copy: CopyFacts,
    costs: SaleCosts,
    grading: GradingCosts,
    weeks: float = LATER_WEEKS,
    *,
    brief: bool = False,
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
    brief : bool
        Only means: who wins, not how sure.
    sales : GradedSales, optional
        What the copy brings in its grades, where that was worked out already.
    """
    even = np.full(NODES, 1 / NODES)
    found = [Route(Go.BULK, "", costs.bulk_each, costs.bulk_each, costs.bulk_each, 0.0)]
    if copy.raw.amount > 0:
        raw = _sales(copy.raw)
        ways = costs.open_to(copy.raw.sale)
        nets = zip(ways, costs.by_each(ways, raw), strict=True)
        found += [_summed(Go.SELL, "", net, even, way.name, brief=brief) for way, net in nets]
        if copy.fade is not None and ways:
            found.append(later_route(copy, costs, grading, weeks, brief=brief))
    if copy.chances and _may_pay(copy, costs, grading, max(route.mean for route in found)):
        sales = sales or GradedSales(copy, costs, grading)
        found += [graded_route(sales, tier, tier.days / 7, brief=brief) for tier in grading.tiers]
    return found


def _sales(price: Priced) -> FloatArray:
    """Equally likely prices of the next sale."""
    return np.asarray(price.sale * _nodes(price.wide))


def later_route(
    copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float, *, brief: bool = False
) -> Route:
    """Sell raw after some weeks, in the channel that then leaves most."""
    left, wait = left_after(copy, weeks), 1 - grading.monthly * weeks / WEEKS_A_MONTH
    raw, even = left * _sales(copy.raw), np.full(NODES, 1 / NODES)
    ways = costs.open_to(copy.raw.sale * left) or costs.ways
    nets = zip(ways, costs.by_each(ways, raw), strict=True)
    routes = [_summed(Go.LATER, "", net * wait, even, way.name, brief=brief) for way, net in nets]
    return max(routes, key=lambda route: route.mean)


def _may_pay(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, other: float) -> bool:
    """Whether grading could beat the other routes even at the dear end of its prices; most commons stop here."""
    tops = [price for price in copy.graded.values() if price.amount > 0]
    if not tops or not grading.tiers:
        return False
    dearest = max(price.sale * math.exp(FAR * price.wide) for price in tops)
    cheapest = min(tier.fee for tier in grading.tiers) + grading.each
    return costs.net(dearest) - cheapest > min(other, costs.bulk_each)


def plainly_bulk(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts) -> bool:
    """Whether nothing but bulk can come out of it, even at the dear end of its prices: most commons."""
    dear = float(costs.single(np.array([copy.raw.sale * math.exp(FAR * copy.raw.wide)]))[0])
    line = max(costs.bulk_each, costs.bulk_below)
    return not copy.guessed and dear < line and not _may_pay(copy, costs, grading, costs.bulk_each)


def left_after(copy: CopyFacts, weeks: float) -> float:
    """Share of today's raw price that is left after some weeks of fading (or of rising)."""
    if copy.fade is None:
        return 1.0
    return float(copy.fade.share(copy.age_weeks + weeks)) / float(copy.fade.share(copy.age_weeks))


class GradedSales:
    """What a copy brings in every grade it may get, after some weeks: worked out once for all tiers of as many days.

    A grade without a price sells as if raw. While the card is away its price fades (or rises) like the raw one.
    """

    def __init__(self, copy: CopyFacts, costs: SaleCosts, grading: GradingCosts) -> None:
        self.copy, self.costs, self.grading = copy, costs, grading
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
        return np.asarray(level * spread / spread.mean(axis=1, keepdims=True))

    def after(self, weeks: float) -> tuple[FloatArray, FloatArray]:
        """Prices after some weeks, and what selling leaves of them, waiting paid."""
        if weeks not in self._known:
            wait = 1 - self.grading.monthly * weeks / WEEKS_A_MONTH
            values = left_after(self.copy, weeks) * self.prices
            self._known[weeks] = values, sale_nets(values, self.costs) * wait
        return self._known[weeks]

    def nets(self, tier: Tier, weeks: float, grades: Sequence[float]) -> FloatArray:
        """Nets in some grades of a tier (grades × nodes), its fee and everything else paid."""
        rows = [self.row[grade] for grade in grades]
        values, sold = (found[rows] for found in self.after(weeks))
        over = tier.upcharge * (values > tier.ceiling) if tier.ceiling is not None else 0.0
        grading = self.grading
        share = grading.membership_share if tier.member else 0.0
        return np.asarray(sold - tier.fee - over - grading.each - grading.insured * values - share)


def graded_route(sales: GradedSales, tier: Tier, weeks: float, *, brief: bool = False) -> Route:
    """Grade in one tier and sell after some weeks in all."""
    copy, grading = sales.copy, sales.grading
    likely = {grade: chance for grade, chance in copy.by_house.get(tier.house, copy.chances).items() if chance > 0}
    nets = sales.nets(tier, weeks, tuple(likely))
    weights = np.repeat(np.array(list(likely.values())) / NODES, NODES)
    route = _summed(Go.GRADE, tier.label, nets.reshape(-1), weights, brief=brief)
    if brief:
        return replace(route, more=max(0, tier.least - grading.together))
    alone = route.mean + grading.each - grading.alone - (grading.alone_membership if tier.member else 0.0)
    return replace(route, house=tier.house, more=max(0, tier.least - grading.together), alone=alone)
