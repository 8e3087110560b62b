"""Rows of a table of cards that are of a finish: a card once more, a whole range, a list beside a card."""

from __future__ import annotations

import re
from collections.abc import Mapping

from botin.exchange.catalog.cardtext import CardLine
from botin.exchange.catalog.finishtext import is_plain
from botin.exchange.catalog.runtext import run_of, take_run
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Status

_RANGE = re.compile(r"(?P<first>(?P<code>[A-Z]{0,6}-?)\d{1,4})\s?(?:[-–]|to)\s?(?P=code)\d{1,4}", re.IGNORECASE)
_EVERY = re.compile(r"(?:all|every|each|entire|whole|complete|full|any|alle|toutes|todas)\b.*|[-–—*]?", re.IGNORECASE)


def finish_of(sorting: Sorting, place: int, row: Mapping[str, str]) -> str:
    """Return the finish a row is of; a list of finishes is what its section has, the row is the plain card."""
    text = row.get("parallel", "")
    if is_plain(text):
        return ""
    parts = [part.strip() for part in re.split(r"[;,](?!\d{3}\b)", text) if part.strip()]
    if len(parts) < 2:
        return text
    for part in parts:
        label, run = take_run(part)
        sorting.parallel(place, sorting.current, label, run)
    return ""


def finish_of_range(sorting: Sorting, place: int, row: Mapping[str, str]) -> bool:
    """Take a row like “1-100 | all | Gold | 50” for a finish of the section whose cards it names."""
    found = _RANGE.fullmatch(row.get("number", ""))
    if not found or not _EVERY.fullmatch(row.get("name", "")):
        return False
    section = next((one for one in sorting.sections.values() if found["first"] in one.numbers), None)
    run = run_of(row.get("run", "")) or ""
    label, stated = take_run(row["parallel"])
    if section is None:
        sorting.note(place, Status.NOT, f"no card {found['first']} stands above: which section has {label}?")
        return True
    sorting.parallel(place, section.key, label, run or stated)
    sorting.note(place, Status.GUESSED, f"finish {label} of {section.label}, whose numbers it names")
    return True


def as_finish(sorting: Sorting, place: int, card: CardLine, parallel: str, run: str) -> bool:
    """A row for each finish: the card is listed once, the finish belongs to its section."""
    section = sorting.sections[sorting.current]
    label, stated = take_run(parallel)
    sorting.parallel(place, section.key, label, run or stated)
    if card.number in section.numbers:
        sorting.note(place, Status.UNDERSTOOD, f"card {card.number} also as {label}")
        return True
    return False
