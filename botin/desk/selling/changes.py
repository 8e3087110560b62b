"""What happens to a sale beside its road: a refund, a return, a loss, a claim; each can be taken back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books import channelsales
from botin.core.errors import BoxStateError, NotFoundError
from botin.core.money import Money
from botin.core.selling.road import Stop
from botin.desk.books.booking import book_returned, take_back, unbook_returned
from botin.desk.selling.sealedgoods import comes_back, left_again
from botin.desk.selling.selling import SaleError, payer_of, shares_of
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event, free_key, post
from botin.store.copies.copies import get_copy
from botin.store.models_copies import DisposalRecord
from botin.store.models_selling import SaleChangeRecord, SaleRecord
from botin.store.selling.sales import change_keyed, changes_of, get_sale, lines_of
from botin.store.unit import finish

REFUND, RETURN, LOST, CLAIM = "refund", "return", "lost", "claim"
AWAY = (Stop.SENT, Stop.CHECKING, Stop.PASSED, Stop.THERE, Stop.DONE)


@dataclass(frozen=True, slots=True)
class Change:
    """What happened: its kind, the day, and the money that goes back (or comes, for a claim)."""

    kind: str
    day: date
    amount: Money
    note: str = ""
    fee_back: Money | None = None


def note_change(
    session: Session, bench: Workbench, client_key: str, sale_id: int, change: Change
) -> SaleChangeRecord:
    """Note what happened to a sale; the same key again notes nothing more.

    Raises
    ------
    SaleError
        When more is given back than was paid, or a claim is for nothing.
    BoxStateError
        When it does not fit where the sale stands, or the day lies ahead or before the sale.
    """
    sale = get_sale(session, sale_id)
    known = change_keyed(session, client_key)
    if known is not None:
        same_again(known, sale_id=sale_id, kind=change.kind, amount_minor=change.amount.minor)
        return known
    _check(session, bench, sale, change)
    made = SaleChangeRecord(
        client_key=client_key, sale_id=sale.id, kind=change.kind, day=change.day, amount_minor=change.amount.minor,
        note=change.note.strip()[:200], made_at=bench.now(),
    )  # fmt: skip
    session.add(made)
    session.flush()
    _book(session, bench, sale, made, change)
    if change.kind == RETURN:
        _take_in(session, bench, sale, made)
    if change.kind in (RETURN, LOST):
        sale.over = "returned" if change.kind == RETURN else "lost"
    finish(session)
    return made


def _check(session: Session, bench: Workbench, sale: SaleRecord, change: Change) -> None:
    if change.kind not in (REFUND, RETURN, LOST, CLAIM):
        message = f"“{change.kind}” is none of refund, return, lost, claim."
        raise SaleError(message)
    if not sale.sold_on <= change.day <= bench.today():
        message = f"{change.day.isoformat()} lies ahead, or before the sale. Write the day it happened."
        raise BoxStateError(message)
    given = sum(one.amount_minor for one in changes_of(session, [sale.id])[sale.id] if one.kind != CLAIM)
    paid = sale.price_minor + sale.shipping_minor
    if change.kind != CLAIM and not 0 <= change.amount.minor <= paid - given:
        message = (
            f"No more can be given back than was paid: {Money(paid - given, sale.currency).major:,.2f} are left."
        )
        raise SaleError(message)
    if change.kind == CLAIM and (sale.over != "lost" or change.amount.minor <= 0):
        message = "A claim pays for a parcel that was lost, and more than nothing."
        raise SaleError(message)
    if change.kind in (RETURN, LOST) and (sale.over or sale.state not in AWAY):
        message = "Only a sale that was sent, and is not over, comes back or is lost."
        raise BoxStateError(message)
    if change.kind == REFUND and change.amount.minor == 0:
        message = "A refund gives something back. Write how much."
        raise SaleError(message)


def _book(session: Session, bench: Workbench, sale: SaleRecord, made: SaleChangeRecord, change: Change) -> None:
    words = f"{change.kind} of sale {sale.id}"
    event = Event("sale", change.day, free_key(session, f"change-{made.id}"), words, sale.buyer_id)
    if change.kind == CLAIM:
        about = shares_of(session, sale, 1)[0][0].about
        post(session, bench.now(), event, channelsales.claim_paid(change.amount, about))
        return
    payer = None if sale.payout_on is not None else payer_of(session, bench, sale)
    post(session, bench.now(), event, channelsales.refunded(shares_of(session, sale, change.amount.minor), payer))
    if change.fee_back is not None and change.fee_back.minor > 0:
        about = shares_of(session, sale, 1)[0][0].about
        fee = Event("sale", change.day, free_key(session, f"fee-back-{made.id}"), f"fee of sale {sale.id} given back")
        post(session, bench.now(), fee, channelsales.fee_given_back(change.fee_back, about, payer))


def _take_in(session: Session, bench: Workbench, sale: SaleRecord, made: SaleChangeRecord) -> None:
    """What a return brought is here again, at what it had cost when it was sold."""
    if sale.box_id is not None:
        comes_back(session, bench, sale, made)
    for line in lines_of(session, [sale.id])[sale.id]:
        copy, gone = get_copy(session, line.copy_id), session.get(DisposalRecord, line.disposal_id)
        if copy.state != "sold" or gone is None:
            continue
        book_returned(session, bench, gone, f"in-again-{made.id}-{copy.id}", made.day)
        gone.undone_at = bench.now()
        copy.state = "here"


def undo_change(session: Session, bench: Workbench, change_id: int) -> None:
    """Take back what was noted of a sale.

    Raises
    ------
    NotFoundError
        When there is none.
    BoxStateError
        When a returned card has left again since, or the claim of a loss is noted.
    """
    made = session.get(SaleChangeRecord, change_id)
    if made is None:
        message = "That is not in the records. Reload the page."
        raise NotFoundError(message)
    if made.undone_at is not None:
        return
    sale = get_sale(session, made.sale_id)
    if made.kind == LOST and any(one.kind == CLAIM for one in changes_of(session, [sale.id])[sale.id]):
        message = "Its claim is paid. Take that back first."
        raise BoxStateError(message)
    if made.kind == RETURN:
        _out_again(session, bench, sale, made)
    for key in (f"change-{made.id}", f"fee-back-{made.id}"):
        take_back(session, bench, key)
    if made.kind in (RETURN, LOST):
        sale.over = ""
    made.undone_at = bench.now()
    finish(session)


def _out_again(session: Session, bench: Workbench, sale: SaleRecord, made: SaleChangeRecord) -> None:
    if sale.box_id is not None:
        left_again(session, bench, sale, made)
    lines = lines_of(session, [sale.id])[sale.id]
    copies = [get_copy(session, line.copy_id) for line in lines]
    if any(copy.state != "here" for copy in copies):
        message = "A card that came back has left again since, or is offered. Take that back first."
        raise BoxStateError(message)
    for copy, line in zip(copies, lines, strict=True):
        gone = session.get(DisposalRecord, line.disposal_id)
        if gone is not None:
            unbook_returned(session, bench, gone, f"in-again-{made.id}-{copy.id}")
            gone.undone_at = None
        copy.state = "sold"
