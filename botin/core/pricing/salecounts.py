"""Whether a version was ever sold as evidence of its price: cards that never sell are cheaper than cards that do.

The chance that a version of a section and finish was sold is logistic in its log price: a + κ·log price, a the
level's own. κ is the likeliest of a few, judged by versions left out of their own prior; where sales do not follow
prices it comes out as 0 and nothing changes.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.counts import FloatArray
from botin.core.pricing.fit import FREE

Ints = npt.NDArray[np.int64]
STEEPNESS = (0.0, 0.35, 0.6, 0.9, 1.4, 2.2, 3.5, 6.0)
EXPECTED, SURE = 0.6, 1.0
"""κ before any sale is counted, and how sure that is; a choice, common practice without source."""
GRID = np.linspace(-5.0, 5.0, 41)
"""Where a version's own part is looked at, in scales of Student's t."""
FARTHEST = 30.0
LAPSE = 0.02
"""Share of versions that are sold or not for reasons of their own: a price someone asked for; a choice."""


@dataclass(frozen=True)
class SaleChance:
    """The chance to be sold by price.

    Attributes
    ----------
    steepness : float
        κ; 0 when prices do not matter.
    base : array (levels)
        a of each level; −inf where nothing was ever sold, +inf where everything was.
    """

    steepness: float
    base: FloatArray

    def log_odds(self, value: FloatArray, level: Ints) -> FloatArray:
        """Return the log odds that versions at log prices are sold."""
        return np.asarray(np.clip(self.base[level] + self.steepness * value, -FARTHEST, FARTHEST))

    def tells(self, level: Ints) -> npt.NDArray[np.bool_]:
        """Whether a level has both sold and unsold versions, so that being sold says something."""
        return np.asarray(np.isfinite(self.base[level]) & (self.steepness > 0))


def log_sold(log_odds: FloatArray, sold: FloatArray) -> FloatArray:
    """Log chance of sold (1) or not (0); a sale that nobody would expect still says but so much."""
    chance = 1 / (1 + np.exp(np.where(sold > 0, -log_odds, log_odds)))
    return np.asarray(np.log(LAPSE / 2 + (1 - LAPSE) * chance))


@dataclass(frozen=True)
class Held:
    """Versions, whether sold, and what is believed of their log price."""

    level: Ints
    sold: FloatArray
    copies: FloatArray
    mean: FloatArray
    variance: FloatArray


def levelled(rows: Held, steepness: float, levels: int, start: FloatArray | None = None) -> SaleChance:
    """Find a of each level so that as many versions are expected to be sold as were."""
    total = np.bincount(rows.level, rows.copies, levels)
    sold = np.bincount(rows.level, rows.copies * rows.sold, levels)
    share = np.divide(sold, total, out=np.zeros(levels), where=total > 0)
    inside = (share > 0) & (share < 1)
    middle = np.divide(
        np.bincount(rows.level, rows.copies * rows.mean, levels), total, out=np.zeros(levels), where=total > 0
    )
    with np.errstate(divide="ignore"):
        odds = np.log(share) - np.log1p(-share)
    base = np.where(inside, odds - steepness * middle, odds)
    if start is not None:
        base = np.where(inside & np.isfinite(start), start, base)
    soften = 1 / np.sqrt(1 + np.pi * steepness**2 * rows.variance / 8)
    for _ in range(8 if start is None else 3):
        # E of a logistic of a normal, by MacKay's (1992) approximation
        chance = 1 / (1 + np.exp(-np.clip((base[rows.level] + steepness * rows.mean) * soften, -FARTHEST, FARTHEST)))
        gap = sold - np.bincount(rows.level, rows.copies * chance, levels)
        slope = np.bincount(rows.level, rows.copies * chance * (1 - chance) * soften, levels)
        base = np.where(inside, base + np.clip(gap / np.maximum(slope, 1e-6), -2.0, 2.0), base)
    return SaleChance(steepness, base)


def _student() -> FloatArray:
    """Log masses of Student's t at the points of the grid."""
    logs = -0.5 * (FREE + 1) * np.log1p(GRID**2 / FREE)
    return np.asarray(logs - np.log(np.exp(logs).sum()))


LOGS = _student()
WHOLE = float(np.exp(LOGS) @ GRID**2)
"""Variance of the grid's Student's t of scale 1."""


def never_sold(chance: SaleChance, mean: FloatArray, scale: FloatArray, level: Ints) -> tuple[FloatArray, FloatArray]:
    """Turn “never sold” into a log price and its precision, by the mean and variance before and after.

    Parameters
    ----------
    chance : SaleChance
        By price.
    mean, scale : array
        Student's t of each version as the others see it.
    """
    place = mean[:, None] + scale[:, None] * GRID[None, :]
    odds = chance.log_odds(place, level[:, None])
    mass = np.exp(LOGS[None, :] + log_sold(odds, np.zeros_like(odds)))
    mass /= mass.sum(axis=1, keepdims=True)
    middle = (mass * place).sum(axis=1)
    variance = (mass * (place - middle[:, None]) ** 2).sum(axis=1)
    before = WHOLE * scale**2
    precision = np.maximum(1 / variance - 1 / before, 0.02 / before)
    return (middle / variance - mean / before) / precision, precision


@dataclass(frozen=True)
class LeftOut:
    """Versions as the others see them, with their own sales: what a κ is judged by."""

    level: Ints
    sold: FloatArray
    copies: FloatArray
    mean: FloatArray
    scale: FloatArray
    value: FloatArray
    precision: FloatArray


def judged(rows: LeftOut, chance: SaleChance) -> float:
    """Log likelihood of own sales and of sold or not, of each version given the others, with the prior of κ."""
    away = rows.scale[:, None] * GRID[None, :]
    place = rows.mean[:, None] + away
    logs = LOGS[None, :] - 0.5 * rows.precision[:, None] * (place - rows.value[:, None]) ** 2
    told = np.isfinite(chance.base[rows.level])
    odds = np.clip(chance.base[rows.level[told]][:, None] + chance.steepness * place[told], -FARTHEST, FARTHEST)
    logs[told] += log_sold(odds, rows.sold[told][:, None])
    top = logs.max(axis=1)
    each = top + np.log(np.exp(logs - top[:, None]).sum(axis=1))
    return float(rows.copies @ each) - 0.5 * ((chance.steepness - EXPECTED) / SURE) ** 2
