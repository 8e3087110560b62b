"""What graded copies that came back teach: bias and noise of a house, and how good the forecasts were."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from botin.core.counts import FloatArray
from botin.core.grading.forecast import house_of, scale_of, standard_cuts
from botin.core.grading.grades import BIAS_PRIOR, GRADES, NO_LIMITS, Grader, Quality


@dataclass(frozen=True, slots=True)
class Returned:
    """A copy that came back: my score, the grade it got, and the prior it had."""

    score: float
    grade: float
    quality: Quality


def learn_grader(returned: Sequence[Returned]) -> Grader:
    """Learn bias, grader noise and inspection noise from my own returns: the posterior on a grid.

    Prior of the bias N(0, ½²); noises from a few values around the defaults, all alike beforehand.
    """
    return _learned(tuple(returned)) if returned else Grader()


@lru_cache(maxsize=32)
def _learned(returned: tuple[Returned, ...]) -> Grader:
    """Posterior of one set of returns: every product asks for the same one."""
    biases = np.linspace(-2, 2, 81)
    prior = -0.5 * (biases / BIAS_PRIOR) ** 2
    posterior = [
        (noise, own, prior + _log_likelihood(returned, biases, noise, own))
        for noise in (0.25, 0.45, 0.7, 1.0)
        for own in (0.35, 0.55, 0.8, 1.2)
    ]
    top = max(float(logs.max()) for _, _, logs in posterior)
    weights = np.array([np.exp(logs - top).sum() for _, _, logs in posterior])
    marginal = np.exp(np.array([logs for _, _, logs in posterior]) - top).sum(axis=0)
    share = marginal / marginal.sum()
    below = np.cumsum(share)
    noise = float(sum(w * n for (n, _, _), w in zip(posterior, weights, strict=True)) / weights.sum())
    own = float(sum(w * s for (_, s, _), w in zip(posterior, weights, strict=True)) / weights.sum())
    return Grader(
        float(share @ biases),
        float(biases[np.searchsorted(below, 0.025)]),
        float(biases[min(int(np.searchsorted(below, 0.975)), len(biases) - 1)]),
        noise,
        own,
        len(returned),
    )


def _log_likelihood(returned: Sequence[Returned], biases: FloatArray, noise: float, own: float) -> FloatArray:
    """Log likelihood of all returns at each bias, quality summed over its nodes."""
    grades = scale_of(row.grade for row in returned)
    total: FloatArray = np.zeros(len(biases))
    for quality in dict.fromkeys(row.quality for row in returned):
        rows = [row for row in returned if row.quality == quality]
        house = house_of(Quality(quality.mean, quality.spread), Grader(noise=noise, own_noise=own), NO_LIMITS)
        seen = house.scored(np.array([row.score for row in rows])) * house.masses
        for grade in dict.fromkeys(row.grade for row in rows):
            mine = np.array([row.grade == grade for row in rows])
            band = _band(house.nodes, biases, noise, grades, grade)
            total = total + np.log(np.maximum(seen[mine] @ band, 1e-12)).sum(axis=0)
    return total


def _band(nodes: FloatArray, biases: FloatArray, noise: float, grades: Sequence[float], grade: float) -> FloatArray:
    """Chance of one grade at each quality and bias."""
    from scipy.special import ndtr  # noqa: PLC0415  (slow to load)

    cuts = standard_cuts(grades)
    at = grades.index(grade)
    low, high = cuts[at], math.inf if at == 0 else cuts[at - 1]
    middle = nodes[:, None] + biases[None, :]
    return np.asarray(ndtr((high - middle) / noise) - ndtr((low - middle) / noise))


def brier(forecast: Sequence[Mapping[float, float]], grades: Sequence[float]) -> float:
    """Mean squared error of forecast chances over all grades (Brier 1950)."""
    total = sum(
        sum((chances.get(grade, 0.0) - (grade == got)) ** 2 for grade in GRADES)
        for chances, got in zip(forecast, grades, strict=True)
    )
    return total / len(grades)


@dataclass(frozen=True, slots=True)
class Bin:
    """A step of the reliability diagram: mean forecast of the top grade, share that got it, and how many."""

    forecast: float
    share: float
    count: int


def reliability(forecast: Sequence[float], got: Sequence[bool], bins: int = 5) -> tuple[Bin, ...]:
    """Group forecasts of the top grade by size and compare them with what came."""
    order = sorted(range(len(forecast)), key=lambda at: forecast[at])
    groups = [order[round(at * len(order) / bins) : round((at + 1) * len(order) / bins)] for at in range(bins)]
    return tuple(
        Bin(sum(forecast[i] for i in group) / len(group), sum(got[i] for i in group) / len(group), len(group))
        for group in groups
        if group
    )
