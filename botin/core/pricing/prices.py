"""What a card sells for: sold prices of the same card first, then the usual price of its kind, then nothing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum

from botin.core.catalog.product import Card

HALF_LIFE_DAYS = 45.0
"""After this many days a sold price counts half; a choice, no source."""


_Version = tuple[str, str, str]


class PriceKind(StrEnum):
    """Asking prices are not sold prices, and a price guide is a kind of its own."""

    SOLD = "sold"
    GUIDE = "guide"
    ASKING = "asking"


class Basis(StrEnum):
    """What an estimate rests on."""

    COMPS = "comps"
    TIER = "tier"
    NONE = "none"


@dataclass(frozen=True, slots=True)
class PriceRow:
    """One price; without a number it is the usual price of its section and parallel."""

    section: str
    number: str
    parallel: str
    grade: str
    amount: float
    sold_on: date | None = None
    source: str = ""
    kind: PriceKind = PriceKind.SOLD
    line: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True)
class Estimate:
    """A price in major units, with what it rests on."""

    amount: float
    basis: Basis
    count: int = 0
    low: float = 0.0
    high: float = 0.0
    newest: date | None = None


UNPRICED = Estimate(0.0, Basis.NONE)


def weighted_median(values: Sequence[float], weights: Sequence[float]) -> float:
    """Smallest value at which half the weight is reached; the midpoint with the next one when it is met exactly.

    Raises
    ------
    ValueError
        When there are no values.
    """
    if not values:
        raise ValueError
    pairs = sorted(zip(values, weights, strict=True))
    half, running = sum(weights) / 2, 0.0
    for place, (value, weight) in enumerate(pairs):
        running += weight
        if abs(running - half) <= 1e-12 * half and place + 1 < len(pairs):
            return (value + pairs[place + 1][0]) / 2
        if running > half:
            return value
    return pairs[-1][0]


def age_weight(sold_on: date | None, as_of: date) -> float:
    """Exponential weight by age; an undated price counts like one a half-life old."""
    days = HALF_LIFE_DAYS if sold_on is None else max(0, (as_of - sold_on).days)
    return float(0.5 ** (days / HALF_LIFE_DAYS))


class PriceBook:
    """Sold prices of a product by card, parallel and grade.

    Parameters
    ----------
    rows : iterable of PriceRow
        Asking prices are left out.
    as_of : date
        The day the ages are counted from.
    """

    def __init__(self, rows: Iterable[PriceRow], as_of: date) -> None:
        self.as_of = as_of
        self._rows: dict[_Version, dict[str, list[PriceRow]]] = defaultdict(lambda: defaultdict(list))
        self._known: dict[_Version, dict[str, Estimate]] = {}
        self._own: dict[_Version, dict[str, Estimate]] = {}
        for row in rows:
            if row.kind is PriceKind.SOLD:
                self._rows[(row.section, row.parallel, row.grade)][row.number].append(row)

    def estimate(self, card: Card, parallel: str = "", grade: str = "") -> Estimate:
        """Price of a copy: its own comps, else the tier price of its section and parallel, else none."""
        own = self._version((card.section, parallel, grade)).get(card.number)
        return own if own is not None else self.tier(card.section, parallel, grade)

    def tier(self, section: str, parallel: str, grade: str = "") -> Estimate:
        """Return the usual price of a section and parallel, from the rows without a number."""
        return self._version((section, parallel, grade)).get("", UNPRICED)

    def own_prices(self, section: str, parallel: str, grade: str = "") -> dict[str, Estimate]:
        """Return the estimates of the cards that have prices of their own, by number."""
        key = (section, parallel, grade)
        if key not in self._own:
            self._own[key] = {number: estimate for number, estimate in self._version(key).items() if number}
        return self._own[key]

    def _version(self, key: _Version) -> dict[str, Estimate]:
        if key not in self._known:
            rows = self._rows.get(key, {})
            self._known[key] = {number: _estimate(found, self.as_of) for number, found in rows.items()}
        return self._known[key]


def _estimate(rows: list[PriceRow], as_of: date) -> Estimate:
    amounts = [row.amount for row in rows]
    middle = weighted_median(amounts, [age_weight(row.sold_on, as_of) for row in rows])
    newest = max((row.sold_on for row in rows if row.sold_on), default=None)
    basis = Basis.COMPS if rows[0].number else Basis.TIER
    return Estimate(middle, basis, len(rows), min(amounts), max(amounts), newest)
