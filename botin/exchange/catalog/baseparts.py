"""Parts of the base set with headings of their own: veterans and rookies whose numbers go on."""

from __future__ import annotations

import re
from itertools import pairwise
from typing import TYPE_CHECKING

from botin.core.catalog.product import Kind
from botin.exchange.notes import Status

if TYPE_CHECKING:
    from botin.exchange.catalog.sorting import OpenSection, Sorting

_PART = re.compile(
    r"(?:base(?: set)?\s*[/,&+–-]?\s*)?(?:(?P<rookie>rookies?|rookie cards|first years?|newcomers|neulinge)|"
    r"veterans?|vets|legends?|stars|"
    r"commons|regulars?|retired(?: stars| greats)?)",
    re.IGNORECASE,
)


def join_parts(sorting: Sorting) -> None:
    """Make one base set of parts that are called so and whose plain numbers go on from one to the next."""
    _join_among(sorting)
    parts = [section for section in sorting.sections.values() if _PART.fullmatch(section.label.strip())]
    numbered = [section for section in parts if section.cards and _is_plain(section)]
    if len(numbered) < 2 or not all(_goes_on(one, other) for one, other in pairwise(numbered)):
        return
    base = next((s for s in sorting.sections.values() if s.kind is Kind.BASE and s not in numbered), None)
    if base is not None and base.cards:
        return
    home = base or sorting.section("Base", numbered[0].line)
    for section in numbered:
        _join(sorting, home, section, "its numbers go on with the others")


def _join_among(sorting: Sorting) -> None:
    """Join the rookies that stand among the numbers of the base set, one here, one there."""
    base = next((s for s in sorting.sections.values() if s.kind is Kind.BASE and s.cards and _is_plain(s)), None)
    for section in [s for s in sorting.sections.values() if s is not base and s.cards and _is_plain(s)]:
        found = _PART.fullmatch(section.label.strip())
        if base is None or not found or not found["rookie"] or base.numbers & section.numbers:
            continue
        own, others = set(map(int, section.numbers)), set(map(int, base.numbers))
        if min(own) < max(others) and min(others) < max(own):
            _join(sorting, base, section, "its numbers stand among the others")


def _join(sorting: Sorting, home: OpenSection, section: OpenSection, why: str) -> None:
    found = _PART.fullmatch(section.label.strip())
    rookie = "yes" if found and found["rookie"] else ""
    says = f"“{section.label}” is taken as a part of the base set: {why}"
    for place, card, more in section.cards:
        home.cards.append((place, card, more | ({"rookie": rookie} if rookie else {})))
        home.numbers.add(card.number)
        if section.by_column:
            sorting.note(place, Status.GUESSED, says)
    home.cards.sort(key=lambda item: item[0])
    sorting.note(section.line, Status.GUESSED, says)
    del sorting.sections[section.key]


def _is_plain(section: OpenSection) -> bool:
    return all(number.isdecimal() for number in section.numbers)


def _goes_on(one: OpenSection, other: OpenSection) -> bool:
    return min(map(int, other.numbers)) == max(map(int, one.numbers)) + 1
