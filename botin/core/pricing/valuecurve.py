"""The distribution of what a box is worth: median, spread, the chance to break even, and how far off it can be."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from botin.core.counts import FloatArray
from botin.core.odds.collation import INDEPENDENT, Repeats
from botin.core.pricing.priced import PricedBox, PricedLine, mean_of, variance_of
from botin.core.pricing.spectrum import Laws, box_waves, laws_of
from botin.core.pricing.waves import Grid

POINTS = 2**16
REPEATED_POINTS = 2**14
"""Where base cards repeat, each price of theirs takes a pass over the grid for every angle: a coarser one must do."""
TAME = 0.05
TOLERANCE = 1e-12
NICE = (1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6, 8)
WIDEST = 2.5
"""Steps up to so many times the finest one are tried: prices in round tens lie on a wider one exactly."""
TILTS = np.geomspace(3e-3, 20, 30)
"""Where the exponential bounds are tried, in units of one over the grid step (or over the spread)."""


@dataclass(frozen=True)
class ValueCurve:
    """Distribution of the value of ``boxes`` boxes.

    Attributes
    ----------
    mean, sd : float
        In closed form, never from the grid (major units).
    masses : array
        Chance of each grid value below ``grid.reach``; what is missing to 1 lies at or above it.
    beyond : float
        Chance that a card dearer than the grid comes.
    blur : tuple of (float, float)
        Pairs (s, ε): with chance 1 − ε at least, rounding to the grid moved the value by less than s.
    wrap : float
        Bound on the mass that wrapped around the grid.
    """

    boxes: int
    mean: float
    sd: float
    grid: Grid
    masses: FloatArray
    beyond: float
    blur: tuple[tuple[float, float], ...]
    wrap: float

    @cached_property
    def cumulative(self) -> FloatArray:
        """P(V ≤ x) at each grid value below the reach."""
        return np.asarray(np.cumsum(self.masses))

    def chance_below(self, amount: float) -> float:
        """P(V < amount), for an amount within the reach."""
        place = self._place(amount)
        return 0.0 if place <= 0 else float(self.cumulative[min(place, len(self.masses)) - 1])

    def chance_at_least(self, amount: float) -> float:
        """P(V ≥ amount), for an amount within the reach."""
        return min(1.0, max(0.0, 1.0 - self.chance_below(amount)))

    def quantile(self, share: float) -> float | None:
        """Return the smallest x with P(V ≤ x) ≥ share; None when it lies beyond the grid."""
        place = int(np.searchsorted(self.cumulative, share - TOLERANCE))
        return None if place >= len(self.masses) else self.grid.start + place * self.grid.step

    def _place(self, amount: float) -> int:
        """First grid value that is not below an amount."""
        return math.ceil((amount - self.grid.start) / self.grid.step - 1e-6)

    @cached_property
    def values(self) -> FloatArray:
        """The values of the grid."""
        return np.asarray(self.grid.start + self.grid.step * np.arange(len(self.masses)))

    def expected_loss(self, cost: float) -> float:
        """E[cost − V | V < cost]: what is lost on average when it loses; 0 when it never does."""
        place = min(max(0, self._place(cost)), len(self.masses))
        below = self.masses[:place]
        total = float(below.sum())
        if total <= TOLERANCE:
            return 0.0
        return cost - float(below @ self.values[:place]) / total

    def error_at(self, amount: float) -> float:
        """Bound on the error of P(V ≤ amount) and P(V ≥ amount): rounding, wrap-around and arithmetic."""
        bounds = [
            epsilon + self.chance_below(amount + shift + self.grid.step) - self.chance_below(amount - shift)
            if shift
            else epsilon
            for shift, epsilon in self.blur
        ]
        return min(1.0, min(bounds) + self.wrap + 1e-11)

    def error_bound(self, cost: float) -> float:
        """Bound on the error of every reported chance: at the cost and at the three quantiles."""
        marks = [cost, *(q for share in (0.1, 0.5, 0.9) if (q := self.quantile(share)) is not None)]
        return max(self.error_at(mark) for mark in marks if mark < self.grid.reach)


def value_curve(
    box: PricedBox,
    reach: float,
    boxes: int = 1,
    *,
    one_case: bool = False,
    repeats: Repeats = INDEPENDENT,
    points: int = POINTS,
) -> ValueCurve:
    """Return the distribution of the value of some boxes.

    Parameters
    ----------
    box : PricedBox
        One box with its prices.
    reach : float
        Answers are wanted up to here at least (the cost); the grid goes to four times the larger of it and the
        90 % point.
    boxes : int
        Boxes of different cases; or all boxes of one case with ``one_case``.
    repeats : Repeats
        How base cards repeat in a box.
    """
    if not repeats.independent:
        points = min(points, REPEATED_POINTS)
    mean = boxes * mean_of(box)
    sd = math.sqrt(max(0.0, variance_of(box, boxes, one_case=one_case, repeats=repeats)))
    laws = laws_of(box, boxes, one_case=one_case)
    need = 4 * max(reach, _ninth_guess(box, boxes, mean), 0.01)
    return _far_enough(box, need, laws, repeats, (mean, sd), points)


def _far_enough(
    box: PricedBox, need: float, laws: Laws, repeats: Repeats, moments: tuple[float, float], points: int
) -> ValueCurve:
    """Return the curve on the first grid that reaches four times its own 90 % point."""
    while True:
        curve = _on_grid(box, _grid(box, need, laws.boxes, points), laws, repeats, moments)
        ninth = curve.quantile(0.9)
        if ninth is not None and 4 * ninth <= curve.grid.reach * (1 + 1e-9):
            return curve
        need = max(1.05 * need, 4 * ninth) if ninth is not None else 4 * need


def _ninth_guess(box: PricedBox, boxes: int, mean: float) -> float:
    """Guess, on the high side, where the 90 % point lies: mean and spread without the rarest dear cards."""
    flat = box.flat
    order = np.argsort(-flat.price)
    tame = order[np.cumsum(boxes * flat.expected[order]) > TAME]
    middle = boxes * float(flat.expected[tame] @ flat.price[tame])
    spread = math.sqrt(boxes * float(flat.expected[tame] @ flat.price[tame] ** 2))
    return min(middle + 1.5 * spread, 9 * mean)


def _grid(box: PricedBox, need: float, boxes: int, points: int) -> Grid:
    """Return the round step that moves prices least, among those with half the grid reaching ``need``."""
    losing = bool(len(box.flat.price)) and float(box.flat.price.min()) < 0
    usual = _usual_price(box.pool) if box.pool and not box.sizes else 0.0
    step, least = 0.01, (2.3 if losing else 2.0) * need / points
    if least > step:
        decade = 10.0 ** math.floor(math.log10(least))
        steps = [nice * decade for nice in (*NICE, *(10 * nice for nice in NICE))]
        fine = [step for step in steps if least * (1 - 1e-12) <= step <= WIDEST * least]
        step = min(fine, key=lambda one: _moved(box, usual, one))
    return Grid(round(step, 10), points, usual, boxes * box.slots * usual, points // 16 if losing else 0)


def _moved(box: PricedBox, usual: float, step: float) -> float:
    """Variance that rounding to a step adds: Σ expected count × step² f (1 − f), f the place within a step."""
    flat = box.flat
    scaled = (flat.price - np.where(flat.in_packs, usual, 0.0)) / step
    place = scaled - np.floor(scaled + 1e-7)
    return float(flat.expected @ np.maximum(place * (1 - place), 0.0)) * step * step + step * 1e-12


def _usual_price(pool: PricedLine) -> float:
    """Return the commonest price of a base card."""
    prices, counts = np.unique(pool.values, return_counts=True)
    return float(prices[int(np.argmax(counts))])


def _on_grid(box: PricedBox, grid: Grid, laws: Laws, repeats: Repeats, moments: tuple[float, float]) -> ValueCurve:
    waves = box_waves(box, grid, laws, repeats)
    import scipy.fft  # noqa: PLC0415  (the command line starts faster without it)

    masses = np.roll(scipy.fft.irfft(waves, grid.points), grid.below)
    masses = np.maximum(masses[: grid.points // 2], 0.0)
    return ValueCurve(
        laws.boxes,
        *moments,
        grid,
        masses,
        max(0.0, 1.0 - float(waves[0].real)),
        _blur(box, grid, laws),
        _wrap(box, grid, laws),
    )


def _blur(box: PricedBox, grid: Grid, laws: Laws) -> tuple[tuple[float, float], ...]:
    """Chernoff bounds on what rounding moved.

    A draw at f of a step above a grid point is rounded by −f with chance 1 − f and by 1 − f with chance f. With
    λ draws expected, log E e^(tΣ) ≤ λ·(E e^(te) − 1) for constants, binomials and Poissons alike (Chernoff 1952).
    """
    flat = box.flat
    _, up = grid.split(flat.price - np.where(flat.in_packs, grid.usual, 0.0))
    off = (up > 1e-6) & (up < 1 - 1e-6) & (flat.price < grid.reach)
    up, weight = up[off], laws.boxes * flat.most[off]
    if not len(up) or weight.sum() < 1e-15:
        return ((0.0, 0.0),)
    growth = _rounding_growth(up, weight)
    shifts = np.arange(0.25, 60, 0.25)
    logs = (growth[None, :] - shifts[:, None] * TILTS[None, :]).min(axis=1)
    some = float(-np.expm1(-weight.sum()))
    chances = [(float(s) * grid.step, 2 * math.exp(min(0.0, x))) for s, x in zip(shifts, logs, strict=True)]
    return ((0.0, some), *((s, e) for s, e in chances if e < 0.05))


def _rounding_growth(up: FloatArray, weight: FloatArray) -> FloatArray:
    """Log E e^(±tΣ) at every tilt t, by the place within a step in 1,001 classes; the larger of the two signs."""
    mass = np.bincount(np.rint(up * 1000).astype(np.int64), weight, 1001)
    here = mass > 0
    mass, f, tilt = mass[here], np.flatnonzero(here) / 1000, TILTS[:, None]
    rising = ((1 - f) * np.exp(-tilt * f) + f * np.exp(tilt * (1 - f)) - 1) @ mass
    falling = ((1 - f) * np.exp(tilt * f) + f * np.exp(-tilt * (1 - f)) - 1) @ mass
    return np.asarray(np.maximum(rising, falling))


def _wrap(box: PricedBox, grid: Grid, laws: Laws) -> float:
    """Chernoff bound on P(V ≥ twice the reach) without cards dearer than the grid: what can wrap around."""
    span, best, flat = 2 * grid.reach, 0.0, box.flat
    inside = flat.price < grid.reach
    prices, weights = flat.price[inside], laws.boxes * flat.most[inside]
    for tilt in np.geomspace(0.5, 60, 16) / grid.reach:
        logs = float(weights @ np.expm1(np.minimum(tilt * prices, 600.0)))
        best = min(best, logs - float(tilt) * span)
    return math.exp(best)


def added(curves: Sequence[ValueCurve]) -> tuple[float, FloatArray]:
    """Return the distribution of the sum of independent curves: the step of its grid, and its masses from 0 on.

    Each curve is laid on the coarsest step with its means kept, then they are convolved; what lies beyond a grid is
    missing, so that “at least” stays right.
    """
    import scipy.signal  # noqa: PLC0415  (slow to load)

    step = max(curve.grid.step for curve in curves)
    total: FloatArray = np.ones(1)
    for curve in curves:
        scaled = np.maximum(curve.values, 0.0) / step
        below = np.floor(scaled + 1e-9).astype(np.int64)
        up = np.clip(scaled - below, 0.0, 1.0)
        size = int(below.max()) + 2
        masses = np.bincount(below, curve.masses * (1 - up), size) + np.bincount(below + 1, curve.masses * up, size)
        total = np.maximum(scipy.signal.fftconvolve(total, masses), 0.0)
    return step, total


def mid_percentile(curves: Sequence[ValueCurve], value: float) -> float:
    """P(V < value) + ½ P(V = value) for the sum of some curves: 0.5 is neither lucky nor unlucky."""
    if len(curves) == 1:
        one, at = curves[0], curves[0].grid.step / 2
        below = one.chance_below(value - at)
        return min(1.0, (below + one.chance_below(value + at)) / 2)
    step, masses = added(curves)
    place = min(round(value / step), len(masses) - 1)
    return float(min(1.0, masses[:place].sum() + masses[place] / 2))
