"""Logs out of the store and into it, all or nothing."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from botin.core.catalog.product import Product
from botin.core.errors import ImportRefusedError
from botin.core.opening.entry import EntryReader
from botin.core.opening.entryitems import EntryItem, squeeze
from botin.core.opening.entrywords import Details, mark_named
from botin.desk.books.booking import book_box
from botin.desk.opening.owners import settle_owners
from botin.desk.opening.rip import pulls_for
from botin.desk.opening.shelf import Purchase, new_box
from botin.desk.workbench import Workbench
from botin.exchange.opening import OpeningRow, openings_csv
from botin.store.catalog.lists import keys_of_products
from botin.store.copies.copies import follow_box
from botin.store.keys import stored_under
from botin.store.models import BoxRecord, FormatRecord, ProductRecord
from botin.store.opening.boxes import pulls_of
from botin.store.opening.packs import box_with_key, logged_at, pack_row, pack_rows
from botin.store.unit import finish

MOST, MOST_IN_ROW = 20_000, 5_000
MOST_LOGS, LONGEST_KEY = 100, 100
NAMES = (
    "back_code",
    "note",
    "certificate",
    "signature",
    "relic",
    "claim_code",
    "claim_by",
    "claimed_on",
    "received_on",
    "owner",
)


def export_opening(session: Session, box: BoxRecord) -> bytes:
    """Write a box as ``openings.csv``; base that was only counted is a row without a number."""
    logged, names = logged_at(session, box.id), keys_of_products(session)
    own = {"box": str(box.id), "product": box.format.product.key, "format": box.format.key, "log": box.client_key}
    rows = []
    for row in pulls_of(session, box.id):
        details = json.loads(row.details) if row.details else {}
        cells = {
            "pack": str(row.pack), "section": row.section, "number": row.number, "parallel": row.parallel,
            "name": "" if row.unlisted else row.name, "serial": str(row.serial or ""), "run": str(row.run or ""),
            "count": "1", "typed": row.typed, "logged_at": logged[row.id].isoformat(),
        }  # fmt: skip
        product = names.get(row.product_id, own["product"]) if row.product_id else own["product"]
        rows.append({**own, **cells, **details, "product": product, "owner": row.owner})
    counted = (row for row in pack_rows(session, box.id) if row.base_count is not None)
    rows += [{**own, "pack": str(row.number), "count": str(row.base_count)} for row in counted]
    return openings_csv(rows)


def product_of_format(session: Session, format_id: int) -> ProductRecord:
    """Return the product a format is of."""
    return session.get_one(FormatRecord, format_id).product


@dataclass(frozen=True, slots=True)
class ReadRow:
    """A row of a log as understood: an item, a count of base, or what is wrong with it."""

    row: OpeningRow
    pack: int
    item: EntryItem | None
    base: int = 0
    wrong: str = ""


def read_rows(product: Product, rows: Sequence[OpeningRow]) -> list[ReadRow]:
    """Read rows against a checklist, by the grammar of the entry line.

    Raises
    ------
    ImportRefusedError
        When there are more than `MOST`: none is left out silently.
    """
    if len(rows) > MOST:
        message = f"The log has {len(rows):,} rows; the most is {MOST:,} at once. Split it; nothing was stored."
        raise ImportRefusedError(message)
    reader = EntryReader(product)
    return [_read(product, reader, row) for row in rows]


def _read(product: Product, reader: EntryReader, row: OpeningRow) -> ReadRow:
    pack, count = (row.get(name).removesuffix(".0") or "1" for name in ("pack", "count"))
    for name, text in (("pack", pack), ("count", count)):
        if not text.isdecimal() or int(text) > MOST_IN_ROW:
            return ReadRow(row, 0, None, wrong=f"{name} is “{text}”: write a number, like 1")
    if row.get("number") or row.get("name"):
        return _read_card(product, reader, row, (int(pack), int(count)))
    if row.get("typed"):
        return ReadRow(row, int(pack), _unlisted(row))
    return ReadRow(row, int(pack), None, base=int(count))


def _unlisted(row: OpeningRow) -> EntryItem:
    serial, _, run = row.serial.partition("/")
    stamped = serial.isdecimal() and run.isdecimal() and 1 <= int(serial) <= int(run)
    numbers = (int(serial), int(run)) if stamped else (None, None)
    return EntryItem(None, serial=numbers[0], run=numbers[1], typed=row.get("typed"), details=_details(row))


def _read_card(product: Product, reader: EntryReader, row: OpeningRow, numbers: tuple[int, int]) -> ReadRow:
    pack, count = numbers
    entry = reader.read(_line(product, row))
    if entry.problems:
        return ReadRow(row, pack, None, wrong=entry.problems[0].message)
    if len(entry.items) != 1:
        return ReadRow(row, pack, None, wrong="a row is one card: give one number")
    return ReadRow(row, pack, replace(entry.items[0], details=_details(row), count=count))


def _line(product: Product, row: OpeningRow) -> str:
    """Return a row as one would type it."""
    section = row.get("section")
    label = next((s.label for s in product.sections if section in (s.key, s.label)), section)
    number = row.get("number").removesuffix(".0").replace(" ", "") or row.get("name")
    serial = f"{row.serial}!" if row.serial else ""
    return " ".join(filter(None, (squeeze(label), number, squeeze(row.get("parallel")), serial)))


def _details(row: OpeningRow) -> Details:
    parts = (part.strip() for part in row.get("marks").replace(",", ";").split(";"))
    cells = {name: row.get(name) for name in NAMES}
    return Details.from_dict({**cells, "marks": ";".join(mark_named(part) or part for part in parts if part)})


def known_log(session: Session, read: Sequence[ReadRow]) -> BoxRecord | None:
    """Return the box whose exported log this is: taken in a second time it would double every card."""
    keys = {key for row in read if (key := row.row.get("log"))}
    return box_with_key(session, sorted(keys)[:MOST_LOGS])


def _key_of(read: Sequence[ReadRow], otherwise: str) -> str:
    """A log from another home keeps what tells it apart, when it is of one box."""
    keys = {row.row.get("log") for row in read}
    key = keys.pop() if len(keys) == 1 else ""
    return key if 0 < len(key) <= LONGEST_KEY else otherwise


def import_opening(
    session: Session, bench: Workbench, purchase: Purchase, read: Sequence[ReadRow], client_key: str
) -> BoxRecord:
    """Store a log as a box of its own, left open to be looked at; all or nothing.

    Raises
    ------
    ImportRefusedError
        When a row is not understood; nothing is stored.
    """
    wrong = [row for row in read if row.wrong]
    if wrong:
        message = f"Nothing was stored. Row {wrong[0].row.line}: {wrong[0].wrong}"
        raise ImportRefusedError(message)
    client_key = _key_of(read, client_key)
    known = stored_under(session, BoxRecord, client_key)
    if known is not None:
        return known
    now = bench.now()
    box = new_box(session, client_key, purchase)
    box.state, box.opened_at = "open", now
    session.flush()
    book_box(session, bench, box)
    for row in read:
        if row.base:
            pack_row(session, box.id, row.pack).base_count = row.base
    for place, (pack, items) in enumerate(_by_pack(read)):
        inside = min(pack, box.format.packs_per_box)
        session.add_all(pulls_for(session, bench, box, items=items, pack=inside, client_key=f"{client_key}-{place}"))
    follow_box(session, box.id)
    settle_owners(session, bench, box)
    finish(session)
    return box


def _by_pack(read: Sequence[ReadRow]) -> list[tuple[int, tuple[EntryItem, ...]]]:
    found: dict[int, list[EntryItem]] = {}
    for row in read:
        if row.item is not None:
            found.setdefault(row.pack, []).extend(replace(row.item, count=1) for _ in range(row.item.count))
    return [(pack, tuple(items)) for pack, items in found.items()]
