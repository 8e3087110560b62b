"""A base set that is listed club by club: the headings are clubs, and the numbers go through all of them."""

from __future__ import annotations

import re
from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING

from botin.core.catalog.product import Kind
from botin.exchange.catalog.kinds import guess_kind
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
        club = _as_written(sorting, section)
        for place, card, more in section.cards:
            why = f"the heading “{club}” is taken as the club"
            home.cards.append((place, replace(card, team=club, guesses=(*card.guesses, why)), more))
            home.numbers.add(card.number)
        sorting.note(
            section.line, Status.GUESSED, f"“{section.label}” is taken as a club: the numbers go through all headings"
        )
        del sorting.sections[section.key]


def _may_be_club(section: OpenSection) -> bool:
    bare = all(not card.team and card.number.isdecimal() for _, card, _ in section.cards)
    return bool(section.cards) and not section.named and section.expected is None and bare


def _as_written(sorting: Sorting, section: OpenSection) -> str:
    """Return a heading that is a club; one in capitals as names are written: HARROW BAY RC is Harrow Bay RC."""
    text = sorting.notes[section.line].text if section.line else ""
    found = re.search(re.escape(section.label), text, re.IGNORECASE)
    club = found[0] if found else section.label
    words = [word if len(word) < 3 else word.capitalize() for word in club.split()]
    return " ".join(words) if club.isupper() else club


def _interleave(one: OpenSection, other: OpenSection) -> bool:
    first, second = ([int(number) for number in section.numbers] for section in (one, other))
    return min(second) < max(first) and min(first) < max(second)


MOST = 0.25
"""Share of different “clubs” among the cards at most: there are few sections (a choice)."""


def swap_clubs(sorting: Sorting) -> None:
    """Put clubs and sections to their places where the headings are clubs and behind the cards stand the sections.

    They are that way round when what stands behind the cards is few, one of it names the base set, and most
    headings name no kind.
    """
    parts = [section for section in sorting.sections.values() if section.cards]
    behind = [card.team.casefold() for section in parts for _, card, _ in section.cards]
    if len(parts) < FEWEST or not all(behind) or len(set(behind)) > max(2, MOST * len(behind)):
        return
    headed = sum(not (part.named or part.by_column) for part in parts)
    if 2 * headed < len(parts) or Kind.BASE not in {guess_kind(text)[0] for text in behind}:
        return
    for part in parts:
        club = _as_written(sorting, part)
        del sorting.sections[part.key]
        sorting.note(part.line, Status.GUESSED, f"“{club}” is taken as a club: behind its cards stand sections")
        for place, card, more in part.cards:
            home = sorting.section(card.team, place, says=False)
            why = f"the heading “{club}” is taken as the club"
            home.cards.append((place, replace(card, team=club, guesses=(*card.guesses, why)), more))
            home.numbers.add(card.number)
