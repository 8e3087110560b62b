"""``copies.csv``: copies that came from elsewhere and how copies left, out and in; needs and spares lists."""

from __future__ import annotations

import hashlib
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from botin.core.days import typed_day
from botin.core.errors import BotinError, ImportRefusedError
from botin.core.money import Money, parse_money
from botin.desk.copies import CAME, WENT
from botin.desk.setboard import Board
from botin.desk.workbench import Workbench
from botin.exchange.package import amount_text, csv_bytes
from botin.exchange.source import read_table
from botin.exchange.tables import Column, RawRow, TableSpec
from botin.store.models import CardRecord, ProductRecord, PullRecord, SectionRecord
from botin.store.models_copies import ArrivalRecord, DepartureRecord

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
    """Write copies from elsewhere, and every copy that left, box copies included."""
    a, d, c, s, p = ArrivalRecord, aliased(DepartureRecord), CardRecord, SectionRecord, ProductRecord
    here = (
        select(a, d, c.number, s.key, p.key)
        .outerjoin(d, (d.arrival_id == a.id) & d.undone_at.is_(None))
        .join(c, c.id == a.card_id)
        .join(s, s.id == c.section_id)
        .join(p, p.id == s.product_id)
        .where(a.undone_at.is_(None))
        .order_by(a.id)
    )
    rows = [_arrived(*row) for row in session.execute(here)]
    left = (
        select(PullRecord, d, c.number, s.key, p.key)
        .join(d, d.pull_id == PullRecord.id)
        .join(c, c.id == PullRecord.card_id)
        .join(s, s.id == c.section_id)
        .join(p, p.id == s.product_id)
        .where(d.undone_at.is_(None))
        .order_by(d.id)
    )
    rows += [_pulled(*row) for row in session.execute(left)]
    return csv_bytes([list(COPIES.names), *rows])


def _arrived(copy: ArrivalRecord, gone: DepartureRecord | None, number: str, section: str, product: str) -> list[str]:
    cost = amount_text(Money(copy.cost_minor, copy.currency))
    return [
        product, section, number, copy.parallel, _text(copy.serial), _text(copy.run), copy.grade, copy.came,
        copy.source, copy.got_on.isoformat(), cost, copy.currency, *_gone(gone), copy.client_key,
    ]  # fmt: skip


def _pulled(pull: PullRecord, gone: DepartureRecord, number: str, section: str, product: str) -> list[str]:
    day = pull.logged_at.date().isoformat()
    return [
        product, section, number, pull.parallel, _text(pull.serial), _text(pull.run), "", BOX,
        f"box {pull.box_id}", day, "", gone.currency, *_gone(gone), pull.client_key,
    ]  # fmt: skip


def _text(value: int | None) -> str:
    return "" if value is None else str(value)


def _gone(gone: DepartureRecord | None) -> list[str]:
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
    table = read_table(COPIES, data, "copies.csv")
    stamp = hashlib.sha256(data).hexdigest()[:16]
    cards = _cards(session)
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
    session.commit()
    return stored


def _key(raw: RawRow, stamp: str) -> str:
    """Return what tells the copy of a row apart."""
    own = raw.get("copy")
    if len(own) > LONGEST_KEY:
        message = f"“{own[:20]}…” is too long to tell a copy apart."
        raise ValueError(message)
    return own or f"file-{stamp}-{raw.line}"


def _cards(session: Session) -> dict[tuple[str, str, str], tuple[int, str]]:
    c, s, p = CardRecord, SectionRecord, ProductRecord
    rows = session.execute(
        select(p.key, s.key, c.number, c.id, p.currency).join(s, s.id == c.section_id).join(p, p.id == s.product_id)
    )
    return {(product, section, number): (card, code) for product, section, number, card, code in rows}


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
    known = session.scalar(select(ArrivalRecord).where(ArrivalRecord.client_key == key))
    if known is not None:
        return _here_already(known, card, cards)
    currency = raw.get("currency").upper() or own
    serial, run = (_whole(raw, name) for name in ("serial", "run"))
    if serial is not None and (run is None or not 1 <= serial <= run):
        message = f"the serial {serial} is not one of 1 to {run or 'the run, which is not given'}."
        raise ValueError(message)
    made = ArrivalRecord(
        client_key=key, card_id=card, parallel=raw.get("parallel"), serial=serial, run=run, grade=raw.get("grade"),
        came=_one_of(raw.get("came") or CAME[0], CAME), source=raw.get("source"), currency=currency,
        got_on=typed_day(raw.get("got_on"), bench.today()),
        cost_minor=_paid(raw, "cost", currency), made_at=bench.now(),
    )  # fmt: skip
    session.add(made)
    session.flush()
    if raw.get("went"):
        session.add(_departure(bench, raw, made, key, currency))
    return 1


def _here_already(known: ArrivalRecord, card: int, cards: dict[tuple[str, str, str], tuple[int, str]]) -> int:
    """Leave a copy that is here as it is, or bring it back when it was taken back; another card is no such copy."""
    if known.card_id != card:
        _, section, number = next(key for key, (found, _) in cards.items() if found == known.card_id)
        raise ValueError(_another(f"its copy is here already as {section} {number}"))
    again = known.undone_at is not None
    known.undone_at = None
    return int(again)


def _another(why: str) -> str:
    return f"{why}. To take it in as another copy, empty its cell “copy”."


def _departure(bench: Workbench, raw: RawRow, made: ArrivalRecord, key: str, currency: str) -> DepartureRecord:
    return DepartureRecord(
        client_key=f"{key}-left", arrival_id=made.id, went=_one_of(raw.get("went"), WENT), currency=currency,
        left_on=typed_day(raw.get("left_on"), bench.today()),
        price_minor=_paid(raw, "price", currency), costs_minor=_paid(raw, "costs", currency),
        came_in=raw.get("came_in"), to=raw.get("to"), made_at=bench.now(),
    )  # fmt: skip


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
