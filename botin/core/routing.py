"""Where a copy should go: bulk, sold raw now or later, graded then sold, kept; what each nets after all costs.

Prices are uncertain on the log scale; a graded copy sells by the chance of each grade.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np

from botin.core.counts import FloatArray
from botin.core.fade import Fade
from botin.core.selling import SaleCosts

NODES = 41
FAR = 1.3
"""Standard deviations up at which grading is still looked at: the dear end of an 80 % interval."""
LATER_WEEKS = 13.0
WEEKS_A_MONTH = 4.35
MONTHLY = 0.0
CLOSE = 0.15
"""Two routes whose means differ by less than this share of the larger (and a unit) are close."""


class Go(StrEnum):
    """Verdict on a copy."""

    GRADE = "grade"
    SELL = "sell now"
    LATER = "sell later"
    KEEP = "keep"
    BULK = "bulk"
    LOOK = "look closer"


@dataclass(frozen=True, slots=True)
class Tier:
    """A grading tier.

    Attributes
    ----------
    fee : float
        A card, in major units.
    ceiling : float or None
        Largest value after grading that the fee covers; None without limit.
    upcharge : float
        Added when the value after grading passes the ceiling.
    days : float
        Usual waiting time.
    least : int
        Fewest cards an order takes.
    member : bool
        Only members may use it.
    house : str
        Grading house; houses differ in their limits and in how strict they are.
    """

    name: str
    fee: float
    ceiling: float | None = None
    upcharge: float = 0.0
    days: float = 30.0
    least: int = 1
    member: bool = False
    house: str = ""

    @property
    def label(self) -> str:
        """House and name."""
        return f"{self.house} {self.name}".strip()

    def fee_for(self, value: float) -> float:
        """Fee for a copy of this value after grading."""
        return self.fee + (self.upcharge if self.ceiling is not None and value > self.ceiling else 0.0)


@dataclass(frozen=True, slots=True)
class GradingCosts:
    """Tiers and what an order costs beside them.

    Attributes
    ----------
    shipping : float
        Out and back for a whole order.
    insured : float
        Share of the value after grading, for insurance.
    together : int
        Cards one expects to send in one order: the shipping is shared by them.
    membership : float
        A year.
    monthly : float
        Share of the value that a month of waiting costs.
    """

    tiers: tuple[Tier, ...] = ()
    shipping: float = 0.0
    insured: float = 0.0
    together: int = 1
    membership: float = 0.0
    monthly: float = MONTHLY
    handling_minutes: float = 0.0
    hourly: float = 0.0

    @property
    def each(self) -> float:
        """What a card costs beside its fee."""
        return self.shipping / max(1, self.together) + self.hourly * self.handling_minutes / 60


@dataclass(frozen=True, slots=True)
class Priced:
    """A price with its spread on the log scale; amount 0 when unknown."""

    amount: float
    spread: float = 0.0


@dataclass(frozen=True)
class CopyFacts:
    """What a verdict on a copy needs.

    Attributes
    ----------
    raw : Priced
        Price ungraded.
    graded : mapping
        Price in each grade.
    chances : mapping
        Chance of each grade.
    wanted : bool
        It belongs to the personal collection.
    inspected : bool
        The chances rest on a look at this copy.
    fade, age_weeks
        For selling later.
    by_house : mapping
        Chance of each grade at the houses for which it is known to differ.
    """

    raw: Priced
    graded: Mapping[float, Priced] = field(default_factory=dict)
    chances: Mapping[float, float] = field(default_factory=dict)
    wanted: bool = False
    inspected: bool = False
    fade: Fade | None = None
    age_weeks: float = 0.0
    by_house: Mapping[str, Mapping[float, float]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Route:
    """One route with what it nets (major units).

    Attributes
    ----------
    tier : str
        Tier of a graded copy, with its house.
    channel : str
        Where it is sold; empty when there is but one way.
    loss : float
        Chance that it leaves less than 0: money put in that does not come back.
    """

    go: Go
    tier: str
    mean: float
    p10: float
    p90: float
    loss: float
    channel: str = ""

    @property
    def label(self) -> str:
        """The route in words."""
        return f"{self.go.value} ({self.tier or self.channel})" if self.tier or self.channel else self.go.value


@dataclass(frozen=True)
class RouteVerdict:
    """The verdict with its reason.

    Attributes
    ----------
    margin : float
        By how much the best route beats the next one (keeping aside).
    flips : bool
        At one end of the price's own interval another route wins.
    top_only : bool
        Grading pays only if the top grade comes: the top grade or nothing.
    gem_needed : float or None
        Chance of the top grade from which the best tier beats selling raw.
    price_needed : float or None
        Raw price from which selling a single pays.
    """

    go: Go
    tier: str
    reason: str
    margin: float
    routes: tuple[Route, ...]
    flips: bool
    top_only: bool
    gem_needed: float | None
    price_needed: float | None


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


def _summed(go: Go, tier: str, nets: FloatArray, weights: FloatArray, channel: str = "") -> Route:
    order = np.argsort(nets)
    below = np.cumsum(weights[order]) / weights.sum()
    low, high = (float(nets[order][min(int(np.searchsorted(below, share)), len(nets) - 1)]) for share in (0.1, 0.9))
    loss = float(weights[nets < -1e-9].sum() / weights.sum())
    return Route(go, tier, float(nets @ weights / weights.sum()), low, high, loss, channel)


def sale_nets(prices: FloatArray, costs: SaleCosts) -> FloatArray:
    """Net of selling singly; a price that leaves less goes to bulk instead, as one would."""
    return np.maximum(costs.single(prices), costs.bulk_each)


def routes_of(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float = LATER_WEEKS) -> list[Route]:
    """Work out every route of a copy but keeping.

    Parameters
    ----------
    copy : CopyFacts
        Prices and chances.
    costs, grading : SaleCosts, GradingCosts
        What selling and grading cost.
    weeks : float
        How long “later” is.
    """
    even = np.full(NODES, 1 / NODES)
    found = [Route(Go.BULK, "", costs.bulk_each, costs.bulk_each, costs.bulk_each, 0.0)]
    if copy.raw.amount > 0:
        raw = copy.raw.amount * _nodes(copy.raw.spread)
        ways = costs.open_to(copy.raw.amount)
        found += [_summed(Go.SELL, "", costs.single_by(way, raw), even, way.name) for way in ways]
        if copy.fade is not None and ways:
            found.append(later_route(copy, costs, grading, weeks))
    if copy.chances and _may_pay(copy, costs, grading, max(route.mean for route in found)):
        found += [graded_route(copy, tier, costs, grading, tier.days / 7) for tier in grading.tiers]
    return found


def later_route(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float) -> Route:
    """Sell raw after some weeks, in the channel that then leaves most."""
    left, wait = left_after(copy, weeks), 1 - grading.monthly * weeks / WEEKS_A_MONTH
    raw, even = copy.raw.amount * left * _nodes(copy.raw.spread), np.full(NODES, 1 / NODES)
    ways = costs.open_to(copy.raw.amount * left) or costs.ways
    routes = [_summed(Go.LATER, "", costs.single_by(way, raw) * wait, even, way.name) for way in ways]
    return max(routes, key=lambda route: route.mean)


def _may_pay(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, other: float) -> bool:
    """Whether grading could beat the other routes even at the dear end of its prices; most commons stop here."""
    tops = [price for price in copy.graded.values() if price.amount > 0]
    if not tops or not grading.tiers:
        return False
    dearest = max(price.amount * math.exp(FAR * price.spread) for price in tops)
    cheapest = min(tier.fee for tier in grading.tiers) + grading.each
    return costs.net(dearest) - cheapest > min(other, costs.bulk_each)


def plainly_bulk(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts) -> bool:
    """Whether nothing but bulk can come out of it, even at the dear end of its prices: most commons."""
    dear = float(costs.single(np.array([copy.raw.amount * math.exp(FAR * copy.raw.spread)]))[0])
    return dear <= costs.bulk_each and not _may_pay(copy, costs, grading, costs.bulk_each)


def left_after(copy: CopyFacts, weeks: float) -> float:
    """Share of today's raw price that is left after some weeks of fading (or of rising)."""
    if copy.fade is None:
        return 1.0
    return float(copy.fade.share(copy.age_weeks + weeks)) / float(copy.fade.share(copy.age_weeks))


def graded_route(copy: CopyFacts, tier: Tier, costs: SaleCosts, grading: GradingCosts, weeks: float) -> Route:
    """Grade in one tier and sell after some weeks in all; a grade without a price sells as if raw.

    While the card is away its price fades (or rises) like the raw one.
    """
    left, wait = left_after(copy, weeks), 1 - grading.monthly * weeks / WEEKS_A_MONTH
    likely = [(grade, chance) for grade, chance in copy.by_house.get(tier.house, copy.chances).items() if chance > 0]
    prices = [price if (price := copy.graded.get(grade, copy.raw)).amount > 0 else copy.raw for grade, _ in likely]
    values = np.concatenate([price.amount * left * _nodes(price.spread) for price in prices])
    over = tier.upcharge * (values > tier.ceiling) if tier.ceiling is not None else 0.0
    nets = sale_nets(values, costs) * wait - tier.fee - over - grading.each - grading.insured * values
    weights = np.repeat([chance / NODES for _, chance in likely], NODES)
    return _summed(Go.GRADE, tier.label, nets, weights)


def judge_copy(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, weeks: float = LATER_WEEKS) -> RouteVerdict:
    """Judge a copy: the best route, why, and how sure that is."""
    routes = routes_of(copy, costs, grading, weeks)
    best, second = _two_best(routes)
    margin = best.mean - second.mean if second else best.mean
    flips = any(
        _two_best(routes_of(_moved(copy, side), costs, grading, weeks))[0].go is not best.go for side in (-1, 1)
    )
    needed, top_only = _gem_needed(copy, costs, grading)
    go = best.go
    if copy.wanted:
        go = Go.KEEP
    elif best.go is Go.GRADE and not copy.inspected and needed is not None and _unsure(copy, needed):
        go = Go.LOOK
    price_needed = costs.price_for(costs.bulk_below)
    tier = best.tier if go in (Go.GRADE, Go.LOOK) else ""
    words = _reason(copy, best, second, go, needed, price_needed)
    return RouteVerdict(go, tier, words, margin, tuple(routes), flips, top_only, needed, price_needed)


def _two_best(routes: Sequence[Route]) -> tuple[Route, Route | None]:
    """The best route, and the best one of another kind."""
    ordered = sorted(routes, key=lambda route: -route.mean)
    best = ordered[0]
    return best, next((route for route in ordered if route.go is not best.go), None)


def _moved(copy: CopyFacts, side: int) -> CopyFacts:
    """The copy with all prices at one end of their 80 % interval."""

    def move(price: Priced) -> Priced:
        return Priced(price.amount * math.exp(1.2816 * side * price.spread), price.spread)

    graded = {grade: move(price) for grade, price in copy.graded.items()}
    return replace(copy, raw=move(copy.raw), graded=graded)


def _gem_needed(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts) -> tuple[float | None, bool]:
    """Chance of the top grade from which the cheapest tier beats selling raw, and whether only the top pays."""
    tops = [grade for grade, price in copy.graded.items() if price.amount > 0]
    if not tops or not grading.tiers:
        return None, False
    top = max(tops)
    tier = min(grading.tiers, key=lambda one: one.fee_for(copy.graded[top].amount))
    raw = max(float(sale_nets(np.array([copy.raw.amount]), costs)[0]), 0.0)

    def net(value: float) -> float:
        sold = float(sale_nets(np.array([value]), costs)[0])
        return sold - tier.fee_for(value) - grading.each - grading.insured * value

    others = [(copy.chances.get(g, 0.0), net(copy.graded[g].amount)) for g in tops if g != top]
    rest = sum(chance for chance, _ in others)
    fallback = net(copy.raw.amount) if copy.raw.amount else -tier.fee - grading.each
    below = sum(c * value for c, value in others) / rest if rest > 0 else fallback
    gain, short = net(copy.graded[top].amount) - below, raw - below
    needed = short / gain if gain > 0 and 0 <= short <= gain else (0.0 if gain > 0 and short < 0 else None)
    return needed, below < raw


def _unsure(copy: CopyFacts, needed: float) -> bool:
    """Whether a look at the copy could change the answer: the top grade's chance is not far from what is needed."""
    tops = [grade for grade in copy.graded if copy.graded[grade].amount > 0]
    chance = copy.chances.get(max(tops), 0.0) if tops else 0.0
    return needed > 0.3 * chance


def _reason(
    copy: CopyFacts, best: Route, second: Route | None, go: Go, needed: float | None, price_needed: float | None
) -> str:
    against = f", {second.label} {second.mean:.2f}" if second else ""
    if go is Go.KEEP:
        return f"it is in your collection; its best route would net {best.mean:.2f} ({best.go.value})"
    if go is Go.LOOK:
        return (
            f"grading ({best.tier}) nets {best.mean:.2f} on average{against}, but it hangs on the top grade: "
            f"from {100 * (needed or 0):.0f} in 100 it pays; inspection would change the answer"
        )
    if go is Go.GRADE:
        return f"it nets {best.mean:.2f} on average ({best.tier}){against}"
    if go is Go.BULK:
        pays = "no single sale pays" if price_needed is None else f"a single sale pays from {price_needed:.2f}"
        return f"{pays if copy.raw.amount > 0 else 'no price is known'}; it counts {best.mean:.2f} in bulk{against}"
    where = f" ({best.channel})" if best.channel else ""
    return f"it nets {best.mean:.2f} on average{where}{against}"
