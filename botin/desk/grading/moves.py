"""An order moves on, from draft to done, and a step that was a mistake is taken back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError
from botin.core.flags.ways import Tier
from botin.core.grading.steps import AT_HOME, AWAY, WORDS, Step, after, before
from botin.core.money import Money
from botin.desk.books.booking import book_sent, unbook_sent
from botin.desk.grading.billing import NAMELESS, book_bill
from botin.desk.grading.drafts import not_ready
from botin.desk.grading.memberships import release
from botin.desk.grading.packing import still_to_do
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event
from botin.store.copies.copies import copies_of_version, get_copy, require_here
from botin.store.grading.orders import Version, found_copies, get_order, lines_of, order_keyed, step_keyed, steps_of
from botin.store.models_copies import CopyRecord
from botin.store.models_grading import GradingCopyRecord, GradingOrderRecord, GradingStepRecord
from botin.store.unit import finish

Chosen = Version | int
"""What goes in an order: any copy of a version, or the copy of this id."""
PAY_WITHIN = timedelta(days=14)
"""From the day a house says that grading is done; houses differ (a choice)."""


@dataclass(frozen=True, slots=True)
class Told:
    """What is known when an order moves on; what is left empty stays as it is.

    Attributes
    ----------
    postage, insurance : Money or None
        Paid for the way there.
    due_on : date or None
        When it should be back; reckoned from the tier's days when it is left out.
    """

    tracking: str = ""
    postage: Money | None = None
    insurance: Money | None = None
    due_on: date | None = None
    pay_on: date | None = None
    number: str = ""


NOTHING_TOLD = Told()


def move_on(
    session: Session, bench: Workbench, order_id: int, to: Step, day: date, client_key: str, told: Told = NOTHING_TOLD
) -> GradingOrderRecord:
    """Let an order take a step; the same key again changes nothing.

    Raises
    ------
    BoxStateError
        When it cannot be taken now: something is missing, or the day lies ahead or before the step in front of it.
    """
    order = get_order(session, order_id)
    known = step_keyed(session, client_key)
    if known is not None:
        same_again(known, order_id=order_id, state=to.value)
        return order
    _check(session, bench, order, to, day)
    if to is Step.SENT:
        _send(session, bench, order, day, told)
    if to is Step.GRADED:
        order.pay_on = told.pay_on or day + PAY_WITHIN
        order.number = told.number.strip()[:40] or order.number
    if to is Step.RETURNING:
        order.tracking_back = told.tracking.strip()[:60]
    order.state = to.value
    session.add(GradingStepRecord(client_key=client_key, order_id=order.id, state=to, day=day, made_at=bench.now()))
    session.flush()
    if to is Step.GRADED:
        book_bill(session, bench, order, day)
    finish(session)
    return order


def already_sent(
    session: Session, bench: Workbench, order_id: int, day: date, client_key: str, told: Told = NOTHING_TOLD
) -> GradingOrderRecord:
    """Note a draft whose parcel is on its way already: it was closed and packed without Botin, by that day.

    Raises
    ------
    BoxStateError
        When it is no draft, has no card, or the day lies ahead.
    """
    order = get_order(session, order_id)
    if step_keyed(session, client_key) is not None:
        return order
    lines = lines_of(session, order_id)
    if Step(order.state) is not Step.DRAFT or not lines or day > bench.today():
        message = "Only a draft with cards in it can be on its way already, since a day that does not lie ahead."
        raise BoxStateError(message)
    for line in lines:
        line.packed_at = bench.now()
    for step in (Step.CLOSED, Step.PACKED, Step.SENT):
        key = client_key if step is Step.SENT else f"{client_key}:{step.value}"
        session.add(GradingStepRecord(client_key=key, order_id=order.id, state=step, day=day, made_at=bench.now()))
    order.state = Step.SENT.value
    session.flush()
    _send(session, bench, order, day, told)
    finish(session)
    return order


def _check(session: Session, bench: Workbench, order: GradingOrderRecord, to: Step, day: date) -> None:
    here = Step(order.state)
    if to not in after(here):
        message = f"Order {order.id} is {WORDS[here].name}: it cannot be “{WORDS[to].name}” next. Reload the page."
        raise BoxStateError(message)
    latest = max((step.day for step in steps_of(session, order.id)), default=day)
    if day > bench.today() or day < latest:
        why = "lies ahead" if day > bench.today() else f"lies before its last step, on {latest.isoformat()}"
        message = f"{day.isoformat()} {why}. Write the day it happened."
        raise BoxStateError(message)
    missing: list[str] = []
    if to is Step.CLOSED:
        missing = not_ready(session, order, day)
    elif to is Step.PACKED:
        missing = still_to_do(session, order)
    elif to is Step.BACK:
        missing = not_taken_in(session, order)
    elif to is Step.DONE:
        missing = not_settled(session, order)
    if missing:
        message = " ".join(words if words.endswith(".") else f"{words}." for words in missing)
        raise BoxStateError(message)


def not_taken_in(session: Session, order: GradingOrderRecord) -> list[str]:
    """Say how many cards of an order are not back yet."""
    out = sum(1 for line in lines_of(session, order.id) if line.back_on is None)
    return [f"{out} of its cards are not taken in yet: write down what came back"] if out else []


def not_settled(session: Session, order: GradingOrderRecord) -> list[str]:
    """Say what keeps an order from being done."""
    return not_taken_in(session, order) + ([] if order.paid_on else ["The bill of the house is not paid"])


def _send(session: Session, bench: Workbench, order: GradingOrderRecord, day: date, told: Told) -> None:
    copies = [get_copy(session, line.copy_id) for line in lines_of(session, order.id)]
    order.sent_on, order.due_on = day, told.due_on or day + timedelta(order.days)
    order.tracking = told.tracking.strip()[:60]
    order.postage_minor = told.postage.minor if told.postage else 0
    order.insurance_minor = told.insurance.minor if told.insurance else 0
    for copy in copies:
        copy.state = "out"
    cash = Money(order.postage_minor + order.insurance_minor, order.currency)
    words = f"{order.house or NAMELESS} {order.tier}".strip()
    book_sent(session, bench, Event("grading", day, "", words), order.id, copies, cash)
    book_bill(session, bench, order, day)


def step_back(session: Session, bench: Workbench, order_id: int) -> Step:
    """Take the last step of an order back; returns where it stands then.

    Raises
    ------
    BoxStateError
        When it is a draft, or copies of it came back: then those are taken back first.
    """
    order = get_order(session, order_id)
    here = Step(order.state)
    steps = [step for step in steps_of(session, order_id) if step.state == here.value]
    if here is Step.DRAFT:
        message = "A draft has no step to take back. Remove it, if it should not be."
        raise BoxStateError(message)
    if here is Step.SENT:
        _unsend(session, bench, order)
    if here is Step.BACK and any(line.back_on for line in lines_of(session, order_id)):
        message = "Its cards came back. Take that back card by card first."
        raise BoxStateError(message)
    for step in steps:
        step.undone_at = bench.now()
    session.flush()
    rest = steps_of(session, order_id)
    to = Step(rest[-1].state) if rest else before(here) or Step.DRAFT
    order.state = to.value if here is not Step.CLOSED else Step.DRAFT.value
    if here is Step.GRADED:
        order.pay_on = None
    if here is Step.PACKED:
        order.state = Step.CLOSED.value
    finish(session)
    return Step(order.state)


def _unsend(session: Session, bench: Workbench, order: GradingOrderRecord) -> None:
    if any(line.back_on is not None for line in lines_of(session, order.id)):
        message = "Copies of this order came back already: it was sent."
        raise BoxStateError(message)
    if order.paid_on is not None and order.pay_on != order.sent_on:
        message = "Its bill is paid. Take the payment back first."
        raise BoxStateError(message)
    unbook_sent(session, bench, order.id)
    for line in lines_of(session, order.id):
        get_copy(session, line.copy_id).state = "here"
    order.sent_on = order.due_on = None


def remove_order(session: Session, bench: Workbench, order_id: int) -> None:
    """Take an order back as if it had not been; its cards are free again. One that was taken back stays so.

    Raises
    ------
    BoxStateError
        When a copy of it came back already, or its bill is paid.
    """
    order = session.get(GradingOrderRecord, order_id)
    if order is None or order.undone_at is not None:
        return
    if Step(order.state) not in AT_HOME:
        _unsend(session, bench, order)
    release(session, bench, order_id)
    for line in lines_of(session, order_id):
        line.back_on = bench.today()
    order.undone_at = bench.now()
    finish(session)


def send(
    session: Session,
    bench: Workbench,
    client_key: str,
    tier: Tier,
    sent_on: date,
    chosen: Sequence[Chosen],
    currency: str = "",
) -> GradingOrderRecord:
    """Note an order that was sent already, its copies in this order; the same key again gives the same order.

    Parameters
    ----------
    chosen : sequence of (card id, finish) or int
        One for each copy, by its id or by its version; which of several alike goes is chosen here, the oldest first.
    currency : str
        Of the order; that of its first copy when it is left out.

    Raises
    ------
    BoxStateError
        When a copy is not here any more, or is in another order: then nothing is stored.
    """
    known = order_keyed(session, client_key)
    if known is not None:
        same_again(known, house=tier.house, tier=tier.name, sent_on=sent_on)
        return known
    copies = pick(session, chosen)
    code = currency or found_copies(session, [copies[0].id])[0].product.currency
    fee, up = (Money.from_major(amount, code).minor for amount in (tier.fee, tier.upcharge))
    order = GradingOrderRecord(
        client_key=client_key, house=tier.house, tier=tier.name, service=tier.service, currency=code, fee_minor=fee,
        upcharge_minor=up, ceiling_minor=None if tier.ceiling is None else Money.from_major(tier.ceiling, code).minor,
        days=round(tier.days), least=tier.least, member=tier.member, made_at=bench.now(), state=Step.SENT.value,
    )  # fmt: skip
    session.add(order)
    session.flush()
    for place, copy in enumerate(copies, 1):
        session.add(GradingCopyRecord(order_id=order.id, place=place, copy_id=copy.id))
    session.add(
        GradingStepRecord(
            client_key=f"sent-{order.id}", order_id=order.id, state=Step.SENT, day=sent_on, made_at=bench.now()
        )
    )
    session.flush()
    _send(session, bench, order, sent_on, NOTHING_TOLD)
    finish(session)
    return order


def pick(session: Session, chosen: Sequence[Chosen]) -> list[CopyRecord]:
    """Choose a copy that is here and in no order for each.

    Raises
    ------
    BoxStateError
        When nothing is chosen, or a copy is not here or promised.
    """
    if not chosen:
        message = "An order needs a card. Tick the ones that go."
        raise BoxStateError(message)
    found = [get_copy(session, one) for one in dict.fromkeys(chosen) if isinstance(one, int)]
    for copy in found:
        require_here(copy)
    for (card_id, parallel), count in Counter(one for one in chosen if not isinstance(one, int)).items():
        taken = {copy.id for copy in found}
        here = [copy for copy in copies_of_version(session, card_id, parallel) if copy.id not in taken][:count]
        if len(here) < count:
            message = "A copy of the order is not here any more, or is in another order. Choose the mix anew."
            raise BoxStateError(message)
        found += here
    return found


def is_away(order: GradingOrderRecord) -> bool:
    """Whether the copies of an order are with the house or on their way."""
    return Step(order.state) in AWAY
