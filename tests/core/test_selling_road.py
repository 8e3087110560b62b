"""The road of a sale, its packing, asks and lots, against the figures of the trade (common practice, no source)."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest

from botin.core.selling.asking import AskPlan, floor_for
from botin.core.selling.lots import Common, LotTerms, lot_of, proposals
from botin.core.selling.packing import Packed, goes_by_authenticator, steps_for, thick_of
from botin.core.selling.road import CHECKED, DIRECT, Pace, Stop, after, expected, is_late, road_of
from botin.standins.market import Offered, SimulatedMarket, chance_a_day

SATURDAY = date(2026, 1, 10)


def test_sold_on_the_10th_by_way_of_the_authenticator_is_with_the_buyer_after_eight_days() -> None:
    """Sold on Saturday the 10th, sent on Monday the 12th, at the authenticator on the 15th, there on the 18th."""
    days = expected(CHECKED, {Stop.SOLD: SATURDAY}, Pace())
    assert [days[stop].day for stop in (Stop.SOLD, Stop.SENT, Stop.CHECKING, Stop.THERE)] == [10, 12, 15, 18]
    assert (days[Stop.THERE] - days[Stop.SOLD]).days == 8
    assert expected(DIRECT, {Stop.SOLD: SATURDAY}, Pace())[Stop.THERE].day == 15  # without the detour of three days


def test_what_was_is_kept_and_what_comes_follows_it() -> None:
    days = expected(CHECKED, {Stop.SOLD: SATURDAY, Stop.PAID: SATURDAY, Stop.SENT: date(2026, 1, 20)}, Pace())
    assert (days[Stop.CHECKING], days[Stop.THERE]) == (date(2026, 1, 23), date(2026, 1, 26))
    assert (
        is_late(DIRECT, Stop.PAID, {Stop.SOLD: SATURDAY, Stop.PAID: SATURDAY}, Pace(), date(2026, 1, 14))
        is Stop.PACKED
    )
    assert is_late(DIRECT, Stop.THERE, {Stop.SOLD: SATURDAY, Stop.THERE: SATURDAY}, Pace(), date(2027, 1, 1)) is None


def test_a_road_is_walked_stop_by_stop_until_it_is_sent() -> None:
    assert after(DIRECT, Stop.SOLD) == (Stop.PAID,)
    assert after(CHECKED, Stop.SENT) == (Stop.CHECKING, Stop.PASSED, Stop.THERE, Stop.DONE)
    assert road_of(checked=False, by_hand=True) == (Stop.SOLD, Stop.PAID, Stop.THERE, Stop.DONE)
    assert after(road_of(checked=False, by_hand=True), Stop.PAID) == (Stop.THERE, Stop.DONE)


@pytest.mark.parametrize(
    ("graded", "price", "goes"),
    [(False, 250.0, False), (False, 250.01, True), (True, 9_000.0, False), (False, 12.0, False)],
)
def test_raw_cards_above_the_threshold_go_by_the_authenticator(graded: bool, price: float, goes: bool) -> None:
    assert goes_by_authenticator(graded=graded, price=price, threshold=250.0) is goes


def test_packing_follows_price_kind_and_thickness() -> None:
    def keys(what: Packed) -> list[str]:
        return [step.key for step in steps_for(what)]

    assert keys(Packed(12.0)) == ["sleeve", "holder", "bag", "board", "invoice", "mailer", "address"]
    assert "box" in keys(Packed(700.0))
    assert keys(Packed(90.0, slabs=1)) == ["slab", "invoice", "box", "address"]
    assert "wider" in next(step.words for step in steps_for(Packed(20.0, thick=1)) if step.key == "holder")
    assert keys(Packed(20.0, copies=100, commons=100)) == ["block", "invoice", "box", "address"]
    assert keys(Packed(120.0, copies=0, sealed=True))[0] == "film"
    assert (thick_of("autograph_relic", None), thick_of("base", None), thick_of("base", 130)) == (True, False, True)


def test_a_card_of_699_99_nets_what_is_left_after_17_54_of_signature_and_insurance() -> None:
    """A fee of 13.25 % with 0.30, and 17.54 for postage, signature and insurance (the fee is an example)."""
    net = 699.99 - round(699.99 * 0.1325, 2) - 0.30 - 17.54
    assert net == pytest.approx(589.40)
    assert floor_for(net, 0.1325, 0.30 + 17.54) == pytest.approx(699.99, abs=0.011)


def test_an_ask_is_lowered_by_its_plan_and_stops_at_the_floor() -> None:
    plan = AskPlan(100.0, 80.0, 0.05, 7)
    asks = [plan.on(SATURDAY, SATURDAY + timedelta(days)) for days in (0, 6, 7, 14, 70)]
    assert asks == [100.0, 100.0, 95.0, 90.25, 80.0]
    assert AskPlan(100.0, 80.0).on(SATURDAY, SATURDAY + timedelta(99)) == 100.0


def commons(count: int, price: float, club: str = "Harrow Bay", start: int = 0, net: float = -1.0) -> list[Common]:
    return [Common(start + at, "Banked 2026", club, f"Rider {start + at}", price, net) for at in range(count)]


def test_twenty_of_base_cards_cost_more_to_ship_than_they_bring() -> None:
    terms = LotTerms(keeps=1.0, postage=((800, 24.0),), minutes=0, minutes_a_card=0)
    lot = lot_of("base", "product", commons(800, 20.0 / 800), terms)
    assert lot.price == pytest.approx(20.0)
    assert lot.net == pytest.approx(-4.0)
    assert not lot.better
    assert proposals(commons(800, 20.0 / 800), terms) == []


def test_a_card_goes_in_one_lot_and_only_in_one_that_leaves_more() -> None:
    some = [*commons(30, 0.6), *commons(30, 0.6, "Saltmarsh", 30), *commons(3, 0.6, "Lindmark", 60)]
    found = proposals(some, LotTerms())
    inside = [card.copy_id for lot in found for card in lot.cards]
    assert len(inside) == len(set(inside))
    assert all(lot.net > max(0.0, lot.singly) for lot in found)
    assert proposals(commons(40, 3.0, net=2.4), LotTerms()) == []  # singly each leaves more


def test_the_simulated_market_buys_the_sooner_the_less_is_asked() -> None:
    market, until = SimulatedMarket(), SATURDAY + timedelta(30)

    def share(ask: float) -> float:
        return float(
            np.mean([market.bought(Offered(f"k{n}", ask, 100.0, SATURDAY), until) is not None for n in range(600)])
        )

    shares = [share(ask) for ask in (90.0, 100.0, 130.0, 200.0)]
    assert shares == sorted(shares, reverse=True)
    assert shares[1] == pytest.approx(1 - (1 - chance_a_day(100.0, 100.0)) ** 30, abs=0.06)
    fares = [market.fare(f"s{n}") for n in range(800)]
    assert np.mean([fare.feedback_after is not None for fare in fares]) == pytest.approx(0.7, abs=0.07)
    assert {fare.trouble for fare in fares} == {"", "return", "refund"}
    assert fares == [market.fare(f"s{n}") for n in range(800)]
