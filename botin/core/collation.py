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

DEEPEST = 40
"""Counts of one card in one box above this weigh nothing."""


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


@lru_cache(maxsize=512)
def _chain(factor: float, steps: int) -> FloatArray:
    """State of the birth chain after 0, 1, 2, … steps, its rates scaled to at most 1; one row a step."""
    rates = np.array([factor**c for c in range(DEEPEST)])
    go = np.minimum(rates / _top(factor), 1.0)
    stay = 1 - go
    found = np.zeros((steps, DEEPEST))
    found[0, 0] = 1.0
    for step in range(1, steps):
        found[step] = found[step - 1] * stay
        found[step, 1:] += (found[step - 1] * go)[:-1]
    return found


def _top(factor: float) -> float:
    """Largest rate that matters: what came eight times in a box is not followed closer."""
    return max(1.0, factor ** min(8, DEEPEST - 1))


@lru_cache(maxsize=8192)
def counts_at(factor: float, inner: float) -> tuple[float, ...]:
    """Chances that a given card came 0, 1, 2, … times when the inner time is ``inner``.

    Pure birth with rates ρ^c, by uniformisation (a Poisson number of steps of a chain whose rates are scaled to 1).
    """
    mean = _top(factor) * inner
    need = int(mean + 10 * math.sqrt(mean) + 30)
    chain = _chain(factor, 1 << (need - 1).bit_length())
    if mean <= 0:
        return tuple(chain[0].tolist())
    steps = np.arange(len(chain))
    logs = steps * math.log(mean) - mean - np.concatenate(([0.0], np.cumsum(np.log(steps[1:]))))
    return tuple((np.exp(logs) @ chain).tolist())


def mean_count(factor: float, inner: float) -> float:
    """Mean number of copies of one card at an inner time."""
    if factor == 1.0:
        return inner
    if factor == 0.0:
        return -math.expm1(-inner)
    chances = counts_at(factor, inner)
    return float(np.dot(np.arange(DEEPEST), chances))


@lru_cache(maxsize=4096)
def inner_time(factor: float, mean: float) -> float:
    """Return the inner time at which a card came ``mean`` times on average; infinite when it cannot.

    Parameters
    ----------
    factor : float
        ρ of the repeat model.
    mean : float
        Cards drawn ÷ cards in the set.
    """
    if factor == 1.0 or mean <= 0:
        return max(0.0, mean)
    if factor == 0.0:
        return -math.log1p(-mean) if mean < 1 else math.inf
    from scipy.optimize import brentq  # noqa: PLC0415  (slow to load)

    high = max(mean, 1.0)
    while mean_count(factor, high) < mean and high < 500:
        high *= 1.5
    if high >= 500:
        return high
    return float(brentq(lambda inner: mean_count(factor, inner) - mean, 0.0, high, xtol=1e-10, rtol=1e-12))


def missed(model: Repeats, drawn: FloatArray, size: int, wanted: int) -> FloatArray:
    """Chance that none of ``wanted`` cards is among ``drawn`` cards of a set of ``size``, for each number drawn.

    Parameters
    ----------
    model : Repeats
        Independent: (1 − m/N)^n. No repeats: hypergeometric. Else each card's own chance to miss at the inner
        time, to the power m.
    drawn : array
        Numbers of base cards drawn.
    """
    if wanted <= 0:
        return np.ones_like(drawn)
    if wanted >= size:
        return np.where(drawn > 0, 0.0, 1.0)
    if model.independent:
        return np.asarray((1 - wanted / size) ** drawn)
    if model.factor == 0:
        return _hypergeometric_miss(drawn, size, wanted)
    return np.array([math.exp(-wanted * inner_time(model.factor, float(n) / size)) for n in drawn])


def _hypergeometric_miss(drawn: FloatArray, size: int, wanted: int) -> FloatArray:
    """C(N − m, n) ÷ C(N, n); after every card has come once, nothing is missed."""
    steps = np.arange(size)
    left = np.maximum(size - wanted - steps, 0) / (size - steps)
    chances = np.concatenate(([1.0], np.cumprod(left)))
    return np.asarray(chances[np.minimum(drawn.astype(np.int64), size)])


def expected_distinct(model: Repeats, drawn: float, size: int) -> float:
    """Return how many different cards ``drawn`` cards of a set show on average."""
    if model.independent:
        return size * -math.expm1(drawn * math.log1p(-1 / size)) if size > 1 else min(1.0, drawn)
    if model.factor == 0:
        return min(drawn, float(size))
    return size * -math.expm1(-inner_time(model.factor, drawn / size))
