"""What is believed of the log price of versions after all evidence, on a grid: median, mean, and interval.

Two looks: a wide grid around the version's own sales or, without any, around what the others say; then a fine one
where the belief lies. Money is the mean of the belief cut at its P0.5 and P99.5, since Student's t has no mean of its
exponential.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from botin.core.counts import FloatArray
from botin.core.pricing.cells import (
    TELL_FROM,
    WILD_SHARE,
    Ints,
    normal_density,
    wild_density,
)
from botin.core.pricing.fit import FREE
from botin.core.pricing.salecounts import SaleChance, log_sold

WIDE, POINTS = 4.0, 97
CUT = 0.005
ROWS = 64
"""Rows worked out together: larger blocks leave the processor's cache."""
Z80 = 1.2815515655446004


@dataclass(frozen=True)
class Sales:
    """Sales of some rows in flat arrays, sorted by row."""

    row: Ints
    logs: FloatArray
    weights: FloatArray
    noise: FloatArray
    """How a sale of its row scatters, on the log scale."""
    told: np.ndarray
    """Whether the row has enough sales for a wild one to be told."""


@dataclass(frozen=True)
class Ask:
    """Versions to work out.

    Attributes
    ----------
    centre : array
        Where the wide grid is laid.
    mean, scale : array
        Centre and scale of Student's t from the other versions.
    aside, aside_precision : array
        What its other grades say of the raw price, and how precisely (0: nothing).
    level, sold : array
        Its section and finish, and whether (1 or 0) it was ever sold.
    """

    centre: FloatArray
    mean: FloatArray
    scale: FloatArray
    aside: FloatArray
    aside_precision: FloatArray
    level: Ints
    sold: FloatArray


@dataclass(frozen=True)
class Belief:
    """What is believed of each version's log price: the fine grid, its masses, and the figures taken from it."""

    grid: FloatArray
    mass: FloatArray
    median: FloatArray
    low: FloatArray
    high: FloatArray
    mean: FloatArray
    """Mean of the price itself, major units."""
    spread: FloatArray

    def row(self, at: int) -> Belief:
        """Return one of the versions by itself."""
        one = slice(at, at + 1)
        return Belief(
            grid=self.grid[one],
            mass=self.mass[one],
            median=self.median[one],
            low=self.low[one],
            high=self.high[one],
            mean=self.mean[one],
            spread=self.spread[one],
        )


def sales_of(rows: Ints, logs: FloatArray, weights: FloatArray, noise: FloatArray, size: int) -> Sales:
    """Lay sales out by row; ``rows`` must rise."""
    counts = np.bincount(rows, minlength=size)
    return Sales(rows, logs, weights, noise, (counts >= TELL_FROM)[rows])


def _sale_logs(grid: FloatArray, sales: Sales) -> FloatArray:
    """Log likelihood of the own sales at each point of each row's grid."""
    found = np.zeros(grid.shape)
    if len(sales.row):
        away = sales.logs[:, None] - grid[sales.row]
        core = normal_density(away, sales.noise[:, None])
        wild = np.where(sales.told[:, None], WILD_SHARE * wild_density(away), 0.0)
        each = np.log(np.maximum(np.where(sales.told[:, None], 1 - WILD_SHARE, 1.0) * core + wild, 1e-300))
        rows, first = np.unique(sales.row, return_index=True)
        found[rows] = np.add.reduceat(sales.weights[:, None] * each, first, axis=0)
    return found


def _logs(ask: Ask, grid: FloatArray, sales: Sales, chance: SaleChance) -> FloatArray:
    away = (grid - ask.mean[:, None]) / ask.scale[:, None]
    found = -0.5 * (FREE + 1) * np.log1p(away**2 / FREE) + _sale_logs(grid, sales)
    far = ask.aside_precision[:, None] * (grid - ask.aside[:, None]) ** 2
    found -= 0.5 * (FREE + 1) * np.log1p(far / FREE)  # other grades may be of another world too
    told = chance.tells(ask.level)
    if told.any():
        found[told] += log_sold(chance.log_odds(grid[told], ask.level[told][:, None]), ask.sold[told][:, None])
    return found


def _normed(logs: FloatArray) -> FloatArray:
    mass = np.exp(logs - logs.max(axis=1, keepdims=True))
    return np.asarray(mass / mass.sum(axis=1, keepdims=True))


def quantiles(grid: FloatArray, mass: FloatArray, share: float) -> FloatArray:
    """Read a quantile off each row, on the line between grid points."""
    below = np.cumsum(mass, axis=1) - mass / 2
    at = np.clip((below < share).sum(axis=1), 1, grid.shape[1] - 1)
    row = np.arange(len(grid))
    left, right = below[row, at - 1], below[row, at]
    part = np.clip((share - left) / np.maximum(right - left, 1e-300), 0.0, 1.0)
    return np.asarray(grid[row, at - 1] + part * (grid[row, at] - grid[row, at - 1]))


def believe(ask: Ask, sales: Sales, chance: SaleChance) -> Belief:
    """Work out what is believed of the raw price of each version."""
    wide = ask.centre[:, None] + np.linspace(-WIDE, WIDE, POINTS)[None, :]
    mass = _normed(_logs(ask, wide, sales, chance))
    step = 2 * WIDE / (POINTS - 1)
    low, high = quantiles(wide, mass, 0.0005) - step, quantiles(wide, mass, 0.9995) + step
    fine = low[:, None] + (high - low)[:, None] * np.linspace(0, 1, POINTS)[None, :]
    return read_off(fine, _normed(_logs(ask, fine, sales, chance)))


def read_off(grid: FloatArray, mass: FloatArray) -> Belief:
    """Take median, interval, mean of the price and spread from beliefs on their grids."""
    first, last = quantiles(grid, mass, CUT), quantiles(grid, mass, 1 - CUT)
    kept = np.where((grid >= first[:, None]) & (grid <= last[:, None]), mass, 0.0)
    kept = kept / np.maximum(kept.sum(axis=1, keepdims=True), 1e-300)
    low, high = quantiles(grid, mass, 0.1), quantiles(grid, mass, 0.9)
    return Belief(
        grid=grid,
        mass=mass,
        median=quantiles(grid, mass, 0.5),
        low=low,
        high=high,
        mean=np.asarray((kept * np.exp(np.minimum(grid, 40.0))).sum(axis=1)),
        spread=np.asarray((high - low) / (2 * Z80)),
    )


def in_grade(raw: Belief, ratio: FloatArray, spread: FloatArray, sales: Sales) -> Belief:
    """Turn beliefs of raw prices into those of one grade: a ratio with its spread, then the sales in that grade."""
    middle, wide = raw.median + ratio, np.hypot(raw.spread, spread)
    grid = middle[:, None] + 4 * wide[:, None] * np.linspace(-1, 1, POINTS)[None, :]
    if len(sales.row):
        wide_sale = float(sales.noise.max())
        own = np.full(len(middle), -np.inf)
        np.maximum.at(own, sales.row, sales.logs)
        least = np.full(len(middle), np.inf)
        np.minimum.at(least, sales.row, sales.logs)
        has = np.isfinite(least)
        grid_low = np.where(has, np.minimum(grid[:, 0], least - 4 * wide_sale), grid[:, 0])
        grid_high = np.where(has, np.maximum(grid[:, -1], own + 4 * wide_sale), grid[:, -1])
        grid = grid_low[:, None] + (grid_high - grid_low)[:, None] * np.linspace(0, 1, 2 * POINTS)[None, :]
    if not len(sales.row):
        return read_off(grid, _normed(np.log(np.maximum(_shifted(raw, grid, ratio, spread), 1e-300))))
    prior = _shifted(_thinned(raw), grid, ratio, spread)  # only to find where the fine grid lies
    mass = _normed(np.log(np.maximum(prior, 1e-300)) + _sale_logs(grid, sales))
    low, high = quantiles(grid, mass, 0.0005), quantiles(grid, mass, 0.9995)
    fine = low[:, None] + np.maximum(high - low, 1e-3)[:, None] * np.linspace(0, 1, POINTS)[None, :]
    prior = _shifted(raw, fine, ratio, spread)
    return read_off(fine, _normed(np.log(np.maximum(prior, 1e-300)) + _sale_logs(fine, sales)))


def _thinned(raw: Belief) -> Belief:
    """Every other point of each grid, with the mass of its neighbours."""
    near = raw.mass[:, 1::2] / 2
    mass = raw.mass[:, ::2].copy()
    mass[:, :-1] += near
    mass[:, 1:] += near
    return replace(raw, grid=raw.grid[:, ::2], mass=mass)


def _shifted(raw: Belief, grid: FloatArray, ratio: FloatArray, spread: FloatArray) -> FloatArray:
    """Density of raw log price plus a normal ratio, at each point of each row's grid."""
    found = np.empty(grid.shape)
    for start in range(0, len(grid), ROWS):
        rows = slice(start, start + ROWS)
        away = grid[rows, :, None] - raw.grid[rows, None, :] - ratio[rows, None, None]
        kernel = np.exp(-0.5 * (away / spread[rows, None, None]) ** 2)
        found[rows] = np.einsum("ijk,ik->ij", kernel, raw.mass[rows])
    return found
