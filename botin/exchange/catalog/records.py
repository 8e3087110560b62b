"""Cards told otherwise than a row each: a record of fields over several lines, all cards of a rider in a cell."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace

from botin.exchange.catalog.cardtext import card_of
from botin.exchange.catalog.columnwords import field_of
from botin.exchange.catalog.oddstext import cell_rate
from botin.exchange.notes import Sheet

_FIELD = re.compile(r"\s*(?P<key>[^\W\d_][\w .#/-]{0,24}?)\s*[:=]\s*(?P<value>.*?)\s*$")
_ONE = re.compile(r"(?P<section>\S.*?)[\s#:]+(?P<number>[A-Za-z]{0,6}-?\d{1,5}[a-z]?|[A-Z0-9]{1,6}-[A-Z0-9]{1,6})")
_PARTED = re.compile(r"\s*[;|]\s*|\s*,\s+")
FEWEST, NEARLY = 3, 0.8
"""Records at least, and share of the lines that must be fields, or of the cells that must be lists (choices)."""

Rows = list[tuple[int, tuple[str, ...]]]


def as_records(sheet: Sheet) -> tuple[Sheet, dict[int, int]] | None:
    """Return a text whose lines are fields, “Number: 12”, as a table; None when they are not.

    Returns
    -------
    tuple
        The table, each record on the line of its name; and for the other lines of records the one it stands on.
    """
    said = [(line, _FIELD.match(cells[0])) for line, cells in sheet.rows if cells and cells[0].strip()]
    fields = [(line, found["key"], found["value"]) for line, found in said if found]
    counts = Counter(key for _, key, _ in fields)
    keys = [key for key, count in counts.items() if count >= FEWEST and 2 * count > max(counts.values())]
    known = {field_of(key) for key in keys}
    if len(fields) < NEARLY * len(said) or not {"number", "name"} <= known:
        return None
    rows: Rows = []
    member: dict[int, int] = {}
    for record in _records(fields):
        at = next((line for line, key, _ in record if field_of(key) == "name"), record[0][0])
        values = {key: value for _, key, value in record}
        rows.append((at, tuple(values.get(key, "") for key in keys)))
        member |= {line: at for line, _, _ in record if line != at}
    return replace(sheet, rows=((0, tuple(keys)), *rows), is_text=False), member


def _records(fields: Sequence[tuple[int, str, str]]) -> Iterator[list[tuple[int, str, str]]]:
    """Part fields where one comes that the record has already."""
    record: list[tuple[int, str, str]] = []
    for one in fields:
        if any(key == one[1] for _, key, _ in record):
            yield record
            record = []
        record.append(one)
    if record:
        yield record


def card_each(sheet: Sheet) -> Sheet:
    """Return a table of riders with all their cards in a cell, “Base 12; Night Sprints NS-3”, with a row for each."""
    if sheet.is_text or len(sheet.rows) <= FEWEST:
        return sheet
    (line, heads), *below = sheet.rows
    fields = [field_of(head) for head in heads]
    if "name" not in fields or "number" in fields:
        return sheet
    at = next(
        (at for at in range(len(heads)) if _is_list([cells[at] for _, cells in below if at < len(cells)])), None
    )
    if at is None or fields[at] in ("parallel", "run", "odds"):
        return sheet
    rows: Rows = [(line, (*heads[:at], "Set", *heads[at + 1 :], "Number"))]
    for number, cells in below:
        padded = (*cells, *[""] * (len(heads) - len(cells)))
        for found in map(_ONE.fullmatch, _PARTED.split(padded[at].strip())):
            section, card = (found["section"], found["number"]) if found else (padded[at], "")
            rows.append((number, (*padded[:at], section, *padded[at + 1 :], card)))
    return replace(sheet, rows=tuple(rows))


def cards_down(sheet: Sheet) -> Sheet:
    """Return a sheet whose columns are sets, whole cards below, “12 Orla Thorsby (Tarn)”, as rows of both."""
    if sheet.is_text or len(sheet.rows) <= FEWEST:
        return sheet
    (line, heads), *below = sheet.rows
    named = [at for at, head in enumerate(heads) if head.strip()]
    if len(named) < 2 or any(map(field_of, heads)) or any(card_of(head) is not None for head in heads):
        return sheet
    given = [(number, at, cells[at].strip()) for number, cells in below for at in named if at < len(cells)]
    cards = [(number, at, text) for number, at, text in given if text]
    if cards and cell_rate(cards[0][2]) is not None:
        return sheet
    whole = sum(card_of(text) is not None for _, _, text in cards)
    if len(cards) <= FEWEST or whole < NEARLY * len(cards):
        return sheet
    rows = [(number, (heads[at].strip(), text)) for number, at, text in sorted(cards, key=lambda one: one[1])]
    return replace(sheet, rows=((line, ("Set", "Card")), *rows))


def _is_list(cells: Sequence[str]) -> bool:
    """Whether cells name cards by section and number, some of them several."""
    given = [_PARTED.split(cell.strip()) for cell in cells if cell.strip()]
    whole = sum(all(map(_ONE.fullmatch, parts)) for parts in given)
    sections = {found["section"] for parts in given for found in map(_ONE.fullmatch, parts) if found}
    many = any(len(parts) > 1 for parts in given)
    return many and whole >= NEARLY * len(given) and 2 * len(sections) < sum(map(len, given))
