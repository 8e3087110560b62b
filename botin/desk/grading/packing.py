"""Packing an order: its cards one by one in the order of the form, and the steps before and after."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError
from botin.core.grading.stack import CHECKS, Fit, Offer, StackCard, missing, offer
from botin.core.ticks import kept_as, with_tick
from botin.desk.workbench import Workbench
from botin.store.grading.orders import form_of, get_order, lines_of
from botin.store.models_grading import GradingOrderRecord
from botin.store.unit import finish


def stack_of(session: Session, order_id: int) -> list[StackCard]:
    """Return the stack of an order."""
    return [
        StackCard(
            place=one.line.place,
            copy_id=one.copy.id,
            number=one.card.number,
            name=one.card.name,
            parallel=one.copy.parallel,
            serial=f"{one.copy.serial}/{one.copy.run}" if one.copy.serial else "",
            packed=one.line.packed_at is not None,
            certificate=one.copy.certificate,
        )
        for one in form_of(session, order_id)
    ]


def checks_of(order: GradingOrderRecord) -> tuple[str, ...]:
    """Return the steps of packing that are done."""
    return tuple(key for key in order.checks.split(";") if key)


def _require_closed(session: Session, order_id: int) -> GradingOrderRecord:
    order = get_order(session, order_id)
    if order.state != "closed":
        why = "is not closed yet: close it first" if order.state == "draft" else "is packed already"
        message = f"Order {order.id} {why}."
        raise BoxStateError(message)
    return order


def pack(session: Session, bench: Workbench, order_id: int, typed: str) -> Offer:
    """Put the card that is meant on the stack, when it is the one that comes now; else say what is wrong.

    Raises
    ------
    BoxStateError
        When the order is not closed, or is packed.
    """
    _require_closed(session, order_id)
    found = offer(stack_of(session, order_id), typed)
    if found.fit is Fit.RIGHT and found.card is not None:
        line = next(one for one in lines_of(session, order_id) if one.copy_id == found.card.copy_id)
        line.packed_at = bench.now()
        finish(session)
    return found


def unpack(session: Session, order_id: int, *, all_cards: bool = False) -> int:
    """Take the last card off the stack, or all of them; returns how many came off.

    Raises
    ------
    BoxStateError
        When the order is not closed, or is packed.
    """
    _require_closed(session, order_id)
    packed = [line for line in lines_of(session, order_id) if line.packed_at is not None]
    off = packed if all_cards else packed[-1:]
    for line in off:
        line.packed_at = None
    finish(session)
    return len(off)


def keep_checks(session: Session, order_id: int, done: Sequence[str], weight_g: int | None = None) -> None:
    """Keep which steps of packing are done, and what the parcel weighs.

    Raises
    ------
    BoxStateError
        When the order is not closed, or is packed.
    """
    order = _require_closed(session, order_id)
    order.checks = kept_as((check.key for check in CHECKS), done)
    order.weight_g = weight_g if weight_g is not None else order.weight_g
    finish(session)


def tick_check(session: Session, order_id: int, key: str, *, done: bool) -> None:
    """Keep one step of packing, and leave the others: ticks set quickly may arrive in another order.

    Raises
    ------
    BoxStateError
        When the order is not closed, or is packed.
    """
    order = _require_closed(session, order_id)
    order.checks = with_tick((check.key for check in CHECKS), order.checks, key, done=done)
    finish(session)


def still_to_do(session: Session, order: GradingOrderRecord) -> list[str]:
    """Say what is missing before the parcel is packed."""
    return missing(stack_of(session, order.id), checks_of(order))


def parcel_of(session: Session, order: GradingOrderRecord, others: Sequence[GradingOrderRecord]) -> tuple[int, int]:
    """Return how many orders and how many pieces are in the parcel of an order: both stand on its form."""
    inside = [order, *(one for one in others if one.id != order.id and order.parcel and one.parcel == order.parcel)]
    return len(inside), sum(len(lines_of(session, one.id)) for one in inside)
