"""The tables of a package as sheets of one XLSX workbook."""

from __future__ import annotations

import datetime as dt
import io
import re
import zipfile
from collections.abc import Iterator, Sequence
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from botin.core.errors import UnreadableFileError
from botin.exchange.notes import Sheet
from botin.exchange.tables import PRODUCT_TABLES, RawPackage, raw_table
from botin.exchange.zips import check_zip

PRODUCT_SHEET = "product"
MAX_BYTES = 50 * 1024 * 1024
MAX_COLUMNS = 256
MAX_MERGED = 10_000
SMALL = 8 * 1024 * 1024
"""Bytes of a sheet up to which a workbook is loaded whole, to see its merged cells."""
MAX_USED_ROWS, MAX_BLANK = 300_000, 200
_DECIMALS = re.compile(r"0\.(0+)")


_BLANK = SimpleNamespace(value=None, data_type="n", number_format="")
"""Stands for a cell that is not there."""


def read_workbook(path: Path | io.BytesIO) -> RawPackage:
    """Read a workbook as text; numbers are read by their number format, so that 7.0 stays 7.0.

    Raises
    ------
    UnreadableFileError
        When it cannot be opened, is too large, or lacks a sheet or column that is required.
    """
    with open_workbook(path) as book:
        sheets = {sheet.title.strip().casefold(): sheet for sheet in book.worksheets}
        package = RawPackage(_descriptor(sheets.get(PRODUCT_SHEET)), suffix="")
        for spec in PRODUCT_TABLES:
            if spec.name in sheets:
                package.tables[spec.name] = raw_table(spec, sheet_lines(sheets[spec.name]), spec.name)
            elif spec.required:
                message = f"The workbook has no sheet “{spec.name}”. It needs formats, sections and cards."
                raise UnreadableFileError(message)
    return package


class _Closing:
    """openpyxl's workbook closes its file only by hand in read-only mode."""

    def __init__(self, book: Any) -> None:
        self.book = book

    def __enter__(self) -> Any:
        return self.book

    def __exit__(self, *_: object) -> None:
        self.book.close()


def open_workbook(path: Path | io.BytesIO, *, merged: bool = False, saved: bool = False) -> _Closing:
    """Open without running or following anything; what is too large or leads outside is refused.

    Raises
    ------
    UnreadableFileError
        In words, before any of it is loaded.
    """
    import openpyxl  # noqa: PLC0415  (slow to import)

    try:
        small = _check_archive(path)
        read_only = not (merged and small)
        return _Closing(openpyxl.load_workbook(path, read_only=read_only, data_only=saved, keep_links=False))
    except UnreadableFileError:
        raise
    except Exception as exc:  # openpyxl raises whatever a broken part of the file makes it raise
        name = path if isinstance(path, Path) else "The file"
        message = f"{name} cannot be opened as a workbook. Save it again as .xlsx."
        raise UnreadableFileError(message) from exc


def _check_archive(path: Path | io.BytesIO) -> bool:
    """Refuse what should not be opened; return whether it is small enough to be loaded whole."""
    with zipfile.ZipFile(path) as archive:
        infos = archive.infolist()
    check_zip(infos)
    if any(info.filename.startswith("xl/externalLinks/") for info in infos):
        message = (
            "The workbook takes values from other files. Copy its sheets and paste them as values, then try again."
        )
        raise UnreadableFileError(message)
    largest = max((info.file_size for info in infos if info.filename.startswith("xl/worksheets/")), default=0)
    if largest > MAX_BYTES:
        message = (
            f"A sheet of the workbook has {largest:,} bytes; the most is {MAX_BYTES:,}. Split it, or save it as CSV."
        )
        raise UnreadableFileError(message)
    return largest < SMALL


def loose_sheets(path: io.BytesIO) -> list[Sheet]:
    """Read every sheet as it lies there, with merged cells filled.

    No formula is run: the value that was saved beside it is taken, and where there is none its text stays.

    Raises
    ------
    UnreadableFileError
        When it cannot be opened or is too large.
    """
    with open_workbook(path, merged=True) as book:
        read = [(sheet.title, sheet.sheet_state == "visible", tuple(_filled(sheet))) for sheet in book.worksheets]
    if any(cell.startswith("=") for _, _, rows in read for _, cells in rows for cell in cells):
        saved = _saved_values(path)
        read = [(title, seen, _with_saved(rows, saved.get(title, {}))) for title, seen, rows in read]
    return [Sheet(title.strip(), rows) for title, _, rows in read]


def _saved_values(path: io.BytesIO) -> dict[str, dict[int, tuple[str, ...]]]:
    """Return the rows of every sheet with the values that were saved beside formulas."""
    with open_workbook(path, merged=True, saved=True) as book:
        return {sheet.title: dict(_filled(sheet)) for sheet in book.worksheets}


def _with_saved(
    rows: tuple[tuple[int, tuple[str, ...]], ...], saved: dict[int, tuple[str, ...]]
) -> tuple[tuple[int, tuple[str, ...]], ...]:
    """Put saved values in the place of formulas; a formula without one stays as its text."""
    made = []
    for number, cells in rows:
        values = saved.get(number, ())
        kept = [
            values[place] if cell.startswith("=") and place < len(values) and values[place] else cell
            for place, cell in enumerate(cells)
        ]
        made.append((number, tuple(kept)))
    return tuple(made)


def _filled(sheet: Any) -> Iterator[tuple[int, tuple[str, ...]]]:
    """Rows of a sheet; every cell of a merged range has the text of its first one."""
    ranges = getattr(sheet, "merged_cells", None)
    spans: dict[tuple[int, int], tuple[int, int]] = {}
    for found in ranges.ranges if ranges else ():
        if found.size["rows"] * found.size["columns"] <= MAX_MERGED and found.size["rows"] > 1:
            first = (found.min_row, found.min_col)
            spans |= {(row, found.min_col): first for row in range(found.min_row + 1, found.max_row + 1)}
    kept: dict[tuple[int, int], str] = {}
    for number, cells in sheet_lines(sheet, formulas=True):
        for column, text in enumerate(cells, 1):
            kept[(number, column)] = text if (number, column) not in spans else kept.get(spans[(number, column)], "")
        yield number, tuple(kept[(number, column)] for column in range(1, len(cells) + 1))


def sheet_lines(sheet: Any, *, formulas: bool = False) -> Iterator[tuple[int, list[str]]]:
    """Rows of a sheet as text with their row numbers; a formula is refused unless its text will do."""
    try:
        for number, cells in _used(sheet):
            if len(cells) > MAX_COLUMNS:
                message = f"Sheet “{sheet.title}” has more than {MAX_COLUMNS} columns. Delete the empty ones."
                raise UnreadableFileError(message)
            if not formulas and any(cell.data_type == "f" for cell in cells if cell.value is not None):
                message = (
                    f"Sheet “{sheet.title}”, row {number} holds a formula. Botin runs none: copy the sheet, paste "
                    "it as values, and try again."
                )
                raise UnreadableFileError(message)
            yield number, [cell_text(cell) for cell in cells]
    except UnreadableFileError:
        raise
    except Exception as exc:  # a damaged part of the sheet surfaces only while it is read
        message = f"Sheet “{sheet.title}” is damaged. Save the workbook again."
        raise UnreadableFileError(message) from exc


def _used(sheet: Any) -> Iterator[tuple[int, Sequence[Any]]]:
    """Rows up to their last cell that holds something: what is only formatted is not there.

    A few blank rows between others stay, since they part blocks; a sheet that is formatted down to its last row has
    no million of them.

    Raises
    ------
    UnreadableFileError
        When more rows hold something than a sheet may have.
    """
    last = 0
    for count, (number, cells) in enumerate(_written(sheet), start=1):
        if count > MAX_USED_ROWS:
            message = f"Sheet “{sheet.title}” has more than {MAX_USED_ROWS:,} rows. Split it."
            raise UnreadableFileError(message)
        if number - last <= MAX_BLANK:
            yield from ((blank, ()) for blank in range(last + 1, number))
        last = number
        yield number, cells


def _written(sheet: Any) -> Iterator[tuple[int, Sequence[Any]]]:
    """Rows that hold something, each up to the last cell that does."""
    known = getattr(sheet, "_cells", None)
    if known is None:  # read-only: rows come as they stand in the file
        sheet.reset_dimensions()
        for number, cells in enumerate(sheet.iter_rows(), start=1):
            if (size := _width(cells)) > 0:
                yield number, cells[:size]
        return
    rows: dict[int, dict[int, Any]] = {}
    for (number, column), cell in known.items():
        if cell.value is not None:
            rows.setdefault(number, {})[column] = cell
    for number in sorted(rows):
        row = rows[number]
        yield number, [row.get(column, _BLANK) for column in range(1, max(row) + 1)]


def _width(cells: Sequence[Any]) -> int:
    return next((at for at in range(len(cells), 0, -1) if cells[at - 1].value is not None), 0)


def cell_text(cell: Any) -> str:
    """Return a cell as it is shown: 7 formatted 0.0 is ``7.0``, a date is ISO, an error is empty."""
    value = cell.value
    if value is None or getattr(cell, "data_type", "") == "e":
        return ""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, (dt.datetime, dt.time, dt.timedelta)):
        return _time_text(value)
    if isinstance(value, (int, float)):
        return _number_text(float(value), str(cell.number_format or ""))
    return str(value)


def _time_text(value: dt.datetime | dt.time | dt.timedelta) -> str:
    """Return a day as ISO; a time is odds that were typed as 1:24 and became a time of day."""
    if isinstance(value, dt.datetime):
        return value.date().isoformat()
    if isinstance(value, dt.time):
        return f"{value.hour}:{value.minute}"
    hours, seconds = divmod(int(value.total_seconds()), 3600)
    return f"{hours}:{seconds // 60}"


def _number_text(value: float, shown: str) -> str:
    if "%" in shown:
        return f"{value * 100:.6g} %"
    found = _DECIMALS.search(shown)
    sign = next((sign for sign in "€$£¥" if sign in re.sub(r"\[\$([^-\]]*)[^\]]*\]", r"\1", shown)), "")
    if found and sign:
        return f"{sign}{value:.{len(found[1])}f}"
    if found:
        return f"{value:.{len(found[1])}f}"
    return str(int(value)) if value.is_integer() else repr(value)


def _descriptor(sheet: Any) -> dict[str, Any]:
    """Return the product sheet (two columns, name and value) in the shape of ``datapackage.json``."""
    if sheet is None:
        return {}
    pairs = {cells[0].strip().casefold(): cells[1].strip() for _, cells in sheet_lines(sheet) if len(cells) > 1}
    return {"name": pairs.pop("name", ""), "title": pairs.pop("title", ""), "botin": pairs}


def write_workbook(tables: dict[str, list[list[str]]], meta: list[tuple[str, str]]) -> bytes:
    """Write the tables as sheets, every cell as text, so that odds stay as printed."""
    import xlsxwriter  # noqa: PLC0415

    out = io.BytesIO()
    options = {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    with xlsxwriter.Workbook(out, {"in_memory": True, **options}) as book:
        head = book.add_format({"bold": True, "bottom": 1})
        text = book.add_format({"num_format": "@"})
        product = book.add_worksheet(PRODUCT_SHEET)
        for row, pair in enumerate(meta):
            product.write_row(row, 0, pair, text)
        for name, rows in tables.items():
            sheet = book.add_worksheet(name)
            sheet.freeze_panes(1, 0)
            for number, cells in enumerate(rows):
                for column, cell in enumerate(cells):
                    sheet.write_string(number, column, cell, text if number else head)
    return out.getvalue()
