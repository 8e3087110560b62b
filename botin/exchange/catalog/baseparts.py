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
    r"(?:base )?(?:(?P<rookie>rookies?|rookie cards|first years?|newcomers|neulinge)|veterans?|vets|legends?|stars|"
    r"commons|regulars?|retired(?: stars| greats)?)",
    re.IGNORECASE,
)


def join_parts(sorting: Sorting) -> None:
    """Make one base set of parts that are called so and whose plain numbers go on from one to the next."""
    parts = [section for section in sorting.sections.values() if _PART.fullmatch(section.label.strip())]
    numbered = [section for section in parts if section.cards and _is_plain(section)]
    if len(numbered) < 2 or not all(_goes_on(one, other) for one, other in pairwise(numbered)):
        return
    base = next((s for s in sorting.sections.values() if s.kind is Kind.BASE and s not in numbered), None)
    if base is not None and base.cards:
        return
    home = base or sorting.section("Base", numbered[0].line)
    for section in numbered:
        found = _PART.fullmatch(section.label.strip())
        rookie = "yes" if found and found["rookie"] else ""
        for place, card, more in section.cards:
            home.cards.append((place, card, more | ({"rookie": rookie} if rookie else {})))
            home.numbers.add(card.number)
        says = f"“{section.label}” is taken as a part of the base set: its numbers go on with the others"
        sorting.note(section.line, Status.GUESSED, says)
        del sorting.sections[section.key]


def _is_plain(section: OpenSection) -> bool:
    return all(number.isdecimal() for number in section.numbers)


def _goes_on(one: OpenSection, other: OpenSection) -> bool:
    return min(map(int, other.numbers)) == max(map(int, one.numbers)) + 1
