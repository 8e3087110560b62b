"""What a grading order costs: each card's part, the house's bill, when it is paid, and what was left to true up."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books import posting as rules
from botin.core.books.posting import Account
from botin.core.errors import BoxStateError
from botin.core.grading.ordercosts import CostLine, Whole, line_costs
from botin.core.money import Money
from botin.desk.books.booking import take_back
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event, bases, free_key, post
from botin.store.copies.copies import copy_words, get_copy
from botin.store.copies.people import party_named
from botin.store.grading.orders import booked_by_copy, get_order, lines_of, owners_of
from botin.store.models_copies import ME, CopyRecord
from botin.store.models_grading import GradingCopyRecord, GradingOrderRecord
from botin.store.unit import finish

NAMELESS = "grading house"
"""Stands in the books for a house that has no name."""


def house_of(session: Session, bench: Workbench, order: GradingOrderRecord) -> int:
    """Return the party that an order's house is."""
    return party_named(session, order.house or NAMELESS, bench.now()).id


def cost_lines(
    order: GradingOrderRecord, lines: Sequence[GradingCopyRecord], owners: Mapping[int, int | None]
) -> list[CostLine]:
    """Return what each card of an order costs by itself; a voucher is given to my own cards first."""
    mine_first = sorted(range(len(lines)), key=lambda at: owners.get(lines[at].copy_id) != ME)
    given = set(mine_first[: order.voucher_cards])
    off = min(order.voucher_minor, order.fee_minor)
    return [
        CostLine(owners.get(line.copy_id), order.fee_minor, line.upcharge_minor, off if at in given else 0)
        for at, line in enumerate(lines)
    ]


def whole_of(order: GradingOrderRecord) -> Whole:
    """Return what an order costs as a whole."""
    return Whole(
        order.postage_minor, order.insurance_minor, order.return_minor, order.surcharge_minor, order.membership_minor
    )


@dataclass(frozen=True, slots=True)
class Costs:
    """What an order costs: its lines and their parts (minor units), in the order of the form."""

    lines: tuple[CostLine, ...]
    parts: tuple[int, ...]
    whole: Whole
    by_line: Mapping[int, int]

    @property
    def fees(self) -> int:
        """Fees of all cards, vouchers taken off."""
        return sum(line.fee - line.off for line in self.lines)

    @property
    def upcharges(self) -> int:
        """Upcharges of all cards."""
        return sum(line.upcharge for line in self.lines)

    @property
    def bill(self) -> int:
        """What the house charges."""
        return self.fees + self.upcharges + self.whole.back + self.whole.surcharge

    @property
    def total(self) -> int:
        """All of it, postage and membership included."""
        return sum(self.parts)


def costs_of(session: Session, order: GradingOrderRecord) -> Costs:
    """Work out what an order costs, as its figures stand."""
    lines, owners = lines_of(session, order.id), owners_of(session, order.id)
    each, whole = cost_lines(order, lines, owners), whole_of(order)
    parts = line_costs(each, whole, order.share_by, ME)
    return Costs(tuple(each), tuple(parts), whole, dict(zip((line.id for line in lines), parts, strict=True)))


def book_bill(session: Session, bench: Workbench, order: GradingOrderRecord, day: date) -> None:
    """Write down what is owed to the house, in place of what was written before; copies that are back follow.

    Nothing is committed here.
    """
    session.flush()
    take_back(session, bench, f"bill-{order.id}", f"order {order.id} turned out to cost something else")
    bill = Money(costs_of(session, order).bill, order.currency)
    house = house_of(session, bench, order)
    known = order.state in ("graded", "returning", "back", "done")
    words = f"order {order.id}: {order.house} {order.tier} {'charges' if known else 'will charge'}"
    event = Event("grading", day, free_key(session, f"bill-{order.id}"), words, house, estimated=not known)
    post(session, bench.now(), event, rules.billed(bill, order.id, house))
    true_up(session, bench, order, day)


def true_up(session: Session, bench: Workbench, order: GradingOrderRecord, day: date) -> None:
    """Let each copy that is back carry its part of the order as it turned out."""
    lines = [line for line in lines_of(session, order.id) if line.back_on is not None]
    if not lines:
        return
    carried = booked_by_copy(session, order.id, Account.PREPAID, order.currency)
    parts = costs_of(session, order).by_line
    held = bases(session, [line.copy_id for line in lines])
    for line in lines:
        more = parts[line.id] + carried[line.copy_id]
        basis = held[line.copy_id]
        if not more or basis.currency != order.currency:
            continue
        copy = get_copy(session, line.copy_id)
        words = f"{copy_words(session, copy)}: its part of order {order.id} changed"
        event = Event("grading", day, free_key(session, f"settle-{line.id}"), words)
        money = Money(more, order.currency)
        post(session, bench.now(), event, rules.trued_up(money, order.id, basis, _where(copy)))


def _where(copy: CopyRecord) -> Account:
    """Account where a copy's basis lies, or that took it when it left."""
    if copy.state == "sold":
        return Account.SOLD
    if copy.state == "gone":
        return Account.FUN
    return Account.GRADED if copy.grade else Account.CARDS


@dataclass(frozen=True, slots=True)
class Bill:
    """What the house charges as it turned out: return shipping, surcharge, upcharges by line (minor units)."""

    back: int
    surcharge: int = 0
    upcharges: Mapping[int, int] = field(default_factory=dict)
    pay_on: date | None = None


def correct_bill(session: Session, bench: Workbench, order_id: int, bill: Bill) -> None:
    """Keep what the house charges, in place of what was expected; a bill that is paid is opened first.

    Raises
    ------
    BoxStateError
        When the bill is paid, or the order is not sent.
    """
    order = get_order(session, order_id)
    _require_sent(order)
    if order.paid_on is not None:
        message = "That bill is paid. Take the payment back first, then correct it."
        raise BoxStateError(message)
    order.return_minor, order.surcharge_minor = bill.back, bill.surcharge
    order.pay_on = bill.pay_on or order.pay_on
    for line in lines_of(session, order_id):
        line.upcharge_minor = bill.upcharges.get(line.id, line.upcharge_minor)
    book_bill(session, bench, order, bench.today())
    finish(session)


def _require_sent(order: GradingOrderRecord) -> None:
    if order.sent_on is None:
        message = "That order is not sent yet: nothing is charged."
        raise BoxStateError(message)


def pay(session: Session, bench: Workbench, order_id: int, day: date) -> Money:
    """Pay the bill of an order, whole; one that is paid stays so. Returns what was paid.

    Raises
    ------
    BoxStateError
        When the order is not sent, or the day lies ahead or before it was sent.
    """
    order = get_order(session, order_id)
    _require_sent(order)
    bill = Money(costs_of(session, order).bill, order.currency)
    if order.paid_on is not None:
        return bill
    if day > bench.today() or (order.sent_on is not None and day < order.sent_on):
        message = f"{day.isoformat()} is no day to have paid it: it lies ahead, or before the order was sent."
        raise BoxStateError(message)
    house = house_of(session, bench, order)
    words = f"order {order.id} paid to {order.house or NAMELESS}"
    event = Event("grading", day, free_key(session, f"pay-{order.id}"), words, house)
    post(session, bench.now(), event, rules.bill_paid(bill, order.id, house))
    order.paid_on = day
    finish(session)
    return bill


def not_paid(session: Session, bench: Workbench, order_id: int) -> None:
    """Take a payment back.

    Raises
    ------
    BoxStateError
        When it was booked by an earlier version together with sending.
    """
    order = get_order(session, order_id)
    if order.paid_on is None:
        return
    if not take_back(session, bench, f"pay-{order.id}"):
        message = "It was paid when it was sent. Take the order back instead."
        raise BoxStateError(message)
    order.paid_on = None
    if order.state == "done":
        order.state = "back"
    finish(session)
