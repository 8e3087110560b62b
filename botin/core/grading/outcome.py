"""What came of grading: the grades against those expected, and the money made or lost by it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Came:
    """A copy that was sent: what it would bring raw and graded, what that cost, what was expected.

    Attributes
    ----------
    grade : float or None
        None when it came back without one, or is still out.
    raw, came : float
        What it leaves sold as it was, and as it is now or was sold (major units, after the costs of selling).
    cost : float
        Its part of the order.
    expected : float or None
        What it was expected to leave graded, on the day it was sent; None when nothing was written down then.
    chances : mapping
        Chance of each grade as it was forecast.
    again : float
        What a cross over would add on average, its cost aside: the best case, since the grade that came
        speaks against the card.
    """

    grade: float | None
    raw: float
    came: float
    cost: float
    expected: float | None = None
    chances: Mapping[float, float] = field(default_factory=dict)
    again: float = 0.0

    @property
    def made(self) -> float:
        """What grading it made (lost, when below nothing): what it leaves now, less raw, less what it cost."""
        return self.came - self.raw - self.cost

    @property
    def hoped(self) -> float | None:
        """What grading it was expected to make."""
        return None if self.expected is None else self.expected - self.raw - self.cost

    @property
    def mean_grade(self) -> float | None:
        """Grade that was expected on average."""
        total = sum(self.chances.values())
        return sum(grade * chance for grade, chance in self.chances.items()) / total if total else None


@dataclass(frozen=True)
class Outcome:
    """Copies that were sent, added up."""

    cards: tuple[Came, ...]

    @property
    def made(self) -> float:
        """What grading made over all of them."""
        return sum(card.made for card in self.cards)

    @property
    def cost(self) -> float:
        """What it cost."""
        return sum(card.cost for card in self.cards)

    @property
    def raw(self) -> float:
        """What they would leave raw."""
        return sum(card.raw for card in self.cards)

    @property
    def came(self) -> float:
        """What they leave graded."""
        return sum(card.came for card in self.cards)

    @property
    def hoped(self) -> float | None:
        """What was expected, where that was written down for all of them."""
        each = [card.hoped for card in self.cards]
        return None if not each or any(one is None for one in each) else sum(one or 0.0 for one in each)

    def tally(self) -> list[tuple[float, float, int]]:
        """Grades from the best down: how many were expected, and how many came; of copies with a forecast."""
        told = [card for card in self.cards if card.grade is not None and card.chances]
        grades = sorted({grade for card in told for grade in (*card.chances, card.grade or 0.0)}, reverse=True)
        found = [
            (grade, _expected(told, grade), sum(1 for card in told if card.grade == grade)) for grade in grades
        ]  # fmt: skip
        return [row for row in found if row[1] >= 0.05 or row[2]]


def _expected(cards: Iterable[Came], grade: float) -> float:
    """Copies expected at a grade; chances that do not sum up to one are shares of what they sum up to."""
    return sum(card.chances.get(grade, 0.0) / sum(card.chances.values()) for card in cards)
