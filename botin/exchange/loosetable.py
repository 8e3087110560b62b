"""A table that someone made by hand: columns in any order under their usual names, commas or semicolons or tabs."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping
from pathlib import Path

from botin.core.catalog.naming import fold
from botin.core.errors import UnreadableFileError
from botin.exchange.catalog.columnwords import bare, field_of
from botin.exchange.decode import decode
from botin.exchange.guard import unguard
from botin.exchange.source import csv_lines
from botin.exchange.tables import RawRow, RawTable, TableSpec
from botin.exchange.unused import Unused, meant

ALSO = {
    "section": "set|subset|insert|insert set|series|checklist|category|card set",
    "number": "no|nr|num|card|card no|card nr|card number|card num|#|no.",
    "parallel": "finish|variation|variant|version|colour|color|parallel name|coating|foil",
    "grade": "graded|condition grade|slab grade|bewertung|stufe|grad|grado|waardering",
    "price": "sold|sold for|sale price|amount|value|price paid|hammer|total|sold price|preis|prix|precio|"
    "prezzo|prijs|betrag|verkauft für|verkaufspreis|montant|importe|bedrag|pris|cena",
    "currency": "cur|ccy|curr|währung|devise|moneda|valuta",
    "sold_on": "date|sold|sold date|sale date|day|when|sold on|date sold|ended|datum|verkauft am|date de vente|"
    "vendu le|fecha|vendido|dato|data",
    "source": "where|market|seen|site|url|link|quelle|wo|où|fuente|bron|gesehen bei",
    "kind": "type|price kind|price type|art|preisart",
    "name": "player|rider|athlete|who|subject|player name|card name",
    "count": "qty|quantity|copies|have|owned|number of copies|pcs|amount|anzahl|menge|stück|quantité|nombre|"
    "cantidad|aantal|stuks",
    "id": "copy|copy id|key|ref|nr",
    "wanted": "pc|personal collection|keep|mine|collect",
    "centering": "centring|center|cen",
    "corners": "corner|cor",
    "edges": "edge|edg",
    "surface": "sur|surf",
    "front": "front centering|centering front|front border",
    "back": "back centering|centering back|back border",
    "marks": "defects|damage|flaws|condition|faults",
}  # fmt: skip
"""What people head columns with, most of it from memory of such files; the table's own names come first."""


Told = Mapping[str, Mapping[int, str]]
"""What the user said of columns: by what tables with the same columns share, place and name."""


class ColumnsUnclearError(UnreadableFileError):
    """A table one of whose columns nobody can be sure of: the user says which it is."""

    def __init__(self, spec: TableSpec, name: str, header: list[str], rows: list[list[str]], missing: str) -> None:
        super().__init__(f"{name} has no column “{missing}”. Its columns are: {', '.join(spec.names)}.")
        self.spec, self.header, self.missing = spec, header, missing
        self.shape = shape_of(spec, header)
        self.values = [
            [row[at].strip() for row in rows if at < len(row) and row[at].strip()][:5] for at in range(len(header))
        ]
        self.guess = {place: column for column, place in match_columns(spec, header).items()}
        self.guess |= _by_values(spec, self.values, self.guess)


_BY_VALUES = (
    ("price", re.compile(r"[€$£]?\s?\d{1,6}[.,]\d{1,2}\s?(?:[€$£]|[A-Z]{3})?")),
    ("sold_on", re.compile(r"\d{4}-\d{2}-\d{2}|\d{1,2}[./]\d{1,2}[./]\d{2,4}")),
    ("number", re.compile(r"#?\s?[A-Za-z]{0,6}-?\d{1,5}[A-Za-z]?")),
)
"""What the values of a column look like, for the choice the mapping screen proposes."""


def _by_values(spec: TableSpec, values: list[list[str]], have: Mapping[int, str]) -> dict[int, str]:
    """Propose what nobody named, by the first values of the columns that are left."""
    found: dict[int, str] = {}
    for name, pattern in _BY_VALUES:
        if name not in spec.names or name in have.values():
            continue
        free = (at for at, cells in enumerate(values) if cells and at not in have and at not in found)
        place = next((at for at in free if all(pattern.fullmatch(cell) for cell in values[at])), None)
        if place is not None:
            found[place] = name
    return found


def shape_of(spec: TableSpec, header: list[str]) -> str:
    """Return what tables of a kind with the same columns share."""
    return f"{spec.name}:" + "|".join(bare(cell) or "-" for cell in header)


def read_loose(spec: TableSpec, data: bytes, name: str, told: Told | None = None) -> RawTable:
    """Read a table whose columns are in any order and go by their usual names.

    Raises
    ------
    ColumnsUnclearError
        When a required column is missing.
    """
    text = decode(data)
    lines = [(number, [unguard(cell) for cell in cells]) for number, cells in csv_lines(text, _delimiter(text))]
    return loose_table(spec, lines, name, told)


def read_loose_file(spec: TableSpec, path: Path, needs: str) -> RawTable:
    """Read such a table from a file.

    Parameters
    ----------
    needs : str
        The columns it needs, for whoever gave another file.

    Raises
    ------
    UnreadableFileError
        When the file cannot be opened or a required column is missing.
    """
    try:
        data = path.read_bytes()
    except OSError as exc:
        message = f"{path} cannot be opened. Give a CSV file with the columns {needs}."
        raise UnreadableFileError(message) from exc
    return read_loose(spec, data, path.name)


def loose_table(spec: TableSpec, lines: list[tuple[int, list[str]]], name: str, told: Told | None = None) -> RawTable:
    """Make a table from numbered lines of cells; the first that holds anything is the header.

    Raises
    ------
    ColumnsUnclearError
        When a required column is missing.
    """
    filled = [(number, cells) for number, cells in lines if any(cell.strip() for cell in cells)]
    header = filled[0][1] if filled else []
    said = (told or {}).get(shape_of(spec, header), {})
    columns = {column: place for place, column in said.items() if column} or match_columns(spec, header)
    missing = [c.name for c in spec.columns if c.required and c.name not in columns]
    if missing:
        raise ColumnsUnclearError(spec, name, header, [cells for _, cells in filled[1:40]], missing[0])
    places = {place: column for column, place in columns.items()}
    rows, long = [], []
    for number, cells in filled[1:]:
        if [cell for cell in cells[len(header) :] if cell.strip()]:
            mended = _mended(cells, len(header), columns.get("price"))
            if mended is None:
                long.append(number)
                continue
            cells = mended  # noqa: PLW2901  (the row with its decimal comma put back)
        rows.append(RawRow(number, {places[at]: cell for at, cell in enumerate(cells) if at in places}))
    unknown = tuple(cell.strip() for at, cell in enumerate(header) if at not in places and cell.strip())
    return RawTable(spec, tuple(rows), unknown, tuple(long))


def _delimiter(text: str) -> str:
    """Comma, unless the first line is plainly parted by something else."""
    first = next((line for line in text.splitlines() if line.strip()), "")
    counts = Counter({mark: first.count(mark) for mark in (",", ";", "\t")})
    return max((",", ";", "\t"), key=lambda mark: (counts[mark], mark == ","))


def match_columns(spec: TableSpec, header: list[str]) -> dict[str, int]:
    """Return the place of each column of the table that the header has."""
    found: dict[str, int] = {}
    plain = [re.sub(r"[\s_]+", " ", cell.strip().casefold()) for cell in header]
    for column in spec.columns:
        own = column.name.replace("_", " ")
        place = next((at for at, cell in enumerate(plain) if cell == own), None)
        if place is not None:
            found[column.name] = place
    for column in spec.columns:
        if column.name in found:
            continue
        words = {*ALSO.get(column.name, "").split("|"), *column.also}
        for at, cell in enumerate(plain):
            if at not in found.values() and cell and (cell in words or fold(cell) in words):
                found[column.name] = at
                break
    return found | _by_phrase(spec, header, found)


def _by_phrase(spec: TableSpec, header: list[str], found: dict[str, int]) -> dict[str, int]:
    """Find the columns that are left by phrases and other languages: “Kartennummer” is the number."""
    more: dict[str, int] = {}
    for at, cell in enumerate(header):
        field = field_of(cell)
        if field in spec.names and field not in found and field not in more and at not in found.values():
            more[field] = at
    return more


def _mended(cells: list[str], width: int, price: int | None) -> list[str] | None:
    """Put a price back together that a decimal comma tore apart: the one place where that gives the right width."""
    if price is None or len(cells) != width + 1:
        return None
    whole, part = cells[price].strip(), cells[price + 1].strip()
    if not re.fullmatch(r"\D{0,3}\d{1,9}", whole) or not re.fullmatch(r"\d{2,3}(\.\d+)?|-+", part):
        return None
    return [*cells[:price], f"{whole},{part}", *cells[price + 2 :]]


def unused_of(table: RawTable, name: str) -> list[Unused]:
    """Say which columns and rows of a table were not used."""
    found = [
        Unused(f"{name}:1", column, f"no column of this table{meant(column, table.spec.names)}")
        for column in table.unknown
    ]
    return found + [
        Unused(
            f"{name}:{line}",
            "",
            "it has more cells than the header: put quotes around amounts with a comma",
            severe=True,
        )
        for line in table.long
    ]
