"""Readers that cannot be drowned: by a formatted cell far down, by endless lines, by patterns that go back and back."""

from __future__ import annotations

import importlib
import io
import pkgutil
import re
import time
from collections.abc import Iterator

import openpyxl
import pytest
from openpyxl.styles import Font

import botin.core
import botin.exchange
from botin.core.errors import UnreadableFileError
from botin.exchange.catalog.sheets import MAX_CELL, MAX_SHEET_ROWS, csv_sheet, text_sheet
from botin.exchange.source import read_table
from botin.exchange.tables import CARDS, MAX_ROWS
from botin.exchange.workbook import MAX_USED_ROWS, loose_sheets, read_workbook


def workbook(
    far: tuple[int, int] | None = None, rows: int = 20, *, sheets: tuple[str, ...] = ("Base",)
) -> io.BytesIO:
    """A workbook of so many cards in each sheet; a cell far away is bold and empty."""
    book = openpyxl.Workbook()
    book.remove(book.active)
    for title in sheets:
        sheet = book.create_sheet(title)
        sheet.append(["number", "name", "team"])
        for number in range(1, rows):
            sheet.append([number, f"Rider {number}", "Wheelers"])
        if far:
            sheet.cell(*far).font = Font(bold=True)
    out = io.BytesIO()
    book.save(out)
    return io.BytesIO(out.getvalue())


@pytest.mark.parametrize("far", [(1_048_576, 3), (40, 16_384), (1_048_576, 16_384)])
def test_one_formatted_cell_far_away_is_not_read_as_a_million_rows(far: tuple[int, int]) -> None:
    """5 KB of file took over a minute and 2 GB: the used range goes by what cells hold, not by how they look."""
    start = time.process_time()
    (sheet,) = loose_sheets(workbook(far))
    assert time.process_time() - start < 5.0
    assert len(sheet.rows) == 20
    assert max(len(cells) for _, cells in sheet.rows) == 3


def test_a_package_workbook_is_read_the_same_way() -> None:
    start = time.process_time()
    with pytest.raises(UnreadableFileError):
        read_workbook(workbook((1_048_576, 16_384), sheets=("formats", "sections", "cards")))
    assert time.process_time() - start < 5.0


def test_blank_rows_between_blocks_stay_and_numbers_are_those_of_the_sheet() -> None:
    book = openpyxl.Workbook()
    book.active["A1"], book.active["A4"], book.active["B900"] = "one", "two", "three"
    out = io.BytesIO()
    book.save(out)
    (sheet,) = loose_sheets(io.BytesIO(out.getvalue()))
    assert [(number, cells) for number, cells in sheet.rows if any(cells)] == [
        (1, ("one",)),
        (4, ("two",)),
        (900, ("", "three")),
    ]
    assert len(sheet.rows) == 5


def test_too_many_rows_are_refused_in_words(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("botin.exchange.workbook.MAX_USED_ROWS", 10)
    monkeypatch.setattr("botin.exchange.catalog.sheets.MAX_SHEET_ROWS", 10)
    with pytest.raises(UnreadableFileError, match="more than 10 rows"):
        loose_sheets(workbook())
    with pytest.raises(UnreadableFileError, match="the most is 10"):
        csv_sheet("cards.csv", b"1,a\n" * 12)
    with pytest.raises(UnreadableFileError, match="the most is 10"):
        text_sheet("", "12 Orla\n" * 12)
    assert MAX_USED_ROWS == MAX_SHEET_ROWS == 300_000


@pytest.mark.parametrize("line", ["x" * (MAX_CELL + 1), "1" * 50_000])
def test_a_line_without_end_is_refused_with_its_place(line: str) -> None:
    with pytest.raises(UnreadableFileError, match=r"line 2: [\d,]+ characters"):
        text_sheet("Pasted", f"1 Orla Thorsby\n{line}")
    with pytest.raises(UnreadableFileError, match=r"line 2: [\d,]+ characters"):
        csv_sheet("cards.csv", f"number,name\n1,{line}\n".encode())


def patterns() -> Iterator[tuple[str, re.Pattern[str]]]:
    for package in (botin.exchange, botin.core):
        for found in pkgutil.iter_modules(package.__path__):
            module = importlib.import_module(f"{package.__name__}.{found.name}")
            for name, value in vars(module).items():
                if isinstance(value, re.Pattern):
                    yield f"{found.name}.{name}", value


EVIL = tuple(piece * (MAX_CELL // len(piece)) for piece in (
    "1", " ", "a", "1 ", "(1/", "1,", "box ", ", ", "1/1 ", "-", "é", "1:", "$", "1.", "a ", "#", "1 in ", "per ",
))  # fmt: skip


@pytest.mark.parametrize(("name", "pattern"), list(patterns()))
def test_no_pattern_of_a_reader_goes_back_without_end(name: str, pattern: re.Pattern[str]) -> None:
    """The longest line that is read, of one thing over and over, in processor time: up to two minutes before."""
    slowest = 0.0
    for text in EVIL:
        for ending in ("", "x", "!\0"):
            start = time.process_time()
            pattern.search(text + ending)
            pattern.fullmatch(text + ending)
            slowest = max(slowest, time.process_time() - start)
    assert slowest < 2.0, name


def test_a_table_of_a_package_has_an_end_too(monkeypatch: pytest.MonkeyPatch) -> None:
    assert MAX_ROWS == MAX_SHEET_ROWS
    monkeypatch.setattr("botin.exchange.tables.MAX_ROWS", 10)
    assert len(read_table(CARDS, b"section,number,name\n" + b"base,1,A\n" * 10, "cards.csv").rows) == 10
    with pytest.raises(UnreadableFileError, match="more than 10 rows"):
        read_table(CARDS, b"section,number,name\n" + b"base,1,A\n" * 11, "cards.csv")
