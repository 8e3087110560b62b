"""Both ends of a price's interval at once, against every route worked out at each end by itself."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from botin.core.flags.flipping import ENDS, flips
from botin.core.flags.nets import routes_of
from botin.core.flags.verdict import best_route
from botin.core.flags.ways import CopyFacts, Go, GradingCosts, Priced, Tier
from botin.core.pricing.fade import Fade
from botin.core.selling.costs import Channel, PostageStep, SaleCosts

CHANNELS = (
    Channel("listing", 0.13, 0.3, 0.4),
    Channel("auction", 0.1, 1.0, least=20),
    Channel("table", most=40, sent=False),
)
STEPS = (PostageStep(20, 1.2), PostageStep(80, 4.5), PostageStep(None, 9.0, 0.01))
COSTS = SaleCosts(bulk_below=1.0, bulk_each=0.05, channels=CHANNELS, steps=STEPS)
TIERS = (Tier("plain", 18.0, 500, 30, 45, house="Ash"), Tier("club", 12.0, least=20, member=True, house="Elm"))
GRADING = GradingCosts(TIERS, shipping=20, insured=0.01, together=10, membership=60, monthly=0.01)


def at_end(copy: CopyFacts, side: float) -> CopyFacts:
    """The copy with every price at one end of its own interval."""

    def move(price: Priced) -> Priced:
        return replace(price, amount=price.amount * math.exp(side * price.spread))

    return replace(copy, raw=move(copy.raw), graded={grade: move(price) for grade, price in copy.graded.items()})


def plain(copy: CopyFacts, costs: SaleCosts, best: Go) -> bool:
    ends = [at_end(copy, side) for side in ENDS]
    return any(best_route(routes_of(end, costs, GRADING, 13.0), costs).go is not best for end in ends)


def some_copy(rng: np.random.Generator) -> CopyFacts:
    raw = float(np.exp(rng.normal(2, 1.8)))
    spreads = rng.uniform(0, 1, 4)
    ratio = {10.0: rng.uniform(1, 6), 9.0: rng.uniform(0.7, 2)}
    graded = {grade: Priced(raw * more, spreads[at], 0.2) for at, (grade, more) in enumerate(ratio.items())}
    gem = rng.uniform(0.05, 0.8)
    chances = {10.0: gem, 9.0: 0.9 - gem if gem < 0.9 else 0.0, 8.0: 0.1}
    priced = rng.random() > 0.1
    return CopyFacts(
        Priced(raw if priced else 0.0, spreads[2], spreads[3]),
        graded if rng.random() > 0.3 else {},
        chances if rng.random() > 0.2 else {},
        fade=Fade(rng.uniform(2, 20), rng.uniform(0.3, 1.0)) if rng.random() > 0.4 else None,
        by_house={"Elm": {10.0: 0.2, 9.0: 0.5, 8.0: 0.3}} if rng.random() > 0.5 else {},
    )


@pytest.mark.parametrize("costs", [COSTS, replace(COSTS, channels=(), steps=(), fee=0.13, postage=4.0)])
def test_both_ends_at_once_say_what_each_end_says(costs: SaleCosts) -> None:
    """The same routes written a second way: one end after the other, with everything about each route."""
    rng = np.random.default_rng(41)
    seen = []
    for _ in range(600):
        copy = some_copy(rng)
        best = best_route(routes_of(copy, costs, GRADING, 13.0), costs).go
        seen.append(flips(copy, costs, GRADING, 13.0, best))
        assert seen[-1] == plain(copy, costs, best), copy
    assert 60 < sum(seen) < 540


def test_a_price_without_doubt_never_turns() -> None:
    assert not flips(CopyFacts(Priced(30.0)), COSTS, GRADING, 13.0, Go.SELL)
