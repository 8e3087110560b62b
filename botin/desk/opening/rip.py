"""The rip desk: open a box, log its cards pack by pack, close."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from botin.core.catalog.product import Kind, Product
from botin.core.errors import BoxStateError, EntryError, StaleFormError
from botin.core.opening.entryitems import Entry, EntryItem, Problem
from botin.desk.books.booking import book_closing, unbook_closing
from botin.desk.opening.owners import settle_owners
from botin.desk.opening.steps import Change, add_step, require_open
from botin.desk.selling.sealedgoods import require_not_offered, require_not_sold_by
from botin.desk.workbench import Workbench
from botin.store.copies.copies import follow
from botin.store.keys import TakenError, stored_together, stored_under
from botin.store.models import BoxRecord, PullRecord, StepRecord
from botin.store.opening.boxes import card_ids, get_box
from botin.store.opening.packs import _logged_in, count_logged, has_owners, pack_row, product_of_pack, same_serial
from botin.store.unit import afterwards, finish

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
    if box.state not in ("sealed", "open"):
        message = "This box is not on the shelf any more. Bring it back first."
        raise BoxStateError(message)
    if box.delivery:
        message = "This box has not arrived yet. Say on its order that it has."
        raise BoxStateError(message)
    if box.state == "sealed":
        require_not_offered(session, box.id)
        box.state, box.opened_at = "open", bench.now()
        finish(session)
    return box


def read_entry(session: Session, bench: Workbench, box: BoxRecord, text: str, pack: int, key: str) -> Entry:
    """Read an entry line against the checklist of the pack; a line stored under its key before is not asked about.

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
    entry = bench.reader(session, product_of_pack(session, box, pack)).read(text)
    if entry.problems or stored_under(session, StepRecord, key) is not None:
        return entry
    return Entry(entry.items, tuple(_seen_before(session, box, entry.items, pack)))


def _seen_before(session: Session, box: BoxRecord, items: Sequence[EntryItem], pack: int) -> list[Problem]:
    """Ask about a serial of the same card that is logged already."""
    stamped = [item for item in items if item.card and item.serial and not item.insisted]
    if not stamped:
        return []
    product = product_of_pack(session, box, pack)
    ids = card_ids(session, product.id, [(item.known.section, item.known.number) for item in stamped])
    found = []
    for item in stamped:
        card = ids[(item.known.section, item.known.number)]
        before = same_serial(session, card, item.parallel, item.serial, item.run)
        if before is not None:
            typed = f"{item.serial}/{item.run}"
            where = f"box {before.box_id}" + (f", pack {before.pack}" if before.pack else "")
            message = (
                f"{item.known.number} {typed} is logged already ({where}) and there is only one. "
                f"Type {typed}! if you hold a second."
            )
            found.append(Problem(typed, message, (f"{typed}!",)))
    return found


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
    record = product_of_pack(session, box, pack)
    cells = _cells(session, record.id, items)
    before = _stored_under(session, box.id, client_key)
    if before:
        return _repeated(before, cells)
    require_open(box)
    if not 0 <= pack <= max(box.format.packs_per_box, 1):
        message = f"This box has packs 1 to {box.format.packs_per_box}. Go to one of them first."
        raise EntryError(message)
    now, hand = bench.now(), box.pack
    pulls = _pulls(bench.product(session, record), box, (items, cells), pack, client_key, now)
    session.add_all(pulls)
    box.pack = max(pack, 1)
    try:
        session.flush()
        made = [pull.id for pull in pulls]
        follow(session, made)
        if any(item.details.owner for item in items) or has_owners(session, box):
            settle_owners(session, bench, box, made)
        alive = [Change("pull", pull, {"undone_at": now.isoformat()}, {"undone_at": None}) for pull in made]
        moved = [Change("box", box.id, {"pack": hand}, {"pack": box.pack})] if hand != box.pack else []
        add_step(session, box, now, client_key, _words(items), [*alive, *moved])
        finish(session, as_written=True)
    except TakenError:
        session.rollback()
        return _repeated(_stored_under(session, box.id, client_key), cells)
    return Logged(tuple(made), repeated=False)


def pulls_for(
    session: Session, bench: Workbench, box: BoxRecord, *, items: Sequence[EntryItem], pack: int, client_key: str
) -> list[PullRecord]:
    """Make the copies of one line; box toppers go outside the packs. Nothing is stored here."""
    record = product_of_pack(session, box, pack)
    cells = _cells(session, record.id, items)
    return _pulls(bench.product(session, record), box, (items, cells), pack, client_key, bench.now())


def _pulls(
    product: Product,
    box: BoxRecord,
    read: tuple[Sequence[EntryItem], list[_Cells]],
    pack: int,
    client_key: str,
    now: datetime,
) -> list[PullRecord]:
    return [
        PullRecord(
            box_id=box.id,
            client_key=f"{client_key}:{place}",
            pack=0 if _is_topper(product, item) else pack,
            logged_at=now,
            **cells,
        )
        for place, (item, cells) in enumerate(zip(*read, strict=True))
    ]


def _words(items: Sequence[EntryItem]) -> str:
    return ", ".join(item.card.number if item.card else item.typed for item in items)


def _is_topper(product: Product, item: EntryItem) -> bool:
    return item.card is not None and product.section_by_key[item.card.section].kind is Kind.BOX_TOPPER


_Cells = dict[str, int | str | None]


def _cells(session: Session, product_id: int, items: Sequence[EntryItem]) -> list[_Cells]:
    ids = card_ids(session, product_id, [(i.card.section, i.card.number) for i in items if i.card])
    return [
        {
            "card_id": ids[(item.card.section, item.card.number)] if item.card else None,
            "parallel": item.parallel,
            "serial": item.serial,
            "run": item.run,
            "typed": item.typed,
            "details": json.dumps(item.details.to_dict(), ensure_ascii=False) if item.details.to_dict() else "",
            "candidates": json.dumps(item.candidates) if item.candidates else "",
        }
        for item in items
    ]


def _stored_under(session: Session, box_id: int, client_key: str) -> list[PullRecord]:
    """Copies that were stored for a client key, undone or not."""
    found = [pull for pull in stored_together(session, PullRecord, client_key) if pull.box_id == box_id]
    return sorted(found, key=lambda pull: int(pull.client_key.rpartition(":")[2]))


def _repeated(before: list[PullRecord], cells: list[_Cells]) -> Logged:
    """Answer a repeat like the first time; the same key with other cards is a stale form, not a repeat."""
    same = len(before) == len(cells) and all(
        getattr(pull, name) == wanted[name]
        for pull, wanted in zip(before, cells, strict=True)
        for name in ("card_id", "parallel", "serial", "run")
    )
    if not same:
        message = (
            "This form was sent before with other cards, which are stored. Look at the pack, then log this line."
        )
        raise StaleFormError(message)
    return Logged(tuple(pull.id for pull in before), repeated=True)


def go_to_pack(session: Session, bench: Workbench, box: BoxRecord, pack: int) -> None:
    """Take another pack in hand, so that a restart comes back to it.

    Where only hits are logged, the pack that is left has its base counted: what the hits in it leave.
    """
    require_open(box)
    left, last = box.pack, box.format.packs_per_box
    box.pack = min(max(pack, 1), last)
    if box.mode == "hits" and pack == left + 1:
        row, inside = pack_row(session, box.id, left), _logged_in(session, box.id, left)
        if row.base_count is None:
            count = max(0, box.format.cards_per_pack - inside)
            set_base_count(session, bench, box, pack=left, count=count, client_key=f"base-{box.id}-{left}-{inside}")
    finish(session)


def set_base_count(
    session: Session, bench: Workbench, box: BoxRecord, *, pack: int, count: int, client_key: str
) -> None:
    """Say how many base cards a pack held that are not logged one by one; nothing is committed here."""
    if stored_under(session, StepRecord, client_key) is not None:
        return
    require_open(box)
    row = pack_row(session, box.id, pack)
    change = Change("pack", pack, {"base_count": row.base_count}, {"base_count": count})
    row.base_count = count
    add_step(session, box, bench.now(), client_key, f"{count} base cards in pack {pack}", [change])


def close_box(session: Session, bench: Workbench, box: BoxRecord, seen: int, rest: str = "") -> None:
    """Close an opening.

    Parameters
    ----------
    seen : int
        How many cards the screen showed when it was closed; when more came in meanwhile the form is stale.
    rest : str
        What happens to packs that were not opened: kept, sold, given away; empty when all were.

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
    box.rest = rest if rest in ("kept", "sold", "given away") else ""
    book_closing(session, bench, box)
    finish(session)
    afterwards(session, bench.after_closing)


def reopen_box(session: Session, bench: Workbench, box: BoxRecord) -> None:
    """Open a closed box again, to add or correct cards; what its cards cost is shared anew when it is closed."""
    if box.state == "closed":
        require_not_offered(session, box.id)
        require_not_sold_by(session, box.id)
        unbook_closing(session, bench, box)
        box.state, box.closed_at = "open", None
        finish(session)
