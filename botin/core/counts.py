"""How often something comes: the exact law of a count as constant + binomials + Poisson.

Every rate of a package (odds, slots, counts per box or case) has such a law, so chances need no simulation.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
Values = TypeVar("Values", FloatArray, npt.NDArray[np.complex128])


@dataclass(frozen=True, slots=True)
class CountLaw:
    """The sum of a constant, independent binomials and a Poisson.

    Attributes
    ----------
    fixed : int
        What comes for certain.
    binomials : tuple of (n, p)
        n trials with chance p each.
    poisson : float
        Mean of the Poisson part.
    """

    fixed: int = 0
    binomials: tuple[tuple[int, float], ...] = ()
    poisson: float = 0.0

    @property
    def mean(self) -> float:
        """Expected count."""
        return self.fixed + sum(n * p for n, p in self.binomials) + self.poisson

    @property
    def variance(self) -> float:
        """Variance of the count."""
        return sum(n * p * (1 - p) for n, p in self.binomials) + self.poisson

    def pmf(self) -> FloatArray:
        """Chances of 0, 1, 2, …; the cut-off tail of the Poisson part weighs less than 1e-12."""
        chances = np.zeros(self.fixed + 1)
        chances[-1] = 1.0
        for n, p in self.binomials:
            chances = np.convolve(chances, binomial_pmf(n, p))
        if self.poisson > 0:
            chances = np.convolve(chances, poisson_pmf(self.poisson))
        return chances

    def pgf(self, z: Values) -> Values:
        """E[z^X]: the chance that every one of the X draws misses, when each misses with chance z."""
        found = z**self.fixed if self.fixed else np.ones_like(z)
        for n, p in self.binomials:
            found = found * (1 - p + p * z) ** n
        return found * np.exp(self.poisson * (z - 1)) if self.poisson else found

    def log_pgf(self, z: FloatArray) -> FloatArray:
        """Logarithm of `pgf` for z > 0, where the value itself would overflow."""
        found = self.fixed * np.log(z) + self.poisson * (z - 1)
        for n, p in self.binomials:
            found = found + n * np.log1p(p * (z - 1))
        return np.asarray(found)

    def times(self, boxes: int) -> CountLaw:
        """Return the law of the sum over independent boxes."""
        return CountLaw(self.fixed * boxes, tuple((n * boxes, p) for n, p in self.binomials), self.poisson * boxes)

    def part(self, parts: int) -> CountLaw:
        """Return the law of one of ``parts`` equal parts (a pack of a box, taken at random).

        One trial a part stays one trial; what is promised for the whole is spread evenly, no part twice while it
        can be helped; a Poisson stays one.
        """
        own = tuple((n // parts, p) for n, p in self.binomials if n % parts == 0)
        spread = self.fixed + sum(n * p for n, p in self.binomials if n % parts)
        even = per_pack_law(spread / parts, 1)
        return CountLaw(even.fixed, (*own, *even.binomials), self.poisson / parts)

    def thinned(self, share: float) -> CountLaw:
        """Return the law of what is left when each one stays with chance ``share``."""
        if share >= 1:
            return self
        fixed = ((self.fixed, share),) if self.fixed else ()
        return CountLaw(0, (*fixed, *((n, p * share) for n, p in self.binomials)), self.poisson * share)

    def draw(self, rng: np.random.Generator, size: int) -> npt.NDArray[np.int64]:
        """Draw counts, one for each of ``size`` boxes."""
        found = np.full(size, self.fixed, np.int64)
        for n, p in self.binomials:
            found += rng.binomial(n, p, size) if n > 1 else rng.random(size) < p
        return found + rng.poisson(self.poisson, size) if self.poisson else found

    def at_least(self, k: int) -> float:
        """P(X ≥ k)."""
        return 1.0 if k <= self.fixed else float(min(1.0, self.pmf()[k:].sum()))

    def at_most(self, k: int) -> float:
        """P(X ≤ k)."""
        return 0.0 if k < 0 else float(min(1.0, self.pmf()[: k + 1].sum()))


def binomial_pmf(n: int, p: float) -> FloatArray:
    """Chances of 0…n successes in n independent trials."""
    if p <= 0 or p >= 1:
        chances = np.zeros(n + 1)
        chances[n if p >= 1 else 0] = 1.0
        return chances
    k = np.arange(n + 1)
    log_choose = math.lgamma(n + 1) - _log_factorial(k) - _log_factorial(n - k)
    return np.asarray(np.exp(log_choose + k * math.log(p) + (n - k) * math.log1p(-p)))


def poisson_pmf(mean: float) -> FloatArray:
    """Chances of 0, 1, 2, … of a Poisson, as far as they weigh anything."""
    k = np.arange(int(mean + 12 * math.sqrt(mean) + 30))
    return np.asarray(np.exp(k * math.log(mean) - mean - _log_factorial(k)))


def _log_factorial(k: npt.NDArray[np.int64]) -> FloatArray:
    steps = np.concatenate(([0.0], np.log(np.arange(1, int(k.max(initial=0)) + 1))))
    return np.asarray(np.cumsum(steps)[k])


def per_pack_law(rate: float, packs: int) -> CountLaw:
    """Count over ``packs`` packs when each holds ``rate`` on average: ⌊rate⌋ for certain plus one by chance."""
    sure = math.floor(rate + 1e-12)
    left = max(0.0, rate - sure)
    return CountLaw(fixed=sure * packs, binomials=((packs, left),) if left > 1e-12 else ())


def average_law(mean: float, seeding: str) -> CountLaw:
    """Count when only the average is stated; two schools.

    Parameters
    ----------
    mean : float
        Average count.
    seeding : {"even", "random"}
        ``even``: the maker spreads them, ⌊mean⌋ plus one with the fractional chance. ``random``: Poisson.
    """
    if seeding == "random":
        return CountLaw(poisson=mean)
    return per_pack_law(mean, 1)


def promised_law(count: float, promise: str, odds_expect: float | None, seeding: str) -> CountLaw:
    """Count under a promise of ``count``: exact, at_least (guaranteed) or average.

    ``at_least`` adds a Poisson for what the printed odds expect beyond the promise, when odds are printed.
    """
    if promise in ("exact", "at_least", "guaranteed"):
        whole = CountLaw(fixed=math.floor(count + 1e-9))
        over = max(0.0, (odds_expect or 0.0) - count) if promise != "exact" else 0.0
        return CountLaw(fixed=whole.fixed, poisson=over)
    return average_law(count, seeding)
