"""A sale moves along its road: paid, packed, sent, checked, there, done; and parcels that hold several sales."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books import channelsales
from botin.core.books import posting as rules
from botin.core.errors import BoxStateError
from botin.core.money import Money
from botin.core.selling.packing import Packed, PackStep, steps_for, thick_of
from botin.core.selling.road import WORDS, Stop, after, road_of
from botin.core.ticks import kept_as, with_tick
from botin.desk.books.booking import take_back
from botin.desk.selling.selling import SaleError, owed_for, payer_of, shares_of
from botin.desk.sentagain import same_again
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event, free_key, post
from botin.store.models_selling import ParcelRecord, SaleRecord, SaleStepRecord
from botin.store.selling.sales import (
    changes_of,
    copies_with_cards,
    get_parcel,
    get_sale,
    lines_of,
    sales_in,
    step_keyed,
    steps_of,
)
from botin.store.unit import finish


@dataclass(frozen=True, slots=True)
class Posting:
    """How a parcel is sent: service, number, postage and insurance."""

    service: str = ""
    tracking: str = ""
    postage: Money | None = None
    insurance: Money | None = None


NOTHING = Posting()


def road(sale: SaleRecord) -> tuple[Stop, ...]:
    """Return the stops of a sale."""
    return road_of(checked=sale.checked, by_hand=sale.by_hand)


def put_in_parcel(session: Session, bench: Workbench, client_key: str, sales: Sequence[int]) -> ParcelRecord:
    """Put sales to one buyer into one parcel; the same sales again give the same one.

    Raises
    ------
    SaleError
        When they are of several buyers or addresses, or one is on its way already.
    """
    rows = [get_sale(session, one) for one in dict.fromkeys(sales)]
    if not rows:
        message = "A parcel holds a sale: tick one."
        raise SaleError(message)
    if len({(row.buyer_id, row.checked, row.currency) for row in rows}) > 1:
        message = (
            "One parcel goes to one buyer, in one currency, and all of it by the authenticator or nothing of it."
        )
        raise SaleError(message)
    if any(row.state not in (Stop.SOLD, Stop.PAID, Stop.PACKED) or row.over for row in rows):
        message = "One of these sales is on its way already, or over."
        raise SaleError(message)
    if any(row.by_hand for row in rows):
        message = "One of these sales went from hand to hand: it goes in no parcel. Take its tick off."
        raise SaleError(message)
    inside = [row.parcel_id for row in rows if row.parcel_id is not None]
    first = get_parcel(session, min(inside)) if inside else None
    made = first or ParcelRecord(client_key=client_key, currency=rows[0].currency, made_at=bench.now())
    if first is None:
        session.add(made)
        session.flush()
    for row in rows:
        row.parcel_id = made.id
    made.address = address_for(session, rows[0])
    finish(session)
    return made


def address_for(session: Session, sale: SaleRecord) -> str:
    """Return where a sale goes: the authenticator's address when it is checked, never the buyer's by mistake."""
    return load_settings(session).authenticator_address.strip() if sale.checked else sale.address


def packed_of(session: Session, sales: Sequence[SaleRecord]) -> Packed:
    """Return what a parcel holds, for how it is packed."""
    lines = [line for rows in lines_of(session, [sale.id for sale in sales]).values() for line in rows]
    cards = copies_with_cards(session, [line.copy_id for line in lines])
    inside = [cards[line.copy_id] for line in lines if line.copy_id in cards]
    codes = {sale.id: sale.currency for sale in sales}
    cheap = {line.copy_id for line in lines if Money(line.price_minor, codes[line.sale_id]).major < 1}
    commons = [one for one in inside if one.copy.id in cheap and not one.copy.grade]
    rest = [one for one in inside if one not in commons] if len(commons) >= 5 else inside
    slabs = [one for one in rest if one.copy.grade]
    return Packed(
        price=sum(Money(sale.price_minor, sale.currency).major for sale in sales),
        copies=len(inside),
        slabs=len(slabs),
        thick=sum(thick_of(one.kind, None) for one in rest if not one.copy.grade),
        commons=len(inside) - len(rest),
        sealed=any(sale.box_id is not None for sale in sales),
    )


def steps_of_packing(session: Session, parcel_id: int) -> tuple[PackStep, ...]:
    """Return the steps of packing a parcel."""
    return steps_for(packed_of(session, sales_in(session, parcel_id)))


def keep_packing(session: Session, parcel_id: int, done: Sequence[str], grams: int | None = None) -> None:
    """Keep which steps of packing are done, and what the parcel weighs.

    Raises
    ------
    BoxStateError
        When it is sent already.
    """
    parcel = _not_sent(session, parcel_id)
    parcel.checks = kept_as((step.key for step in steps_of_packing(session, parcel_id)), done)
    parcel.grams = grams if grams is not None else parcel.grams
    finish(session)


def tick_packing(session: Session, parcel_id: int, key: str, *, done: bool) -> None:
    """Keep one step of packing, and leave the others: ticks set quickly may arrive in another order.

    Raises
    ------
    BoxStateError
        When it is sent already.
    """
    parcel = _not_sent(session, parcel_id)
    parcel.checks = with_tick(
        (step.key for step in steps_of_packing(session, parcel_id)), parcel.checks, key, done=done
    )
    finish(session)


def _not_sent(session: Session, parcel_id: int) -> ParcelRecord:
    parcel = get_parcel(session, parcel_id)
    if parcel.sent_on is not None:
        message = "That parcel is sent already."
        raise BoxStateError(message)
    return parcel


def move_sale(
    session: Session, bench: Workbench, sale_id: int, to: Stop, day: date, client_key: str, how: Posting = NOTHING
) -> SaleRecord:
    """Let a sale reach a stop; what is in the same parcel is packed and sent with it. The same key changes nothing.

    Raises
    ------
    BoxStateError
        When it cannot be there next, something is missing, or the day lies ahead or before the stop in front of it.
    """
    sale = get_sale(session, sale_id)
    known = step_keyed(session, client_key)
    if known is not None:
        same_again(known, sale_id=sale_id, state=to.value)
        return sale
    _check(session, bench, sale, to, day)
    together = (
        list(sales_in(session, sale.parcel_id)) if sale.parcel_id and to in (Stop.PACKED, Stop.SENT) else [sale]
    )
    for place, one in enumerate(together):
        if one.id != sale.id and to not in after(road(one), Stop(one.state)):
            message = f"Sale {one.id} of the same parcel is {WORDS[Stop(one.state)].name}: it cannot go along yet."
            raise BoxStateError(message)
        one.state = to.value
        key = client_key if one.id == sale.id else f"{client_key}:{place}"
        session.add(SaleStepRecord(client_key=key, sale_id=one.id, state=to, day=day, made_at=bench.now()))
    if to is Stop.SENT:
        _post(session, bench, sale, together, day, how)
    finish(session)
    return sale


def _check(session: Session, bench: Workbench, sale: SaleRecord, to: Stop, day: date) -> None:
    here, stops = Stop(sale.state), road(sale)
    if sale.over or to not in stops or to not in after(stops, here):
        now = sale.over or WORDS[here].name
        message = f"Sale {sale.id} is {now}: it cannot be “{WORDS[to].name}” next. Reload the page."
        raise BoxStateError(message)
    latest = max((step.day for step in steps_of(session, [sale.id])[sale.id]), default=day)
    if day > bench.today() or day < latest:
        why = "lies ahead" if day > bench.today() else f"lies before its last stop, on {latest.isoformat()}"
        message = f"{day.isoformat()} {why}. Write the day it happened."
        raise BoxStateError(message)
    if to is Stop.PACKED:
        _check_packed(session, sale)


def _check_packed(session: Session, sale: SaleRecord) -> None:
    if sale.parcel_id is None:
        message = "It is in no parcel yet: begin one first."
        raise BoxStateError(message)
    parcel = get_parcel(session, sale.parcel_id)
    if not parcel.address.strip():
        whose = "the authenticator’s (under Settings)" if sale.checked else "the buyer’s"
        message = f"The parcel has no address: write {whose}."
        raise BoxStateError(message)
    left = [step.words for step in steps_of_packing(session, parcel.id) if step.key not in parcel.checks.split(";")]
    if left:
        message = f"Not packed yet: {'; '.join(left)}."
        raise BoxStateError(message)


def _post(
    session: Session, bench: Workbench, sale: SaleRecord, together: Sequence[SaleRecord], day: date, how: Posting
) -> None:
    """Pay for the parcel: its postage and insurance fall on what is in it, by its price."""
    if sale.parcel_id is None:
        return
    parcel = get_parcel(session, sale.parcel_id)
    parcel.sent_on, parcel.service, parcel.tracking = day, how.service[:60], how.tracking.strip()[:60]
    parcel.postage_minor = how.postage.minor if how.postage else 0
    parcel.insurance_minor = how.insurance.minor if how.insurance else 0
    parcel.insured = parcel.insurance_minor > 0
    total = parcel.postage_minor + parcel.insurance_minor
    parts = rules.split(total, [float(max(1, one.price_minor)) for one in together])
    shares = [
        (basis.about, money)
        for one, part in zip(together, parts, strict=True)
        for basis, money in shares_of(session, one, part)
    ]
    event = Event(
        "sale", day, free_key(session, f"parcel-{parcel.id}"), f"postage of parcel {parcel.id}", sale.buyer_id
    )
    post(session, bench.now(), event, channelsales.posted(shares))


def step_back(session: Session, bench: Workbench, sale_id: int) -> Stop:
    """Take the last stop of a sale back, with those of the same parcel where they were sent or packed together.

    Raises
    ------
    BoxStateError
        When it was only sold: then it is cancelled.
    """
    sale = get_sale(session, sale_id)
    here = Stop(sale.state)
    if here is Stop.SOLD or sale.over:
        message = "There is no stop to take back. Cancel the sale, if it should not be."
        raise BoxStateError(message)
    together = (
        list(sales_in(session, sale.parcel_id)) if sale.parcel_id and here in (Stop.PACKED, Stop.SENT) else [sale]
    )
    for one in together:
        if one.state == here:
            _one_back(session, bench, one)
    if here is Stop.SENT and sale.parcel_id is not None:
        take_back(session, bench, f"parcel-{sale.parcel_id}")
        get_parcel(session, sale.parcel_id).sent_on = None
    finish(session)
    return Stop(sale.state)


def _one_back(session: Session, bench: Workbench, sale: SaleRecord) -> None:
    steps = steps_of(session, [sale.id])[sale.id]
    for step in steps:
        if step.state == sale.state:
            step.undone_at = bench.now()
    session.flush()
    sale.state = steps_of(session, [sale.id])[sale.id][-1].state


def pay_out(session: Session, bench: Workbench, sale_id: int, day: date) -> Money:
    """Note that the channel paid out what it owes for a sale; returns how much. One that is paid out stays so.

    Raises
    ------
    BoxStateError
        When it was cancelled or paid from hand to hand, or the day lies ahead.
    """
    sale = get_sale(session, sale_id)
    payer = payer_of(session, bench, sale)
    money = owed_for(sale, refunds_of(session, sale))
    if payer is None or sale.over == "cancelled":
        message = "Nothing is paid out for that sale: it was paid from hand to hand, or cancelled."
        raise BoxStateError(message)
    if sale.payout_on is not None:
        return money if sale.payout_minor is None else Money(sale.payout_minor, sale.currency)
    if not sale.sold_on <= day <= bench.today():
        message = f"{day.isoformat()} is no day to be paid out: it lies ahead, or before the sale."
        raise BoxStateError(message)
    event = Event(
        "sale", day, free_key(session, f"payout-{sale.id}"), f"{sale.channel} pays out sale {sale.id}", payer
    )
    post(session, bench.now(), event, channelsales.paid_out(money, payer))
    sale.payout_on, sale.payout_minor = day, money.minor
    finish(session)
    return money


def refunds_of(session: Session, sale: SaleRecord) -> int:
    """Return what was given back to the buyer of a sale (minor units)."""
    return sum(
        change.amount_minor
        for change in changes_of(session, [sale.id])[sale.id]
        if change.kind in ("refund", "return", "lost")
    )


def not_paid_out(session: Session, bench: Workbench, sale_id: int) -> None:
    """Take back that a sale was paid out."""
    sale = get_sale(session, sale_id)
    if sale.payout_on is not None:
        take_back(session, bench, f"payout-{sale.id}")
        sale.payout_on = sale.payout_minor = None
        finish(session)


def keep_feedback(session: Session, bench: Workbench, sale_id: int, *, given: bool, got: str) -> None:
    """Keep the feedback given and got."""
    sale = get_sale(session, sale_id)
    sale.feedback_given = (
        bench.today() if given and sale.feedback_given is None else (sale.feedback_given if given else None)
    )
    sale.feedback_got = got.strip()[:200]
    finish(session)


def keep_address(session: Session, sale_id: int, address: str) -> None:
    """Keep the buyer's address; the label of a sale that is checked goes on to the authenticator."""
    sale = get_sale(session, sale_id)
    sale.address = address.strip()[:400]
    if sale.parcel_id is not None:
        parcel = get_parcel(session, sale.parcel_id)
        if parcel.sent_on is None:
            parcel.address = address_for(session, sale)
    finish(session)
