"""How often base cards repeat within a box: from independent draws to a packer that never repeats one.

A number that came c times already in this box has weight ρ^c. Run as a pure birth process with rates ρ^c until its
inner time s, every card has its own independent count, and the mean count fixes s.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from botin.core.counts import FloatArray

ALMOST_NONE = 1e-4
"""A factor below this packs whole rounds of the set, as 0 does."""
FOLLOWED = 8
"""Above 1 the weight of a number that came oftener than this grows no more, where a law is fitted."""
STEPS = 400
TERMS = 12
"""Terms of the series at a time of a quarter: what is left out is below 1e-15."""


@dataclass(frozen=True, slots=True)
class Repeats:
    """The repeat model of the base cards of a box.

    Attributes
    ----------
    factor : float
        ρ: 1 independent draws, 0 no repeats while new ones are left, above 1 clumped.
    """

    factor: float = 1.0

    @property
    def independent(self) -> bool:
        """Whether each draw is as if it were the first."""
        return self.factor == 1.0

    def words(self) -> str:
        """Return the model in words."""
        if self.independent:
            return "base cards drawn independently"
        if self.factor == 0:
            return "base cards do not repeat in a box while new ones are left"
        return f"base cards repeat in a box with factor {self.factor:.3g}"


INDEPENDENT = Repeats(1.0)
NO_REPEATS = Repeats(0.0)


def _states(factor: float, mean: float) -> int:
    """Counts of one card that are followed: beyond them nothing weighs anything."""
    wide = 4.0 if factor <= 1 else 14.0
    return int(mean + wide * math.sqrt(mean + 1) + 14)


def _generator(factor: float, states: int) -> FloatArray:
    """Generator of the pure birth process of one card's count; the last state is left no more."""
    counts = np.arange(states)
    rates = factor ** (counts if factor <= 1 else np.minimum(counts, FOLLOWED)).astype(np.float64)
    rates[-1] = 0.0
    found = np.diag(-rates)
    found[counts[:-1], counts[1:]] = rates[:-1]
    return found


def _exponential(generator: FloatArray, inner: float) -> FloatArray:
    """Transition matrix of a birth process: Taylor's series of a short time, squared (scaling and squaring).

    scipy's `expm` gives the same; for twenty states its set-up costs a hundred times the work.
    """
    top = float(-generator.diagonal().min()) * inner
    halvings = max(0, math.ceil(math.log2(max(top, 1e-300) / 0.25)))
    small = generator * (inner / 2**halvings)
    found = term = np.eye(len(generator))
    for order in range(1, TERMS):
        term = term @ small / order
        found = found + term
    for _ in range(halvings):
        found = found @ found
    return np.asarray(found)


@lru_cache(maxsize=8192)
def counts_at(factor: float, inner: float, states: int = 40) -> tuple[float, ...]:
    """Chances that a given card came 0, 1, 2, … times when the inner time is ``inner``: pure birth with rates ρ^c."""
    return tuple(np.maximum(_exponential(_generator(factor, states), inner)[0], 0.0).tolist())


def mean_count(factor: float, inner: float, states: int = 40) -> float:
    """Mean number of copies of one card at an inner time."""
    if factor == 1.0:
        return inner
    return float(np.dot(np.arange(states), counts_at(factor, inner, states)))


@lru_cache(maxsize=4096)
def inner_time(factor: float, mean: float) -> float:
    """Return the inner time at which a card came ``mean`` times on average.

    Parameters
    ----------
    factor : float
        ρ of the repeat model; infinite time where it is 0 and every card has come.
    mean : float
        Cards drawn ÷ cards in the set.
    """
    if factor == 1.0 or mean <= 0:
        return max(0.0, mean)
    if factor < ALMOST_NONE:
        return -math.log1p(-mean) if mean < 1 else math.inf
    from scipy.optimize import brentq  # noqa: PLC0415  (slow to load)

    states, high = _states(factor, mean), max(mean, 1.0)
    while mean_count(factor, high, states) < mean and high < 1e12:
        high *= 2
    return float(brentq(lambda inner: mean_count(factor, inner, states) - mean, 0.0, high, xtol=1e-10, rtol=1e-12))


@lru_cache(maxsize=1024)
def copies_law(factor: float, mean: float) -> tuple[float, ...]:
    """Chances of 0, 1, 2, … copies of one card when cards came ``mean`` times on average.

    Without repeats whole rounds of the set are filled: every card came ⌊mean⌋ times, some once more.
    """
    if factor < ALMOST_NONE:
        rounds = math.floor(mean + 1e-12)
        more = max(0.0, mean - rounds)
        return (*(0.0,) * rounds, 1 - more, more)
    return counts_at(factor, inner_time(factor, mean), _states(factor, mean))


@lru_cache(maxsize=256)
def _rates(factor: float, mean: float) -> tuple[FloatArray, FloatArray]:
    """Mean count and mean weight E[ρ^c] of a card along the way to ``mean``."""
    states, inner = _states(factor, mean), inner_time(factor, mean)
    step = _exponential(_generator(factor, states), inner / STEPS)
    counts, state = np.arange(states), np.eye(states)[0]
    weight = factor ** counts.astype(np.float64)
    means, weights = np.empty(STEPS + 1), np.empty(STEPS + 1)
    for at in range(STEPS + 1):
        means[at], weights[at] = float(state @ counts), float(state @ weight)
        state = state @ step
    return means, weights


def missed(model: Repeats, drawn: FloatArray, size: int, wanted: int) -> FloatArray:
    """Chance that none of ``wanted`` cards is among ``drawn`` cards of a set of ``size``, for each number drawn.

    While none of m wanted cards came, the next draw misses them with chance W ÷ (m + W), W the weight of the others
    so far; W is followed by its mean (exact for independent draws and without repeats), above 1 by seeded urns.

    Parameters
    ----------
    model : Repeats
        How numbers repeat.
    drawn : array
        Numbers of base cards drawn.
    """
    if wanted <= 0:
        return np.ones_like(drawn)
    if wanted >= size:
        return np.where(drawn > 0, 0.0, 1.0)
    if model.independent:
        return np.asarray((1 - wanted / size) ** drawn)
    if model.factor < ALMOST_NONE:
        return _hypergeometric_miss(drawn, size, wanted)
    most = int(drawn.max(initial=0))
    if model.factor > 1:
        chances = urn_misses(model.factor, most, size - wanted, wanted)
    else:
        others = size - wanted
        means, weights = _rates(model.factor, max(most, 1) / others)
        weight = others * np.interp(np.arange(most) / others, means, weights)
        chances = np.concatenate(([1.0], np.cumprod(weight / (wanted + weight))))
    return np.asarray(chances[drawn.astype(np.int64)])


def _hypergeometric_miss(drawn: FloatArray, size: int, wanted: int) -> FloatArray:
    """C(N − m, n) ÷ C(N, n); after every card has come once, nothing is missed."""
    steps = np.arange(size)
    left = np.maximum(size - wanted - steps, 0) / (size - steps)
    chances = np.concatenate(([1.0], np.cumprod(left)))
    return np.asarray(chances[np.minimum(drawn.astype(np.int64), size)])


URNS, URN_SEED, HEAVIEST = 4000, 20_261_126, 600
"""Urns that stand for all where numbers clump, their seed, and the count whose weight is followed no further."""


def _urn(factor: float, drawn: int, size: int, beside: float = 0.0) -> tuple[FloatArray, FloatArray]:
    """Run seeded urns: how many cards came 0, 1, 2, … times at the end, and the mean chance to miss ``beside``.

    Only the numbers of cards by their count are kept: all cards with the same count are alike.
    """
    rng = np.random.default_rng(URN_SEED)
    cards = np.zeros((URNS, drawn + 2))
    cards[:, 0] = size
    weight = factor ** np.minimum(np.arange(drawn + 2), HEAVIEST).astype(np.float64)
    alive, misses, row = np.ones(URNS), [1.0], np.arange(URNS)
    for turn in range(drawn):
        running = np.cumsum(cards[:, : turn + 1] * weight[: turn + 1], axis=1)
        total = running[:, -1]
        alive *= total / (total + beside)
        misses.append(float(alive.mean()))
        level = (running < (rng.random(URNS) * total)[:, None]).sum(axis=1)
        level = np.minimum(level, turn)
        cards[row, level] -= 1
        cards[row, level + 1] += 1
    return cards, np.array(misses)


@lru_cache(maxsize=16)
def urn_profiles(factor: float, drawn: int, size: int) -> FloatArray:
    """Return how many cards came 0, 1, 2, … times after ``drawn`` cards, one seeded urn a row."""
    return _urn(factor, drawn, size)[0]


@lru_cache(maxsize=64)
def urn_misses(factor: float, drawn: int, others: int, wanted: int) -> FloatArray:
    """Chance that none of ``wanted`` cards came in 0, 1, … ``drawn`` cards, where numbers clump."""
    return _urn(factor, drawn, others, float(wanted))[1]


@lru_cache(maxsize=64)
def urn_law(factor: float, drawn: int, size: int) -> tuple[float, ...]:
    """Chances of 0, 1, 2, … copies of one card after ``drawn`` cards, by seeded urns."""
    found = urn_profiles(factor, drawn, size).mean(axis=0) / size
    return tuple(found[: int(np.flatnonzero(found)[-1]) + 1].tolist())


def box_law(model: Repeats, drawn: float, size: int) -> FloatArray:
    """Chances of 0, 1, 2, … copies of one card in a box of ``drawn`` base cards of a set of ``size``."""
    if model.factor > 1:
        return np.array(urn_law(model.factor, round(drawn), size))
    return np.array(copies_law(model.factor, drawn / size))


def spread_of_copies(model: Repeats, drawn: float, size: int) -> float:
    """Variance of the copies of one card in a box, the number of base cards given.

    Independent draws: n·(1 − 1/N)/N. Else that of `box_law`; conditioning on the sum takes 1/N of it away.
    """
    if size < 2 or drawn <= 0:
        return 0.0
    if model.independent:
        return drawn / size * (1 - 1 / size)
    chances = box_law(model, drawn, size)
    counts = np.arange(len(chances))
    mean = float(chances @ counts)
    variance = float(chances @ (counts - mean) ** 2)
    rounds = model.factor > 1 or model.factor < ALMOST_NONE  # these laws have the sum in them already
    return variance if rounds else variance * (1 - 1 / size)


def expected_distinct(model: Repeats, drawn: float, size: int) -> float:
    """Return how many different cards ``drawn`` cards of a set show on average."""
    if model.independent:
        return size * -math.expm1(drawn * math.log1p(-1 / size)) if size > 1 else min(1.0, drawn)
    if model.factor < ALMOST_NONE:
        return min(drawn, float(size))
    return size * (1 - copies_law(model.factor, drawn / size)[0])
