"""The flag of a copy: the best of its routes, or a look first where that is expected to earn more; and why."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from botin.core.flags.flipping import flips
from botin.core.flags.nets import GradedSales, routes_of, sale_nets
from botin.core.flags.ways import (
    LATER_WEEKS,
    LEAST_GAIN,
    CopyFacts,
    Go,
    GradingCosts,
    Looking,
    Route,
    RouteVerdict,
)
from botin.core.selling.costs import SaleCosts


def judge_copy(
    copy: CopyFacts,
    costs: SaleCosts,
    grading: GradingCosts,
    weeks: float = LATER_WEEKS,
    looking: Looking | None = None,
) -> RouteVerdict:
    """Judge a copy: the best route, why, and how sure that is."""
    looking = looking or Looking(hourly=costs.hourly)
    sales = GradedSales(copy, costs, grading)
    routes = routes_of(copy, costs, grading, weeks, sales=sales)
    best, second = _two_best(routes, costs)
    margin = best.mean - second.mean if second else best.mean
    turns = flips(copy, costs, grading, weeks, best.go)
    needed, top_only = _gem_needed(copy, costs, grading)
    gain = look_gain(sales, routes) - looking.cost if not copy.inspected else 0.0
    go = _verdict(copy, best, gain)
    price_needed = costs.price_for(costs.bulk_below)
    tier = best.tier if best.go is Go.GRADE and go in (Go.GRADE, Go.LOOK) else ""
    words = _reason(copy, costs, go, _Weighed(best, second, gain, price_needed))
    return RouteVerdict(
        go=go,
        tier=tier,
        reason=words,
        margin=margin,
        routes=tuple(routes),
        flips=turns,
        top_only=top_only,
        gem_needed=needed,
        price_needed=price_needed,
        look_gain=max(0.0, gain),
    )


def _verdict(copy: CopyFacts, best: Route, gain: float) -> Go:
    if copy.wanted:
        return Go.KEEP
    if copy.raw.amount <= 0 or copy.guessed:
        return Go.PRICE
    return Go.LOOK if gain > LEAST_GAIN else best.go


def look_gain(sales: GradedSales, routes: Sequence[Route]) -> float:
    """What a look adds before its minutes: the best route after each thing it can show, less the best one now.

    Both are averaged over the same looks, so it is never below zero; chances of all tiers that can be used.
    """
    copy, costs, grading = sales.copy, sales.costs, sales.grading
    tiers = [tier for tier in grading.tiers if tier.least <= grading.together]
    if not copy.looks or not tiers or not any(route.go is Go.GRADE for route in routes):
        return 0.0
    plain = max((route.mean for route in routes if route.go is not Go.GRADE and _open(route, costs)), default=0.0)
    after = []
    for tier in tiers:
        ahead = copy.looks.get(tier.house) or copy.looks[""]
        nets = sales.nets(tier, tier.days / 7, ahead.grades).mean(axis=1)
        after.append(ahead.chances @ nets)
    first = next(iter(copy.looks.values()))
    table = np.stack(after)
    now = max(plain, float((table @ first.weights).max()))
    return max(0.0, float(np.maximum(table.max(axis=0), plain) @ first.weights) - now)


def _open(route: Route, costs: SaleCosts) -> bool:
    """Whether a route may be taken: below the bulk line nothing is sold singly, and a tier must take the order."""
    if route.go in (Go.SELL, Go.LATER):
        return route.mean >= max(costs.bulk_below, costs.bulk_each)
    return route.more == 0


def best_route(routes: Sequence[Route], costs: SaleCosts) -> Route:
    """Return the route that nets most of those that may be taken."""
    return _two_best(routes, costs)[0]


def _two_best(routes: Sequence[Route], costs: SaleCosts) -> tuple[Route, Route | None]:
    """The best route, and the best one of another kind."""
    ordered = sorted((route for route in routes if _open(route, costs)), key=lambda route: -route.mean)
    best = ordered[0]
    return best, next((route for route in ordered if route.go is not best.go), None)


def _gem_needed(copy: CopyFacts, costs: SaleCosts, grading: GradingCosts) -> tuple[float | None, bool]:
    """Chance of the top grade from which the cheapest tier beats selling raw, and whether only the top pays."""
    tops = [grade for grade, price in copy.graded.items() if price.amount > 0]
    if not tops or not grading.tiers:
        return None, False
    top = max(tops)
    tier = min(grading.tiers, key=lambda one: one.fee_for(copy.graded[top].amount))
    values = [copy.raw.sale, *(copy.graded[grade].sale for grade in tops)]
    sold = sale_nets(np.array(values), costs).tolist()
    raw = max(sold[0], 0.0)
    nets = [
        net - tier.fee_for(value) - grading.each(tier.house) - grading.insured * value
        for net, value in zip(sold, values, strict=True)
    ]
    others = [(copy.chances.get(g, 0.0), net) for g, net in zip(tops, nets[1:], strict=True) if g != top]
    rest = sum(chance for chance, _ in others)
    fallback = nets[0] if copy.raw.amount else -tier.fee - grading.each(tier.house)
    below = sum(c * value for c, value in others) / rest if rest > 0 else fallback
    gain, short = nets[1 + tops.index(top)] - below, raw - below
    needed = short / gain if gain > 0 and 0 <= short <= gain else (0.0 if gain > 0 and short < 0 else None)
    return needed, below < raw


def _priceless(copy: CopyFacts, best: Route, costs: SaleCosts) -> str:
    """Say why a card must be priced before anything else."""
    if copy.raw.amount <= 0:
        return "no price of it is known, nor of its section and finish: look up what it sold for"
    might = f"it might net {costs.said(best.mean)} ({best.label})"
    return f"its finish has no price yet; by the others {might}, which is a guess: look up what it sold for"


@dataclass(frozen=True, slots=True)
class _Weighed:
    """The best route, the best of another kind, what a look adds, and the price from which a single sale pays."""

    best: Route
    second: Route | None
    gain: float
    price_needed: float | None


def _reason(copy: CopyFacts, costs: SaleCosts, go: Go, found: _Weighed) -> str:
    best, net = found.best, costs.said(found.best.mean)
    against = f", {found.second.label} {costs.said(found.second.mean)}" if found.second else ""
    if go is Go.KEEP:
        return f"it is in your collection; its best way would net {net} ({best.go.value})"
    if go is Go.PRICE:
        return _priceless(copy, best, costs)
    if go is Go.LOOK:
        return (
            f"without a closer look the best is {best.label}, {net} on average{against}; "
            f"a look is expected to add {costs.said(found.gain)} after its minutes"
        )
    if go is Go.GRADE:
        return f"it nets {net} on average ({best.tier}){against}"
    if go is Go.BULK:
        needed = found.price_needed
        pays = "no single sale pays" if needed is None else f"a single sale pays from {costs.said(needed)}"
        return f"{pays}; it counts {net} in bulk{against}"
    where = f" ({best.channel})" if best.channel else ""
    return f"it nets {net} on average{where}{against}"
