"""Pasted text that is a table: cells parted by tabs or bars, under their headings."""

from __future__ import annotations

import re
from dataclasses import replace

from botin.exchange.catalog.blocks import filled, is_head
from botin.exchange.catalog.columnvalues import NUMBER
from botin.exchange.catalog.columnwords import field_of
from botin.exchange.catalog.textreader import is_finish_like
from botin.exchange.notes import Sheet

_RULE = re.compile(r"[\s|:+=-]+")
"""The line that parts headings from rows in Markdown."""
_BULLET = re.compile(r"^\s*[•·▪◦‣●*]\s+")
DASH = " - "
MARKS = ("\t", "|", ";", DASH)
FEWEST = 3
SAMPLE = 40
"""Lines among which dashes are looked at first: most texts have them between name and club."""


def as_table(sheet: Sheet, fewest: int = FEWEST) -> Sheet | None:
    """Return a text as a table; None when its lines, ``fewest`` at least, are no cells under known headings."""
    for mark in MARKS:
        if mark == DASH and not _number_inside([_cells(cells[0], mark) for _, cells in sheet.rows[:SAMPLE] if cells]):
            continue
        rows = [(line, _cells(cells[0] if cells else "", mark)) for line, cells in sheet.rows]
        parted = [cells for _, cells in rows if len(cells) >= FEWEST]
        if len(parted) < fewest or 2 * len(parted) < len(rows):
            continue
        if _reads_as_text(sheet, parted):
            return None
        if any(is_head(cells, []) for cells in parted[:5]) or _number_inside(parted):
            return replace(sheet, rows=tuple(rows), is_text=False)
    return None


def _number_inside(parted: list[tuple[str, ...]]) -> bool:
    """Whether cells without headings have their number behind something else, the section: no line of a text has."""
    width = min(map(len, parted), default=0)
    for at in range(1, width - 1):
        numbers = sum(NUMBER.fullmatch(cells[at]) is not None for cells in parted)
        words = sum(re.match(r"[^\W\d_]", cells[at - 1] and cells[at + 1]) is not None for cells in parted)
        if numbers == len(parted) and words >= 0.9 * len(parted) and not any(NUMBER.fullmatch(c[0]) for c in parted):
            return True
    return False


def _cells(text: str, mark: str) -> tuple[str, ...]:
    bare = _BULLET.sub("", text.strip() if mark != "\t" else text.strip("\n"))
    if mark == "|":
        if "|" in bare and _RULE.fullmatch(bare):
            return ()
        bare = bare.strip("|")
    parts = re.split(r"\s+[-–—]\s+", bare) if mark == DASH else bare.split(mark)
    return tuple(cell.strip() for cell in parts)


def _reads_as_text(sheet: Sheet, parted: list[tuple[str, ...]]) -> bool:
    """Whether finishes stand between the headings of sections and their cards, which lines of a text say as well.

    Only where number, name and club stand in this order: any other is read by the headings of its columns.
    """
    heads = [cells for cells in parted if is_head(cells, [])]
    plain = all([field_of(cell) for cell in filled(cells)][:2] == ["number", "name"] for cells in heads)
    lines = ("\t".join(cells) for _, cells in sheet.rows)
    return len(heads) > 1 and plain and any(map(is_finish_like, lines))
