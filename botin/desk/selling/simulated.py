"""The simulated market buys what is offered and plays each sale's road; it goes the way anybody's entry goes."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, timedelta

from sqlalchemy.orm import Session

from botin.core.money import Money, exponent
from botin.core.selling.road import Stop, road_of
from botin.desk.fees import sale_costs
from botin.desk.selling.changes import REFUND, RETURN, Change, note_change
from botin.desk.selling.listings import Listed, listings
from botin.desk.selling.roads import keep_feedback, move_sale, pay_out
from botin.desk.selling.sealedgoods import sealed_goods
from botin.desk.selling.selling import Sold, note_sale
from botin.desk.selling.whattosell import next_sale, told_of, worth_of, worth_of_goods
from botin.desk.workbench import Workbench
from botin.standins.carrier import SimulatedCarrier
from botin.standins.market import Fare, Market, Offered, SimulatedMarket
from botin.store.models_selling import SaleRecord
from botin.store.selling.sales import changes_of, free_step_key, get_sale, open_sales, parcels_of, sales, steps_of

MOST_TOLD = 40
"""Copies of a sale of which the flag is kept; a larger lot is one of commons."""
LOT_KEEPS = 0.5
"""Share of the single prices that a lot is worth."""


def play(session: Session, bench: Workbench, market: Market | None = None) -> list[str]:
    """Let the market do what it has done by today; says what that was."""
    place = market or SimulatedMarket()
    found = [words for one in listings(session, bench.today()) if (words := _buy(session, bench, place, one))]
    for sale in open_sales(session):
        if sale.simulated:
            found += _go_on(session, bench, sale.id, place.fare(sale.client_key))
    for sale in sales(session):
        if sale.simulated and not sale.over and sale.state in (Stop.THERE, Stop.DONE):
            found += _afterwards(session, bench, sale, place.fare(sale.client_key))
    return found


def _buy(session: Session, bench: Workbench, market: Market, listed: Listed) -> str:
    row = listed.record
    values = worth_of(session, bench, listed.copies)
    worth = sum(values.values()) * (LOT_KEEPS if len(listed.copies) > 1 else 1.0)
    if listed.box is not None:
        worth = worth_of_goods(session, bench, sealed_goods(session, listed.box.id))
    ask = Money(listed.asks_now, row.currency)
    bought = market.bought(Offered(row.client_key, ask.major, worth, row.listed_on), bench.today())
    if bought is None:
        return ""
    sold = Sold(
        channel=row.channel, buyer=bought.buyer, day=bought.day, price=ask, shipping=Money(0, row.currency),
        fee=fee_on(session, bench, row.channel, ask), copies=tuple(one.copy.id for one in listed.copies),
        address=bought.address, listing=row.id, weights=values, box=row.box_id or 0,
        forecast=forecast_of(session, bench, values, ask, row.channel, row.box_id or 0),
    )  # fmt: skip
    sale = note_sale(session, bench, f"market-{row.client_key}", sold)
    sale.simulated = True
    return f"{bought.buyer} bought {listed.words}."


def fee_on(session: Session, bench: Workbench, channel: str, price: Money) -> Money:
    """Return what a channel takes of a price: its share and its fixed fee, no more than the price."""
    way = next((one for one in sale_costs(session, bench.today()).ways if one.name == channel), None)
    if way is None:
        return Money(0, price.currency)
    fixed = way.fixed * 10 ** exponent(price.currency)
    return Money(min(price.minor, round(price.minor * way.fee + fixed)), price.currency)


def forecast_of(
    session: Session, bench: Workbench, values: Mapping[int, float], ask: Money, channel: str, box: int = 0
) -> dict[str, object]:
    """Return what was estimated on the day of a sale: the price, and what it would leave after the channel's fee."""
    total = worth_of_goods(session, bench, sealed_goods(session, box)) if box else sum(values.values())
    fee = fee_on(session, bench, channel, Money.from_major(total, ask.currency)).major if total else 0.0
    said = told_of(session, bench, list(values)[:MOST_TOLD])
    return {"price": total, "net": total - fee, "copies": said, **next_sale(session, bench, list(values))}


def _key(session: Session, sale: SaleRecord, stop: Stop) -> str:
    return f"market-{free_step_key(session, sale.id, stop.value)}"


def _go_on(session: Session, bench: Workbench, sale_id: int, fare: Fare) -> list[str]:
    """Let a sale reach the stops that others bring it to: payment, the authenticator, the buyer."""
    found: list[str] = []
    for _ in range(4):
        sale = get_sale(session, sale_id)
        step = _next(session, sale, fare)
        if step is None or step[1] > bench.today():
            return found
        stop, day = step
        move_sale(session, bench, sale_id, stop, max(day, _latest(session, sale)), _key(session, sale, stop))
        found.append(f"Sale {sale_id}: {stop.value}.")
    return found


def _latest(session: Session, sale: SaleRecord) -> date:
    return max(step.day for step in steps_of(session, [sale.id])[sale.id])


def _next(session: Session, sale: SaleRecord, fare: Fare) -> tuple[Stop, date] | None:
    """The next stop that is not mine to make, with its day."""
    here, at = Stop(sale.state), _latest(session, sale)
    if here is Stop.SOLD:
        return Stop.PAID, at + timedelta(fare.paid_after)
    if here in (Stop.PAID, Stop.PACKED, Stop.THERE, Stop.DONE):
        return None
    stops = road_of(checked=sale.checked, by_hand=sale.by_hand)
    to = stops[stops.index(here) + 1]
    if to is Stop.PASSED:
        return to, at + timedelta(fare.check_days)
    parcel = parcels_of(session, [sale.parcel_id or 0]).get(sale.parcel_id or 0)
    number = parcel.tracking if parcel else str(sale.id)
    travel = SimulatedCarrier().travel(f"{number}{to.value}", parcel.service if parcel else "parcel", at)
    return None if travel.there_on is None else (to, travel.there_on)


def _afterwards(session: Session, bench: Workbench, sale: SaleRecord, fare: Fare) -> list[str]:
    """Payout, feedback, and now and then trouble, once the buyer has it."""
    found: list[str] = []
    there = _latest(session, sale)
    if not sale.by_hand and sale.payout_on is None and there + timedelta(fare.payout_after) <= bench.today():
        money = pay_out(session, bench, sale.id, there + timedelta(fare.payout_after))
        found.append(f"{money.major:,.2f} {money.currency} paid out for sale {sale.id}.")
    if (
        fare.feedback_after is not None
        and not sale.feedback_got
        and there + timedelta(fare.feedback_after) <= bench.today()
    ):
        keep_feedback(session, bench, sale.id, given=sale.feedback_given is not None, got="All as described.")
        found.append(f"Feedback for sale {sale.id}.")
    if fare.trouble and not changes_of(session, [sale.id])[sale.id] and there + timedelta(4) <= bench.today():
        kind = RETURN if fare.trouble == "return" else REFUND
        amount = sale.price_minor if kind == RETURN else max(1, sale.price_minor // 10)
        change = Change(kind, there + timedelta(4), Money(amount, sale.currency), "the buyer says a corner is soft")
        note_change(session, bench, f"market-{kind}-{sale.id}", sale.id, change)
        found.append(f"Sale {sale.id}: {kind}.")
    return found
