"""``copies.csv``: copies that came from elsewhere and how copies left, out and in; needs and spares lists."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from typing import Any

from sqlalchemy.orm import Session

from botin.core.days import typed_day
from botin.core.errors import BotinError, ImportRefusedError
from botin.core.money import Money, parse_money
from botin.desk.books.booking import book_acquired, book_left
from botin.desk.copies.elsewhere import CAME
from botin.desk.copies.setboard import Board
from botin.desk.selling.disposals import WENT
from botin.desk.workbench import Workbench
from botin.exchange.catalog.package import amount_text, csv_bytes
from botin.exchange.loosetable import read_loose
from botin.exchange.tables import Column, RawRow, TableSpec
from botin.store.books.postings import paid_for
from botin.store.catalog.known import known_columns
from botin.store.copies.copies import cards_of_all
from botin.store.copies.left import from_elsewhere_or_gone, left_copies
from botin.store.keys import stored_under
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.unit import finish

BOX = "box"
LONGEST_KEY = 100
COPIES = TableSpec(
    "copies",
    (
        Column("product", "Key of the product", required=True),
        Column("section", "Section of the card", required=True),
        Column("number", "Number of the card", required=True),
        Column("parallel", "Finish, empty for the plain card"),
        Column("serial", "Serial number, when it is stamped"),
        Column("run", "Run it is stamped with"),
        Column("grade", "Empty for raw"),
        Column("came", "bought, trade, gift, part set; box for a copy out of one of my boxes"),
        Column("source", "From whom, or from which box"),
        Column("got_on", "Date, YYYY-MM-DD"),
        Column("cost", "What the copy cost, major units"),
        Column("currency", "ISO 4217 code"),
        Column("went", "sold, swapped, given away, lost; empty while it is here"),
        Column("left_on", "Date, YYYY-MM-DD"),
        Column("price", "What it sold for"),
        Column("costs", "What the sale cost"),
        Column("came_in", "What came in for it"),
        Column("to", "To whom"),
        Column("copy", "Tells this copy apart, whatever else is changed; empty for rows of your own"),
    ),
)


def copies_csv(session: Session) -> bytes:
    """Write copies from elsewhere, and every copy of mine that left, box copies included."""
    found = from_elsewhere_or_gone(session)
    costs = paid_for(session, [copy.id for copy, *_ in found if copy.pull_id is None])
    rows = [
        _row(copy, gone, (product, section, number), own, line, costs.get(copy.id))
        for copy, gone, number, section, product, own, line in found
    ]
    return csv_bytes([list(COPIES.names), *rows])


def _row(
    copy: CopyRecord,
    gone: DisposalRecord | None,
    which: Sequence[str],
    own: str,
    line: str | None,
    cost: Money | None,
) -> list[str]:
    came = [copy.came, copy.source, (copy.got_on or copy.made_at.date()).isoformat()]
    money = [amount_text(cost or Money(0, own)), (cost or Money(0, own)).currency]
    if copy.pull_id is not None:
        came[:2], money = [BOX, f"box {copy.box_id}"], ["", gone.currency if gone else own]
    return [
        *which, copy.parallel, _text(copy.serial), _text(copy.run), copy.grade, *came, *money,
        *_gone(gone), line or copy.client_key or "",
    ]  # fmt: skip


def _text(value: int | None) -> str:
    return "" if value is None else str(value)


def _gone(gone: DisposalRecord | None) -> list[str]:
    if gone is None:
        return [""] * 6
    price, costs = (amount_text(Money(minor, gone.currency)) for minor in (gone.price_minor, gone.costs_minor))
    return [gone.went, gone.left_on.isoformat(), price, costs, gone.came_in, gone.to]


def import_copies(session: Session, bench: Workbench, data: bytes) -> int:
    """Take in copies from elsewhere with how they left; rows of my own boxes are left to ``openings.csv``.

    A copy that is here already by what tells it apart is left as it is, and one that was taken back comes again; rows
    without it are known by the file and their line. All rows or none.

    Raises
    ------
    ImportRefusedError
        When a row cannot be read; the message names its line.
    """
    if not data:
        message = "No file was given. Pick a copies.csv."
        raise ImportRefusedError(message)
    table = read_loose(COPIES, data, "copies.csv", known_columns(session))
    stamp = hashlib.sha256(data).hexdigest()[:16]
    cards = cards_of_all(session)
    stored, lines = 0, dict[str, int]()
    for raw in table.rows:
        if raw.get("came") == BOX:
            continue
        try:
            key = _key(raw, stamp)
            if lines.setdefault(key, raw.line) != raw.line:
                raise ValueError(_another(f"it says the same copy as line {lines[key]}"))
            stored += _store(session, bench, raw, key, cards)
        except (BotinError, ValueError) as exc:
            session.rollback()
            words = exc.message if isinstance(exc, BotinError) else str(exc)
            message = f"copies.csv:{raw.line}: {words} Nothing was stored."
            raise ImportRefusedError(message) from exc
    finish(session)
    return stored


def _key(raw: RawRow, stamp: str) -> str:
    """Return what tells the copy of a row apart."""
    own = raw.get("copy")
    if len(own) > LONGEST_KEY:
        message = f"“{own[:20]}…” is too long to tell a copy apart."
        raise ValueError(message)
    return own or f"file-{stamp}-{raw.line}"


def _store(
    session: Session,
    bench: Workbench,
    raw: RawRow,
    key: str,
    cards: dict[tuple[str, str, str], tuple[int, str]],
) -> int:
    found = cards.get((raw.get("product"), raw.get("section"), raw.get("number")))
    if found is None:
        message = f"{raw.get('section')} {raw.get('number')} is not on a checklist here."
        raise ValueError(message)
    card, own = found
    known = stored_under(session, CopyRecord, key)
    if known is not None:
        return _here_already(session, bench, raw, known, card, cards)
    currency = raw.get("currency").upper() or own
    serial, run = (_whole(raw, name) for name in ("serial", "run"))
    if serial is not None and (run is None or not 1 <= serial <= run):
        message = f"the serial {serial} is not one of 1 to {run or 'the run, which is not given'}."
        raise ValueError(message)
    made = CopyRecord(
        client_key=key, card_id=card, parallel=raw.get("parallel"), serial=serial, run=run, grade=raw.get("grade"),
        came=_one_of(raw.get("came") or CAME[0], CAME), source=raw.get("source"),
        got_on=typed_day(raw.get("got_on"), bench.today()), made_at=bench.now(),
    )  # fmt: skip
    cost = Money(_paid(raw, "cost", currency), currency)
    session.add(made)
    session.flush()
    book_acquired(session, bench, made, cost)
    if raw.get("went"):
        _left(session, bench, raw, made, key, currency)
    return 1


def _here_already(
    session: Session,
    bench: Workbench,
    raw: RawRow,
    known: CopyRecord,
    card: int,
    cards: dict[tuple[str, str, str], tuple[int, str]],
) -> int:
    """Leave a copy that is here as it is, or bring it back when it was taken back; another card is no such copy."""
    if known.card_id != card:
        _, section, number = next(key for key, (found, _) in cards.items() if found == known.card_id)
        raise ValueError(_another(f"its copy is here already as {section} {number}"))
    if known.state != "void":
        return 0
    known.state, known.void_at = "here", None
    gone = left_copies(session, [known.id]).get(known.id)
    if gone is not None:
        known.state = "sold" if gone.went == "sold" else "gone"
    currency = raw.get("currency").upper() or next(code for found, code in cards.values() if found == card)
    book_acquired(session, bench, known, Money(_paid(raw, "cost", currency), currency))
    return 1


def _another(why: str) -> str:
    return f"{why}. To take it in as another copy, empty its cell “copy”."


def _left(session: Session, bench: Workbench, raw: RawRow, made: CopyRecord, key: str, currency: str) -> None:
    gone = DisposalRecord(
        client_key=f"{key}-left", copy_id=made.id, went=_one_of(raw.get("went"), WENT), currency=currency,
        left_on=typed_day(raw.get("left_on"), bench.today()),
        price_minor=_paid(raw, "price", currency), costs_minor=_paid(raw, "costs", currency),
        came_in=raw.get("came_in"), to=raw.get("to"), made_at=bench.now(),
    )  # fmt: skip
    session.add(gone)
    session.flush()
    book_left(session, bench, made, gone, None)
    made.state = "sold" if gone.went == "sold" else "gone"


def _whole(raw: RawRow, name: str) -> int | None:
    text = raw.get(name)
    if not text:
        return None
    if not (text.isascii() and text.isdecimal() and len(text) < 10):
        message = f"“{text[:20]}” is no {name}."
        raise ValueError(message)
    return int(text)


def _paid(raw: RawRow, name: str, currency: str) -> int:
    minor = parse_money(raw.get(name) or "0", currency).minor
    if minor < 0:
        message = f"the {name} is {raw.get(name)}: an amount is not negative."
        raise ValueError(message)
    return minor


def _one_of(word: str, known: tuple[str, ...]) -> str:
    if word not in known:
        message = f"“{word}” is none of {', '.join(known)}."
        raise ValueError(message)
    return word


def needs_csv(board: Board, *, spares: bool) -> bytes:
    """Write the missing numbers of a board, or its spares with how many there are."""
    rows: list[list[Any]] = [["product", "section", "number", "name", "count"]]
    for part in board.parts:
        for cell in part.cells:
            count = cell.have - 1 if spares else int(not cell.have)
            if count > 0:
                rows.append([part.record.key, part.section.key, cell.number, cell.name, str(count)])
    return csv_bytes(rows)
