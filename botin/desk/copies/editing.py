"""A copy corrected: whose it is, where it lies, its certificate and note; how it left, put right."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError, NotFoundError
from botin.desk.books.booking import book_closing, book_left, frozen_shares, unbook_closing, unbook_left
from botin.desk.selling.disposals import Disposal, check_disposal, swap_key
from botin.desk.sentagain import same_correction
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.catalog.history import corrected, note_change
from botin.store.copies.copies import get_copy
from botin.store.copies.people import owner_ids, party_named
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.opening.boxes import get_box
from botin.store.unit import finish


@dataclass(frozen=True, slots=True)
class CopyFacts:
    """What may be corrected of a copy; ``owner`` is empty for me, ``?`` while nobody knows."""

    owner: str
    place: str
    certificate: str
    note: str


def correct_copy(session: Session, bench: Workbench, copy_id: int, client_key: str, facts: CopyFacts) -> CopyRecord:
    """Correct a copy, once; when it gets another owner, what its closed box cost is shared anew between the people.

    Raises
    ------
    NotFoundError
        When there is no such copy.
    BoxStateError
        When it has left or is out: whose it was is then part of what happened.
    """
    copy = get_copy(session, copy_id)
    owner = owner_ids(session, [facts.owner], load_settings(session).my_name, bench.now())[facts.owner]
    columns = {
        "owner_id": owner, "place": facts.place.strip()[:120], "certificate": facts.certificate.strip()[:60],
        "note": facts.note.strip()[:300],
    }  # fmt: skip
    if (noted := corrected(session, client_key)) is not None:
        same_correction(noted, "copy", copy.id, copy, columns)
        return copy
    changes = {name: (getattr(copy, name), value) for name, value in columns.items()}
    if owner != copy.owner_id and copy.state != "here":
        message = "It is not here. Take back that it left or was sent, then say whose it is."
        raise BoxStateError(message)
    if not note_change(session, bench.now(), client_key, "copy", copy.id, changes):
        return copy
    box = get_box(session, copy.box_id) if copy.box_id and owner != copy.owner_id else None
    shares = frozen_shares(session, box) if box is not None and box.state == "closed" else None
    if box is not None and shares is not None:
        unbook_closing(session, bench, box)
    for name, value in columns.items():
        setattr(copy, name, value)
    session.flush()
    if box is not None and shares is not None:
        book_closing(session, bench, box, shares)
    finish(session)
    return copy


def correct_disposal(
    session: Session, bench: Workbench, disposal_id: int, client_key: str, disposal: Disposal
) -> DisposalRecord:
    """Correct how a copy left: the wrong entry gets its mirror in the books, and the right one stands beside it.

    Raises
    ------
    NotFoundError
        When that copy is here, or the note was taken back.
    DisposalError
        When it cannot have been so.
    """
    row = session.get(DisposalRecord, disposal_id)
    if row is None or row.undone_at is not None:
        message = "That note was taken back. Look at the card, and write down how it left."
        raise NotFoundError(message)
    columns = {
        "went": disposal.went, "left_on": disposal.left_on, "price_minor": disposal.price.minor,
        "costs_minor": disposal.costs.minor, "came_in": disposal.came_in.strip()[:200],
        "to": disposal.to.strip()[:120],
    }  # fmt: skip
    if (noted := corrected(session, client_key)) is not None:
        same_correction(noted, "disposal", row.id, row, columns)
        return row
    if swap_key(session, row):
        message = "That is one side of a swap. Take the swap back, then write it down anew."
        raise BoxStateError(message)
    copy = session.get_one(CopyRecord, row.copy_id, populate_existing=True)
    check_disposal(session, bench, copy, disposal)
    changes = {name: (getattr(row, name), value) for name, value in columns.items()}
    if not note_change(session, bench.now(), client_key, "disposal", row.id, changes):
        return row
    unbook_left(session, bench, row)
    for name, value in columns.items():
        setattr(row, name, value)
    session.flush()
    party = party_named(session, row.to, bench.now()).id if row.to else None
    book_left(session, bench, copy, row, party)
    copy.state = "sold" if row.went == "sold" else "gone"
    finish(session)
    return row
