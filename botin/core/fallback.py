"""Prices of cards without sales of their own, in order: other grade, player and finish together, section tier.

log price = level of the section and finish + worth of the player, fitted over the product by least squares with
Huber weights; both are shrunk, so that a level or player seen once does not run away.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

import numpy as np

from botin.core.comps import CompEstimate, comp_estimate, shrink
from botin.core.counts import FloatArray
from botin.core.prices import PriceKind, PriceRow
from botin.core.product import Card, Product

LEVEL_PRIOR, PERSON_PRIOR = 1.5, 0.8
"""Standard deviations of levels and players on the log scale before any price is seen; a choice."""
HUBER = 1.345
"""Tuning constant of 95 % efficiency at the normal (Huber 1981, from memory)."""
NO_SPREAD = 1.2
MOVED = 0.02
SCATTER = 0.25
"""Variance of log prices around level and player before anything is fitted; a choice."""
TIER_WORTH = 6.0
"""A usual price of a whole section counts like so many cards of it; a choice. Only cards that stand out have sales of
their own, and by them alone the level of commons would come out many times too high."""
Z80 = 1.2815515655446004


class Found(StrEnum):
    """Where an estimate comes from, the surest first."""

    COMPS = "sold prices of its own"
    GRADE = "its price in another grade, by the usual ratio"
    MODEL = "its player and its finish"
    TIER = "the usual price of its section and finish"
    GUIDE = "a price guide"
    NONE = "no price known"


@dataclass(frozen=True, slots=True)
class Guess:
    """A price with where it comes from and its 80 % interval (major units); ``spread`` is on the log scale."""

    amount: float
    low: float
    high: float
    found: Found
    spread: float
    sales: int = 0
    newest: date | None = None
    own: CompEstimate | None = None

    @property
    def drawn(self) -> bool:
        """Whether player and finish moved what its own sales say by more than a fiftieth."""
        return self.own is not None and abs(self.amount / self.own.amount - 1) > MOVED


NOTHING = Guess(0.0, 0.0, 0.0, Found.NONE, NO_SPREAD)
Key = tuple[str, str, str, str]


class PriceModel:
    """Estimates of every version of a product.

    Parameters
    ----------
    product : Product
        For players and groups.
    rows : iterable of PriceRow
        Prices of all kinds.
    as_of : date
        Day ages are counted from.
    """

    def __init__(self, product: Product, rows: Iterable[PriceRow], as_of: date) -> None:
        self.product, self.as_of = product, as_of
        self._rows: dict[Key, list[PriceRow]] = defaultdict(list)
        for row in rows:
            self._rows[(row.section, row.number, row.parallel, row.grade)].append(row)
        self._own: dict[Key, CompEstimate | None] = {}
        self._ratios = self._grade_ratios()
        self._fit()

    def rows(self, card: Card, parallel: str, grade: str = "") -> list[PriceRow]:
        """Return the prices of one version in one grade, of every kind."""
        return self._rows.get((card.section, card.number, parallel, grade), [])

    def grades(self, card: Card, parallel: str) -> list[str]:
        """Return the grades in which a version has prices, raw first."""
        return sorted({key[3] for key in self._rows if key[:3] == (card.section, card.number, parallel)})

    def own(self, key: Key) -> CompEstimate | None:
        """Return the estimate from a version's own sales."""
        if key not in self._own:
            self._own[key] = comp_estimate(self._rows.get(key, []), self.as_of)
        return self._own[key]

    def ratio(self, grade: str) -> float | None:
        """Return what a grade usually sells for against raw, over the product."""
        return self._ratios.get(grade)

    def estimate(self, card: Card, parallel: str = "", grade: str = "") -> Guess:
        """Return the best estimate there is, and which one it is."""
        own = self.own((card.section, card.number, parallel, grade))
        if own is not None:
            return _of_comps(own, None if grade else self._without_sales(card, parallel))
        ratio = self._ratios.get(grade)
        raw = self.own((card.section, card.number, parallel, "")) if grade else None
        if raw is not None and ratio:
            return _guess(raw.amount * ratio, math.hypot(raw.error, 0.35), Found.GRADE, len(raw.used))
        if grade:
            base = self.estimate(card, parallel)
            usable = ratio and base.found is not Found.NONE
            return (
                _guess(base.amount * (ratio or 0), math.hypot(base.spread, 0.35), Found.GRADE) if usable else NOTHING
            )
        return self._without_sales(card, parallel)

    def _without_sales(self, card: Card, parallel: str) -> Guess:
        level = (card.section, parallel)
        people = [self._people[name] for name in card.people if name in self._people]
        if level in self._levels and people:
            amount = math.exp(self._levels[level] + max(people))
            return _guess(amount, self._residual, Found.MODEL)
        usual = self.usual(card.section, parallel)
        if usual.found is not Found.NONE:
            return usual
        guide = comp_estimate(self.rows(card, parallel), self.as_of, PriceKind.GUIDE)
        return _guess(guide.amount, 0.6, Found.GUIDE, len(guide.used)) if guide else NOTHING

    def usual(self, section: str, parallel: str) -> Guess:
        """Return what a card of a section and finish usually sells for, whoever is on it."""
        tier = self.own((section, "", parallel, ""))
        if tier is not None:
            return _guess(tier.amount, NO_SPREAD / 1.5, Found.TIER, len(tier.used))
        level = self._levels.get((section, parallel))
        return NOTHING if level is None else _guess(math.exp(level), NO_SPREAD / 1.3, Found.TIER)

    def _grade_ratios(self) -> dict[str, float]:
        """Median ratio of graded to raw over the versions that have both."""
        found: dict[str, list[float]] = defaultdict(list)
        for section, number, parallel, grade in list(self._rows):
            if grade and number:
                graded = self.own((section, number, parallel, grade))
                raw = self.own((section, number, parallel, ""))
                if graded and raw:
                    found[grade].append(graded.amount / raw.amount)
        return {grade: float(np.median(ratios)) for grade, ratios in found.items()}

    def _fit(self) -> None:
        """Fit levels and players on the versions with raw sales."""
        rows = [
            (key, estimate, card)
            for key in list(self._rows)
            if not key[3] and key[1] and (card := self.product.card_by_number.get((key[0], key[1])))
            and (estimate := self.own(key))
        ]  # fmt: skip
        self._levels: dict[tuple[str, str], float] = {}
        self._people: dict[str, float] = {}
        self._residual = NO_SPREAD / 1.5
        if len(rows) < 3:
            return
        priced = [(key[0], key[2]) for key, _, _ in rows]
        usual = {
            (key[0], key[2]): tier
            for key in list(self._rows)
            if not key[1] and not key[3] and (tier := self.own(key))
        }
        levels = {level: at for at, level in enumerate(dict.fromkeys([*priced, *usual]))}
        people = {
            name: at for at, name in enumerate(dict.fromkeys(n for _, _, card in rows for n in card.people[:1]))
        }
        x = np.array([levels[(key[0], key[2])] for key, _, _ in rows])
        who = np.array([people[card.people[0]] if card.people else -1 for _, _, card in rows])
        y = np.array([math.log(estimate.amount) for _, estimate, _ in rows])
        noise = np.array([SCATTER + estimate.error**2 for _, estimate, _ in rows])
        x = np.append(x, np.array([levels[level] for level in usual], x.dtype))
        who = np.append(who, np.full(len(usual), -1, who.dtype))
        y = np.append(y, [math.log(tier.amount) for tier in usual.values()])
        noise = np.append(noise, np.full(len(usual), SCATTER / TIER_WORTH))
        a, b, residual = _fit_two_way(x, who, y, noise, (len(levels), len(people)))
        self._levels = {level: float(a[at]) for level, at in levels.items()}
        self._people = {name: float(b[at]) for name, at in people.items()}
        self._residual = max(0.2, residual)


def _fit_two_way(
    level: np.ndarray, person: np.ndarray, y: FloatArray, noise: FloatArray, sizes: tuple[int, int]
) -> tuple[FloatArray, FloatArray, float]:
    """Alternate shrunken weighted means of the two factors, with Huber weights; converges in a few rounds."""
    overall = float(np.median(y))
    a, b = np.full(sizes[0], overall), np.zeros(sizes[1])
    known = person >= 0
    weight = 1 / noise
    scale = 1.0
    for _ in range(30):
        fitted = a[level] + np.where(known, b[np.maximum(person, 0)], 0.0)
        left = y - fitted
        scale = max(0.1, 1.4826 * float(np.median(np.abs(left))))
        pull = np.minimum(1.0, HUBER * scale / np.maximum(np.abs(left), 1e-12)) * weight
        part = np.bincount(level, pull * (left + a[level] - overall), sizes[0])
        a = overall + part / (np.bincount(level, pull, sizes[0]) + 1 / LEVEL_PRIOR**2)
        fitted = a[level]
        part = np.bincount(person[known], (pull * (y - fitted))[known], sizes[1])
        b = part / (np.bincount(person[known], pull[known], sizes[1]) + 1 / PERSON_PRIOR**2)
    return a, b, scale


def _of_comps(own: CompEstimate, prior: Guess | None) -> Guess:
    """The own sales, pulled towards what player and finish say: a lonely sale a good deal, many sales hardly."""
    newest = max((row.sold_on for row in own.used if row.sold_on), default=None)
    if prior is None or prior.found is Found.NONE:
        return Guess(own.amount, own.low, own.high, Found.COMPS, own.error, len(own.used), newest, own)
    amount = shrink(own, prior.amount, prior.spread)
    error = 1 / math.sqrt(1 / own.error**2 + 1 / prior.spread**2)
    wide = math.exp(Z80 * error)
    return Guess(amount, amount / wide, amount * wide, Found.COMPS, error, len(own.used), newest, own)


def _guess(amount: float, spread: float, found: Found, sales: int = 0) -> Guess:
    wide = math.exp(Z80 * spread)
    return Guess(amount, amount / wide, amount * wide, found, spread, sales)
