"""Doubts about a reading as a whole: where it does not hang together, no card of its source is certain."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from botin.core.catalog.product import Kind
from botin.exchange.notes import Note, Status

if TYPE_CHECKING:
    from botin.exchange.catalog.sorting import OpenSection, Sorting

_TABLE = re.compile(r"\.(?:csv|tsv|xlsx?|xlsm)\b", re.IGNORECASE)
"""A table alone is often that of one set."""
UNREAD, FEWEST_UNREAD = 0.06, 3
"""Share of the lines of a source that were not read, and how many, from which the rest is doubted (choices)."""
SPREAD = 3
"""Sections over which the letters before numbers are spread: each set has its own."""
GAP = 3
"""Numbers that may be missing where those of one section go on in the next."""
LOOK = 3
"""Lines above a heading among which one that was not read makes it doubtful."""
NAMES = "numbers stand in most of the names: are they those of the cards?"
EMPTY_BASE = "the base set has a heading and no cards, those below it have no words of a set: are they clubs?"
ALIKE = "numbers that begin alike stand in several sections: are its headings sets?"
LEFT_UNREAD = "lines of this source were not read: look whether its cards are right"
BELOW = "a line above its heading was not read: is that the set?"
GOES_ON = "numbers go on below a heading without words of a set: is it one?"
HOMELESS = "no heading stands above cards with letters in their numbers: which set are they of?"
DOUBTS = (HOMELESS, NAMES, EMPTY_BASE, ALIKE, LEFT_UNREAD, BELOW, GOES_ON)
IN_NAMES = 0.3
"""Share of names with digits or signs in them from which numbers were left in the names (a choice)."""


def doubt_sources(sorting: Sorting) -> None:
    """Take the certainty from the cards of every source whose reading does not hang together, and say why."""
    why = {**_left_unread(sorting), **_by_sections(sorting)}
    before: OpenSection | None = None
    for section in sorting.sections.values():
        own = _own_doubt(sorting, before, section)
        before = section
        for place, _, _ in section.cards:
            says = why.get(sorting.places[place - 1][0], own) if place else ""
            if says and sorting.notes[place].status is Status.UNDERSTOOD:
                sorting.note(place, Status.GUESSED, says)


@dataclass(frozen=True, slots=True)
class Doubt:
    """A doubt about a source, and how many of its lines it holds for."""

    sheet: str
    words: str
    lines: int


def doubts_in(notes: Iterable[Note]) -> list[Doubt]:
    """Return the doubts that stand beside lines, those of most lines first."""
    found = Counter(
        (note.sheet, words)
        for note in notes
        if note.status is Status.GUESSED
        for words in DOUBTS
        if words in note.says
    )
    return [Doubt(sheet, words, count) for (sheet, words), count in found.most_common()]


def _own_doubt(sorting: Sorting, before: OpenSection | None, section: OpenSection) -> str:
    """Return why the cards of one section alone are doubted: nothing but its place makes its heading one."""
    if _is_homeless(section) and not _TABLE.search(sorting.places[section.cards[0][0] - 1][0]):
        return HOMELESS
    if not _is_only_heading(section):
        return ""
    if _is_below_unread(sorting, section):
        return BELOW
    return GOES_ON if before is not None and _goes_on(before, section) else ""


def _is_homeless(section: OpenSection) -> bool:
    """Whether cards of some insert stand below no heading: they are taken for the base set."""
    if section.kind is not Kind.BASE or section.by_column or not section.cards:
        return False
    return section.line in (0, section.cards[0][0]) and all(card.number[:1].isalpha() for _, card, _ in section.cards)


def _is_below_unread(sorting: Sorting, section: OpenSection) -> bool:
    """Whether one of the lines right above a heading was not read: it may be the heading of these cards."""
    sheet = sorting.places[section.line - 1][0]
    above = [at for at in range(max(1, section.line - LOOK), section.line) if sorting.places[at - 1][0] == sheet]
    return any(sorting.notes[at].status is Status.NOT and sorting.notes[at].text[:1].isupper() for at in above)


def _left_unread(sorting: Sorting) -> dict[str, str]:
    """Return the sources of which several lines were not read."""
    said = defaultdict[str, Counter[Status]](Counter)
    for note in sorting.notes.values():
        said[note.sheet][note.status] += 1
    return {
        source: f"{counts[Status.NOT]} {LEFT_UNREAD}"
        for source, counts in said.items()
        if counts[Status.NOT] >= max(FEWEST_UNREAD, UNREAD * counts.total())
    }


def _by_sections(sorting: Sorting) -> dict[str, str]:
    """Return the sources whose sections do not fit their numbers or their headings."""
    by_source: dict[str, list[OpenSection]] = defaultdict(list)
    for section in sorting.sections.values():
        for source in {sorting.places[place - 1][0] for place, _, _ in section.cards if place}:
            by_source[source].append(section)
        if section.line and not section.cards:
            by_source[sorting.places[section.line - 1][0]].append(section)
    found = {source: _why(sections) for source, sections in by_source.items()}
    return {source: why for source, why in found.items() if why}


def _why(sections: list[OpenSection]) -> str:
    """Return why sections do not hang together; empty when they do."""
    names = [card.name for section in sections for _, card, _ in section.cards]
    if sum(re.search(r"[#\d]", name) is not None for name in names) > IN_NAMES * max(len(names), 1):
        return NAMES
    if any(_is_empty_base(section) for section in sections) and any(_is_only_heading(one) for one in sections):
        return EMPTY_BASE
    spread = Counter(prefix for section in sections if not section.by_column for prefix in _prefixes(section))
    if any(count >= SPREAD for count in spread.values()):
        return ALIKE
    return ""


def _is_empty_base(section: OpenSection) -> bool:
    return section.kind is Kind.BASE and bool(section.line) and not section.cards


def _is_only_heading(section: OpenSection) -> bool:
    return bool(section.cards) and not section.named and bool(section.line) and not section.by_column


def _goes_on(before: OpenSection, section: OpenSection) -> bool:
    """Whether plain numbers go on from one section to another that only its place makes a heading."""
    if not before.cards or section.expected:
        return False
    last, first = before.cards[-1][1].number, section.cards[0][1].number
    return last.isdecimal() and first.isdecimal() and 0 < int(first) - int(last) <= GAP


def _prefixes(section: OpenSection) -> set[str]:
    """Return the letters before the numbers of a section, those of several cards of it or of its only one."""
    codes = [
        card.number for _, card, _ in section.cards if not card.number.isalpha()
    ]  # initials are no letters of a set
    found = Counter(re.split(r"[-\d]", code)[0].upper() for code in codes)
    return {prefix for prefix in found if prefix}
