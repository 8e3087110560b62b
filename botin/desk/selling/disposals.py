"""Copies that leave: sold, swapped, given away, lost."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import BotinError, BoxStateError
from botin.core.money import Money
from botin.desk.books.booking import book_left, unbook_left
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.books.postings import known_event
from botin.store.copies.copies import get_copy, require_here
from botin.store.copies.people import party_named
from botin.store.keys import TakenError, stored_under
from botin.store.models import BoxRecord
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.selling.sales import end_copies, sale_of_disposal
from botin.store.unit import finish

WENT = ("sold", "swapped", "given away", "lost")


@dataclass(frozen=True, slots=True)
class Disposal:
    """How a copy left: price and costs when it was sold, what came in when it was swapped."""

    went: str
    left_on: date
    price: Money
    costs: Money
    came_in: str = ""
    to: str = ""


class DisposalError(BotinError):
    """A copy cannot have left so: before it came, in the future, or sold for nothing."""

    status = 422


def _came_on(session: Session, bench: Workbench, copy: CopyRecord) -> date:
    """Return the first day a copy can have left: that of its box, or the day it came."""
    if copy.box_id is None:
        return copy.got_on or copy.made_at.date()
    box = session.get_one(BoxRecord, copy.box_id)
    return bench.day_of(box.opened_at) if box.opened_at is not None else box.bought_on


def check_disposal(session: Session, bench: Workbench, copy: CopyRecord, disposal: Disposal) -> None:
    """Refuse what cannot be.

    Raises
    ------
    DisposalError
        Before it came, after today, in a way nothing leaves, or a sale without a price.
    """
    came, today = _came_on(session, bench, copy), bench.today()
    if disposal.went not in WENT:
        message = f"“{disposal.went}” is none of {', '.join(WENT)}."
        raise DisposalError(message)
    if disposal.left_on < came:
        message = f"It came on {came.isoformat()} and cannot have left on {disposal.left_on.isoformat()}."
        raise DisposalError(message)
    if disposal.left_on > today:
        message = f"{disposal.left_on.isoformat()} lies ahead. Write the day it left."
        raise DisposalError(message)
    if disposal.went == "sold" and disposal.price.minor <= 0:
        message = "A sale needs its price. Write what it sold for, or say that it was given away."
        raise DisposalError(message)


def dispose(
    session: Session, bench: Workbench, client_key: str, disposal: Disposal, *, copy_id: int
) -> DisposalRecord:
    """Note that a copy left, and in the books what it brought; the same key again gives the same note.

    Raises
    ------
    NotFoundError
        When there is no such copy.
    BoxStateError
        When it has left already, or is out for grading.
    """
    known = stored_under(session, DisposalRecord, client_key)
    if known is not None:
        price, costs = disposal.price.minor, disposal.costs.minor
        same_again(known, copy_id=copy_id, price_minor=price, costs_minor=costs)
        same_again(known, went=disposal.went, left_on=disposal.left_on)
        return known
    copy = get_copy(session, copy_id)
    require_here(copy)
    check_disposal(session, bench, copy, disposal)
    return _leave(session, bench, client_key, disposal, copy)


def _leave(
    session: Session, bench: Workbench, client_key: str, disposal: Disposal, copy: CopyRecord
) -> DisposalRecord:
    went = disposal.went
    made = DisposalRecord(
        client_key=client_key,
        copy_id=copy.id,
        went=went,
        left_on=disposal.left_on,
        price_minor=disposal.price.minor,
        costs_minor=disposal.costs.minor,
        currency=disposal.price.currency,
        came_in=disposal.came_in.strip()[:200],
        to=disposal.to.strip()[:120],
        made_at=bench.now(),
    )
    session.add(made)
    try:
        session.flush()
        party = party_named(session, made.to, bench.now()).id if made.to else None
        book_left(session, bench, copy, made, party)
        copy.state = "sold" if went == "sold" else "gone"
        end_copies(session, [copy.id], disposal.left_on)
        finish(session)
    except TakenError as exc:
        session.rollback()
        message = "That copy has left already. Take that note back first."
        raise BoxStateError(message) from exc
    return made


def swap_key(session: Session, row: DisposalRecord) -> str:
    """Return the key of the swap a note belongs to; empty when it stands alone."""
    key = row.client_key.rpartition(":")[0]
    known = known_event(session, key) if row.went == "swapped" and key else None
    return key if known is not None and known.kind == "swap" else ""


def undo_disposal(session: Session, bench: Workbench, disposal_id: int) -> None:
    """Take it back that a copy left: it is here again, the books have a mirror, and the note is kept as undone."""
    row = session.get(DisposalRecord, disposal_id)
    linked = swap_key(session, row) if row is not None else ""
    sale = sale_of_disposal(session, disposal_id) if row is not None and row.undone_at is None else None
    if sale is not None:
        message = f"That copy left by sale {sale}. Cancel it there, or note that it came back."
        raise BoxStateError(message)
    if linked:
        from botin.desk.selling.sales import undo_swap  # noqa: PLC0415  (a swap is made of copies that leave)

        undo_swap(session, bench, linked)
    elif row is not None and row.undone_at is None:
        unbook_left(session, bench, row)
        row.undone_at = bench.now()
        session.get_one(CopyRecord, row.copy_id, populate_existing=True).state = "here"
        finish(session)
