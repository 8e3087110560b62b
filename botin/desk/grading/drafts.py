"""The draft of a grading order: its cards in the order of the form, what each is declared at, what it still needs."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from sqlalchemy.orm import Session

from botin.core.catalog.product import Kind
from botin.core.errors import BotinError, BoxStateError, NotFoundError
from botin.core.flags.ways import Tier
from botin.core.grading.ordercosts import BY_CARD, BY_PERSON
from botin.core.money import Money
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.copies.copies import copy_words, get_copy, require_here
from botin.store.grading.orders import (
    form_of,
    found_copies,
    get_order,
    held_memberships,
    lines_of,
    order_keyed,
    vouchers,
    vouchers_used,
)
from botin.store.models import ProductRecord
from botin.store.models_copies import CopyRecord
from botin.store.models_grading import GradingCopyRecord, GradingOrderRecord
from botin.store.unit import finish

SIGNED = frozenset({Kind.AUTOGRAPH.value, Kind.AUTOGRAPH_RELIC.value})
ITEMS = ("card", "pack", "ticket", "photo")
"""Kinds of items that a house takes; all that stand in these books are cards."""
MOST = 200
"""Cards of an order."""


class OrderError(BotinError):
    """Something of a grading order that cannot be, with what to do."""

    status = 422


@dataclass(frozen=True, slots=True)
class Wanted:
    """A copy to put into an order: what it is declared at, and what is expected of it."""

    copy_id: int
    declared: Money | None = None
    forecast: Mapping[str, object] = field(default_factory=dict)


def new_draft(
    session: Session, bench: Workbench, client_key: str, tier: Tier, currency: str, shipping: Money
) -> GradingOrderRecord:
    """Begin an order in a tier, on its terms of today; the same key again gives the same order.

    Raises
    ------
    StaleFormError
        When the key was used for an order of another tier.
    """
    known = order_keyed(session, client_key)
    if known is not None:
        same_again(known, house=tier.house, tier=tier.name)
        return known
    order = GradingOrderRecord(client_key=client_key, made_at=bench.now(), currency=currency, state="draft")
    _take_terms(order, tier, shipping)
    session.add(order)
    finish(session)
    return order


def _take_terms(order: GradingOrderRecord, tier: Tier, shipping: Money) -> None:
    def minor(amount: float) -> int:
        return Money.from_major(amount, order.currency).minor

    order.house, order.tier, order.service = tier.house, tier.name, tier.service
    order.fee_minor, order.upcharge_minor = minor(tier.fee), minor(tier.upcharge)
    order.ceiling_minor = None if tier.ceiling is None else minor(tier.ceiling)
    order.days, order.least, order.member = round(tier.days), tier.least, tier.member
    order.return_minor = shipping.minor


def change_tier(session: Session, order_id: int, tier: Tier, shipping: Money) -> None:
    """Let a draft go in another tier, on its terms.

    Raises
    ------
    BoxStateError
        When it is not a draft any more.
    """
    _take_terms(require_draft(session, order_id), tier, shipping)
    finish(session)


def require_draft(session: Session, order_id: int) -> GradingOrderRecord:
    """Read an order that may still be changed.

    Raises
    ------
    BoxStateError
        When it is closed.
    """
    order = get_order(session, order_id)
    if order.state != "draft":
        message = f"Order {order.id} is closed: its form is as it will be sent. Open it again to change it."
        raise BoxStateError(message)
    return order


def add_copies(session: Session, order_id: int, wanted: Sequence[Wanted]) -> int:
    """Put copies at the end of a draft's form; all or none. Returns how many came to it.

    Raises
    ------
    BoxStateError
        When the order is closed, or a copy is not here or is in an order already.
    OrderError
        When a copy is of a product in another currency, does not fit the service, or there are too many.
    """
    order = require_draft(session, order_id)
    before = lines_of(session, order_id)
    inside = {line.copy_id for line in before}
    place = max((line.place for line in before), default=0)
    new = [one for one in wanted if one.copy_id not in inside]
    if len(before) + len(new) > MOST:
        message = f"An order takes {MOST} cards. Send the others in another one."
        raise OrderError(message)
    for at, one in enumerate(new, place + 1):
        copy = get_copy(session, one.copy_id)
        require_here(copy)
        if copy.state == "listed":
            message = f"{copy_words(session, copy)} is offered for sale: end its listing first."
            raise BoxStateError(message)
        _check_fits(session, order, copy)
        declared = one.declared.minor if one.declared else 0
        line = GradingCopyRecord(order_id=order.id, place=at, copy_id=copy.id, declared_minor=declared)
        line.forecast = json.dumps(dict(one.forecast))
        session.add(line)
    finish(session)
    return len(new)


def _check_fits(session: Session, order: GradingOrderRecord, copy: CopyRecord) -> None:
    product = _product_of(session, copy)
    if product.currency != order.currency:
        message = (
            f"{copy_words(session, copy)} is kept in {product.currency}, this order in {order.currency}. "
            "Put it into an order of its own."
        )
        raise OrderError(message)
    graded, needs = bool(copy.grade), bool(order.service)
    if graded and not needs:
        message = (
            f"{copy_words(session, copy)} is graded already ({copy.house} {copy.grade}). "
            "Choose a tier for a review, a cross over or a new holder."
        )
        raise OrderError(message)
    if needs and not graded:
        message = f"{copy_words(session, copy)} is not graded: there is nothing to {order.service} yet."
        raise OrderError(message)
    if order.service in ("review", "new holder") and copy.house not in ("", order.house):
        message = f"{copy_words(session, copy)} is in a slab of {copy.house}; {order.house} takes it as a cross over."
        raise OrderError(message)


def _product_of(session: Session, copy: CopyRecord) -> ProductRecord:
    found = found_copies(session, [copy.id])
    if not found:
        message = "That copy is on no checklist, so no form can name it. Say which card it is first."
        raise OrderError(message)
    return found[0].product


def _line(session: Session, order_id: int, line_id: int) -> GradingCopyRecord:
    found = next((line for line in lines_of(session, order_id) if line.id == line_id), None)
    if found is None:
        message = "That card is not in this order any more. Reload the page."
        raise NotFoundError(message)
    return found


def remove_line(session: Session, order_id: int, line_id: int) -> None:
    """Take a card out of a draft; the lines below it move up.

    Raises
    ------
    NotFoundError, BoxStateError
        When it is not in it, or the order is closed.
    """
    require_draft(session, order_id)
    line = _line(session, order_id, line_id)
    session.delete(line)
    session.flush()
    _number(lines_of(session, order_id))
    finish(session)


def put_line(session: Session, order_id: int, line_id: int, place: int) -> None:
    """Put a card of a draft at another place of the form.

    Raises
    ------
    NotFoundError, BoxStateError
        When it is not in it, or the order is closed.
    """
    require_draft(session, order_id)
    line = _line(session, order_id, line_id)
    rest = [one for one in lines_of(session, order_id) if one.id != line_id]
    at = min(max(1, place), len(rest) + 1) - 1
    _number([*rest[:at], line, *rest[at:]])
    finish(session)


def _number(lines: Sequence[GradingCopyRecord]) -> None:
    for place, line in enumerate(lines, 1):
        line.place = place


@dataclass(frozen=True, slots=True)
class Form:
    """What is written on the form beside its lines; ``declared`` by line in the order's currency."""

    phone: str
    agreed: bool
    share_by: str = BY_CARD
    item: str = "card"
    parcel: str = ""
    note: str = ""
    declared: Mapping[int, Money] = field(default_factory=dict)
    voucher: int = 0
    postage: Money | None = None


def fill_form(session: Session, bench: Workbench, order_id: int, form: Form) -> None:
    """Keep what is written on the form of a draft.

    Raises
    ------
    OrderError
        When a declared value is below nothing, or a voucher cannot be given.
    """
    order = require_draft(session, order_id)
    order.phone, order.agreed, order.note = form.phone.strip()[:40], form.agreed, form.note.strip()[:200]
    order.share_by = form.share_by if form.share_by in (BY_CARD, BY_PERSON) else BY_CARD
    order.item = form.item if form.item in ITEMS else "card"
    order.parcel = form.parcel.strip()[:40]
    lines = lines_of(session, order_id)
    for line in lines:
        if line.id not in form.declared:
            continue
        if form.declared[line.id].minor < 0:
            message = f"Line {line.place} is declared at less than nothing. Write its value after grading."
            raise OrderError(message)
        line.declared_minor = form.declared[line.id].minor
    _give_voucher(session, order, form.voucher, len(lines), bench.today())
    finish(session)


def _give_voucher(session: Session, order: GradingOrderRecord, voucher_id: int, cards: int, day: date) -> None:
    order.voucher_id, order.voucher_cards, order.voucher_minor = None, 0, 0
    if not voucher_id:
        return
    session.flush()
    found = next((one for one in vouchers(session) if one.id == voucher_id), None)
    if found is None or found.house != order.house or found.tier not in ("", order.tier):
        message = "That voucher is not for this house and tier."
        raise OrderError(message)
    if found.until_on is not None and found.until_on < day:
        message = f"That voucher ran out on {found.until_on.isoformat()}."
        raise OrderError(message)
    left = found.cards - vouchers_used(session)[found.id]
    if left <= 0:
        message = "That voucher is used up."
        raise OrderError(message)
    order.voucher_id, order.voucher_cards = found.id, min(left, cards)
    order.voucher_minor = min(found.off_minor, order.fee_minor)


def not_ready(session: Session, order: GradingOrderRecord, day: date) -> list[str]:
    """Say what a draft lacks before it can be closed, each with what to do."""
    form = form_of(session, order.id)
    found: list[str] = []
    if not form:
        return ["It has no card yet: add some."]
    if len(form) < order.least:
        found.append(
            f"This tier takes no fewer than {order.least} cards, and {len(form)} are in it: "
            f"only with {order.least - len(form)} more."
        )
    signed = [one for one in form if one.kind in SIGNED]
    if signed and len(signed) < len(form):
        others = len(form) - len(signed)
        found.append(f"Signed cards go in an order of their own: take {len(signed)} out, or the {others} others.")
    bare = [one for one in form if not one.line.declared_minor]
    if bare:
        found.append(f"{len(bare)} of its cards are declared at nothing, the first in line {bare[0].line.place}.")
    if order.member and order.house not in held_memberships(session, day):
        found.append(f"This tier is for members: note that you joined {order.house or 'the house'} first.")
    if not order.phone:
        found.append("A telephone number is needed on the form.")
    if not order.agreed:
        found.append("The house's terms are not agreed to: read them there, then tick the box.")
    return found
