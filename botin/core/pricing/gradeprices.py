"""What a grade sells for against the raw card: a smooth curve over the grades, its own for each section.

log ratio of section s in grade g = usual curve + Gaussian process over the grades + what the section differs by. A
grade without any sale lies on the curve through its neighbours, wide; a grade's price is a ratio, never an amount, so
a section's usual graded price says nothing of a card that sells for more or less than the section does.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from botin.core.counts import FloatArray

USUAL = ((1.0, -1.7), (5.0, -0.8), (7.0, -0.4), (8.0, -0.15), (9.0, 0.2), (10.0, 0.95))
"""Log ratios to raw of a card that is bought to be graded, before any graded sale is known; a choice, no source."""
LEVEL, SLOPE, BEND, REACH = 0.4, 0.16, 0.3, 1.6
"""How far the curve of a product may lie off the usual one: in all, by grade from the middle, and locally."""
MIDDLE = 6.5
OF_SECTION = 0.3
WORD_SPREAD = 1.0
SPREADS = np.geomspace(0.08, 0.9, 22)
USUAL_SPREAD, SPREAD_WORTH = 0.25, 4.0
"""Usual spread of a version's own ratio around its section's; held to it as by so many versions; a choice."""


@dataclass(frozen=True)
class Ratios:
    """The curve as learned from observed log ratios.

    Attributes
    ----------
    sections, grades : array
        Section and grade of each observation.
    pull : array
        Weights of the observations in every answer.
    spread : float
        Spread of a version's own ratio.
    """

    sections: FloatArray
    grades: FloatArray
    pull: FloatArray
    inverse: FloatArray
    spread: float

    def at(self, section: int, grade: float) -> tuple[float, float]:
        """Log ratio of a grade in a section, and its variance; a version's own spread is not in it."""
        here = _cover(np.array([float(section)]), np.array([grade]), np.array([float(section)]), np.array([grade]))
        if not len(self.grades):
            return usual_ratio(grade), float(here[0, 0])
        to = _cover(np.array([float(section)]), np.array([grade]), self.sections, self.grades)[0]
        variance = float(here[0, 0] - to @ self.inverse @ to)
        return usual_ratio(grade) + float(to @ self.pull), max(variance, 1e-4)


@lru_cache(maxsize=256)
def usual_ratio(grade: float) -> float:
    """Log ratio before anything is known, on straight lines between the grades of the table."""
    grades, ratios = zip(*USUAL, strict=True)
    return float(np.interp(grade, grades, ratios))


def _cover(one: FloatArray, grade: FloatArray, other: FloatArray, its: FloatArray) -> FloatArray:
    """Covariance of two sets of section and grade."""
    near = np.exp(-0.5 * ((grade[:, None] - its[None, :]) / REACH) ** 2)
    far = (grade - MIDDLE)[:, None] * (its - MIDDLE)[None, :]
    same = one[:, None] == other[None, :]
    return np.asarray(LEVEL**2 + SLOPE**2 * far + BEND**2 * near + OF_SECTION**2 * same * (0.5 + 0.5 * near))


BEYOND_GRADES = 1e6
"""Larger than any grade, so that section and grade make one number."""


def learn_ratios(section: FloatArray, grade: FloatArray, ratio: FloatArray, noise: FloatArray) -> Ratios:
    """Learn the curve.

    Parameters
    ----------
    section, grade : array
        Of each version that was sold in a grade.
    ratio : array
        Its log price in the grade less its raw log price.
    noise : array
        Variance of that by what is not known of both prices; a version's own spread is found here.
    """
    if not len(ratio):
        none = np.zeros(0)
        return Ratios(none, none, none, np.zeros((0, 0)), USUAL_SPREAD)
    _, first, which = np.unique(section * BEYOND_GRADES + grade, return_index=True, return_inverse=True)
    places = np.stack((section[first], grade[first]), axis=1)
    spread = _version_spread(which, ratio, noise, len(places))
    weight = 1 / (noise + spread**2)
    total = np.bincount(which, weight, len(places))
    middle = np.bincount(which, weight * ratio, len(places)) / total
    cover = _cover(places[:, 0], places[:, 1], places[:, 0], places[:, 1])
    inverse: FloatArray = np.asarray(np.linalg.inv(cover + np.diag(1 / total)), np.float64)
    usual = np.array([usual_ratio(one) for one in places[:, 1].tolist()])
    return Ratios(places[:, 0], places[:, 1], inverse @ (middle - usual), inverse, spread)


def _version_spread(which: np.ndarray, ratio: FloatArray, noise: FloatArray, count: int) -> float:
    """Most likely spread of the versions' own ratios around those of their section and grade."""
    order = np.argsort(which, kind="stable")
    first = np.searchsorted(which[order], np.arange(count))
    ratio, sizes = ratio[order], np.diff(np.append(first, len(which)))
    weight = 1 / (noise[order][None, :] + SPREADS[:, None] ** 2)
    total = np.add.reduceat(weight, first, axis=1)
    middle = np.add.reduceat(weight * ratio, first, axis=1) / total
    left = ratio - np.repeat(middle, sizes, axis=1)
    logs = 0.5 * (np.log(weight) - weight * left**2).sum(axis=1) - 0.5 * np.log(total).sum(axis=1)
    prior = 0.5 * SPREAD_WORTH * (np.log(SPREADS / USUAL_SPREAD) / 0.6) ** 2
    return float(SPREADS[int(np.argmax(logs - prior))])
