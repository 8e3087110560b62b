"""Counts of graded copies as a house publishes them, pasted: ``10; 1,240``, or ``signed; 9.5; 40`` for a section."""

from __future__ import annotations

import re

from botin.core.catalog.naming import Namer
from botin.core.errors import BotinError
from botin.exchange.tables import Column, RawTable, TableSpec
from botin.exchange.values import ValueUnclearError, read_count, read_grade

CELLS = "grade; count, or section; grade; count"


COUNTS = TableSpec(
    "grade counts",
    (
        Column("section", "Section of the cards; empty is the whole product"),
        Column("grade", "Grade, 10 or 9.5", required=True),
        Column(
            "count", "Graded copies with this grade", required=True, also=("population", "pop", "graded", "total")
        ),
    ),
)


class GradeCountError(BotinError):
    """A line of grade counts that cannot be read."""

    status = 422


def read_grade_counts(text: str, namer: Namer) -> dict[tuple[str, int], int]:
    """Read counts by section (empty: the whole product) and grade in halves (19 is a 9.5).

    Raises
    ------
    GradeCountError
        When a line cannot be read, or says a grade again.
    """
    lines = []
    for number, line in enumerate(text.splitlines(), 1):
        cells = [cell.strip() for cell in re.split(r"[;\t]|,(?=\s)", line.strip())]
        if any(cells) and [cell.casefold() for cell in cells[-2:]] != ["grade", "count"]:
            lines.append((number, line, cells))
    return _all_of(lines, namer)


def counts_of_table(table: RawTable, namer: Namer) -> dict[tuple[str, int], int]:
    """Read counts from a table with a column of grades, one of counts and, if it has it, one of sections.

    Raises
    ------
    GradeCountError
        When a row cannot be read, or says a grade again.
    """
    lines = []
    for row in table.rows:
        cells = [row.get(name) for name in COUNTS.names if name != "section" or row.get(name)]
        lines.append((row.line, "; ".join(cells), cells))
    return _all_of(lines, namer)


def _all_of(lines: list[tuple[int, str, list[str]]], namer: Namer) -> dict[tuple[str, int], int]:
    found: dict[tuple[str, int], int] = {}
    for number, line, cells in lines:
        key, count = _read(number, line, cells, namer)
        if key in found:
            message = f"Line {number}: that grade is counted above already. Add the two up, or name the section."
            raise GradeCountError(message)
        found[key] = count
    return found


def _read(number: int, line: str, cells: list[str], namer: Namer) -> tuple[tuple[str, int], int]:
    what = f"Line {number}: “{line.strip()[:40]}” is not understood. Write: {CELLS}."
    if not 2 <= len(cells) <= 3:
        raise GradeCountError(what)
    section = namer.section(cells[0]) if len(cells) == 3 else ""
    if section is None:
        message = f"Line {number}: there is no section “{cells[0][:40]}”. Write its label or its key."
        raise GradeCountError(message)
    try:
        grade, count = float(read_grade(cells[-2])), read_count(cells[-1].replace(",", "").replace(" ", ""))
    except ValueUnclearError as exc:
        message = f"Line {number}: {exc.message}"
        raise GradeCountError(message) from exc
    except ValueError as exc:
        raise GradeCountError(what) from exc
    return (section, int(2 * grade)), count
