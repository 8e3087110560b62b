"""Channels and postage by hand, and against a search over every price."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from botin.core.flags.nets import GradedSales, graded_route, routes_of
from botin.core.flags.paths import route_paths
from botin.core.flags.verdict import judge_copy
from botin.core.flags.ways import CopyFacts, Go, GradingCosts, Priced, Tier
from botin.core.pricing.fade import Fade
from botin.core.selling.costs import Channel, PostageStep, SaleCosts

LISTING = Channel("listing", fee=0.12, fixed=0.30, materials=0.40, minutes=6)
AUCTION = Channel("auction", fee=0.05, fixed=2.0, least=40)
TABLE = Channel("table", fixed=1.5, least=2, most=60, sent=False)
STEPS = (PostageStep(20, 1.2), PostageStep(100, 4.9), PostageStep(None, 9.5, insured=0.01))
COSTS = SaleCosts(hourly=10, bulk_below=0.5, bulk_each=0.02, channels=(LISTING, AUCTION, TABLE), steps=STEPS)


@pytest.mark.parametrize(
    ("price", "left"),
    [
        (1.0, 0.02),  # the listing would leave 0.88 − 1.70 − 1.20; the table takes it from 2 on: bulk
        (20.0, 18.5),  # at the table, nothing posted; the listing leaves 17.60 − 1.70 − 1.20
        (60.0, 58.5),  # still at the table
        (61.0, 61 * 0.95 - 2 - 4.9),  # the auction; the listing leaves 53.68 − 1.70 − 4.90
        (500.0, 500 * 0.95 - 2 - 9.5 - 5),  # insured by the last step
    ],
)
def test_a_price_is_sold_where_it_leaves_most(price: float, left: float) -> None:
    assert COSTS.net(price) == pytest.approx(left)
    assert float(COSTS.nets(np.array([price]))[0]) == pytest.approx(round(left, 2))


def test_without_channels_the_plain_fields_are_the_one_way() -> None:
    plain = SaleCosts(0.12, 0.3, 1.2, 0.4, 6, 20, 0.5, 0.01)
    assert plain.each == pytest.approx(0.3 + 1.2 + 0.4 + 2)
    assert float(plain.single(np.array([50.0]))[0]) == pytest.approx(44 - 3.9)
    stepped = SaleCosts(0.12, fixed=0.3, postage=99.0, steps=STEPS)
    assert stepped.sending(np.array([20.0, 20.01, 100.0, 200.0])).tolist() == pytest.approx([1.2, 4.9, 4.9, 11.5])


def test_a_channel_takes_only_its_prices() -> None:
    assert [way.name for way in COSTS.open_to(1.0)] == ["listing"]
    assert [way.name for way in COSTS.open_to(50.0)] == ["listing", "auction", "table"]
    only = SaleCosts(channels=(AUCTION,), bulk_each=0.02)
    assert only.net(10.0) == 0.02


@pytest.mark.parametrize("wanted", [0.5, 1.0, 10.0, 17.0, 40.0, 58.5, 59.0, 90.0, 400.0])
def test_the_price_a_single_sale_needs_by_a_search(wanted: float) -> None:
    """The smallest price on a grid of cents that leaves so much, at most a cent above the closed form."""
    grid = np.round(np.arange(0.01, 600, 0.01), 2)
    left = COSTS.single(grid)
    searched = float(grid[np.argmax(left >= wanted - 1e-9)])
    found = COSTS.price_for(wanted)
    assert found is not None
    assert searched - 0.0101 <= found <= searched + 1e-9


def test_a_price_that_no_channel_pays_for() -> None:
    assert SaleCosts(channels=(Channel("table", most=5.0),)).price_for(10.0) is None
    found = judge_copy(
        CopyFacts(Priced(3.0)),
        SaleCosts(bulk_below=10, channels=(Channel("table", fixed=9, most=5),)),
        GradingCosts(),
    )
    assert found.go is Go.BULK
    assert "no single sale pays" in found.reason


def test_every_channel_is_a_route_of_its_own() -> None:
    routes = routes_of(CopyFacts(Priced(50.0)), COSTS, GradingCosts())
    sold = {route.channel: route.mean for route in routes if route.go is Go.SELL}
    assert sold == {
        "listing": pytest.approx(50 * 0.88 - 1.7 - 4.9),
        "auction": pytest.approx(50 * 0.95 - 2 - 4.9),
        "table": pytest.approx(48.5),
    }
    verdict = judge_copy(CopyFacts(Priced(50.0)), COSTS, GradingCosts())
    assert verdict.reason.startswith("it nets 48.50 on average (table)")
    krona = judge_copy(CopyFacts(Priced(50.0)), replace(COSTS, currency="ISK", places=0), GradingCosts())
    assert krona.reason.startswith("it nets 48 ISK on average (table)")


HOUSES = GradingCosts(
    (Tier("value", 20.0, days=61, house="A"), Tier("value", 20.0, days=61, house="B")), monthly=0.01
)


def test_houses_grade_by_their_own_chances() -> None:
    copy = CopyFacts(
        Priced(20.0),
        {10.0: Priced(200.0)},
        {10.0: 0.5, 9.0: 0.5},
        by_house={"A": {10.0: 0.5, 9.0: 0.5}, "B": {10.0: 1.0}},
    )
    nets = {route.tier: route.mean for route in routes_of(copy, SaleCosts(), HOUSES) if route.go is Go.GRADE}
    wait = 1 - 0.01 * 61 / 7 / 4.35
    assert nets["B value"] == pytest.approx(200 * wait - 20)
    assert nets["A value"] == pytest.approx(0.5 * (200 + 20) * wait - 20)


def test_routes_month_by_month() -> None:
    """Raw fades from 50 to its floor; a tier of 61 days is back in the third month; a month costs a hundredth."""
    fade = Fade(half_life=4.35, floor=0.5)
    copy = CopyFacts(Priced(50.0), {10.0: Priced(200.0)}, {10.0: 1.0}, fade=fade, age_weeks=0.0)
    raw, one, _ = route_paths(copy, SaleCosts(fixed=1.0), HOUSES, 12)
    shares = [0.5 + 0.5 * 0.5**month for month in range(13)]
    assert [step.mean for step in raw.steps] == pytest.approx(
        [(50 * share - 1) * (1 - 0.01 * month) for month, share in enumerate(shares)]
    )
    assert (raw.first, raw.best[0]) == (0, 0)
    assert (one.label, one.first, len(one.steps)) == ("grade (A value)", 3, 10)
    assert one.steps[0].mean == pytest.approx((200 * shares[3] - 1) * 0.97 - 20)
    assert one.steps[0] == graded_route(GradedSales(copy, SaleCosts(fixed=1.0), HOUSES), HOUSES.tiers[0], 3 * 4.35)


def test_no_path_without_a_price() -> None:
    assert route_paths(CopyFacts(Priced(0.0)), SaleCosts(), HOUSES) == ()
    slow = GradingCosts((Tier("slow", 5.0, days=700),))
    assert len(route_paths(CopyFacts(Priced(9.0), {}, {10.0: 1.0}), SaleCosts(), slow)) == 1
