"""A row a section, a column a finish: the run in the cell, or a tick."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from botin.exchange.catalog.blocks import Segment
from botin.exchange.catalog.columns import Column, Columns, make_columns
from botin.exchange.catalog.columnvalues import NO, is_ticked
from botin.exchange.catalog.columnwords import bare, fits
from botin.exchange.catalog.oddstext import FORMAT_WORDS
from botin.exchange.catalog.ratenames import find_section
from botin.exchange.catalog.runtext import run_of
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Status

if TYPE_CHECKING:
    from botin.exchange.catalog.tablesheet import Table


def are_across(segment: Segment, sections: Iterable[str]) -> bool:
    """Whether the first cells are sections that are known, and below headings that name no field stand runs."""
    known = {bare(label) for label in sections}
    heads = [head for head in segment.heads[1:] if head.strip()]
    if segment.head is None or len(heads) < 2 or any(fits(head) for head in heads):
        return False
    rows = [cells for cells in segment.cells if cells]
    first = [bare(cells[0]) for cells in rows if cells[0].strip()]
    if not first or not all(name in known for name in first):
        return False
    if any(bare(head) in (*known, *FORMAT_WORDS) for head in heads):
        return False
    given = [cell.strip() for cells in rows for cell in cells[1:] if cell.strip()]
    return bool(given) and all(_run(cell) is not None or cell.casefold() in NO for cell in given)


def columns_across(segment: Segment) -> Columns:
    """Return what the columns of such a table are: none of them is a question."""
    fields = ["section", *[f"finish:{head.strip()}" for head in segment.heads[1:]]]
    columns = zip(segment.heads, fields, strict=True)
    return make_columns(
        [Column(at, head.strip(), name, sure=True, why="", values=()) for at, (head, name) in enumerate(columns)]
    )


def _run(text: str) -> str | None:
    """Return the run a cell states, empty for a tick; None when it is neither."""
    return "" if is_ticked(text) else run_of(text)


def read_finishes_across(sorting: Sorting, table: Table) -> None:
    """Add what each row has a run or a tick for."""
    for place, cells in table.segment.rows:
        found = find_section(sorting, cells[0]) if cells and cells[0].strip() else None
        said = _add(sorting, place, found[0], table.segment.heads, cells) if found else []
        if found and said:
            says = f"finishes of {sorting.sections[found[0]].label}: {', '.join(said)}"
            sorting.note(place, Status.UNDERSTOOD, says)


def _add(sorting: Sorting, place: int, section: str, heads: Sequence[str], cells: Sequence[str]) -> list[str]:
    said = []
    for head, cell in zip(heads[1:], cells[1:], strict=False):
        text = cell.strip()
        run = _run(text) if text and text.casefold() not in NO else None
        if head.strip() and run is not None:
            sorting.parallel(place, section, head.strip(), run)
            said.append(f"{head.strip()}{f' /{run}' if run else ''}")
    return said
