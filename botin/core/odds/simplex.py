"""Packs that satisfy every numbered line: a polytope, and linear programs over it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

FloatArray = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Polytope:
    """All packs x ≥ 0 with low·x ≤ copies·(1 + over) and high·x ≥ copies·(1 − short) for each line.

    Attributes
    ----------
    low, high : array of shape (lines, formats)
        Least and most cards a pack; an infinite entry lifts the second condition.
    copies : array of shape (lines,)
    size : int
        Number of formats.
    over, short : float
        Shares by which more, or fewer, copies than stated may lie in the packs.
    """

    low: FloatArray
    high: FloatArray
    copies: FloatArray
    size: int
    over: float = 0.0
    short: float = 0.0

    def widened(self, over: float, short: float) -> Polytope:
        """Return the polytope with the copies of every line widened by these shares."""
        return Polytope(self.low, self.high, self.copies, self.size, over, short)

    def _rows(self) -> tuple[FloatArray, FloatArray]:
        """Inequalities A x ≤ b, each scaled by its line's copies."""
        capped = np.isfinite(self.high).all(axis=1) if len(self.copies) else np.zeros(0, dtype=bool)
        scale = self.copies[:, None]
        a = np.vstack([self.low / scale, -self.high[capped] / scale[capped]])
        slack = 1e-9
        b = np.concatenate(
            [np.full(len(self.copies), 1 + self.over + slack), np.full(capped.sum(), -1 + self.short + slack)]
        )
        return a, b

    def _ends(self) -> tuple[float, float]:
        """Least and most packs of the only format: each line is an interval, no program is needed."""
        with np.errstate(divide="ignore"):
            least = (self.copies * (1 - self.short) / self.high[:, 0]).max(initial=0.0)
            most = (self.copies * (1 + self.over) / self.low[:, 0]).min(initial=np.inf)
        return float(least), float(most)

    def slack(self) -> float:
        """Smallest t for which some x satisfies all lines with over = short = t; 0 when they agree."""
        if self.size == 1:
            least, most = self._ends()
            return max(0.0, (least - most) / (least + most)) if most < least else 0.0
        a, _ = self._rows()
        if not len(a):
            return 0.0
        lines = len(self.copies)
        b = np.concatenate([np.ones(lines), -np.ones(len(a) - lines)])
        grown = np.hstack([a, -np.ones((len(a), 1))])
        found = _solve(np.append(np.zeros(self.size), 1.0), grown, b)
        return 0.0 if found is None or found < 1e-8 else found

    def bounds(self, weights: FloatArray) -> tuple[float, float | None]:
        """Least and most of Σ weights·x; the most is None when nothing limits it."""
        if self.size == 1:
            least, most = self._ends()
            return float(weights[0]) * least, None if np.isinf(most) else float(weights[0]) * most
        a, b = self._rows()
        lowest, highest = _solve(weights, a, b), _solve(-weights, a, b)
        return max(0.0, lowest or 0.0), None if highest is None else -highest

    def ratio(self, copies: float, rates: FloatArray, column: int, *, largest: bool) -> float | None:
        """Most or least of (copies − Σ rates·x) ÷ x[column]; None when nothing limits it.

        Notes
        -----
        A linear-fractional program, made linear by Charnes and Cooper's substitution y = x/x[column],
        s = 1/x[column] (Naval Research Logistics Quarterly 9, 1962).
        """
        a, b = self._rows()
        sign = -1.0 if largest else 1.0
        grown = np.hstack([a, -b[:, None]])
        goal = sign * np.append(-rates, copies)
        found = _solve(goal, grown, np.zeros(len(a)), fixed=column)
        return None if found is None else sign * found


def _solve(goal: FloatArray, a: FloatArray, b: FloatArray, fixed: int | None = None) -> float | None:
    """Least of goal·x for x ≥ 0 and A x ≤ b, with x[fixed] = 1; None when it has no end or no x fits."""
    from scipy.optimize import linprog  # noqa: PLC0415  (slow to import)

    scale = _scale(a)
    bounds: list[tuple[float, float | None]] = [(0.0, None)] * len(goal)
    if fixed is not None:
        bounds[fixed] = (1 / scale[fixed], 1 / scale[fixed])
    found = linprog(goal * scale, A_ub=a * scale, b_ub=b, bounds=bounds, method="highs")
    return float(found.fun) if found.status == 0 else None


def _scale(a: FloatArray) -> FloatArray:
    """Bring every column to the size of one, so that packs by the million and rates by the thousandth go together."""
    size = np.abs(a).max(axis=0, initial=0.0)
    return np.where(size > 0, 1 / np.where(size > 0, size, 1.0), 1.0)
