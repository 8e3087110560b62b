"""A have-list of a collection that was there before the tool: every row becomes copies, or none does."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.catalog.naming import Names
from botin.core.errors import BotinError, ImportRefusedError
from botin.core.money import Money
from botin.desk.books.booking import book_acquired
from botin.desk.workbench import Workbench
from botin.exchange.copies.have import HAVE, numbers_of
from botin.exchange.loosetable import read_loose, unused_of
from botin.exchange.tables import RawRow, RawTable
from botin.exchange.values import read_count
from botin.store.catalog.known import known_columns
from botin.store.keys import keys_beginning
from botin.store.models import ProductRecord
from botin.store.models_copies import CopyRecord
from botin.store.opening.boxes import card_ids
from botin.store.unit import finish

MOST_COPIES = 20_000
"""Copies one list may bring; a choice, so that a mistyped count fills no home."""
Card = tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class TakenIn:
    """Copies that came, copies of the same file that were here, and columns nobody used."""

    came: int
    here: int
    passed_over: tuple[str, ...]


def import_have(session: Session, bench: Workbench, record: ProductRecord, data: bytes, name: str) -> TakenIn:
    """Take in what one has of a product already.

    The cost of such copies is nobody's to know: they come at nothing, as an old part set. The same file given again
    stores nothing more.

    Raises
    ------
    ColumnsUnclearError
        When no column is surely the number.
    ImportRefusedError
        When a row cannot be used; the message names its line, and nothing is stored.
    """
    names = Names(bench.product(session, record))
    table = _table(data, name, known_columns(session))
    wanted = _wanted(table, name, names)
    stamp = f"have-{record.id}-{hashlib.sha256(data).hexdigest()[:16]}"
    here = keys_beginning(session, CopyRecord, stamp)
    cards = card_ids(session, record.id, [(section, number) for section, number, _ in wanted])
    made = [
        CopyRecord(
            client_key=f"{stamp}-{at}", card_id=cards[section, number], parallel=parallel, came="part set",
            source=name[:80], got_on=bench.today(), made_at=bench.now(),
        )
        for at, (section, number, parallel) in enumerate(wanted)
        if f"{stamp}-{at}" not in here
    ]  # fmt: skip
    session.add_all(made)
    session.flush()
    for copy in made:
        book_acquired(session, bench, copy, Money(0, record.currency))
    finish(session)
    return TakenIn(len(made), len(here), table.unknown)


def _table(data: bytes, name: str, told: dict[str, dict[int, str]]) -> RawTable:
    """Read the list; a row that runs over the columns could mean anything."""
    if not data:
        message = "No file was given. Choose a list of what you have."
        raise ImportRefusedError(message)
    table = read_loose(HAVE, data, name, told)
    over = next((one for one in unused_of(table, name) if one.severe), None)
    if over is not None:
        message = f"{over.where}: {over.why}. Nothing was stored."
        raise ImportRefusedError(message)
    return table


def _wanted(table: RawTable, name: str, names: Names) -> list[Card]:
    """Return section, number and finish of every copy a list says."""
    found: list[Card] = []
    for row in table.rows:
        try:
            found += _copies_of(row, names)
        except BotinError as exc:
            message = f"{name}, line {row.line}: {exc.message} Nothing was stored."
            raise ImportRefusedError(message) from exc
        if len(found) > MOST_COPIES:
            message = (
                f"{name}, line {row.line}: more than {MOST_COPIES:,} copies. Is the column of counts the right one?"
            )
            raise ImportRefusedError(message)
    if not found:
        message = f"{name} has no row with a copy. Nothing was stored."
        raise ImportRefusedError(message)
    return found


def _copies_of(row: RawRow, names: Names) -> list[Card]:
    section = _section_of(row, names)
    parallel = names.parallel(section, row.get("parallel"))
    numbers = numbers_of(row.get("number"), section, names)
    if parallel is None:
        message = f"“{row.get('parallel')[:40]}” is no finish of {section}, or more than one."
        raise BotinError(message)
    if not numbers:
        message = f"{section} has no card “{row.get('number')[:40]}”."
        raise BotinError(message)
    return [(section, number, parallel) for number in numbers] * read_count(row.get("count") or "1")


def _section_of(row: RawRow, names: Names) -> str:
    """Return the section of a row; without one it is the only section that has the number."""
    text = row.get("section")
    if text:
        named = names.section(text)
        if named is None:
            message = f"“{text[:40]}” is no section of the product, or more than one."
            raise BotinError(message)
        return named
    having = [one.key for one in names.product.sections if numbers_of(row.get("number"), one.key, names)]
    if len(having) != 1:
        where = f"{len(having)} sections have" if having else "no section has"
        message = f"{where} the number “{row.get('number')[:40]}”. Give the list a column section."
        raise BotinError(message)
    return having[0]
