"""The tables of a product package: their columns, and rows with the place they came from."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from botin.core.errors import UnreadableFileError

MAX_ROWS = 300_000
"""Rows of a table; more than any checklist, and what is beyond would fill the memory before anybody said no."""


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a table; ``type`` is a Table Schema type, ``also`` what else people call it."""

    name: str
    about: str
    type: str = "string"
    required: bool = False
    also: tuple[str, ...] = ()


@dataclass(frozen=True)
class TableSpec:
    """A table of the package."""

    name: str
    columns: tuple[Column, ...]
    required: bool = False

    @cached_property
    def names(self) -> tuple[str, ...]:
        """Column names in order."""
        return tuple(column.name for column in self.columns)


def _columns(text: str) -> tuple[Column, ...]:
    """Read ``name! type about`` lines; ``!`` marks a required column."""
    found = []
    for raw in text.strip().splitlines():
        name, kind, about = raw.strip().split(" ", 2)
        found.append(Column(name.rstrip("!"), about, kind, name.endswith("!")))
    return tuple(found)


FORMATS = TableSpec(
    "formats",
    _columns("""
    format! string Key of the format, like hobby
    label string Its name on screen
    packs_per_box! string Packs in a box; 7-10 where boxes differ
    cards_per_pack! integer Cards in a pack
    boxes_per_case integer Boxes in a case, empty when unknown
    list_price string Price of a box at issue, in major units
    currency string ISO 4217 code
    """),
    required=True,
)
SECTIONS = TableSpec(
    "sections",
    _columns("""
    section! string Key of the section
    label string Its name on screen
    kind! string What it is: base, short_print, insert, autograph, relic, …; see Kind in botin.core.catalog.product
    back_code string Last digits of the code on the back
    cue string How to tell it by eye
    """),
    required=True,
)
CARDS = TableSpec(
    "cards",
    _columns("""
    section! string Section of the card
    number! string Number on the checklist
    name! string Who is on it, several separated by ;
    team string Club or clubs, several separated by ;
    rookie string Empty, yes, or the word for its kind
    group string Odds group within the section
    note string Anything else
    """),
    required=True,
)
PARALLELS = TableSpec(
    "parallels",
    _columns("""
    parallel! string Key of the finish; empty for the plain card of a numbered section
    label string Its name on screen
    section! string Section that has it
    group string Only this group of the section has it
    run string Copies of each card, empty when unnumbered, pooled runs like 100+80+4
    back_code string Last digits of the code on the back
    cue string How to tell it by eye
    swatch string A colour for the screen, #rrggbb
    """),
)
ODDS = TableSpec(
    "odds",
    _columns("""
    format! string Format the rate holds for
    section! string Section of the line
    parallel string Finish of the line, empty for the plain card
    group string Group of the line
    packs_per_hit string One in so many packs, as printed
    per_box string Cards a box
    per_case string Cards a case
    per_pack string Cards a pack
    promise string exact, at_least or average
    """),
)
PROMISES = TableSpec(
    "promises",
    _columns("""
    format string Format, empty for all
    label string The promise in words
    count! string How many
    per! string pack, box or case
    promise string exact, at_least or average
    covers! string section, section:parallel or kind=…, separated by ;
    """),
)
OVERALL = TableSpec(
    "overall",
    _columns("""
    format! string Format of the printed total
    label string Its words
    kinds! string Kinds it adds up, separated by ;
    packs_per_hit! string One in so many packs, as printed
    """),
)
TEAMS = TableSpec(
    "teams",
    _columns("""
    team! string Team as printed on the card
    club! string Club that holds the rights
    """),
)
PRODUCT_TABLES = (FORMATS, SECTIONS, CARDS, PARALLELS, ODDS, PROMISES, OVERALL, TEAMS)

PRICES = TableSpec(
    "prices",
    _columns("""
    section! string Section of the card
    number string Number of the card; empty prices the whole section and parallel
    parallel string Finish, empty for the plain card
    grade string Empty for raw
    price! string In major units
    currency string ISO 4217 code
    sold_on string Date, YYYY-MM-DD
    source string Where it was seen
    kind string sold (when empty), asking or guide
    """),
)


@dataclass(frozen=True, slots=True)
class RawRow:
    """A row as text, with its line in the file."""

    line: int
    values: dict[str, str]

    def get(self, name: str) -> str:
        """Return the cell, stripped; empty when the column is not there."""
        return self.values.get(name, "").strip()


@dataclass(frozen=True)
class RawTable:
    """A table as text."""

    spec: TableSpec
    rows: tuple[RawRow, ...]
    unknown: tuple[str, ...] = ()
    """Columns that mean nothing here, as they are headed."""
    long: tuple[int, ...] = ()
    """Lines with more cells than the header."""


@dataclass
class RawPackage:
    """All tables of a package as text, and what ``datapackage.json`` says of the product."""

    descriptor: dict[str, Any]
    tables: dict[str, RawTable] = field(default_factory=dict)
    suffix: str = ".csv"

    def rows(self, spec: TableSpec) -> tuple[RawRow, ...]:
        """Rows of a table; none when the package does not have it."""
        table = self.tables.get(spec.name)
        return table.rows if table else ()

    def where(self, spec: TableSpec, line: int) -> str:
        """Return the place of a row, like ``odds.csv:5``."""
        return f"{spec.name}{self.suffix}:{line}"


def raw_table(spec: TableSpec, lines: Iterable[tuple[int, list[str]]], name: str) -> RawTable:
    """Make a table from numbered lines of cells; the first non-blank one is the header.

    Raises
    ------
    UnreadableFileError
        When a required column is missing.
    """
    header: list[str] | None = None
    rows: list[RawRow] = []
    for number, cells in lines:
        if not any(cell.strip() for cell in cells):
            continue
        if header is None:
            header = [cell.strip().casefold() for cell in cells]
            continue
        if len(rows) >= MAX_ROWS:
            message = f"{name} has more than {MAX_ROWS:,} rows. Split it; nothing was taken in."
            raise UnreadableFileError(message)
        rows.append(RawRow(number, dict(zip(header, cells, strict=False))))
    missing = [column.name for column in spec.columns if column.required and column.name not in (header or ())]
    if missing:
        message = f"{name} has no column “{missing[0]}”. Its columns are: {', '.join(spec.names)}."
        raise UnreadableFileError(message)
    return RawTable(spec, tuple(rows))
