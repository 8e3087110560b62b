"""Money on a grid and its Fourier waves: prices become weighted grid points, sums of draws become products."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.counts import FloatArray

Waves = npt.NDArray[np.complex128]
Ints = npt.NDArray[np.int64]
BATCH = 8
"""Transforms done together: the library then uses the processor's wide registers."""


@dataclass(frozen=True, slots=True)
class Grid:
    """Values ``start``, start + step, …; the transform wraps around at ``points``, answers are read below half.

    Attributes
    ----------
    usual : float
        The usual price of a base card: a box full of it is ``origin``, and every draw is counted from there, so
        that the many usual cards are not rounded at all.
    origin : float
        Value of the boxes if every slot held a usual base card.
    room : int
        Grid points kept below 0, for cards that cost more to grade and sell than they bring.
    """

    step: float
    points: int
    usual: float = 0.0
    origin: float = 0.0
    room: int = 0

    @property
    def below(self) -> int:
        """Grid points between the start and the origin."""
        return math.floor(self.origin / self.step + 1e-7) + self.room

    @property
    def start(self) -> float:
        """The smallest value of the grid; from 0 to one step when no room is kept below 0."""
        found = self.origin - self.below * self.step
        return found if self.room else max(0.0, found)

    @property
    def reach(self) -> float:
        """Values from here on are only known as “at least this much”."""
        return self.start + self.step * self.points / 2

    @property
    def waves(self) -> int:
        """Number of waves of a real transform."""
        return self.points // 2 + 1

    def split(self, values: FloatArray) -> tuple[Ints, FloatArray]:
        """Return the grid point below each value and the share that goes to the next one."""
        scaled = values / self.step
        below = np.floor(scaled + 1e-7)
        return below.astype(np.int64), np.minimum(np.maximum(scaled - below, 0.0), 1.0)


@dataclass(frozen=True, slots=True)
class Atoms:
    """Weights at grid points; points below 0 wrap around to the far end."""

    places: Ints
    weights: FloatArray

    def scaled(self, factor: float, rest: float = 0.0) -> Atoms:
        """Return the weights times a factor, with ``rest`` left at 0."""
        if not rest:
            return Atoms(self.places, self.weights * factor)
        return Atoms(np.append(self.places, 0), np.append(self.weights * factor, rest))

    def with_each(self, other: Atoms, points: int) -> Atoms:
        """Return the sum of a draw of each."""
        places = wrapped((self.places[:, None] + other.places[None, :]).ravel(), points)
        return Atoms(places, np.outer(self.weights, other.weights).ravel())

    def mass(self, points: int) -> FloatArray:
        """Return the weights laid out on the grid."""
        return np.asarray(np.bincount(self.places, self.weights, points), np.float64)


def wrapped(places: Ints, points: int) -> Ints:
    """Return places around the grid; by a mask where its size is a power of two, which is several times faster."""
    if points & (points - 1):
        return places % points
    return places & (points - 1)


def draw_atoms(grid: Grid, values: FloatArray, shares: FloatArray, less: float = 0.0) -> Atoms:
    """One draw, each price rounded to its two neighbours so that its mean is kept.

    Cards beyond the grid are left out without renormalising. ``less`` is the price of the card it displaces.
    """
    inside = values < grid.reach
    below, up = grid.split(values[inside] - less)
    weights = shares[inside]
    off = up > 0
    places = wrapped(np.concatenate((below, below[off] + 1)), grid.points)
    return Atoms(places, np.concatenate((weights * (1 - up), (weights * up)[off])))


def joined(parts: Sequence[Atoms]) -> Atoms:
    """Return all atoms of several draws together, as a mixture of them."""
    return Atoms(np.concatenate([part.places for part in parts]), np.concatenate([part.weights for part in parts]))


def all_waves(parts: Sequence[Atoms], grid: Grid) -> Iterator[Waves]:
    """Transform many draws, a batch at a time, in their order."""
    import scipy.fft  # noqa: PLC0415  (the command line starts faster without it)

    laid = np.empty((min(BATCH, len(parts)), grid.points))  # one for all batches: fresh memory costs as much as a sum
    for start in range(0, len(parts), BATCH):
        batch = parts[start : start + BATCH]
        for row, part in zip(laid, batch, strict=False):
            row[:] = part.mass(grid.points)
        yield from scipy.fft.rfft(laid[: len(batch)], axis=1)


def power(waves: Waves, exponent: int) -> Waves:
    """Raise to a whole power by squaring."""
    result: Waves | None = None
    square = waves
    while exponent:
        if exponent & 1:
            result = square if result is None else result * square
        exponent >>= 1
        if exponent:
            square = square * square
    return np.ones_like(waves) if result is None else result
