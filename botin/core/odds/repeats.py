"""How often base cards repeat, measured from logged boxes: within a box, and between boxes.

Within a box a number that already came c times has weight ρ^c (`botin.core.odds.collation`). Between boxes a number
seen in an earlier one has weight σ when the next box picks its distinct numbers; 1 is independent boxes.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from botin.core.errors import BotinError
from botin.core.odds.collation import INDEPENDENT, NO_REPEATS, Repeats, copies_law, expected_distinct

Z95 = 1.959963984540054
HIGHEST = 2.0
"""ρ is looked for from 0 to here; above it a box would be nearly all repeats."""


class BadCountsError(BotinError):
    """Counts of a box that cannot be: more distinct cards than cards, or than the set has."""

    status = 422
    exit_code = 2


@dataclass(frozen=True, slots=True)
class BoxCounts:
    """Base cards of a box: how many, how many different numbers, and numbers seen exactly twice and thrice."""

    cards: int
    distinct: int
    twice: int | None = None
    thrice: int | None = None

    def read(self) -> BoxCounts:
        """Return the counts as exact ones: people also count a triplicate among the duplicates.

        178 duplicates and 18 triplicates of 744 cards with 548 numbers add up only as second and third copies: 160
        numbers came exactly twice and 18 three times.
        """
        twice, thrice = self.twice or 0, self.thrice or 0
        exact = self.distinct + twice + 2 * thrice
        if self.twice is not None and exact > self.cards == self.distinct + twice + thrice and thrice <= twice:
            return BoxCounts(self.cards, self.distinct, twice - thrice, self.thrice)
        return self

    def check(self, size: int) -> None:
        """Raise when the counts cannot be.

        Raises
        ------
        BadCountsError
            When they contradict each other or the set's size.
        """
        repeated = (self.twice or 0) + 2 * (self.thrice or 0)
        possible = 0 < self.distinct <= min(self.cards, size) and self.distinct + repeated <= self.cards
        if not possible or (self.twice or 0) + (self.thrice or 0) > self.distinct:
            message = f"{self.cards} cards with {self.distinct} different numbers of {size} cannot be. Count again."
            raise BadCountsError(message)


@dataclass(frozen=True, slots=True)
class Estimated:
    """A factor with its 95 % interval."""

    factor: float
    low: float
    high: float


@dataclass(frozen=True)
class RepeatFit:
    """What the logs say about repeats.

    Attributes
    ----------
    pooled : Estimated
        One ρ for all boxes; when the boxes contradict it, its interval spans theirs.
    per_box : tuple of Estimated
        Each box by itself.
    between : float or None
        σ between boxes; None without their union.
    fit_p : float or None
        Chance of boxes as different as these, or of twice and thrice counts as far off, under the pooled ρ; None
        when there is nothing to test.
    differ : bool
        One ρ for all is rejected at 5 %.
    fitted : tuple of float
        Expected distinct numbers of each box under the fit.
    """

    pooled: Estimated
    per_box: tuple[Estimated, ...]
    between: float | None
    fit_p: float | None
    differ: bool
    independent: tuple[float, ...]
    no_repeats: tuple[float, ...]
    fitted: tuple[float, ...]


def spread_of_distinct(factor: float, cards: int, size: int) -> float:
    """Standard deviation of the distinct numbers, given the number of cards.

    In inner time each card's count is independent; conditioning on their sum takes the regression on it away.
    """
    chances = np.array(copies_law(factor, cards / size))
    counts = np.arange(len(chances))
    mean = float(chances @ counts)
    variance = float(chances @ (counts - mean) ** 2)
    came = 1 - chances[0]
    shared = chances[0] * mean
    left = came * chances[0] - (shared * shared / variance if variance > 0 else 0.0)
    return math.sqrt(max(0.0, size * left))


def _distinct(factor: float, cards: int, size: int) -> float:
    return expected_distinct(Repeats(factor), cards, size) if factor else float(min(cards, size))


def _solve(target: float, cards: int, size: int, shift: float = 0.0) -> float:
    """Return the ρ at which E[D] + shift·sd(D) is the target; E[D] falls as ρ grows."""

    def gap(factor: float) -> float:
        return _distinct(factor, cards, size) + shift * spread_of_distinct(factor, cards, size) - target

    return _root(gap)


def _root(gap: Callable[[float], float]) -> float:
    """Where a falling function of ρ crosses 0, between 0 and `HIGHEST`."""
    from scipy.optimize import brentq  # noqa: PLC0415  (slow to load)

    if gap(0.0) <= 0:
        return 0.0
    if gap(HIGHEST) >= 0:
        return HIGHEST
    return float(brentq(gap, 0.0, HIGHEST, xtol=1e-7))


def box_factor(box: BoxCounts, size: int) -> Estimated:
    """ρ of one box: s = −ln(1 − D/N) fixes the inner time, the number of cards then fixes ρ; with its interval."""
    return Estimated(
        _solve(box.distinct, box.cards, size),
        _solve(box.distinct, box.cards, size, -Z95),
        _solve(box.distinct, box.cards, size, Z95),
    )


def fit_repeats(size: int, boxes: Sequence[BoxCounts], union: int | None = None) -> RepeatFit:
    """Fit the repeat factor.

    Parameters
    ----------
    size : int
        Cards in the set.
    boxes : sequence of BoxCounts
        Logged boxes.
    union : int, optional
        Different numbers in all boxes together.

    Raises
    ------
    BadCountsError
        When counts cannot be.
    """
    for box in boxes:
        box.check(size)
    if union is not None and not max(box.distinct for box in boxes) <= union <= min(
        size, sum(b.distinct for b in boxes)
    ):
        message = f"All boxes together cannot show {union} different numbers. Count again."
        raise BadCountsError(message)
    per_box = tuple(box_factor(box, size) for box in boxes)
    pooled = _pooled(size, boxes)
    chance = _fit_chance(size, boxes, pooled)
    differ = chance is not None and chance < 0.05 and len(boxes) > 1
    low, high = _interval(size, boxes, pooled)
    if differ:
        low, high = min(found.low for found in per_box), max(found.high for found in per_box)
    factors = [found.factor for found in per_box] if differ else [pooled] * len(boxes)
    return RepeatFit(
        pooled=Estimated(pooled, low, high),
        per_box=per_box,
        between=_between(size, boxes, union) if union is not None and len(boxes) > 1 else None,
        fit_p=chance,
        differ=differ,
        independent=tuple(expected_distinct(INDEPENDENT, box.cards, size) for box in boxes),
        no_repeats=tuple(expected_distinct(NO_REPEATS, box.cards, size) for box in boxes),
        fitted=tuple(_distinct(factor, box.cards, size) for factor, box in zip(factors, boxes, strict=True)),
    )


def _score(factor: float, size: int, boxes: Sequence[BoxCounts]) -> float:
    """Σ (D − E[D]) over the boxes, each weighted by how sure it is."""
    total = 0.0
    for box in boxes:
        spread = max(0.5, spread_of_distinct(factor, box.cards, size))
        total += (box.distinct - _distinct(factor, box.cards, size)) / spread**2
    return total


def _pooled(size: int, boxes: Sequence[BoxCounts], shift: float = 0.0) -> float:
    """ρ at which the weighted residuals balance at ``shift`` standard errors."""

    def gap(factor: float) -> float:
        weight = sum(1 / max(0.5, spread_of_distinct(factor, box.cards, size)) ** 2 for box in boxes)
        return _score(factor, size, boxes) / math.sqrt(weight) - shift

    return _root(lambda factor: -gap(factor))


def _interval(size: int, boxes: Sequence[BoxCounts], pooled: float) -> tuple[float, float]:
    low, high = _pooled(size, boxes, -Z95), _pooled(size, boxes, Z95)
    return min(low, pooled), max(high, pooled)


def _fit_chance(size: int, boxes: Sequence[BoxCounts], factor: float) -> float | None:
    """P of the chi-square of distinct counts over the boxes, and of twice and thrice counts where they are given."""
    from scipy.special import chdtrc  # noqa: PLC0415  (loads in a third of the time of scipy.stats)

    total, freedom = 0.0, len(boxes) - 1
    for box in boxes:
        spread = max(0.5, spread_of_distinct(factor, box.cards, size))
        total += ((box.distinct - _distinct(factor, box.cards, size)) / spread) ** 2
        if box.twice is not None:
            total += _twice_misfit(size, box)
            freedom += 1
    return float(chdtrc(freedom, total)) if freedom > 0 else None


def _twice_misfit(size: int, box: BoxCounts) -> float:
    """Squared standardised misfit of the numbers seen twice, at the box's own ρ.

    The variance is that of the count of twos, with its regressions on the number of cards and of distinct numbers
    taken away: both are given.
    """
    factor = _solve(box.distinct, box.cards, size)
    law = copies_law(factor, box.cards / size)
    chances = np.array((*law, *(0.0,) * max(0, 3 - len(law))))
    counts = np.arange(len(chances))
    traits = np.array([counts == 2, counts, counts > 0], dtype=float)
    means = traits @ chances
    cover = (traits * chances) @ traits.T - np.outer(means, means)
    given = cover[1:, 1:] + 1e-12 * np.eye(2)
    left = cover[0, 0] - cover[0, 1:] @ np.linalg.solve(given, cover[1:, 0])
    variance = max(1.0, size * float(left))
    return ((box.twice or 0) - size * float(chances[2])) ** 2 / variance


def _between(size: int, boxes: Sequence[BoxCounts], union: int) -> float:
    """σ at which the boxes one after the other would show the union that they did.

    A box of D numbers takes O from the U seen before: (1 − O/U) = (1 − (D − O)/(N − U))^σ, the mean of Wallenius'
    noncentral hypergeometric distribution (Manly 1974, from memory).
    """
    low, high = 1e-3, 50.0
    for _ in range(80):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if expected_union(size, boxes, middle) > union else (low, middle)
    return math.sqrt(low * high)


def expected_union(size: int, boxes: Sequence[BoxCounts], sigma: float) -> float:
    """Different numbers in all boxes together when seen numbers have weight σ."""
    seen = 0.0
    for box in boxes:
        seen += _new_ones(size, seen, box.distinct, sigma)
    return seen


def _new_ones(size: int, seen: float, distinct: float, sigma: float) -> float:
    low, high = max(0.0, distinct - seen), min(float(distinct), size - seen)
    if seen <= 0 or high <= low:
        return high
    for _ in range(60):
        new = (low + high) / 2
        left = 1 - (distinct - new) / seen
        want = (1 - new / (size - seen)) ** sigma
        low, high = (low, new) if left > want else (new, high)
    return (low + high) / 2
