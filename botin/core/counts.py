"""How often something comes: the exact law of a count as constant + binomials + Poisson.

Every rate of a package (odds, slots, counts per box or case) has such a law, so chances need no simulation.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]
Values = TypeVar("Values", FloatArray, npt.NDArray[np.complex128])


@dataclass(frozen=True, slots=True)
class CountLaw:
    """The sum of a constant, independent binomials, small counts and a Poisson; or one of several such laws.

    Attributes
    ----------
    fixed : int
        What comes for certain.
    binomials : tuple of (n, p)
        n trials with chance p each.
    poisson : float
        Mean of the Poisson part.
    steps : tuple of (n, chances)
        n independent counts that are 0, 1, 2, … with these chances.
    schools : tuple of (weight, law)
        Laws of which one holds, the same for all boxes; all other parts are then empty. Nobody knows which: chances
        are averaged over them, and what was seen moves their weights.
    """

    fixed: int = 0
    binomials: tuple[tuple[int, float], ...] = ()
    poisson: float = 0.0
    steps: tuple[tuple[int, tuple[float, ...]], ...] = ()
    schools: tuple[tuple[float, CountLaw], ...] = ()

    @property
    def mean(self) -> float:
        """Expected count."""
        if self.schools:
            return math.fsum(weight * law.mean for weight, law in self.schools)
        small = sum(n * sum(k * chance for k, chance in enumerate(chances)) for n, chances in self.steps)
        return self.fixed + sum(n * p for n, p in self.binomials) + small + self.poisson

    @property
    def variance(self) -> float:
        """Variance of the count."""
        if self.schools:
            mean = self.mean
            return math.fsum(w * (law.variance + (law.mean - mean) ** 2) for w, law in self.schools)
        return (
            sum(n * p * (1 - p) for n, p in self.binomials)
            + self.poisson
            + sum(n * _spread(c) for n, c in self.steps)
        )

    def pmf(self) -> FloatArray:
        """Chances of 0, 1, 2, …; the cut-off tail of the Poisson part weighs less than 1e-12."""
        if self.schools:
            parts = [weight * law.pmf() for weight, law in self.schools]
            found: FloatArray = np.zeros(max(len(part) for part in parts))
            for part in parts:
                found[: len(part)] += part
            return found
        chances = np.zeros(self.fixed + 1)
        chances[-1] = 1.0
        for n, p in self.binomials:
            chances = np.convolve(chances, binomial_pmf(n, p))
        for n, small in self.steps:
            for _ in range(n):
                chances = np.convolve(chances, np.array(small))
        if self.poisson > 0:
            chances = np.convolve(chances, poisson_pmf(self.poisson))
        return chances

    def pgf(self, z: Values) -> Values:
        """E[z^X]: the chance that every one of the X draws misses, when each misses with chance z."""
        if self.schools:
            return sum((weight * law.pgf(z) for weight, law in self.schools), start=np.zeros_like(z))
        found = z**self.fixed if self.fixed else np.ones_like(z)
        for n, p in self.binomials:
            found = found * (1 - p + p * z) ** n
        for n, small in self.steps:
            found = found * _polynomial(small, z) ** n
        return found * np.exp(self.poisson * (z - 1)) if self.poisson else found

    def log_pgf(self, z: FloatArray) -> FloatArray:
        """Logarithm of `pgf` for z > 0, where the value itself would overflow."""
        if self.schools:
            logs = np.stack([math.log(w) + law.log_pgf(z) for w, law in self.schools if w > 0])
            return np.asarray(np.logaddexp.reduce(logs))
        found = self.fixed * np.log(z) + self.poisson * (z - 1)
        for n, p in self.binomials:
            found = found + n * np.log1p(p * (z - 1))
        for n, small in self.steps:
            found = found + n * np.log(_polynomial(small, z))
        return np.asarray(found)

    def times(self, boxes: int) -> CountLaw:
        """Return the law of the sum over so many boxes: independent, but of one school."""
        return CountLaw(
            self.fixed * boxes,
            tuple((n * boxes, p) for n, p in self.binomials),
            self.poisson * boxes,
            tuple((n * boxes, small) for n, small in self.steps),
            self._each(lambda law: law.times(boxes)),
        )

    def _each(self, change: Callable[[CountLaw], CountLaw]) -> tuple[tuple[float, CountLaw], ...]:
        return tuple((weight, change(law)) for weight, law in self.schools)

    def part(self, parts: int) -> CountLaw:
        """Return the law of one of ``parts`` equal parts (a pack of a box, taken at random).

        One trial a part stays one trial; what is promised for the whole is spread evenly, no part twice while it
        can be helped; a Poisson stays one.
        """
        if self.schools:
            return CountLaw(schools=self._each(lambda law: law.part(parts)))
        own = tuple((n // parts, p) for n, p in self.binomials if n % parts == 0)
        small = sum(n * sum(k * chance for k, chance in enumerate(chances)) for n, chances in self.steps)
        spread = self.fixed + small + sum(n * p for n, p in self.binomials if n % parts)
        even = per_pack_law(spread / parts, 1)
        return CountLaw(even.fixed, (*own, *even.binomials), self.poisson / parts)

    def opened(self, done: int, parts: int) -> CountLaw:
        """Return the law of what lies in ``done`` of ``parts`` packs: trials and slots of a pack stay whole."""
        if done >= parts:
            return self
        if self.schools:
            return CountLaw(schools=self._each(lambda law: law.opened(done, parts)))
        share = done / parts
        slots = self.fixed // parts * done if self.fixed % parts == 0 else 0
        own = tuple((n // parts * done, p) for n, p in self.binomials if n % parts == 0)
        rest = CountLaw(
            0 if self.fixed % parts == 0 else self.fixed,
            tuple((n, p) for n, p in self.binomials if n % parts),
            self.poisson,
            self.steps,
        ).thinned(share)
        return CountLaw(slots, (*own, *rest.binomials), rest.poisson, rest.steps)

    def thinned(self, share: float) -> CountLaw:
        """Return the law of what is left when each one stays with chance ``share``."""
        if share >= 1:
            return self
        if self.schools:
            return CountLaw(schools=self._each(lambda law: law.thinned(share)))
        fixed = ((self.fixed, share),) if self.fixed else ()
        kept = tuple((n, _thinned(small, share)) for n, small in self.steps)
        return CountLaw(0, (*fixed, *((n, p * share) for n, p in self.binomials)), self.poisson * share, kept)

    def draw(self, rng: np.random.Generator, size: int) -> npt.NDArray[np.int64]:
        """Draw counts, one for each of ``size`` boxes that have nothing to do with each other."""
        if self.schools:
            which = rng.choice(len(self.schools), size, p=[weight for weight, _ in self.schools])
            drawn = np.stack([law.draw(rng, size) for _, law in self.schools])
            return np.asarray(drawn[which, np.arange(size)])
        found = np.full(size, self.fixed, np.int64)
        for n, p in self.binomials:
            found += rng.binomial(n, p, size) if n > 1 else rng.random(size) < p
        for n, small in self.steps:
            found += rng.choice(len(small), (n, size), p=small).sum(axis=0)
        return found + rng.poisson(self.poisson, size) if self.poisson else found

    def at_least(self, k: int) -> float:
        """P(X ≥ k)."""
        return 1.0 if k <= self.fixed else float(min(1.0, self.pmf()[k:].sum()))

    def at_most(self, k: int) -> float:
        """P(X ≤ k)."""
        return 0.0 if k < 0 else float(min(1.0, self.pmf()[: k + 1].sum()))


def _spread(chances: tuple[float, ...]) -> float:
    mean = sum(k * chance for k, chance in enumerate(chances))
    return sum((k - mean) ** 2 * chance for k, chance in enumerate(chances))


def _polynomial(chances: tuple[float, ...], z: Values) -> Values:
    found = np.full_like(z, chances[-1])
    for chance in chances[-2::-1]:
        found = found * z + chance
    return found


def _thinned(chances: tuple[float, ...], share: float) -> tuple[float, ...]:
    """Chances of what is left of a small count when each one stays with chance ``share``."""
    found = [0.0] * len(chances)
    for k, chance in enumerate(chances):
        for left in range(k + 1):
            found[left] += chance * math.comb(k, left) * share**left * (1 - share) ** (k - left)
    return tuple(found)


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


def average_law(mean: float, seeding: str, counts: Sequence[int] = ()) -> CountLaw:
    """Count when only the average is stated; two schools, and a third that lets the logs decide.

    Parameters
    ----------
    mean : float
        Average count.
    seeding : {"even", "random", "learned"}
        ``even``: the maker spreads them, ⌊mean⌋ plus one with the fractional chance. ``random``: Poisson.
        ``learned``: one of the two, half and half until complete boxes were logged, then by Bayes from their counts.
    counts : sequence of int
        Counts of complete boxes.
    """
    if mean <= 0:
        return CountLaw()
    if seeding == "random":
        return CountLaw(poisson=mean)
    if seeding == "learned":
        return learned_law(mean, counts)
    return per_pack_law(mean, 1)


def learned_law(mean: float, counts: Sequence[int] = ()) -> CountLaw:
    """Return the mixture of even and random, weighed by the counts of complete boxes.

    Even carries a slip, since boxes with one more or one fewer exist: a box one off its law has chance s/2 each way,
    s = (1 + boxes one off) ÷ (20 + boxes) when the logs are weighed, (boxes one off) ÷ (20 + boxes) when forecast.
    """
    boxes, off = len(counts), _one_off(mean, counts)
    weighed = even_law(mean, (1 + off) / (20 + boxes))
    logs = [_log_chance(law, counts) for law in (weighed, CountLaw(poisson=mean))]
    top = max(logs)
    weights = [math.exp(log - top) for log in logs]
    even = weights[0] / sum(weights)
    forecast = even_law(mean, off / (20 + boxes)), CountLaw(poisson=mean)
    return CountLaw(schools=tuple(zip((even, 1 - even), forecast, strict=True)))


def even_law(mean: float, slip: float) -> CountLaw:
    """⌊mean⌋ plus one with the fractional chance, and one more or one fewer with chance slip/2 each."""
    if slip <= 0:
        return per_pack_law(mean, 1)
    low = math.floor(mean + 1e-12)
    more = max(0.0, mean - low)
    if low == 0:
        return CountLaw(steps=((1, _slipped((1 - more, more), slip)),))
    return CountLaw(fixed=low - 1, steps=((1, _slipped((0.0, 1 - more, more), slip)),))


def _slipped(chances: tuple[float, ...], slip: float) -> tuple[float, ...]:
    """Move each count one down and one up with chance slip/2; none falls below 0."""
    found = [0.0] * (len(chances) + 1)
    for k, chance in enumerate(chances):
        found[k] += chance * (1 - slip)
        found[max(0, k - 1)] += chance * slip / 2
        found[k + 1] += chance * slip / 2
    return tuple(found)


def _one_off(mean: float, counts: Sequence[int]) -> int:
    """Boxes one off the even law."""
    low, high = math.floor(mean + 1e-12), math.ceil(mean - 1e-12)
    return sum(1 for count in counts if count in (low - 1, high + 1))


def _log_chance(law: CountLaw, counts: Sequence[int]) -> float:
    """Log chance of independent counts."""
    chances = law.pmf()
    return sum(math.log(max(float(chances[count]), 1e-300)) if count < len(chances) else -690.0 for count in counts)


def promised_law(
    count: float, promise: str, odds_expect: float | None, seeding: str, counts: Sequence[int] = ()
) -> CountLaw:
    """Count under a promise of ``count``: exact, at_least (guaranteed) or average.

    ``at_least`` adds a Poisson for what the printed odds expect beyond the promise, when odds are printed. Of a
    fraction the whole part is certain, one more comes with the fractional chance.
    """
    if promise in ("exact", "at_least", "guaranteed"):
        sure = per_pack_law(count, 1)
        over = max(0.0, (odds_expect or 0.0) - count) if promise != "exact" else 0.0
        return CountLaw(sure.fixed, sure.binomials, over)
    return average_law(count, seeding, counts)
