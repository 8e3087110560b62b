"""How log prices split into player, section and finish: a mixed model with learned spreads, each version left out.

log price of a version = intercept + section + finish + what the run is worth + section with finish + player + u, all
but the first drawn from normals with spreads learned by expectation and maximisation (Dempster, Laird, Rubin 1977), u
from Student's t. What a version's own price is held against comes from the other versions only: with A the matrix of
the normal equations and x the row of a version, h = w·xᵀA⁻¹x, the left-out residual is r ÷ (1 − h) and the left-out
variance xᵀA⁻¹x ÷ (1 − h) (Cook and Weisberg 1982, Residuals and Influence in Regression, from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.counts import FloatArray

Ints = npt.NDArray[np.int64]

FREE = 4.0
"""Degrees of freedom of what is a version's own: tails heavy enough for the one card everybody wants; a choice."""
PRIOR_WORTH = 4.0
"""Spreads are held to their usual size as if so many players or finishes had shown it; a choice."""
USUAL = {"person": 0.8, "level": 0.7, "finish": 1.0, "section": 1.2, "own": 0.45}
"""Usual spreads on the log scale between players, finishes, sections and versions; a choice."""
RUN_WORTH, RUN_SPREAD = 0.35, 0.25
"""A run half as long is worth e^(0.35·ln 2), a quarter, more before anything is seen; a choice."""
LOST = 0.5
"""Student's t tells less of its middle than a normal of its scale: 2/7 less for four degrees of freedom (Lange,
Little, Taylor 1989, from memory), more where wild sales and learned spreads add to it; held against simulations."""
PART = 0.7
"""A normal part of variance v beside Student's t of scale s is near Student's t of scale √(s² + 0.7 v): the scale of
four degrees of freedom that fits a normal best is √0.7 of its deviation (by maximum likelihood, computed)."""
ROUNDS = 8
MOST_JUDGED = 1500
"""Versions that a spread is judged by; of more, every so-manyth: its own error is then below 2 %."""
SPREADS = np.geomspace(0.08, 1.6, 64)


@dataclass(frozen=True)
class Design:
    """Levels (a section with a finish) and what ties them: columns of the fixed part.

    Attributes
    ----------
    rows : array (levels × columns)
        Intercept, worth of the run, sections, finishes, and one column a level.
    kind : array (columns)
        0 intercept, 1 run, 2 section, 3 finish, 4 level.
    people : int
        How many players there are.
    """

    rows: FloatArray
    kind: Ints
    people: int


def design_of(sections: Ints, finishes: Ints, runs: FloatArray, people: int) -> Design:
    """Build the columns from the section, finish and run (0 when there is none) of each level."""
    count, ns, nf = len(sections), int(sections.max(initial=-1)) + 1, int(finishes.max(initial=-1)) + 1
    rows = np.zeros((count, 2 + ns + nf + count))
    rows[:, 0] = 1.0
    rows[:, 1] = np.where(runs > 0, -np.log(np.maximum(runs, 1.0) / 100), 0.0)
    at = np.arange(count)
    rows[at, 2 + sections] = 1.0
    rows[at, 2 + ns + finishes] = 1.0
    rows[at, 2 + ns + nf + at] = 1.0
    kind = np.repeat(np.arange(5), [1, 1, ns, nf, count])
    return Design(rows, kind, people)


@dataclass(frozen=True)
class Evidence:
    """One row a version: who, which level, what it seems to be worth, and how precisely that is known.

    Attributes
    ----------
    person : array
        Place of the player; −1 for none (a usual price of a whole level).
    own : array
        Whether what is the version's own stands between the row and the level (0 for usual prices).
    copies : array
        How many versions the row stands for.
    """

    person: Ints
    level: Ints
    value: FloatArray
    precision: FloatArray
    own: FloatArray
    copies: FloatArray


@dataclass
class Spreads:
    """Standard deviations on the log scale."""

    person: float = USUAL["person"]
    level: float = USUAL["level"]
    finish: float = USUAL["finish"]
    section: float = USUAL["section"]
    own: float = USUAL["own"]

    def precisions(self) -> FloatArray:
        """Prior precision of an intercept, the worth of the run, a section, a finish, and a level."""
        each = (100.0, RUN_SPREAD, self.section, self.finish, self.level)
        return np.array([1 / spread**2 for spread in each])


@dataclass(frozen=True)
class Fit:
    """The solved model.

    Attributes
    ----------
    people, fixed : array
        Effects of the players, and of the columns of the design.
    person_variance, level_variance, cross : array
        What is left unknown of players, of levels, and of both together.
    column_variance : array
        What is left unknown of each column.
    spreads : Spreads
        As learned.
    weight : array (rows)
        Weight of one version of each row in the normal equations.
    """

    design: Design
    people: FloatArray
    fixed: FloatArray
    person_variance: FloatArray
    level_variance: FloatArray
    cross: FloatArray
    column_variance: FloatArray
    spreads: Spreads
    weight: FloatArray

    def mean(self, person: Ints, level: Ints) -> FloatArray:
        """Expected log price of versions."""
        found = (self.design.rows @ self.fixed)[level]
        if len(self.people):
            found = found + np.where(person >= 0, self.people[np.maximum(person, 0)], 0.0)
        return np.asarray(found)

    def variance(self, person: Ints, level: Ints) -> FloatArray:
        """Variance of that expectation; what is a version's own comes on top, as does a player never seen."""
        found = self.level_variance[level]
        if len(self.people):
            who = np.maximum(person, 0)
            found = found + np.where(person >= 0, self.person_variance[who] - 2 * self.cross[who, level], 0.0)
        return np.asarray(np.maximum(found, 1e-9))

    def without(self, rows: Evidence) -> tuple[FloatArray, FloatArray]:
        """Expected log price and variance of each row's version from all other rows."""
        mean, variance = self.mean(rows.person, rows.level), self.variance(rows.person, rows.level)
        left = np.maximum(1 - self.weight * variance, 0.02)
        return mean - self.weight * variance * (rows.value - mean) / left, variance / left


def solve(design: Design, rows: Evidence, weight: FloatArray, spreads: Spreads) -> Fit:
    """Solve the normal equations with players eliminated: they meet levels, never each other."""
    levels, people = len(design.rows), design.people
    total, known = weight * rows.copies, rows.person >= 0
    centre = float(total @ rows.value / max(total.sum(), 1e-12))
    target = rows.value - centre
    met = np.bincount(rows.person[known] * levels + rows.level[known], total[known], people * levels).reshape(
        people, levels
    )
    on_person = np.bincount(rows.person[known], (total * target)[known], people)
    of_person = met.sum(axis=1) + 1 / spreads.person**2
    prior = spreads.precisions()[design.kind]
    share = (met @ design.rows) / of_person[:, None]
    inner = (design.rows.T * np.bincount(rows.level, total, levels)) @ design.rows + np.diag(prior)
    inverse = np.linalg.inv(inner - (share * of_person[:, None]).T @ share)
    pull = np.where(design.kind == 1, prior * RUN_WORTH, 0.0)
    on_level = np.bincount(rows.level, total * target, levels)
    fixed = inverse @ (design.rows.T @ on_level + pull - share.T @ on_person)
    found = on_person / of_person - share @ fixed
    fixed[0] += centre
    reach, over = inverse @ design.rows.T, share @ inverse
    return Fit(
        design=design,
        people=found,
        fixed=fixed,
        person_variance=1 / of_person + np.einsum("ij,ij->i", over, share),
        level_variance=np.einsum("ij,ji->i", design.rows, reach),
        cross=share @ reach,
        column_variance=np.diag(inverse).copy(),
        spreads=spreads,
        weight=weight,
    )


def _learned(fit: Fit, rows: Evidence) -> Spreads:
    """One step of expectation and maximisation for the spreads between players, finishes, sections and levels."""
    seen = np.unique(rows.person[rows.person >= 0])
    squares = fit.people[seen] ** 2 + fit.person_variance[seen] if len(seen) else np.zeros(0)
    met = np.bincount(rows.level, minlength=len(fit.design.rows)) > 0
    columns = (fit.design.rows[met] > 0).any(axis=0)

    def spread(kind: int, name: str) -> float:
        here = (fit.design.kind == kind) & columns
        return _pooled(fit.fixed[here] ** 2 + fit.column_variance[here], USUAL[name])

    return Spreads(
        person=_pooled(squares, USUAL["person"]),
        level=spread(4, "level"),
        finish=spread(3, "finish"),
        section=spread(2, "section"),
        own=fit.spreads.own,
    )


def _pooled(squares: FloatArray, usual: float) -> float:
    return math.sqrt((float(squares.sum()) + PRIOR_WORTH * usual**2) / (len(squares) + PRIOR_WORTH))


def _own_spread(left: FloatArray, extra: FloatArray) -> float:
    """Most likely scale of what is a version's own, from residuals of versions left out."""
    step = 1 + len(left) // MOST_JUDGED
    left, extra = left[::step], extra[::step]
    scale = SPREADS[:, None] ** 2 + extra[None, :]
    logs = -0.5 * np.log(scale) - 0.5 * (FREE + 1) * np.log1p(left**2 / (FREE * scale))
    total = step * logs.sum(axis=1) - 0.5 * PRIOR_WORTH * (np.log(SPREADS / USUAL["own"]) / 0.7) ** 2
    return float(SPREADS[int(np.argmax(total))])


def learn(design: Design, rows: Evidence, spreads: Spreads | None = None, rounds: int = ROUNDS) -> Fit:
    """Fit effects and spreads together.

    Parameters
    ----------
    design : Design
        Columns of the levels.
    rows : Evidence
        What is known of versions and of whole levels.
    spreads : Spreads, optional
        Where to start.
    rounds : int
        Rounds of learning; the last one only solves.
    """
    spreads = spreads or Spreads()
    pull, known = np.ones(len(rows.value)), rows.own > 0
    sure = known & (rows.precision > 1)
    for turn in range(rounds):
        weight = pull / (rows.own * spreads.own**2 + 1 / rows.precision)
        fit = solve(design, rows, weight, spreads)
        if turn == rounds - 1:
            break
        mean, variance = fit.without(rows)
        left, extra = rows.value - mean, PART * (variance + 1 / rows.precision)
        spreads = _learned(fit, rows)
        if sure.any():
            spreads.own = _own_spread(left[sure], extra[sure])
        scale = spreads.own**2 + extra
        pull = np.where(known, (FREE + 1) / (FREE + left**2 / scale) * (1 - LOST * spreads.own**2 / scale), 1.0)
    return fit
