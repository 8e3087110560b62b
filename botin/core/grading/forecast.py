"""What a house will give: its counts with bias, noise and limits in them, moved by a look; what looks can show."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import pairwise

import numpy as np

from botin.core.counts import FloatArray
from botin.core.grading.grades import (
    BIAS_PRIOR,
    COMMON,
    GRADES,
    NO_LIMITS,
    NOISE,
    Grader,
    Inspection,
    Quality,
    Standard,
    grade_chances,
)

BORDER = 4.0
"""Spread of the larger border around 50 on each axis, in points of percent: common practice, no source."""
SURE_BELOW = 0.002
"""Share that may fall below the lowest grade of the counts: no count rules out what lies under it."""
USUALLY = 1000
"""Copies a usual law of grades counts as: shares without a number behind them."""
NODES = np.linspace(-4.5, 4.5, 91)


@dataclass(frozen=True)
class Forecaster:
    """What a closer look can show, and what a house would then give.

    Attributes
    ----------
    grades : tuple of float
        Grades of the house.
    weights : array (looks)
        How likely each look is; they add up to 1.
    chances : array (looks × grades)
        Chance of each grade after it.
    """

    grades: tuple[float, ...]
    weights: FloatArray
    chances: FloatArray


@dataclass(frozen=True, eq=False)
class House:
    """A house ready to forecast: quality as its counts say, its cuts, and how its limits are met.

    Attributes
    ----------
    grades : tuple of float
        The grades it gives, the top one first.
    mean, spread : float
        Of the true quality.
    cuts : array (grades)
        What it must see for each grade, its bias taken off; −inf for the lowest.
    allowed : array (grades)
        Chance that the centering allows each grade, before anyone measures it.
    """

    grades: tuple[float, ...]
    mean: float
    spread: float
    noise: float
    own_noise: float
    cuts: FloatArray
    allowed: FloatArray
    border: float
    standard: Standard

    @cached_property
    def nodes(self) -> FloatArray:
        """Values of quality that stand for all."""
        return np.asarray(self.mean + self.spread * NODES)

    @cached_property
    def masses(self) -> FloatArray:
        """How likely each of them is."""
        found = np.exp(-0.5 * NODES**2)
        return np.asarray(found / found.sum())

    @cached_property
    def at_least(self) -> FloatArray:
        """Chance of each grade or better at each quality, centering aside (nodes × grades)."""
        from scipy.special import ndtr  # noqa: PLC0415  (slow to load)

        return np.asarray(ndtr((self.nodes[:, None] - self.cuts[None, :]) / self.noise))

    def scored(self, scores: FloatArray) -> FloatArray:
        """Chance to see each score, at each quality (scores × nodes): scores are halves, the ends open."""
        from scipy.special import ndtr  # noqa: PLC0415

        low = np.where(scores <= 1.0, -np.inf, scores - 0.25)
        high = np.where(scores >= GRADES[0] - 1e-9, np.inf, scores + 0.25)
        nodes = self.nodes[None, :]
        return np.asarray(
            ndtr((high[:, None] - nodes) / self.own_noise) - ndtr((low[:, None] - nodes) / self.own_noise)
        )

    def met(self, inspection: Inspection | None) -> FloatArray:
        """Chance that the centering allows each grade; 0 or 1 where it was measured."""
        if inspection is None or (inspection.front is None and inspection.back is None):
            return self.allowed
        cap = self.standard.cap(inspection)
        inside = np.array(
            [1.0 if grade <= cap or at == len(self.grades) - 1 else 0.0 for at, grade in enumerate(self.grades)]
        )
        return inside if inspection.front is not None else inside * self.allowed

    def forecast(self, inspection: Inspection | None = None) -> dict[float, float]:
        """Chance of each grade of a copy."""
        score = inspection.score if inspection else None
        weights = self.masses
        if score is not None:
            weights = weights * np.maximum(self.scored(np.array([score]))[0], 1e-300)
            weights = weights / weights.sum()
        return self.named(weights @ self.at_least * self.met(inspection))

    def named(self, at_least: FloatArray) -> dict[float, float]:
        """Turn chances of each grade or better into chances of each grade."""
        each = np.diff(np.concatenate(([0.0], np.maximum.accumulate(at_least))))
        return dict(zip(self.grades, each.tolist(), strict=True))


def looks_ahead(house: House, fronts: tuple[float, ...], judge: House | None = None) -> Forecaster:
    """List what a look can show: a score in halves, and centering between two limits.

    Parameters
    ----------
    house : House
        Whose grades are forecast.
    fronts : tuple of float
        Borders at which any house's limits change the grade, rising.
    judge : House, optional
        By whose counts the looks are weighed, when several houses are compared; the house itself without it.
    """
    scores = np.arange(2, 21) / 2
    judge = judge or house
    seen = house.scored(scores) * house.masses
    after = (seen / np.maximum(seen.sum(axis=1, keepdims=True), 1e-300)) @ house.at_least
    edges = (50.0, *fronts, 100.0)
    inside = [_within(front, judge.border) if front < 100 else 1.0 for front in edges]
    weights, allowed = np.diff(inside), []
    for front in edges[1:]:
        middle = Inspection(front=min(front, 99.0))
        allowed.append(house.met(middle) if front < 100 else house.met(Inspection(front=99.0)))
    if not fronts:
        weights, allowed = np.ones(1), [house.allowed]
    each = after[:, None, :] * np.stack(allowed)[None, :, :]
    above = np.maximum.accumulate(each.reshape(-1, len(house.grades)), axis=1)
    chances = np.diff(np.concatenate((np.zeros((len(above), 1)), above), axis=1), axis=1)
    by_score = judge.scored(scores) @ judge.masses
    total = (by_score[:, None] * weights[None, :]).reshape(-1)
    return Forecaster(house.grades, total / total.sum(), chances)


@lru_cache(maxsize=512)
def compared(houses: tuple[tuple[str, House], ...]) -> dict[str, Forecaster]:
    """Return what a look can show at several houses: the same looks, weighed by the first one's counts."""
    fronts = tuple(
        sorted(
            {
                limit.front
                for _, house in houses
                for limit in house.standard.limits
                if not house.standard.assumed and limit.front > 50
            }
        )
    )
    judge = houses[0][1]
    return {name: looks_ahead(house, fronts, judge) for name, house in houses}


def scale_of(given: Iterable[float]) -> tuple[float, ...]:
    """Return the grades a house gives, the top one first: whole ones, and the halves it has given."""
    return tuple(sorted({*given, *GRADES}, reverse=True))


def standard_cuts(grades: Sequence[float]) -> FloatArray:
    """Cuts half-way between neighbouring grades; the lowest has none."""
    middles = [(one + other) / 2 for one, other in pairwise(grades)]
    return np.array([*middles, -math.inf])


def _border(standard: Standard, shares: Sequence[float], grades: Sequence[float]) -> float:
    """Spread of the larger border: the usual one, or less where the counts have more of a grade than it lets by."""
    found = BORDER
    for grade, share in zip(grades, np.cumsum(shares).tolist(), strict=True):
        front = _limit(standard, grade)
        if front is None or front <= 50:
            continue
        needed = min(0.99, 1.1 * share) if grade == grades[0] else min(0.9999, share + 0.5 * (1 - share))
        while _within(front, found) < needed and found > 0.2:
            found *= 0.97
    return found


def _limit(standard: Standard, grade: float) -> float | None:
    """Larger border in front up to which a grade is given, by the nearest limit not below it; None without one."""
    if not standard.limits or grade <= standard.limits[-1].grade - 1:
        return None
    fitting = (limit.front for limit in reversed(standard.limits) if limit.grade >= grade)
    return next(fitting, standard.limits[0].front)


def _within(front: float, border: float) -> float:
    """Chance that the worse of two axes has its larger border within a limit."""
    return math.erf((front - 50) / (border * math.sqrt(2))) ** 2


@lru_cache(maxsize=512)
def house_of(quality: Quality, grader: Grader, standard: Standard = COMMON) -> House:
    """Fit a house: its counts with its bias, noise and limits in them, and cuts that give back its counts.

    Parameters
    ----------
    quality : Quality
        Counts of the product or section; without counts its mean and spread.
    grader : Grader
        Bias and noise of the house, noise of my own eye.
    standard : Standard
        Limits of centering.
    """
    guessed = standard.assumed or not standard.limits
    given = dict(quality.shares)
    if not given and not guessed:
        given = grade_chances(quality.mean, math.hypot(quality.spread, grader.noise))
    grades = scale_of(given)
    shares = [given.get(grade, 0.0) for grade in grades]
    border = BORDER if guessed else _border(standard, shares, grades)
    limits = [None if guessed else _limit(standard, grade) for grade in grades]
    allowed = np.array([1.0 if front is None else _within(front, border) for front in limits])
    allowed[-1] = 1.0
    cuts = standard_cuts(grades) - grader.bias
    mean, spread = quality.mean, quality.spread
    if given:
        seen_mean, seen_spread = _seen(shares, allowed, grades, quality.counted or USUALLY)
        spread = math.sqrt(max(seen_spread**2 - grader.noise**2, 0.05**2))
        mean = seen_mean - grader.bias
        cuts = _fitted_cuts(
            np.cumsum(shares) / allowed, cuts, mean, math.hypot(spread, grader.noise), quality.counted or USUALLY
        )
    return House(
        grades=grades,
        mean=mean,
        spread=spread,
        noise=grader.noise,
        own_noise=grader.own_noise,
        cuts=cuts,
        allowed=allowed,
        border=border,
        standard=standard,
    )


def _seen(shares: Sequence[float], allowed: FloatArray, grades: Sequence[float], counted: int) -> tuple[float, float]:
    """Mean and spread of what the house sees, by maximum likelihood of an ordered probit with its limits in.

    McCullagh (1980), Regression models for ordinal data, Journal of the Royal Statistical Society B 42.
    """
    cuts, weights = standard_cuts(grades), np.array(shares) * max(counted, 1)
    mean, spread = (grades[-1] + 12) / 2, 0.9
    reach, ratio = (12 - grades[-1]) / 2, 3.4
    for _ in range(4):  # a grid around the best so far, each a sixth as wide
        means = np.linspace(mean - reach, mean + reach, 25)
        spreads = np.clip(np.geomspace(spread / ratio, spread * ratio, 19), 0.25, 3.0)
        logs = _log_counts(means[:, None], spreads[None, :], cuts, allowed, weights)
        at = np.unravel_index(int(np.argmax(logs)), logs.shape)
        mean, spread = float(means[at[0]]), float(spreads[at[1]])
        reach, ratio = reach / 6, ratio ** (1 / 6)
    return mean, spread


def _log_counts(
    means: FloatArray, spreads: FloatArray, cuts: FloatArray, allowed: FloatArray, weights: FloatArray
) -> FloatArray:
    """Log likelihood of counts at each mean and spread of what the house sees."""
    from scipy.special import ndtr  # noqa: PLC0415  (slow to load)

    above = np.stack([ndtr((means - cut) / spreads) for cut in cuts.tolist()]) * allowed[:, None, None]
    each = np.diff(np.concatenate((np.zeros((1, *above.shape[1:])), above)), axis=0)
    return np.asarray(np.tensordot(weights, np.log(np.maximum(each, 1e-12)), axes=1))


def _fitted_cuts(above: FloatArray, usual: FloatArray, mean: float, spread: float, counted: int) -> FloatArray:
    """Cuts at which the counts come out as they are; where they hold nothing, the usual ones."""
    from scipy.special import ndtri  # noqa: PLC0415

    least = 0.5 / (counted + 1)
    found = mean - spread * ndtri(np.clip(above, least, 1 - SURE_BELOW))
    low = above >= 1 - SURE_BELOW
    found = np.where(low, np.minimum(usual, found), found)
    found[-1] = -math.inf
    return np.minimum.accumulate(found)


SAME_CARDS = 0.25
"""How far the cards sent to two houses may differ in quality, in grades; a choice."""


def told_apart(houses: Mapping[str, Quality]) -> dict[str, float]:
    """Biases of houses as far as their counts differ: much the same cards are sent to all, so the strict one shows.

    The mean of all is taken for no bias; each is drawn to 0 by what the cards themselves may differ.

    Parameters
    ----------
    houses : mapping
        Quality by house, each from its own counts.
    """
    means = {name: quality.mean for name, quality in houses.items() if quality.shares}
    if len(means) < 2:
        return dict.fromkeys(houses, 0.0)
    middle = math.fsum(means.values()) / len(means)
    kept = BIAS_PRIOR**2 / (BIAS_PRIOR**2 + SAME_CARDS**2)
    return {name: kept * (means[name] - middle) if name in means else 0.0 for name in houses}


def chances_of(
    quality: Quality, grader: Grader, inspection: Inspection | None = None, standard: Standard = COMMON
) -> dict[float, float]:
    """Chance of each grade for a copy.

    Parameters
    ----------
    quality : Quality
        Prior of the product, section or era.
    grader : Grader
        The house, and how sure my own eye is.
    inspection : Inspection, optional
        My look at this copy.
    standard : Standard
        Limits that cap the grade.
    """
    return house_of(quality, grader, standard).forecast(inspection)


def quality_from(shares: Mapping[float, float], counted: int) -> Quality:
    """Take how copies graded, as shares or counts, for the prior of quality.

    Parameters
    ----------
    shares : mapping
        Count or share of each grade.
    counted : int
        How many copies were graded; with fewer than 5 nothing is learned.
    """
    total = math.fsum(shares.values())
    if counted < 5 or total <= 0:
        return Quality(counted=counted)
    given = tuple(sorted(((grade, share / total) for grade, share in shares.items()), reverse=True))
    plain = Quality(shares=given, counted=counted)
    found = house_of(plain, Grader(), NO_LIMITS)
    return Quality(found.mean, found.spread, NOISE, counted, given)


def fit_quality(counts: Mapping[float, int], noise: float = NOISE) -> Quality:
    """Fit quality to counts of graded copies without limits; what is given to a house is fitted with its own."""
    found = quality_from(counts, sum(counts.values()))
    if not found.shares:
        return Quality(noise=noise, counted=found.counted)
    house = house_of(found, Grader(noise=noise), NO_LIMITS)
    return Quality(house.mean, house.spread, noise, found.counted, found.shares)
