"""Sales of one version in one grade as numbers: log prices, weights by age, noise of a sale, a robust middle."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.counts import FloatArray

Ints = npt.NDArray[np.int64]
BoolArray = npt.NDArray[np.bool_]
Key = tuple[str, str, str, str]

WILD_SHARE = 0.05
"""Share of sales that are of something else: a wrong card, a lot, a mistyped price; a choice."""
WILD_SPREAD, WILD_FREE = 0.9, 3.0
"""Such a sale lies anywhere: Student's t with so many degrees of freedom and this scale on the log scale. A normal of
1.2 lets a sale thirty times too dear pull harder than one ten times too dear; a choice, held against the tests."""
CONSISTENT = 1.4826
"""Median absolute deviation to standard deviation of a normal (standard)."""
TELL_FROM = 3
"""With one or two own sales nothing tells a wild one from a sound one."""
USUAL_NOISE, NOISE_WORTH = 0.28, 6.0
"""Usual spread of log prices of single sales, and the pairs of sales it counts as beside those seen; a choice."""
WILD_PAIRS = (2 * WILD_SHARE, 0.3, 0.5)
"""Shares of pairs with a wild sale in them that are tried, the likeliest wins: some markets are worse than others."""
NOISES = np.geomspace(0.05, 1.0, 42)
"""Two equal sales do not make a price certain: 5 % at least; a choice."""
OWN_WORTH = 10.0
"""Sales that the usual scatter counts as beside a version's own, for how its sales scatter; a choice."""


@dataclass(frozen=True)
class Cells:
    """All sales of a product in flat arrays, sorted by cell; a cell is a version in a grade.

    Attributes
    ----------
    keys : tuple of Key
        Section, number, parallel and grade of each cell.
    logs, weights : array (sales)
        Log prices, and weights that add up to the effective number of sales of their cell.
    cell : array (sales)
        Cell of each sale.
    start : array (cells)
        First sale of each cell.
    """

    keys: tuple[Key, ...]
    logs: FloatArray
    weights: FloatArray
    cell: Ints
    start: Ints

    @property
    def sales(self) -> Ints:
        """Sales of each cell."""
        return np.diff(np.append(self.start, len(self.logs)))

    def summed(self, values: FloatArray) -> FloatArray:
        """Add up something over the sales of each cell."""
        return np.bincount(self.cell, values, len(self.keys)).astype(np.float64)


def wild_density(away: FloatArray) -> FloatArray:
    """Density of a wild sale at a distance on the log scale."""
    head = math.gamma((WILD_FREE + 1) / 2) / (math.sqrt(WILD_FREE * math.pi) * math.gamma(WILD_FREE / 2))
    return np.asarray(head / WILD_SPREAD * (1 + (away / WILD_SPREAD) ** 2 / WILD_FREE) ** (-(WILD_FREE + 1) / 2))


def normal_density(away: FloatArray, spread: float | FloatArray) -> FloatArray:
    """Density of N(0, spread²)."""
    return np.asarray(np.exp(-0.5 * (away / spread) ** 2) / (spread * math.sqrt(2 * math.pi)))


def sale_noise(cells: Cells) -> float:
    """Spread σ of the log price of a single sale, from neighbouring sales of the same version.

    A difference of two sales is N(0, 2σ²), or a wild one; the most likely σ on a grid, with a prior worth a few
    pairs.
    """
    pairs = np.flatnonzero(np.diff(cells.cell) == 0) if len(cells.cell) > 1 else np.zeros(0, np.int64)
    usual = 0.5 * NOISE_WORTH * (np.log(NOISES / USUAL_NOISE) / 0.35) ** 2
    if not len(pairs):
        return USUAL_NOISE
    gaps = cells.logs[pairs + 1] - cells.logs[pairs]
    if len(gaps) > 4000:
        gaps = gaps[:: 1 + len(gaps) // 4000]
    wild = wild_density(gaps / math.sqrt(2)) / math.sqrt(2)
    core = normal_density(gaps[:, None], math.sqrt(2) * NOISES[None, :])
    tried = [np.log((1 - share) * core + share * wild[:, None]).sum(axis=0) - usual for share in WILD_PAIRS]
    logs = max(tried, key=lambda one: float(one.max()))
    at = int(np.argmax(logs))
    return float(NOISES[at]) if at in (0, len(NOISES) - 1) else _peak(np.log(NOISES), logs, at)


def _peak(places: FloatArray, logs: FloatArray, at: int) -> float:
    """Top of the parabola through three neighbouring points, back from the log scale."""
    left, mid, right = logs[at - 1], logs[at], logs[at + 1]
    bend = left - 2 * mid + right
    shift = 0.5 * (left - right) / bend if bend < 0 else 0.0
    return float(math.exp(places[at] + shift * (places[at + 1] - places[at])))


def cell_medians(cells: Cells, values: FloatArray) -> FloatArray:
    """Return the median of something over the sales of each cell."""
    if not len(cells.keys):
        return np.zeros(0)
    count = cells.sales
    ordered = values[np.lexsort((values, cells.cell))]
    return np.asarray((ordered[cells.start + (count - 1) // 2] + ordered[cells.start + count // 2]) / 2)


def cell_noises(cells: Cells, noise: float) -> FloatArray:
    """How the sales of each cell scatter: as usual, drawn to their own median absolute deviation by their number."""
    away = np.abs(cells.logs - cell_medians(cells, cells.logs)[cells.cell])
    own = CONSISTENT * cell_medians(cells, away)
    free = np.where(cells.sales >= TELL_FROM, cells.sales - 1.0, 0.0)
    return np.asarray(np.sqrt((OWN_WORTH * noise**2 + free * own**2) / (OWN_WORTH + free)))


@dataclass(frozen=True)
class Middles:
    """Robust middle of each cell, how much it says, and how its sales scatter.

    Attributes
    ----------
    precision : array
        One over the variance of the middle.
    noise : array
        Scatter of a single sale of the cell, on the log scale.
    """

    middle: FloatArray
    precision: FloatArray
    noise: FloatArray


def middles(cells: Cells, noise: float) -> Middles:
    """Find the middle of each cell: medians first, then sales weighed by the chance that they are sound."""
    middle, each = cell_medians(cells, cells.logs), cell_noises(cells, noise)
    told = cells.sales[cells.cell] >= TELL_FROM
    pull = cells.weights
    for _ in range(8):
        away = cells.logs - middle[cells.cell]
        core = (1 - WILD_SHARE) * normal_density(away, each[cells.cell])
        sound = np.where(told, core / (core + WILD_SHARE * wild_density(away)), 1.0)
        pull = cells.weights * sound
        middle = cells.summed(pull * cells.logs) / np.maximum(cells.summed(pull), 1e-12)
        squares = cells.summed(np.where(told, sound * away**2, 0.0))
        free = np.maximum(cells.summed(np.where(told, sound, 0.0)) - 1, 0.0)
        each = np.sqrt((OWN_WORTH * noise**2 + squares) / (OWN_WORTH + free))
    return Middles(middle, np.maximum(cells.summed(pull), 0.2) / each**2, each)
