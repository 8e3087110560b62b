"""A product in the making: read, look through, mend, then store all of it or nothing."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy.orm import Session

from botin.core.catalog.changes import Change, changes
from botin.core.catalog.naming import Names
from botin.core.catalog.product import Product
from botin.core.errors import ImportRefusedError, NotFoundError
from botin.core.odds.audit import audit
from botin.core.odds.findings import Finding, Severity
from botin.core.pricing.prices import PriceRow
from botin.desk.catalog.corrections import kept_corrections
from botin.desk.catalog.lookagain import to_look_at
from botin.desk.stored import as_json, from_json
from botin.desk.workbench import Workbench
from botin.exchange.catalog.interpret import About, Draft, Progress, interpret, silent
from botin.exchange.catalog.sheets import Sources, add_file, text_sheet
from botin.exchange.loosetable import loose_table
from botin.exchange.notes import Note, Sheet, Status
from botin.exchange.pricing import WITH_NAME, understand_prices
from botin.exchange.tables import PRICES
from botin.exchange.unused import Unused
from botin.store.catalog.known import known_columns
from botin.store.catalog.lists import product_keyed
from botin.store.catalog.products import load_product, save_product
from botin.store.keys import TakenError, stored_meanwhile, stored_under
from botin.store.models import DraftRecord, ProductRecord
from botin.store.pricing.prices import add_prices
from botin.store.unit import finish

LOSES = ("unknown-section", "unknown-format", "number-twice", "key-twice", "unused-row")
"""Findings for which the store could not hold every row."""


@dataclass(frozen=True)
class DraftView:
    """Everything the preview shows.

    Attributes
    ----------
    notes : tuple of Note
        Each line of the sources with what was made of it.
    findings : tuple of Finding
        What cannot be right in it.
    blockers : tuple of str
        Why it cannot be stored yet, each with its remedy; empty when it can.
    changes : tuple of Change
        Against the product of the same key in the library; empty for a new one.
    known : str
        Name of that product; empty for a new one.
    """

    product: Product
    about: About
    notes: tuple[Note, ...]
    counts: dict[str, int]
    findings: tuple[Finding, ...]
    blockers: tuple[str, ...]
    changes: tuple[Change, ...]
    known: str
    draft: Draft
    prices: tuple[PriceRow, ...]


@dataclass(frozen=True, slots=True)
class Stored:
    """What storing did."""

    record: ProductRecord
    notes: tuple[str, ...]


def make_draft(session: Session, bench: Workbench, key: str, sources: Sources, about: About) -> DraftRecord:
    """Keep what was given; the same key again gives the same draft."""
    known = stored_under(session, DraftRecord, key)
    if known is not None:
        return known
    texts = (as_json(about), sources.to_json())
    record = DraftRecord(client_key=key, made_at=bench.now(), about=texts[0], sources=texts[1])
    session.add(record)
    try:
        finish(session)
    except TakenError:
        session.rollback()
        return stored_meanwhile(session, DraftRecord, key)
    return record


def read_given(
    session: Session, files: Sequence[tuple[str, bytes]], texts: dict[str, str], about: About, tell: Progress
) -> tuple[Sources, Draft]:
    """Read uploaded files and pasted texts; nothing is stored here.

    Raises
    ------
    UnreadableFileError
        When a file cannot be opened or is not safe to.
    """
    sources = Sources(columns=known_columns(session))
    gather(sources, files, texts)
    checklist, _ = parted(sources)
    draft = interpret(checklist, about, tell, like_product(session, about))
    seen = {table.shape for table in draft.tables}
    sources.columns = {shape: columns for shape, columns in sources.columns.items() if shape in seen}
    return sources, draft


def gather(sources: Sources, files: Sequence[tuple[str, bytes]], texts: dict[str, str]) -> None:
    """Add uploaded files and pasted texts to what was given.

    Raises
    ------
    UnreadableFileError
        When a file cannot be opened or is not safe to.
    """
    for name, data in files:
        add_file(sources, name, data)
    for name, text in texts.items():
        if text.strip():
            sources.add(text_sheet(name, text))


def like_product(session: Session, about: About) -> Product | None:
    """Return the product whose boxes and finishes are taken over; None when none is named."""
    record = product_keyed(session, about.like) if about.like else None
    return load_product(session, record) if record else None


def keep_read(bench: Workbench, key: str, about: About, sources: Sources, draft: Draft) -> int:
    """Keep what was read as a draft, with how it was understood; return its id."""
    with bench.sessions() as session:
        record = make_draft(session, bench, key, sources, about)
        bench.keep(_state_of(record), lambda: draft)
        return record.id


def parted(sources: Sources) -> tuple[Sources, list[Sheet]]:
    """Part the sheets of a checklist from those of prices."""
    prices = [sheet for sheet in sources.sheets if sheet.name.casefold() == PRICES.name]
    kept = [sheet for sheet in sources.sheets if sheet not in prices]
    return replace(sources, sheets=kept), prices


def _state_of(record: DraftRecord) -> Hashable:
    return ("draft", record.id, record.about, hash(record.sources))


def store_beside(bench: Workbench, draft_id: int, tell: Progress, *, keep_mine: bool) -> int:
    """Store a draft in a session of its own; return the product's id."""
    tell(0, 1)
    with bench.sessions() as session:
        return store_draft(session, bench, get_draft(session, draft_id), keep_mine=keep_mine).record.id


def discard(session: Session, record: DraftRecord) -> None:
    """Throw a draft away."""
    session.delete(record)
    finish(session)


def get_draft(session: Session, draft_id: int) -> DraftRecord:
    """Return a draft.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = session.get(DraftRecord, draft_id)
    if found is None:
        message = "That draft is not there any more. Add the product again."
        raise NotFoundError(message)
    return found


def view_draft(session: Session, bench: Workbench, record: DraftRecord, progress: Progress = silent) -> DraftView:
    """Read a draft, once per state it is in."""
    about = from_json(record.about, About)
    checklist, prices = parted(Sources.from_json(record.sources))
    like = like_product(session, about)
    draft = bench.keep(_state_of(record), lambda: interpret(checklist, about, progress, like))
    return look_through(session, draft, about, bench.today(), prices)


def look_through(
    session: Session, draft: Draft, about: About, today: date, prices: Sequence[Sheet] = ()
) -> DraftView:
    """Work out what the preview says of a draft."""
    product = draft.reading.product
    record = product_keyed(session, product.key)
    findings = (*draft.reading.findings, *audit(product, deep=False))
    priced, bad = _prices(prices, product, today)
    notes = tuple(_noted(draft, findings))
    return DraftView(
        product=product,
        about=about,
        notes=notes,
        counts=dict(Counter(note.status.value for note in notes)),
        findings=(*findings, *bad),
        blockers=tuple(_blockers(product, notes, (*findings, *bad))),
        changes=changes(load_product(session, record), product) if record else (),
        known=record.name if record else "",
        draft=draft,
        prices=priced,
    )


def _prices(
    sheets: Sequence[Sheet], product: Product, today: date
) -> tuple[tuple[PriceRow, ...], tuple[Finding, ...]]:
    rows: list[PriceRow] = []
    findings: list[Finding] = []
    for sheet in sheets:
        lines = [(line, list(cells)) for line, cells in sheet.rows]
        table, name = loose_table(WITH_NAME, lines, sheet.name), f"{sheet.name}.csv"
        file = understand_prices(table, name, product.currency, Names(product), today)
        rows += file.rows
        findings += file.findings
        findings += [left_out(one) for one in file.unused]
    return tuple(rows), tuple(findings)


def left_out(one: Unused) -> Finding:
    """Say what of a file was not used: a row that matches nothing stands in the way, a column does not."""
    words = f"{one.text}: {one.why}".removeprefix(": ")
    if one.severe:
        return Finding("unused-row", Severity.ERROR, one.where, words)
    return Finding("unused-column", Severity.WARNING, one.where, words)


def _noted(draft: Draft, findings: Sequence[Finding]) -> list[Note]:
    """Notes of the lines; a line with an error finding is not understood, whatever its words."""
    wrong: dict[tuple[str, int], Finding] = {}
    for found in findings:
        place = draft.place_of(found.where)
        if place and found.severity is Severity.ERROR and blocks(found):
            wrong.setdefault(place, found)
    noted = []
    for note in draft.notes:
        found_at = wrong.get((note.sheet, note.line))
        noted.append(replace(note, status=Status.NOT, says=_says(draft, found_at)) if found_at else note)
    return noted


def _says(draft: Draft, found: Finding) -> str:
    """Return what a finding says with the line of the source that the user sees, where it names another line."""
    here, first = draft.place_of(found.where), draft.place_of(found.first)
    if here is None or first is None:
        return found.message
    line = f"line {first[1]}" if here[0] == first[0] else f"line {first[1]} of {first[0]}"
    return found.message.replace(f"line {found.first.rpartition(':')[2]} ", f"{line} ", 1)


def blocks(found: Finding) -> bool:
    """Whether a finding stands in the way of storing: its row could not be kept as it is."""
    return found.severity is Severity.ERROR and (found.code in LOSES or found.code.startswith("bad-"))


def _blockers(product: Product, notes: Sequence[Note], findings: Sequence[Finding]) -> list[str]:
    found = []
    unread = [note for note in notes if note.status is Status.NOT]
    if unread:
        lines = "1 line is" if len(unread) == 1 else f"{len(unread)} lines are"
        first = f"{unread[0].sheet}, line {unread[0].line}: {unread[0].says.rstrip('.')}"
        found.append(f"{lines} not understood ({first}). Mend them, or leave them out.")
    if not product.name or product.name == "Product without a name":
        found.append("The product has no name yet.")
    if not product.formats:
        found.append("Nobody says yet how it is boxed, like: Hobby box: 24 packs of 8 cards.")
    if not product.cards:
        found.append("There is no card on the checklist yet.")
    if not unread and any(blocks(item) for item in findings):
        wrong = next(item for item in findings if blocks(item))
        found.append(f"{wrong.where}: {wrong.message}")
    return found


def set_about(session: Session, record: DraftRecord, about: About) -> None:
    """Change what the form says of the product."""
    record.about = as_json(about)
    finish(session)


def mend_line(session: Session, record: DraftRecord, sheet: str, line: int, cells: Sequence[str]) -> None:
    """Write one line of the sources anew; empty cells leave it out."""
    if sheet == "how it is boxed":
        kept = json.loads(record.about)
        lines = kept["formats"].splitlines()
        if 0 < line <= len(lines):
            lines[line - 1] = cells[0] if cells else ""
        record.about = json.dumps({**kept, "formats": "\n".join(lines)})
    else:
        record.sources = Sources.from_json(record.sources).replaced(sheet, line, list(cells)).to_json()
    finish(session)


def leave_out_unread(session: Session, bench: Workbench, record: DraftRecord) -> int:
    """Leave every line out that was not understood; return how many."""
    view = view_draft(session, bench, record)
    unread = [note for note in view.notes if note.status is Status.NOT]
    sources = Sources.from_json(record.sources)
    for note in unread:
        sources = sources.replaced(note.sheet, note.line, [])
    record.sources = sources.to_json()
    finish(session)
    return len(unread)


def line_cells(record: DraftRecord, sheet: str, line: int) -> tuple[list[str], list[str]]:
    """Return the cells of a source line, and the words above them."""
    for found in Sources.from_json(record.sources).sheets:
        if found.place == sheet:
            cells = next((cells for number, cells in found.rows if number == line), ("",))
            head = found.rows[0][1] if not found.is_text and found.rows else ()
            return list(cells), [
                head[i] if i < len(head) and head[i] else f"column {i + 1}" for i in range(len(cells))
            ]
    if sheet == "how it is boxed":
        lines = json.loads(record.about)["formats"].splitlines()
        return [lines[line - 1] if 0 < line <= len(lines) else ""], ["line"]
    return [""], ["line"]


def store_draft(session: Session, bench: Workbench, record: DraftRecord, *, keep_mine: bool = True) -> Stored:
    """Store a draft, all or nothing.

    Raises
    ------
    ImportRefusedError
        When something stands in the way; nothing is stored.
    """
    view = view_draft(session, bench, record)
    stored = store_view(session, bench, view, keep_mine=keep_mine)
    record.product_id, record.stored_at = stored.record.id, bench.now()
    finish(session)
    return stored


def store_view(session: Session, bench: Workbench, view: DraftView, *, keep_mine: bool = True) -> Stored:
    """Store what a preview showed; nothing is committed here."""
    if view.blockers:
        message = f"Nothing was stored. {' '.join(view.blockers[:3])}"
        raise ImportRefusedError(message)
    known = product_keyed(session, view.product.key)
    product, notes = view.product, []
    if known is not None and keep_mine:
        product, kept = kept_corrections(session, known.id, product)
        notes += [f"Your correction stays: {words}" for words in kept]
    before = load_product(session, known) if known is not None else None
    record = save_product(session, product)
    add_prices(session, record, view.prices)
    looked = to_look_at(session, bench.now(), record, before, product) if before else 0
    if looked:
        notes.append(f"{looked} logged copies should be looked at again: see the product’s page.")
    return Stored(record, tuple(notes))
