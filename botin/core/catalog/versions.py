"""The versions of a checklist in flat arrays: who is on them, which section and finish, how long the run."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.catalog.product import Card, Product
from botin.core.counts import FloatArray

Ints = npt.NDArray[np.int64]
Level = tuple[str, str]


@dataclass(frozen=True)
class Versions:
    """All versions of a product.

    Attributes
    ----------
    person, level : array (versions)
        Places in ``people`` and ``levels``.
    number_of : dict
        Place of each version by section, number and parallel.
    runs : array (levels)
        Run of a level; 0 when it is not numbered (or its groups differ: their shortest).
    """

    person: Ints
    level: Ints
    number_of: dict[tuple[str, str, str], int]
    people: dict[Hashable, int]
    levels: dict[Level, int]
    runs: FloatArray

    def person_of(self, card: Card) -> int:
        """Place of the player of a card; −1 when he is on no checklist card."""
        return self.people.get(who_is_on(card), -1)


def who_is_on(card: Card) -> Hashable:
    """Return who moves the price of a card: the first named, or without names the card itself."""
    return card.people[0] if card.people else (card.section, card.number)


def versions_of(product: Product) -> Versions:
    """Lay out the versions of a product: every card plain and in every finish it has."""
    people: dict[Hashable, int] = {}
    levels: dict[Level, int] = {}
    runs: list[float] = []
    number_of: dict[tuple[str, str, str], int] = {}
    person: list[int] = []
    level: list[int] = []
    for card in product.cards:
        who = people.setdefault(who_is_on(card), len(people))
        finishes = product.finishes(card.section, card.group)
        for parallel in ("", *(key for key in finishes if key)):
            place = levels.setdefault((card.section, parallel), len(levels))
            if place == len(runs):
                row = finishes.get(parallel)
                runs.append(float((product.run_of(row) or 0) if row else 0))
            number_of[(card.section, card.number, parallel)] = len(person)
            person.append(who)
            level.append(place)
    return Versions(np.array(person, np.int64), np.array(level, np.int64), number_of, people, levels, np.array(runs))


def with_priced(versions: Versions, product: Product, priced: Iterable[tuple[str, str, str]]) -> Versions:
    """Add versions that have prices in a finish the checklist does not list: late finishes, typed by hand.

    Parameters
    ----------
    priced : iterable of (section, number, parallel)
        An empty number adds the finish alone.
    """
    more = [
        key for key in dict.fromkeys(priced)
        if key not in versions.number_of and ((key[:2] in product.card_by_number) or not key[1])
        and key[0] in product.section_by_key
    ]  # fmt: skip
    if not more:
        return versions
    levels, numbers, people = dict(versions.levels), dict(versions.number_of), dict(versions.people)
    person, level = versions.person.tolist(), versions.level.tolist()
    for section, number, parallel in more:
        place = levels.setdefault((section, parallel), len(levels))
        if number:
            card = product.card_by_number[(section, number)]
            numbers[(section, number, parallel)] = len(person)
            person.append(people[who_is_on(card)])
            level.append(place)
    runs = np.append(versions.runs, np.zeros(len(levels) - len(versions.runs)))
    return Versions(np.array(person, np.int64), np.array(level, np.int64), numbers, people, levels, runs)
