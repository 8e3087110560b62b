"""The law of a product's boxes: every rate with its least, its point and its most. All rates are asked here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from botin.core.catalog.product import Format, Product
from botin.core.odds.point import Point, point_of
from botin.core.odds.rowrates import LineKey, line_words
from botin.core.odds.statements import Present, Said, Statement, statements_of
from botin.core.odds.system import Conflict, System

PRIOR_BOXES = 4.0
"""How many boxes what is printed weighs against the logs; a choice, shown on the screen."""


@dataclass(frozen=True, slots=True)
class Interval:
    """An estimate between two bounds; None where it cannot be known."""

    estimate: float | None
    low: float | None
    high: float | None

    def times(self, factor: float) -> Interval:
        """Return the interval scaled."""
        return Interval(*(None if x is None else x * factor for x in (self.estimate, self.low, self.high)))

    @property
    def is_open(self) -> bool:
        """Whether it says little: from nothing up, or the most is more than twice the least."""
        return self.low is None or self.high is None or self.high > 2 * self.low + 1e-12


UNKNOWN = Interval(None, None, None)


@dataclass(frozen=True)
class LoggedBoxes:
    """What came out of the closed boxes of one format."""

    format: str
    boxes: int
    seen: Mapping[LineKey, int]


class BoxLaw:
    """What is known of the boxes of a product.

    Parameters
    ----------
    product : Product
        As its page states it, corrections taken in.
    present : set of (format, section, parallel)
        Cards in hand that no row of their format stands for.
    logs : sequence of LoggedBoxes
        Whole boxes that were opened: they move the points, inside what is stated.
    """

    def __init__(self, product: Product, present: Present = frozenset(), logs: Sequence[LoggedBoxes] = ()) -> None:
        self.product = product
        self.logs = tuple(logs)
        self.system = System(statements_of(product, present))

    @property
    def conflicts(self) -> tuple[Conflict, ...]:
        """Sets of statements that cannot hold together."""
        return self.system.conflicts

    @cached_property
    def point(self) -> Point:
        """The rates taken where one number is needed."""
        first = point_of(self.system)
        moved = self._moved(first)
        return point_of(self.system, moved) if moved else first

    def _moved(self, first: Point) -> dict[tuple[str, int], float]:
        """Rates that logged boxes move: Gamma(prior × weight + seen, weight + boxes), its mean (MODEL §5)."""
        found = {}
        for logged in self.logs:
            fmt = self.product.format_by_key.get(logged.format)
            if fmt is None or not logged.boxes:
                continue
            for place in self.system.places(fmt.key):
                prior = first.rates.get((fmt.key, place))
                if prior is not None:
                    seen = logged.seen.get(self.system.lines[place].key, 0) / fmt.mean_packs
                    found[(fmt.key, place)] = (prior * PRIOR_BOXES + seen) / (PRIOR_BOXES + logged.boxes)
        return found

    def place_of(self, key: LineKey) -> int | None:
        """Place of a line."""
        return self.system.said.place_of.get(key)

    def rate(self, fmt: Format, place: int) -> Interval:
        """Cards a pack of one line of a format."""
        low, high = self.system.rate(fmt.key, place)
        point = self.point.rates.get((fmt.key, place))
        if point is not None:
            point = max(low, point if high is None else min(point, high))
        return Interval(point, low, high)

    def point_rate(self, fmt: Format, place: int) -> float | None:
        """The point alone: what needs no program."""
        return self.point.rates.get((fmt.key, place))

    def own_rows(self, fmt: Format) -> dict[int, Statement]:
        """The statements of a format that print a rate of just one line, by its place."""
        found: dict[int, Statement] = {}
        for statement in self.system.said.said:
            if statement.format == fmt.key and statement.said is Said.ODDS and len(statement.terms) == 1:
                found.setdefault(statement.terms[0][0], statement)
        return found

    def words(self, place: int) -> str:
        """Return a line in words."""
        return line_words(self.product, self.system.lines[place].key)

    def told(self, fmt: Format, place: int) -> str:
        """Say how the point of a rate was come by."""
        return self.point.told.get((fmt.key, place), "nothing is said of it")
