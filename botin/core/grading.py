"""Chance of each grade: how the product usually grades, moved by my own look at the copy, capped by limits.

True quality q ~ N(μ, τ²) on the scale of grades; my inspection y = q + N(0, s²); a house gives the grade whose band
holds q + b + N(0, g²), with its bias b. Band of a grade k: from half a step below it to half a step above.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from botin.core.counts import FloatArray

BIAS_PRIOR = 0.5
"""Standard deviation of a house's bias, in grades."""
GRADES = (10.0, 9.0, 8.0, 7.0, 6.0, 5.0, 4.0, 3.0, 2.0, 1.0)
NOISE, OWN_NOISE = 0.45, 0.7
"""Grader noise g and inspection noise s until returns teach better; a choice."""
DEFAULT_PRIOR = (9.0, 0.9)
"""Mean and spread of quality of a fresh modern card without any counts; a choice."""
PARTS = ("centering", "corners", "edges", "surface")


@dataclass(frozen=True, slots=True)
class Quality:
    """The prior of quality, and the noise of a grader."""

    mean: float = DEFAULT_PRIOR[0]
    spread: float = DEFAULT_PRIOR[1]
    noise: float = NOISE
    counted: int = 0


@dataclass(frozen=True, slots=True)
class Grader:
    """What is known of a house and of my own eye: bias, its interval, grader noise, inspection noise."""

    bias: float = 0.0
    low: float = -2 * BIAS_PRIOR
    high: float = 2 * BIAS_PRIOR
    noise: float = NOISE
    own_noise: float = OWN_NOISE
    returns: int = 0


@dataclass(frozen=True, slots=True)
class Inspection:
    """My look at a copy: 1 to 10 in halves for each part, and centering in percent of the larger border."""

    centering: float | None = None
    corners: float | None = None
    edges: float | None = None
    surface: float | None = None
    front: float | None = None
    back: float | None = None

    @property
    def score(self) -> float | None:
        """One number: half the worst part, half the mean of the parts seen; None when nothing was looked at."""
        seen = [value for value in (self.centering, self.corners, self.edges, self.surface) if value is not None]
        return 0.5 * min(seen) + 0.5 * sum(seen) / len(seen) if seen else None


NOTED = {
    "off-centre": ("centering", 7.5),
    "miscut": ("centering", 4.0),
    "soft corner": ("corners", 7.5),
    "edge chip": ("edges", 7.5),
    "print line": ("surface", 8.0),
    "dimple": ("surface", 8.0),
    "fingerprint": ("surface", 8.5),
    "signature bubble": ("surface", 7.0),
    "gum stain": ("surface", 6.0),
}
"""What a mark noted while opening says of a part, until someone looks closely; a choice, no source."""


def noted_look(marks: Iterable[str]) -> Inspection | None:
    """Return the look that marks from the rip desk stand for: the worst of each part; None without any."""
    parts: dict[str, float] = {}
    for mark in marks:
        if mark in NOTED:
            part, score = NOTED[mark]
            parts[part] = min(score, parts.get(part, score))
    return Inspection(**parts) if parts else None


@dataclass(frozen=True, slots=True)
class Limit:
    """Centering a grade allows at most, in percent of the larger border: 55 means 55/45."""

    grade: float
    front: float
    back: float


@dataclass(frozen=True)
class Standard:
    """A table of limits, the top grade first (generic; houses differ and change them)."""

    name: str
    limits: tuple[Limit, ...] = field(
        default=(Limit(10, 55, 75), Limit(9, 60, 90), Limit(8, 65, 90), Limit(7, 70, 90), Limit(6, 80, 90))
    )

    def cap(self, inspection: Inspection) -> float:
        """Return the highest grade that the centering allows; the scale's top when it was not measured."""
        for limit in self.limits:
            if (inspection.front or 50) <= limit.front and (inspection.back or 50) <= limit.back:
                return limit.grade
        return self.limits[-1].grade - 1 if self.limits else GRADES[0]


COMMON = Standard("common limits, from memory")


def _below(x: float) -> float:
    return 0.5 * (1 + math.erf(x / math.sqrt(2)))


def grade_chances(mean: float, spread: float, cap: float = GRADES[0]) -> dict[float, float]:
    """Chance of each grade when what the house sees is N(mean, spread²); what lies above the cap gets the cap."""
    found: dict[float, float] = {}
    above = 0.0
    for grade in GRADES:
        low = -math.inf if grade == GRADES[-1] else (grade - 0.5 - mean) / spread
        chance = (1.0 if low == -math.inf else 1 - _below(low)) - above
        above += chance
        target = min(grade, cap)
        found[target] = found.get(target, 0.0) + max(0.0, chance)
    return {grade: found.get(grade, 0.0) for grade in GRADES}


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
    mean, variance = quality.mean, quality.spread**2
    score = inspection.score if inspection else None
    if score is not None:
        gain = variance / (variance + grader.own_noise**2)
        mean, variance = mean + gain * (score - mean), variance * (1 - gain)
    spread = math.sqrt(variance + grader.noise**2)
    cap = standard.cap(inspection) if inspection else GRADES[0]
    return grade_chances(mean + grader.bias, spread, cap)


def fit_quality(counts: Mapping[float, int], noise: float = NOISE) -> Quality:
    """Mean and spread of quality from counts of graded copies, by maximum likelihood of an ordered probit.

    The counts only tell τ² + g²; the grader noise g is taken as given.
    """
    total = sum(counts.values())
    if total < 5:
        return Quality(noise=noise, counted=total)
    grades = np.array([grade for grade in GRADES if counts.get(grade)])
    weights = np.array([counts[grade] for grade in grades.tolist()], float)
    best = (-math.inf, *DEFAULT_PRIOR)
    spreads = np.geomspace(max(noise * 1.02, 0.25), 3.0, 40)
    for spread in spreads.tolist():
        for mean in np.linspace(4, 12, 161).tolist():
            chances = grade_chances(mean, spread)
            pairs = zip(grades.tolist(), weights.tolist(), strict=True)
            logs = sum(w * math.log(max(chances[g], 1e-12)) for g, w in pairs)
            if logs > best[0]:
                best = (logs, mean, spread)
    return Quality(best[1], math.sqrt(max(best[2] ** 2 - noise**2, 0.05**2)), noise, total)


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
    if not returned:
        return Grader()
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
    from scipy.special import ndtr  # noqa: PLC0415  (slow to load)

    total: FloatArray = np.zeros(len(biases))
    for row in returned:
        variance = row.quality.spread**2
        gain = variance / (variance + own**2)
        mean = row.quality.mean + gain * (row.score - row.quality.mean) + biases
        spread = math.sqrt(variance * (1 - gain) + noise**2)
        high = np.inf if row.grade == GRADES[0] else row.grade + 0.5
        low = -np.inf if row.grade == GRADES[-1] else row.grade - 0.5
        seen = math.log(math.hypot(row.quality.spread, own))
        surprise = 0.5 * ((row.score - row.quality.mean) / math.hypot(row.quality.spread, own)) ** 2
        chance = ndtr((high - mean) / spread) - ndtr((low - mean) / spread)
        total = total + np.log(np.maximum(chance, 1e-12)) - seen - surprise
    return total


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
