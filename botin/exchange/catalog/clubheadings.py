"""A base set that is listed club by club: the headings are clubs, and the numbers go through all of them."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING

from botin.core.catalog.product import Kind
from botin.exchange.notes import Status

if TYPE_CHECKING:
    from botin.exchange.catalog.sorting import OpenSection, Sorting

FEWEST = 3
"""Headings from which they can be clubs."""
WHOLE = 0.9
"""Share of the numbers from 1 on that are there, from which the headings part one list (a choice)."""


def join_clubs(sorting: Sorting) -> None:
    """Make one base set of headings that no word names, whose numbers interleave and together count up from 1."""
    parts = [section for section in sorting.sections.values() if _may_be_club(section)]
    numbers = [int(number) for section in parts for number in section.numbers]
    if len(parts) < FEWEST or len(set(numbers)) < len(numbers) or len(numbers) < WHOLE * max(numbers):
        return
    if not any(_interleave(one, other) for one, other in pairwise(parts)):
        return
    base = next((s for s in sorting.sections.values() if s.kind is Kind.BASE and not s.cards), None)
    current = sorting.current
    home = base or sorting.section("Base", 0, says=False)
    sorting.current = home.key if any(section.key == current for section in parts) else current
    for section in parts:
        for place, card, more in section.cards:
            why = f"the heading “{section.label}” is taken as the club"
            home.cards.append((place, replace(card, team=section.label, guesses=(*card.guesses, why)), more))
            home.numbers.add(card.number)
        sorting.note(
            section.line, Status.GUESSED, f"“{section.label}” is taken as a club: the numbers go through all headings"
        )
        del sorting.sections[section.key]


def _may_be_club(section: OpenSection) -> bool:
    bare = all(not card.team and card.number.isdecimal() for _, card, _ in section.cards)
    return bool(section.cards) and not section.named and section.expected is None and bare


def _interleave(one: OpenSection, other: OpenSection) -> bool:
    first, second = ([int(number) for number in section.numbers] for section in (one, other))
    return min(second) < max(first) and min(first) < max(second)
