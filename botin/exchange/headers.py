"""What the columns of a table are called by the people who make such tables."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

_SYNONYMS = {
    "number": "no|nr|num|number|#|card no|card nr|card number|card #|card num|checklist no|checklist number|id",
    "name": "name|names|player|players|athlete|athletes|rider|riders|subject|subjects|player name|card name|"
    "full name|who|description|title|player(s)|name(s)",
    "team": "team|teams|club|clubs|squad|team name|club name|affiliation|team(s)",
    "section": "section|set|subset|sub set|insert|insert set|card set|set name|checklist|category|type",
    "rookie": "rc|rookie|rookies|rookie card|r c|first year",
    "run": "run|print run|numbered|serial|serial numbered|#'d|#d|numbering|numbered to|copies|seq|sequence|/|# to",
    "parallel": "parallel|parallels|finish|version|color|colour|parallel name",
    "odds": "odds|ratio|pull rate|pull odds|insertion|insertion rate|stated odds|pack odds",
    "note": "note|notes|comment|comments|remark|remarks",
    "group": "group|odds group|tier",
    "back_code": "back code|code|back",
    "cue": "cue|how to tell|identifier",
}
_FIELD = {word: field for field, words in _SYNONYMS.items() for word in words.split("|")}
LOOK = 15
"""Rows that may stand above the header."""


@dataclass(frozen=True)
class Header:
    """Where the header stands, which field each column is, and which columns name a format."""

    row: int
    fields: dict[int, str]
    formats: dict[int, str]
    unknown: tuple[str, ...]

    @cached_property
    def _columns(self) -> dict[str, int]:
        return {field: column for column, field in self.fields.items()}

    def column(self, name: str) -> int | None:
        """Return the column of a field."""
        return self._columns.get(name)


def _plain(cell: str) -> str:
    return re.sub(r"\s+", " ", cell.strip().casefold().replace("_", " ")).rstrip(".:*").strip()


def field_of(cell: str) -> str | None:
    """Return the field a column's name means."""
    return _FIELD.get(_plain(cell))


def find_header(rows: Sequence[tuple[int, tuple[str, ...]]], formats: Iterable[str]) -> Header | None:
    """Find the header among the first rows: the one with the most columns that are understood, at least two."""
    words = tuple(formats)
    best: Header | None = None
    for place, (_, cells) in enumerate(rows[:LOOK]):
        found = _header(place, cells, words)
        if len(found.fields) + len(found.formats) >= 2 and (
            best is None or len(found.fields) + len(found.formats) > len(best.fields) + len(best.formats)
        ):
            best = found
    return _settle(best, rows) if best else None


def _header(place: int, cells: tuple[str, ...], formats: tuple[str, ...]) -> Header:
    fields: dict[int, str] = {}
    named: dict[int, str] = {}
    unknown: list[str] = []
    for column, cell in enumerate(cells):
        field = field_of(cell) or ("card" if _plain(cell) == "card" else None)
        word = next((word for word in formats if re.search(rf"\b{re.escape(word)}\b", _plain(cell))), None)
        if field and field not in fields.values():
            fields[column] = field
        elif word and word not in named.values() and len(cell) < 40:
            named[column] = word
        elif cell.strip():
            unknown.append(cell.strip())
    return Header(place, fields, named, tuple(unknown))


def _settle(header: Header, rows: Sequence[tuple[int, tuple[str, ...]]]) -> Header:
    """A column called “Card” holds numbers or names: what stands in it decides."""
    column = header.column("card")
    if column is None:
        return header
    sample = [cells[column] for _, cells in rows[header.row + 1 : header.row + 30] if len(cells) > column]
    filled = [cell for cell in sample if cell.strip()]
    digits = sum(1 for cell in filled if re.fullmatch(r"#?\s*[A-Za-z]{0,6}-?\d+[A-Za-z]?", cell.strip()))
    wanted = "number" if digits * 2 > len(filled) and header.column("number") is None else "name"
    if wanted == "name" and header.column("name") is not None:
        fields = {place: field for place, field in header.fields.items() if place != column}
    else:
        fields = {**header.fields, column: wanted}
    return Header(header.row, fields, header.formats, header.unknown)
