"""What a grading order costs, each card and each person of it, and what it is declared at.

All amounts are whole minor units of one currency; what is shared is shared by largest remainder and adds up.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from botin.core.books.posting import split

SURCHARGE = 0.05
"""Of the fees, for a parcel that does not hold the cards in the order of the form (common practice, no source)."""
BY_CARD, BY_PERSON = "card", "person"
"""The two schools of sharing what an order costs as a whole."""


@dataclass(frozen=True, slots=True)
class CostLine:
    """A card of an order: whose it is, and what it costs by itself.

    Attributes
    ----------
    owner : int or None
        Id of its owner; 1 is me, None while nobody knows.
    off : int
        What a voucher takes off its fee.
    """

    owner: int | None
    fee: int
    upcharge: int = 0
    off: int = 0

    @property
    def own(self) -> int:
        """What it costs by itself."""
        return self.fee + self.upcharge - self.off


@dataclass(frozen=True, slots=True)
class Whole:
    """What an order costs as a whole.

    Attributes
    ----------
    back : int
        Return shipping, as the house charges it.
    surcharge : int
        For cards out of order.
    membership : int
        A year of it, where it was bought with the order: it falls on my own cards, unless none is mine.
    """

    postage: int = 0
    insurance: int = 0
    back: int = 0
    surcharge: int = 0
    membership: int = 0

    @property
    def shared(self) -> int:
        """What everybody's cards share."""
        return self.postage + self.insurance + self.back + self.surcharge

    @property
    def total(self) -> int:
        """All of it."""
        return self.shared + self.membership


def line_costs(lines: Sequence[CostLine], whole: Whole, share_by: str = BY_CARD, me: int = 1) -> list[int]:
    """Return what each card of an order costs; the sum is what the order costs.

    Parameters
    ----------
    share_by : str
        ``card``: every card carries the same part of what is shared; ``person``: every person does, and his cards
        share that.
    """
    if not lines:
        return []
    people = [line.owner for line in lines]
    shared = _by_person(whole.shared, people) if share_by == BY_PERSON else split(whole.shared, [1.0] * len(lines))
    mine = [float(person == me) for person in people]
    joined = split(whole.membership, mine if any(mine) else [1.0] * len(lines))
    return [line.own + share + member for line, share, member in zip(lines, shared, joined, strict=True)]


def _by_person(minor: int, people: Sequence[int | None]) -> list[int]:
    """Share an amount over people, and each one's part over his cards."""
    each = list(dict.fromkeys(people))
    parts = {
        person: iter(split(part, [1.0] * people.count(person)))
        for person, part in zip(each, split(minor, [1.0] * len(each)), strict=True)
    }
    return [next(parts[person]) for person in people]


def person_costs(lines: Sequence[CostLine], costs: Sequence[int]) -> dict[int | None, int]:
    """Add up what the cards of each person cost."""
    found: dict[int | None, int] = {}
    for line, cost in zip(lines, costs, strict=True):
        found[line.owner] = found.get(line.owner, 0) + cost
    return found


def surcharge_of(fees: int, share: float = SURCHARGE) -> int:
    """Return what cards out of order cost more, in whole minor units."""
    return round(fees * share)


@dataclass(frozen=True, slots=True)
class Declared:
    """What a card is declared at, and what may come of that.

    Attributes
    ----------
    value : float
        Mean value after grading, by the chance of each grade (major units), rounded up to a whole unit.
    above : float
        Chance that the value after grading passes the ceiling of the tier.
    upcharge : float
        What of the upcharge is expected: its amount times that chance.
    """

    value: float
    above: float = 0.0
    upcharge: float = 0.0


def declare(
    chances: Mapping[float, float], values: Mapping[float, float], ceiling: float | None = None, upcharge: float = 0.0
) -> Declared | None:
    """Propose what a card is declared at: its value *after* grading, never the raw price.

    Returns None when no grade it may get has a price: then its owner must say.
    """
    priced = {grade: chance for grade, chance in chances.items() if chance > 0 and values.get(grade, 0.0) > 0}
    total = sum(priced.values())
    if total <= 0:
        return None
    mean = sum(chance * values[grade] for grade, chance in priced.items()) / total
    over = sum(chance for grade, chance in priced.items() if ceiling is not None and values[grade] > ceiling) / total
    return Declared(float(math.ceil(mean - 1e-9)), over, over * upcharge)


def repaid_from(cost: float, saving: float, least: int = 1) -> int:
    """Cards from which on a membership pays, saving so much a card, where its tier takes no fewer than ``least``.

    99 a year saving 6 a card: the 17th; where the tier begins at 20 cards, the 20th (common practice, no source).
    """
    return max(least, math.ceil(cost / saving - 1e-9)) if saving > 0 else 0
