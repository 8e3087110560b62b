"""Straight lines along a side: candidates in a strip, each with its support, placed to a part of a pixel.

A *strip* has a row for each place along the side and a column for each step across it, from outside to inside.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

Strip = NDArray[np.float32]
BLUR = 1.0
"""Pixels of the derivative across the side; a choice between noise and fine lines."""
LEAST_CHANGE = 0.45
"""Lab units a pixel below which a change is grain (a choice)."""
FAINT = 0.9
"""Lab units a pixel from which a change of colour counts half (a choice)."""
APART = 1.8
"""Pixels from which two lines are two (a choice)."""
ROWS = 128
"""Places along a side that are looked at: neighbours are averaged."""


@dataclass(frozen=True, slots=True)
class Line:
    """A line in a strip.

    Attributes
    ----------
    at, slope : float
        Column in the middle of the rows, and columns a row.
    support : float
        Share of the rows that have an edge there, 0 to 1.
    strength : float
        Median change of colour across it, Lab units a pixel.
    spread : float
        Robust standard deviation of the rows' edges about it, pixels.
    """

    at: float
    slope: float
    support: float
    strength: float
    spread: float

    def columns(self, rows: int) -> NDArray[np.float64]:
        """Return its column at each of so many rows."""
        return np.asarray(self.at + self.slope * (np.arange(rows) - (rows - 1) / 2), np.float64)


def thinned(strip: Strip, rows: int = ROWS) -> tuple[Strip, float]:
    """Average neighbouring rows; return the rows left and how many pixels one stands for."""
    step = max(1, strip.shape[0] // rows)
    count = strip.shape[0] // step
    first = (strip.shape[0] - count * step) // 2
    cut = strip[first : first + count * step]
    return cut.reshape(count, step, *strip.shape[1:]).mean(axis=1), float(step)


def changes(strip: Strip, blur: float = BLUR) -> NDArray[np.float32]:
    """Return how fast the colour changes across the side, Lab units a pixel."""
    slopes = gaussian_filter1d(strip, blur, axis=1, order=1, mode="nearest")
    return np.asarray(np.sqrt((slopes**2).sum(axis=2)), np.float32)


def candidates(change: NDArray[np.float32], steepest: float, most: int = 6, least: float = 0.25) -> list[Line]:
    """Return the straight lines of a strip, the best supported first.

    Parameters
    ----------
    change : rows × columns
        As `changes` gives it.
    steepest : float
        Largest slope, columns a row.
    most : int
        How many at most.
    least : float
        Smallest support.
    """
    rows, columns = change.shape
    bounded = change / (change + FAINT)
    half = (rows - 1) / 2
    count = max(3, 2 * int(np.ceil(steepest * half / 0.8)) + 1)
    slopes = np.linspace(-steepest, steepest, count)
    sums = np.stack([_sheared_mean(bounded, slope) for slope in slopes])
    best = sums.max(axis=0)
    tops = np.flatnonzero(best >= maximum_filter1d(best, 3))
    found: list[Line] = []
    for column in tops[np.argsort(-best[tops])][: 2 * most]:
        if len(found) == most or best[column] < least * 0.6:
            break
        line = settled(change, Line(float(column), float(slopes[sums[:, column].argmax()]), 0, 0, 0))
        if line.support >= least and not any(abs(line.at - other.at) < APART for other in found):
            found.append(line)
    return [line for line in found if -1 <= line.at <= columns]


def _sheared_mean(bounded: NDArray[np.float32], slope: float) -> NDArray[np.float32]:
    rows, columns = bounded.shape
    shift = np.rint(slope * (np.arange(rows) - (rows - 1) / 2)).astype(int)
    at = np.arange(columns)[None, :] + shift[:, None]
    inside = (at >= 0) & (at < columns)
    taken = np.take_along_axis(bounded, at.clip(0, columns - 1), axis=1)
    return np.asarray((taken * inside).mean(axis=0), np.float32)


def settled(change: NDArray[np.float32], line: Line, reach: float = 2.0) -> Line:
    """Move a line to where the edges of its rows are, by rounds of a robust fit."""
    rows = change.shape[0]
    places = np.arange(rows) - (rows - 1) / 2
    for _ in range(3):
        peaks, heights = _peaks(change, line.columns(rows), reach)
        strong = heights > max(LEAST_CHANGE, 0.25 * float(np.median(heights)))
        if strong.sum() < max(4, 0.1 * rows):
            return Line(line.at, line.slope, 0.0, 0.0, reach)
        at, slope = _fit(places, peaks, strong)
        line = Line(at, slope, 0, 0, 0)
        reach = max(1.4, reach * 0.8)
    off = np.abs(peaks - line.columns(rows))
    near = strong & (off < 1.0)
    if not near.any():
        return Line(line.at, line.slope, 0.0, 0.0, reach)
    spread = 1.4826 * float(np.median(off[strong]))
    return Line(line.at, line.slope, float(near.mean()), float(np.median(heights[near])), spread)


def _peaks(
    change: NDArray[np.float32], columns: NDArray[np.float64], reach: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return column and height of the strongest change of each row near a line."""
    rows, width = change.shape
    steps = np.arange(-int(np.ceil(reach)), int(np.ceil(reach)) + 1)
    at = np.clip(np.rint(columns)[:, None].astype(int) + steps[None, :], 1, width - 2)
    near = np.take_along_axis(change, at, axis=1)
    best = at[np.arange(rows), near.argmax(axis=1)]
    row = np.arange(rows)
    left, here, right = (change[row, best + by].astype(float) for by in (-1, 0, 1))
    bend = left - 2 * here + right
    off = np.where(bend < -1e-9, 0.5 * (left - right) / np.where(bend < -1e-9, bend, -1), 0.0)
    return best + off.clip(-1, 1), here


def _fit(x: NDArray[np.float64], y: NDArray[np.float64], use: NDArray[np.bool_]) -> tuple[float, float]:
    """Fit a line that few rows cannot pull away (Tukey's weights)."""
    weights = use.astype(float)
    at, slope = float(np.median(y[use])), 0.0
    for turn in range(5):
        total = weights.sum()
        mean_x, mean_y = (weights * x).sum() / total, (weights * y).sum() / total
        var = (weights * (x - mean_x) ** 2).sum()
        slope = (weights * (x - mean_x) * (y - mean_y)).sum() / var if var > 0 else 0.0
        at = mean_y - slope * mean_x
        off = y - at - slope * x
        scale = max(0.15, 1.4826 * float(np.median(np.abs(off[use]))))
        u = off / (4.685 * scale if turn else 8 * scale)
        fresh = np.where(np.abs(u) < 1, (1 - u**2) ** 2, 0.0) * use
        if fresh.sum() < 4:
            break
        weights = fresh
    return float(at), float(slope)
