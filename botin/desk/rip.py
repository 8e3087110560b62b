"""The rip desk: open a box, log its cards pack by pack, undo, close."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from botin.core.entry import Entry, EntryItem
from botin.core.errors import BoxStateError, EntryError, StaleFormError
from botin.core.product import Kind
from botin.desk.workbench import Workbench
from botin.store.boxes import PullRow, card_ids, get_box, pulls_of
from botin.store.models import BoxRecord, PullRecord

MAX_LINE = 2_000


@dataclass(frozen=True, slots=True)
class Logged:
    """The answer to an entry: what is stored under its key, now or before."""

    ids: tuple[int, ...]
    repeated: bool


def open_box(session: Session, bench: Workbench, box_id: int) -> BoxRecord:
    """Open a sealed box; an open one stays as it is.

    Raises
    ------
    BoxStateError
        When the box is closed already.
    """
    box = get_box(session, box_id)
    if box.state == "closed":
        message = "This box is closed. Read its recap, or open another box from the shelf."
        raise BoxStateError(message)
    if box.state == "sealed":
        box.state, box.opened_at = "open", bench.now()
        session.commit()
    return box


def require_open(box: BoxRecord) -> None:
    """Refuse to log into a box that is not open.

    Raises
    ------
    BoxStateError
        With the step that is needed first.
    """
    if box.state == "sealed":
        message = "This box is still sealed. Open it on the shelf first."
        raise BoxStateError(message)
    if box.state == "closed":
        message = (
            "This box was closed meanwhile, in another window perhaps. Reopen it to add cards; nothing was stored."
        )
        raise BoxStateError(message)


def read_entry(session: Session, bench: Workbench, box: BoxRecord, text: str) -> Entry:
    """Read an entry line against the box's checklist.

    Raises
    ------
    EntryError
        When nothing or too much was typed.
    """
    if not text.strip():
        message = "Type a card’s number, like 12 or VK-3."
        raise EntryError(message)
    if len(text) > MAX_LINE:
        message = f"A line takes {MAX_LINE} characters. Log it in parts."
        raise EntryError(message)
    return bench.reader(session, box.format.product).read(text)


def log_entry(
    session: Session, bench: Workbench, box: BoxRecord, *, items: tuple[EntryItem, ...], pack: int, client_key: str
) -> Logged:
    """Store the cards of one entry line, once, and commit before answering.

    Parameters
    ----------
    items : tuple of EntryItem
        The cards as read.
    pack : int
        Pack number; 0 is outside the packs, where box toppers go by themselves.
    client_key : str
        Made by the client for this line; the same key again stores nothing and gives the same answer.
    """
    product_id = box.format.product_id
    ids = card_ids(session, product_id, [(item.card.section, item.card.number) for item in items])
    cells = [(ids[(item.card.section, item.card.number)], item.parallel, item.serial, item.run) for item in items]
    kinds = bench.product(session, box.format.product).section_by_key
    topper = [kinds[item.card.section].kind is Kind.BOX_TOPPER for item in items]
    before = _stored_under(session, box.id, client_key)
    if before:
        return _repeated(before, cells)
    require_open(box)
    if not 0 <= pack <= box.format.packs_per_box:
        message = f"This box has packs 1 to {box.format.packs_per_box}. Go to one of them first."
        raise EntryError(message)
    now = bench.now()
    pulls = [
        PullRecord(
            box_id=box.id,
            card_id=card,
            client_key=f"{client_key}:{place}",
            pack=0 if topper[place] else pack,
            parallel=parallel,
            serial=serial,
            run=run,
            logged_at=now,
        )
        for place, (card, parallel, serial, run) in enumerate(cells)
    ]
    session.add_all(pulls)
    box.pack = max(pack, 1)
    try:
        session.commit()
    except IntegrityError:
        session.rollback()
        return _repeated(_stored_under(session, box.id, client_key), cells)
    return Logged(tuple(pull.id for pull in pulls), repeated=False)


_Cells = tuple[int, str, int | None, int | None]


def _stored_under(session: Session, box_id: int, client_key: str) -> list[PullRecord]:
    """Copies that were stored for a client key, undone or not."""
    keys = PullRecord.client_key.between(f"{client_key}:", f"{client_key}:~")
    found = session.scalars(select(PullRecord).where(keys, PullRecord.box_id == box_id))
    return sorted(found, key=lambda pull: int(pull.client_key.rpartition(":")[2]))


def _repeated(before: list[PullRecord], cells: list[_Cells]) -> Logged:
    """Answer a repeat like the first time; the same key with other cards is a stale form, not a repeat."""
    if [(pull.card_id, pull.parallel, pull.serial, pull.run) for pull in before] != cells:
        message = (
            "This form was sent before with other cards, which are stored. Look at the pack, then log this line."
        )
        raise StaleFormError(message)
    return Logged(tuple(pull.id for pull in before), repeated=True)


def undo_last(session: Session, bench: Workbench, box: BoxRecord) -> PullRow | None:
    """Take the latest copy back; it stays in the store, marked as undone."""
    require_open(box)
    alive = (PullRecord.box_id == box.id, PullRecord.undone_at.is_(None))
    last = session.scalar(select(PullRecord).where(*alive).order_by(PullRecord.id.desc()).limit(1))
    if last is None:
        return None
    gone = next(row for row in pulls_of(session, box.id, last.pack) if row.id == last.id)
    last.undone_at = bench.now()
    session.commit()
    return gone


def redo_last(session: Session, box: BoxRecord) -> int | None:
    """Bring the copy that was undone last back, unless something was logged since; return its pack."""
    require_open(box)
    newest = select(func.max(PullRecord.logged_at)).where(PullRecord.box_id == box.id, PullRecord.undone_at.is_(None))
    latest: datetime | None = session.scalar(newest)
    undone = (PullRecord.box_id == box.id, PullRecord.undone_at.is_not(None))
    order = (PullRecord.undone_at.desc(), PullRecord.id)
    last = session.scalar(select(PullRecord).where(*undone).order_by(*order).limit(1))
    if last is None or last.undone_at is None or (latest is not None and latest > last.undone_at):
        return None
    last.undone_at = None
    session.commit()
    return last.pack


def count_logged(session: Session, box_id: int) -> int:
    """How many copies are logged from a box."""
    alive = (PullRecord.box_id == box_id, PullRecord.undone_at.is_(None))
    return session.scalar(select(func.count()).select_from(PullRecord).where(*alive)) or 0


def go_to_pack(session: Session, box: BoxRecord, pack: int) -> None:
    """Remember the pack in hand, so that a restart comes back to it."""
    require_open(box)
    box.pack = min(max(pack, 1), box.format.packs_per_box)
    session.commit()


def close_box(session: Session, bench: Workbench, box: BoxRecord, seen: int) -> None:
    """Close an opening.

    Parameters
    ----------
    seen : int
        How many cards the screen showed when it was closed; when more came in meanwhile the form is stale.

    Raises
    ------
    StaleFormError
        When cards were logged or undone since.
    """
    if box.state == "closed":
        return
    require_open(box)
    logged = count_logged(session, box.id)
    if logged != seen:
        message = f"The page showed {seen} cards, {logged} are logged by now. Look at them, then close the box."
        raise StaleFormError(message)
    box.state, box.closed_at = "closed", bench.now()
    session.commit()


def reopen_box(session: Session, box: BoxRecord) -> None:
    """Open a closed box again, to add or correct cards."""
    if box.state == "closed":
        session.execute(update(BoxRecord).where(BoxRecord.id == box.id).values(state="open", closed_at=None))
        session.commit()
        session.refresh(box)
