"""From whatever was given to a product in the making: each line read, and a note about each."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

from botin.core.catalog.product import Product
from botin.exchange.catalog.aboutsheets import as_lines
from botin.exchange.catalog.build import Reading, build
from botin.exchange.catalog.clubsheets import club_sheets, with_club
from botin.exchange.catalog.finishesacross import read_finishes_across
from botin.exchange.catalog.formatstext import slug
from botin.exchange.catalog.likelast import copy_from
from botin.exchange.catalog.oddstext import in_order, rates_in
from botin.exchange.catalog.pastedtable import FEWEST, as_table
from botin.exchange.catalog.plainblanks import with_plain_blanks
from botin.exchange.catalog.promisetext import add_covered
from botin.exchange.catalog.questions import Question, Seen
from botin.exchange.catalog.records import as_records, card_each, cards_down
from botin.exchange.catalog.runtext import take_run
from botin.exchange.catalog.settling import settle
from botin.exchange.catalog.sheets import Sources
from botin.exchange.catalog.sorting import Later, Pending, Sorting
from botin.exchange.catalog.stricttable import read_strict, strict_spec
from botin.exchange.catalog.tablecards import read_cards, sheet_label
from botin.exchange.catalog.tablelists import read_finishes, read_formats, read_grid, read_lists, read_sections
from botin.exchange.catalog.tablerates import read_across, read_lines, read_rates
from botin.exchange.catalog.tablesheet import Table, ask, hint_of, is_table, tables_of
from botin.exchange.catalog.textlines import read_text
from botin.exchange.catalog.textreader import BOXED, FORMATS, ODDS
from botin.exchange.catalog.titledsheets import titled_sheets, with_title
from botin.exchange.notes import Note, Sheet, Status
from botin.exchange.tables import PRODUCT_TABLES, RawPackage, RawTable

Progress = Callable[[int, int], None]
_REMARK = re.compile(
    r"#?\s*(?:(?:exported|generated|created|downloaded|printed|last updated|updated|saved|as of)\b"
    r"|(?:date|source)\s*:)",
    re.IGNORECASE,
)
"""How a line above the columns begins that tells of the file and not of the product."""
PRODUCT_SHEET = "product"


@dataclass(frozen=True, slots=True)
class About:
    """What the form says of the product; ``formats`` has a line for each, ``like`` is the key of another product."""

    name: str = ""
    maker: str = ""
    season: str = ""
    sport: str = ""
    released_on: str = ""
    currency: str = ""
    formats: str = ""
    like: str = ""


@dataclass
class Draft:
    """A product in the making.

    Attributes
    ----------
    reading : Reading
        The product, and findings of rows that cannot be read.
    notes : list of Note
        One for each line of the sources, in their order.
    places : list of (sheet, line)
        Where the rows' ``line`` numbers (from 1) lie in the sources.
    questions : list of Question
        Columns whose meaning was guessed, each once.
    tables : list of Seen
        Every shape of table that was found, with its columns.
    copied : list of str
        What was taken over from another product, in words.
    """

    reading: Reading
    notes: list[Note] = field(default_factory=list)
    places: list[tuple[str, int]] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)
    tables: list[Seen] = field(default_factory=list)
    copied: list[str] = field(default_factory=list)

    def place_of(self, where: str) -> tuple[str, int] | None:
        """Return the source line of a finding, by its ``table.csv:7``."""
        number = where.rpartition(":")[2]
        if number.isdecimal() and 0 < int(number) <= len(self.places):
            return self.places[int(number) - 1]
        return None


def silent(_done: int, _of: int) -> None:
    """Tell nobody how far it is."""


READERS = {
    "cards": read_cards, "finishes": read_finishes, "grid": read_grid, "formats": read_formats,
    "sections": read_sections, "rates": read_rates, "across": read_across, "lists": read_lists, "lines": read_lines,
    "finishes across": read_finishes_across,
}  # fmt: skip
FIRST = (("formats",), ("cards",))
THEN = (("sections",), ("finishes", "grid", "lists", "finishes across"), ("rates", "across", "lines"))
"""What has to be known before what: formats name columns of odds, sections own finishes, both are named by odds."""


def interpret(sources: Sources, about: About, progress: Progress = silent, like: Product | None = None) -> Draft:
    """Read everything that was given.

    Parameters
    ----------
    sources : Sources
        Sheets of tables or text.
    about : About
        What the form says; it wins over what the files say.
    progress : callable
        Told how many of how many lines are done.
    like : Product, optional
        A product whose boxes and finishes it has, where the sources do not say them.
    """
    sorting = Sorting(told=sources.columns, kinds=sources.kinds)
    given = [_boxed(about), *sources.sheets] if about.formats.strip() else list(sources.sheets)
    sheets = [with_plain_blanks(sheet) for sheet in given]
    places = {sheet.place: {n: sorting.at(sheet, n, cells) for n, cells in _given(sheet)} for sheet in sheets}
    descriptor = dict(sources.descriptor)
    descriptor |= _read_all(sorting, sheets, places, lambda done: progress(done, len(sorting.places)))
    sorting.finish()
    copied = copy_from(sorting, like) if like else []
    _settle_all(sorting)
    package = RawPackage(_described(sorting, descriptor, about))
    for spec in PRODUCT_TABLES:
        if sorting.rows[spec.name]:
            package.tables[spec.name] = RawTable(spec, tuple(sorting.rows[spec.name]))
    reading = build(package)
    notes = [_confirmed(sorting.notes[place], sources) for place in sorted(sorting.notes)]
    return Draft(reading, notes, sorting.places, sorting.questions, tables=sorting.tables, copied=copied)


def _confirmed(note: Note, sources: Sources) -> Note:
    """Return a note as understood where the user said that the guess is right."""
    if note.status is not Status.GUESSED or (note.sheet, note.line) not in sources.sure:
        return note
    return replace(note, status=Status.UNDERSTOOD, says=f"{note.says}; so you said", others=())


def _given(sheet: Sheet) -> list[tuple[int, tuple[str, ...]]]:
    return [(line, cells) for line, cells in sheet.rows if any(cell.strip() for cell in cells)]


def _boxed(about: About) -> Sheet:
    """Formats as the form states them, one a line."""
    lines = tuple((n, (line,)) for n, line in enumerate(about.formats.splitlines(), 1) if line.strip())
    return Sheet(BOXED, lines, is_text=True)


def _read_all(
    sorting: Sorting, sheets: list[Sheet], places: dict[str, dict[int, int]], tell: Callable[[int], None]
) -> dict[str, Any]:
    """Read formats first, then cards, then what names them; return what the files say of the product itself."""
    described: dict[str, Any] = {}
    rest: list[Sheet] = []
    for sheet in sheets:
        spec = strict_spec(sheet)
        if sheet.unread:
            for place in places[sheet.place].values():
                sorting.note(place, Status.PASSED if sheet.beside else Status.NOT, sheet.unread)
        elif sheet.name.casefold() == PRODUCT_SHEET and not sheet.is_text:
            described |= _product_sheet(sorting, sheet, places[sheet.place])
        elif sheet.is_text and sheet.name.casefold() in FORMATS and as_table(sheet, ONE_BOX) is None:
            read_text(sorting, sheet, places[sheet.place])
        elif spec is not None:
            read_strict(sorting, sheet, spec, places[sheet.place])
        else:
            rest.append(sheet)
    _tables_and_texts(sorting, rest, places, tell)
    return described


def _tables_and_texts(
    sorting: Sorting, sheets: list[Sheet], places: dict[str, dict[int, int]], tell: Callable[[int], None]
) -> None:
    later: list[Sheet] = []
    done, clubs, titled = 0, club_sheets(sheets), titled_sheets(sheets)
    for given in sorted(sheets, key=_turn):
        sheet = _as_table(sorting, given, places[given.place])
        tables = [] if sheet.is_text else with_club(_tables(sorting, sheet, places), of_club=sheet.place in clubs)
        tables = with_title(tables) if sheet.place in titled else tables
        if is_table(tables):
            _read_stages(sorting, tables, FIRST)
            later += [sheet] if any(table.kind not in _kinds(FIRST) for table in tables) else []
            _say_unknown(sorting, tables)
        else:
            _read_lines(sorting, given, places[given.place])
        done += len(places[sheet.place])
        tell(done)
    for stage in THEN:
        for sheet in later:
            _read_stages(sorting, _tables(sorting, sheet, places), (stage,))


def _read_lines(sorting: Sorting, given: Sheet, places: dict[int, int]) -> None:
    """Read a sheet line by line; a sheet of a workbook goes on with no section of another."""
    own = not given.is_text and "#" in given.source
    if own:
        sorting.current, sorting.home = "", sheet_label(given)
    read_text(sorting, given, places)
    if own:
        sorting.current, sorting.home = "", "Base"


def _as_table(sorting: Sorting, given: Sheet, places: dict[int, int]) -> Sheet:
    """Return a sheet as a table where it is one: cells between marks, records of fields, riders with their cards."""
    if not given.is_text:
        return as_lines(given) or card_each(cards_down(given))
    records = as_records(given)
    if records is None:
        return as_table(given, ONE_BOX if given.name.casefold() in FORMATS else FEWEST) or given
    table, members = records
    places[0] = 0
    for line, at in members.items():
        sorting.note(places[line], Status.UNDERSTOOD, f"a field of the card on line {at}")
    return table


ONE_BOX = 2
"""Rows of a table of boxes at least: headings and one box."""


def _tables(sorting: Sorting, sheet: Sheet, places: dict[str, dict[int, int]]) -> list[Table]:
    """Find the tables of a sheet with what is known so far: labels of sections name columns of runs."""
    labels = [section.label for section in sorting.sections.values()]
    return tables_of(sorting, sheet, places[sheet.place], labels)


def _say_unknown(sorting: Sorting, tables: list[Table]) -> None:
    """A table that is none of the kinds is not passed over in silence: its columns can be said."""
    for table in tables:
        if table.kind or not table.segment.rows:
            continue
        ask(sorting, table)
        for place, _ in table.segment.rows:
            sorting.note(place, Status.NOT, "a table of no kind Botin knows: say above what its columns are")


def _kinds(stages: tuple[tuple[str, ...], ...]) -> set[str]:
    return {kind for stage in stages for kind in stage}


def _read_stages(sorting: Sorting, tables: list[Table], stages: tuple[tuple[str, ...], ...]) -> None:
    for stage in stages:
        for table in tables:
            if table.kind in stage:
                _read_table(sorting, table)


def _turn(sheet: Sheet) -> int:
    """Return when a sheet is read: formats, checklists, lists of sections and finishes, odds."""
    if sheet.is_text:
        return 9 if sheet.name.casefold() in ODDS else 3 if hint_of(sheet.name) == "finishes" else 1
    return {"formats": 0, "": 1, "sections": 2, "finishes": 3, "promises": 8, "rates": 8}[hint_of(sheet.name)]


def _read_table(sorting: Sorting, table: Table) -> None:
    reader = READERS.get(table.kind)
    if reader is None:
        return
    ask(sorting, table)
    rated: list[tuple[int, str]] = []
    for place, cells in table.segment.above:
        text = " ".join(next(cell.strip() for cell in cells if cell.strip()).split())
        if _rates_alone(sorting, table, text):
            rated.append((place, text))
        elif place != table.line or not table.label:
            remark = _REMARK.match(text)
            if remark is None:
                sorting.titles.append((place, text.lstrip("# ")))
            sorting.note(
                place, Status.PASSED, "a remark above the columns" if remark else "a title above the columns"
            )
    reader(sorting, table)
    for place, text in rated:
        section = sorting.sections[sorting.current].label if sorting.current else ""
        sorting.later.append(Later(place, text, "", "", odds=True, name=section))


def _rates_alone(sorting: Sorting, table: Table, text: str) -> bool:
    """Whether a line above the columns is odds without a name, “Odds: Hobby 1:24”: those of its one section."""
    rates = rates_in(text, sorting.format_words())
    return table.kind == "cards" and not table.columns.has("section") and bool(rates) and not rates[0].name


def _settle_all(sorting: Sorting) -> None:
    """Settle rates line by line, in the order of the sources."""
    waiting = list(sorting.pending)
    words = sorting.format_words()
    for line in sorting.later:
        rates = in_order(rates_in(line.text, words, odds=line.odds), line.order, line.text)
        for rated in rates:
            above, run = ("", "") if rated.name else take_run(line.name)
            named = replace(rated, group=rated.group or line.group, name=rated.name or above, run=rated.run or run)
            waiting.append(Pending(line.place, named, line.format))
    for pending in sorted(waiting, key=lambda one: one.place):
        settle(sorting, pending)
    add_covered(sorting)


def _described(sorting: Sorting, descriptor: dict[str, Any], about: About) -> dict[str, Any]:
    meta = descriptor.get("botin")
    kept: dict[str, Any] = {**sorting.about, **(dict(meta) if isinstance(meta, dict) else {})}
    for name in ("maker", "season", "sport", "released_on", "currency"):
        if value := getattr(about, name).strip():
            kept[name] = value
    currencies = {row.get("currency") for row in sorting.rows["formats"] if row.get("currency")}
    if not kept.get("currency") and len(currencies) == 1:
        kept["currency"] = currencies.pop()
    title = (
        about.name.strip() or str(descriptor.get("title") or "") or sorting.about.get("title", "") or _title(sorting)
    )
    key = str(descriptor.get("name") or "") or slug(title)
    return {**descriptor, "title": title, "name": key, "botin": kept}


def _title(sorting: Sorting) -> str:
    """Return the first title above the cards that may be a name; its line is then understood, or asked about."""
    place, text = next(((place, text) for place, text in sorting.titles if "=" not in text), (0, ""))
    if text:
        before = sorting.notes[place]
        sure = (
            "|" not in before.text and len(text.strip(" .:#")) > 3
        )  # a row of a table or “No.” may stand above the cards
        status, says = (Status.UNDERSTOOD, "") if sure else (Status.GUESSED, "taken for ")
        sorting.notes[place] = replace(before, status=status, says=f"{says}the name of the product")
    return text


def _product_sheet(sorting: Sorting, sheet: Sheet, places: dict[int, int]) -> dict[str, Any]:
    pairs: dict[str, str] = {}
    for line, cells in _given(sheet):
        if len(cells) > 1 and cells[0].strip():
            pairs[cells[0].strip().casefold()] = cells[1].strip()
            sorting.note(places[line], Status.UNDERSTOOD, f"{cells[0].strip()} of the product")
    return {"name": pairs.pop("name", ""), "title": pairs.pop("title", ""), "botin": pairs}
