"""``openings.csv``: one row a card, out and in; a log from any spreadsheet, with its columns named by hand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from botin.exchange.catalog.columnwords import bare, field_of
from botin.exchange.catalog.package import csv_bytes
from botin.exchange.notes import Sheet

COLUMNS = (
    "box", "product", "format", "pack", "section", "number", "name", "parallel", "serial", "run", "count", "marks",
    "back_code", "note", "certificate", "signature", "relic", "claim_code", "claim_by",
    "claimed_on", "received_on", "owner", "typed", "logged_at", "log",
)  # fmt: skip
TAKEN = (
    "pack", "section", "number", "name", "parallel", "serial", "run", "count", "marks", "back_code", "note",
    "certificate", "owner", "typed", "claim_code", "claim_by", "claimed_on", "received_on", "signature", "relic",
    "log",
)  # fmt: skip
"""Columns an import takes; the others say where a row came from."""
_MORE = {
    "pack": "pack|pack no|pack number|pk|päckchen|packung|paquet|sobre|pakje",
    "serial": "serial|serial no|serial number|serial #|serial#|#/|stamp|serial numbered|seriennummer|stempel",
    "parallel": "variation|variant|finish|colour|color",
    "count": "count|qty|quantity|copies|anzahl|menge|quantité|cantidad|aantal",
    "marks": "marks|condition|flaws|defects",
    "owner": "owner|whose|buyer|besitzer|wem|propriétaire|dueño|eigenaar",
    "certificate": "certificate|cert|cert no",
}
_FIELD = {word: name for name, words in _MORE.items() for word in words.split("|")}


@dataclass(frozen=True, slots=True)
class OpeningRow:
    """One row of a log as text, by what its columns mean, with its line."""

    line: int
    cells: Mapping[str, str]

    def get(self, name: str) -> str:
        """Return a cell; empty when it is not there."""
        return self.cells.get(name, "").strip()

    @property
    def serial(self) -> str:
        """The serial as one types it, whether it stood in one column or in two."""
        serial, run = self.get("serial").replace(" ", ""), self.get("run").lstrip("/ ")
        if not serial and "/" in run:
            return run  # a column headed “numbered” may hold the whole stamp
        if "/" in serial or not serial:
            return serial
        return f"{serial}/{run}" if run else ""


def openings_csv(rows: Sequence[Mapping[str, str]]) -> bytes:
    """Write a log."""
    return csv_bytes([list(COLUMNS), *[[row.get(name, "") for name in COLUMNS] for row in rows]])


def log_shape(sheet: Sheet, header: int) -> str:
    """Return what logs with the same columns share."""
    cells = sheet.rows[header][1] if 0 <= header < len(sheet.rows) else ()
    return "openings:" + "|".join(bare(cell) or "-" for cell in cells)


def guess_columns(sheet: Sheet) -> tuple[int, dict[int, str]]:
    """Return the place of the header, and what each of its columns seems to mean."""
    best: tuple[int, dict[int, str]] = (0, {})
    for place, (_, cells) in enumerate(sheet.rows[:15]):
        found: dict[int, str] = {}
        for column, cell in enumerate(cells):
            word = cell.strip().casefold().replace("_", " ")
            name = cell.strip().casefold() if cell.strip().casefold() in TAKEN else _FIELD.get(word) or field_of(cell)
            if name in TAKEN and name not in found.values():
                found[column] = name
        if len(found) > len(best[1]):
            best = (place, found)
    return best


def mapped_rows(sheet: Sheet, header: int, columns: Mapping[int, str]) -> list[OpeningRow]:
    """Read the rows under the header by the columns as they were named."""
    return [
        OpeningRow(line, {name: cells[column] for column, name in columns.items() if column < len(cells)})
        for line, cells in sheet.rows[header + 1 :]
        if any(cell.strip() for cell in cells)
    ]
