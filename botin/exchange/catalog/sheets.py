"""Any file a checklist comes in, as sheets of numbered rows: zip, folder, workbook, CSV, text."""

from __future__ import annotations

import csv
import io
import json
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path, PurePosixPath
from typing import Any

from botin.core.errors import UnreadableFileError
from botin.exchange.decode import decode
from botin.exchange.guard import unguard
from botin.exchange.notes import Sheet
from botin.exchange.source import (
    DESCRIPTOR,
    csv_lines,
    folder_members,
    folder_names,
    parse_descriptor,
    says_whole_home,
)
from botin.exchange.zips import TABLES, ending_of, zip_members, zip_names

MAX_TABLE = 50 * 1024 * 1024
MAX_COLUMNS = 256
MAX_SHEET_ROWS = 300_000
MAX_CELL = 2_000
"""Characters of a line of text, or of a cell."""


IN_ZIP = frozenset((".csv", ".tsv", ".txt", ".md", ".xlsx", ".xlsm"))
"""Endings that are read within a zip or folder."""


@dataclass
class Sources:
    """What was given: sheets, and what a ``datapackage.json`` among them says of the product."""

    sheets: list[Sheet] = field(default_factory=list)
    descriptor: dict[str, Any] = field(default_factory=dict)
    columns: dict[str, dict[int, str]] = field(default_factory=dict)
    """What the user said of columns: by the shape of their table, place and field."""
    kinds: dict[str, str] = field(default_factory=dict)
    """What the user said of sections: key and kind."""
    sure: set[tuple[str, int]] = field(default_factory=set)
    """Lines whose guess the user confirmed."""

    def to_json(self) -> str:
        """Return everything as JSON, to keep it until it is stored."""
        sheets = [
            [one.name, one.is_text, [[n, list(cells)] for n, cells in one.rows], one.source, one.unread, one.beside]
            for one in self.sheets
        ]
        told = {"columns": self.columns, "kinds": self.kinds, "sure": sorted(map(list, self.sure))}
        kept = {"descriptor": self.descriptor, "sheets": sheets, **told}
        return json.dumps(kept, ensure_ascii=False)

    @classmethod
    def from_json(cls, text: str) -> Sources:
        """Read what `to_json` wrote."""
        kept = json.loads(text)
        sheets = [
            Sheet(name, tuple((n, tuple(cells)) for n, cells in rows), is_text, *source)
            for name, is_text, rows, *source in kept["sheets"]
        ]
        told = {
            shape: {int(place): name for place, name in columns.items()}
            for shape, columns in kept.get("columns", {}).items()
        }
        sure = {(place, line) for place, line in kept.get("sure", ())}
        return cls(sheets, kept["descriptor"], told, kept.get("kinds", {}), sure)

    def replaced(self, place: str, line: int, cells: Sequence[str]) -> Sources:
        """Return the sources with one row written anew; an empty one drops the row."""
        sure = self.sure - {(place, line)}
        made = replace(self, sheets=[], sure=sure)
        for sheet in self.sheets:
            rows = sheet.rows
            if sheet.place == place:
                keep = any(cell.strip() for cell in cells)
                rows = tuple((n, tuple(cells) if n == line else old) for n, old in rows if n != line or keep)
            made.sheets.append(replace(sheet, rows=rows))
        return made

    def add(self, sheet: Sheet) -> None:
        """Add a sheet; one that is called like another before it gets a number, so that a line has one place."""
        known = {one.place for one in self.sheets}
        place, count = sheet.place, 1
        while place in known:
            count += 1
            place = f"{sheet.place} ({count})"
        self.sheets.append(sheet if place == sheet.place else replace(sheet, source=place))


def delimiter_of(text: str) -> str:
    """Return the character that parts the cells: the one that most lines have equally often."""
    lines = [line for line in text[:20_000].splitlines() if line.strip()][:40]
    best, score = ",", 0.0
    for mark in (";", "\t", "|", ","):
        counts = Counter(len(next(csv.reader([line], delimiter=mark), [])) - 1 for line in lines)
        common = max(((n, times) for n, times in counts.items() if n > 0), key=lambda pair: pair[1], default=(0, 0))
        found = common[1] + min(common[0], 20) / 100
        if common[0] and found > score:
            best, score = mark, found
    return best


def text_sheet(name: str, text: str) -> Sheet:
    """Return pasted text as a sheet: a row of one cell a line."""
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    rows = tuple((number, (line.rstrip(),)) for number, line in enumerate(lines, 1) if line.strip())
    check_size(name, rows)
    return Sheet(name, rows, is_text=True)


def check_size(name: str, rows: Sequence[tuple[int, Sequence[str]]]) -> None:
    """Refuse what no checklist has: too many rows, or a cell that is a book of its own.

    Raises
    ------
    UnreadableFileError
        In words, with the line.
    """
    if len(rows) > MAX_SHEET_ROWS:
        message = f"{name} has {len(rows):,} lines; the most is {MAX_SHEET_ROWS:,}. Split it."
        raise UnreadableFileError(message)
    for number, cells in rows:
        longest = max(map(len, cells), default=0)
        if longest > MAX_CELL:
            message = (
                f"{name or 'The text'}, line {number}: {longest:,} characters in one place; the most is "
                f"{MAX_CELL:,}. Cut it, or break the line."
            )
            raise UnreadableFileError(message)


def csv_sheet(name: str, data: bytes) -> Sheet:
    """Return a CSV file as a sheet, whatever parts its cells.

    Raises
    ------
    UnreadableFileError
        When it is too large or not CSV.
    """
    if len(data) > MAX_TABLE:
        message = f"{name} has {len(data):,} bytes; the most is {MAX_TABLE:,}. Split it."
        raise UnreadableFileError(message)
    text = decode(data)
    if "\0" in text:
        message = f"{name} is no text file. Save it as CSV in UTF-8."
        raise UnreadableFileError(message)
    rows = []
    for number, cells in csv_lines(text, delimiter_of(text)):
        if len(cells) > MAX_COLUMNS:
            message = (
                f"{name}, line {number}: {len(cells):,} columns; the most is {MAX_COLUMNS}. Delete the empty ones."
            )
            raise UnreadableFileError(message)
        rows.append((number, tuple(unguard(cell) for cell in cells)))
        if len(rows) > MAX_SHEET_ROWS:
            break
    check_size(name, rows)
    return Sheet(PurePosixPath(name).stem, tuple(rows), source=name)


def _with_members(sources: Sources, members: dict[str, bytes], names: Sequence[str], file: str) -> None:
    """Add the files of a zip or folder; those beside a package's tables, and what is not read, are named."""
    if DESCRIPTOR in members:
        sources.descriptor = parse_descriptor(members[DESCRIPTOR])
        if says_whole_home(sources.descriptor):
            message = (
                "This is a whole home, not a product. It goes into an empty home: Settings, Safe keeping, or "
                "botin import FILE by itself. Nothing was taken in."
            )
            raise UnreadableFileError(message)
    read = TABLES if DESCRIPTOR in members else IN_ZIP
    for name, data in members.items():
        if ending_of(name) in read - {".json"}:
            _add_member(sources, name, data, file)
    unread = [name for name in names if ending_of(name) not in read - {".json"}]
    _add_unread(sources, [name for name in unread if PurePosixPath(name).name != DESCRIPTOR], file)


def _add_member(sources: Sources, name: str, data: bytes, file: str) -> None:
    alone = Sources()
    try:
        add_file(alone, name, data)
    except UnreadableFileError as exc:
        raise UnreadableFileError(f"{name}: {exc}") from exc
    place = f"{file}#{name}" if file else name
    for sheet in alone.sheets:
        tail = sheet.source.partition("#")[2]
        sources.add(replace(sheet, source=f"{place}#{tail}" if tail else place))


def _add_unread(sources: Sources, names: Sequence[str], file: str) -> None:
    """Name what is not read, a line for each ending: a folder of photos is one."""
    by_ending: dict[str, list[str]] = {}
    for name in names:
        by_ending.setdefault(ending_of(name), []).append(name)
    for ending, some in by_ending.items():
        words = some[0] if len(some) == 1 else f"{some[0]} and {len(some) - 1} more"
        beside = bool(sources.descriptor)
        says = f"{ending or 'a file without an ending'} is not read: give what it says as .csv, .xlsx or .txt"
        says = "beside a product package only its own tables are read" if beside else says
        rows, place = ((1, (words,)),), f"{file}#{some[0]}" if file else some[0]
        sources.add(Sheet(PurePosixPath(some[0]).stem, rows, is_text=True, source=place, unread=says, beside=beside))


def add_file(sources: Sources, name: str, data: bytes) -> None:
    """Add one uploaded file by its name's ending.

    Raises
    ------
    UnreadableFileError
        When it cannot be opened or is not safe to.
    """
    name = PurePosixPath(name.replace("\\", "/")).name or name
    suffix = PurePosixPath(name).suffix.casefold()
    if suffix == ".zip":
        members = zip_members(io.BytesIO(data), IN_ZIP | TABLES)
        _with_members(sources, members, zip_names(io.BytesIO(data)), name)
    elif suffix in (".xlsx", ".xlsm"):
        from botin.exchange.workbook import loose_sheets  # noqa: PLC0415  (openpyxl is slow to import)

        for sheet in loose_sheets(io.BytesIO(data)):
            sources.add(replace(sheet, source=f"{name}#{sheet.name}"))
    elif suffix in (".csv", ".tsv"):
        sources.add(csv_sheet(name, data))
    elif suffix == ".json":
        sources.descriptor = parse_descriptor(data)
    elif suffix in (".txt", ".md", ""):
        sources.add(replace(text_sheet(PurePosixPath(name).stem, decode(data)), source=name))
    else:
        message = f"{name} is no kind of file Botin reads. Give a .zip, .xlsx, .csv or .txt."
        raise UnreadableFileError(message)


def read_paths(paths: Sequence[Path]) -> Sources:
    """Read files and folders from the disk.

    Raises
    ------
    UnreadableFileError
        When one cannot be opened.
    """
    sources = Sources()
    for path in paths:
        if path.is_dir():
            _with_members(sources, folder_members(path, IN_ZIP | TABLES), folder_names(path), "")
        else:
            add_file(sources, path.name, _bytes_of(path))
    return sources


def read_texts(sources: Sources, paths: dict[str, Path | None]) -> None:
    """Add files of pasted text; the key says which field of the form they would have been pasted into.

    Raises
    ------
    UnreadableFileError
        When one cannot be opened.
    """
    for field_name, path in paths.items():
        if path is not None:
            sources.add(replace(text_sheet(field_name, decode(_bytes_of(path))), source=path.name))


def _bytes_of(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as exc:
        message = f"{path} cannot be opened. Check its name."
        raise UnreadableFileError(message) from exc
