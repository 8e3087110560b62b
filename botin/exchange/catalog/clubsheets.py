"""Sheets of one workbook that are alike, with a column of sections and none of clubs: their names are the clubs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import replace

from botin.exchange.catalog.columns import recognise
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.tablesheet import GENERIC, Table, hint_of
from botin.exchange.notes import Sheet

FEW = 3
"""So many sheets at least: two alike may be the base set and the inserts."""
SHEET = "the sheet is named after no section: taken for the club"


def club_sheets(sheets: Sequence[Sheet]) -> frozenset[str]:
    """Return the places of the sheets whose names are clubs: three and more alike, each named after no set."""
    heads = {sheet.place: _heads(sheet) for sheet in sheets if _is_sheet(sheet)}
    counts = Counter(heads[sheet.place] for sheet in sheets if _is_sheet(sheet) and not guess_kind(sheet.name)[1])
    found: set[str] = set()
    for head in (head for head, count in counts.items() if head and count >= FEW):
        alike = [sheet for sheet in sheets if heads.get(sheet.place) == head]
        columns = recognise(head, [cells for _, cells in alike[0].rows[1:]], (), (), None)
        if columns.has("section", "name") and not columns.has("team"):
            at = columns.by_field["section"]
            said = {cells[at].strip().casefold() for one in alike for _, cells in one.rows if at < len(cells)}
            found |= {one.place for one in alike if not _is_said(one.name.strip().casefold(), said)}
    return frozenset(found)


def with_club(tables: Sequence[Table], *, of_club: bool) -> list[Table]:
    """Return the tables of a sheet with the club that its name is."""
    return [replace(table, club=table.sheet.name.strip()) if of_club else table for table in tables]


def _is_sheet(sheet: Sheet) -> bool:
    """Whether a sheet of a workbook has a name of its own that says no kind of table."""
    bare = sheet.name.strip()
    return not sheet.is_text and "#" in sheet.source and not hint_of(bare) and GENERIC.fullmatch(bare) is None


def _is_said(name: str, sections: Iterable[str]) -> bool:
    """Whether a sheet is named after one of its sections, or a part of its name."""
    return any(name in section or section in name for section in sections if section)


def _heads(sheet: Sheet) -> tuple[str, ...]:
    return tuple(cell.strip() for cell in sheet.rows[0][1]) if sheet.rows else ()
