"""The fade after release: prices of new singles fall for weeks towards a floor."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from itertools import pairwise

import numpy as np

from botin.core.counts import FloatArray
from botin.core.pricing.prices import PriceKind, PriceRow

ENOUGH_PRICES, ENOUGH_CARDS, ENOUGH_WEEKS = 30, 5, 3
MOST_PAIRS = 3_000
HALF_LIVES = np.geomspace(0.5, 26, 30)
FLOORS = np.linspace(0.1, 1.0, 19)


@dataclass(frozen=True, slots=True)
class Fade:
    """Price t weeks after release, as a share of the release price: floor + (1 − floor)·2^(−t/half_life).

    Attributes
    ----------
    half_life : float
        Weeks in which half of what will fade has faded.
    floor : float
        Share of the release price that stays.
    prices : int
        Sold prices it was fitted to; 0 when it is the user's setting.
    """

    half_life: float
    floor: float
    prices: int = 0

    def share(self, weeks: float | FloatArray) -> float | FloatArray:
        """Return the price at an age as a share of the release price; before the release it is 1."""
        found = self.floor + (1 - self.floor) * 2.0 ** (-np.maximum(weeks, 0.0) / self.half_life)
        return found if isinstance(found, np.ndarray) and found.ndim else float(found)

    def saving(self, now: float, wait: float) -> float:
        """Return the share of today's price saved by waiting ``wait`` weeks from an age of ``now`` weeks."""
        return 1 - float(self.share(now + wait)) / float(self.share(now))


def fit_fade(rows: Iterable[PriceRow], released: date | None) -> Fade | None:
    """Fit the fade of a product to its sold prices; None when there are too few.

    Only ratios within a version tell of the fade: every sale is compared with the version's next one and with its
    last one. The half-life and floor with the smallest sum of absolute residuals of log ratios win (least absolute
    deviations, robust against odd prices).

    Parameters
    ----------
    rows : iterable of PriceRow
        Prices of any kind; only sold ones of single cards count.
    released : date or None
        Day of release.
    """
    if released is None:
        return None
    by_card: dict[tuple[str, str, str, str], list[tuple[float, float]]] = defaultdict(list)
    for row in rows:
        if row.kind is PriceKind.SOLD and row.number and row.sold_on and row.amount > 0 and row.sold_on >= released:
            key = (row.section, row.number, row.parallel, row.grade)
            by_card[key].append(((row.sold_on - released).days / 7, math.log(row.amount)))
    groups = [sorted(found) for found in by_card.values() if len(found) > 1]
    count = sum(len(group) for group in groups)
    if count < ENOUGH_PRICES or len(groups) < ENOUGH_CARDS:
        return None
    pairs = np.array([(*one, *other) for group in groups for one, other in _pairs(group)])
    pairs = pairs[:: 1 + len(pairs) // MOST_PAIRS]
    if np.ptp(pairs[:, [0, 2]]) < ENOUGH_WEEKS:
        return None
    _, half_life, floor = _best(pairs, HALF_LIVES[::4], FLOORS[::3])
    near = HALF_LIVES[np.abs(np.log(HALF_LIVES / half_life)) < 0.6], FLOORS[np.abs(FLOORS - floor) < 0.16]
    _, half_life, floor = _best(pairs, *near)
    return Fade(half_life, floor, count)


def _best(pairs: FloatArray, half_lives: FloatArray, floors: FloatArray) -> tuple[float, float, float]:
    return min((_misfit(pairs, half, floor), float(half), float(floor)) for half in half_lives for floor in floors)


def _pairs(group: list[tuple[float, float]]) -> list[tuple[tuple[float, float], tuple[float, float]]]:
    """Every sale with the next one, and with the last one."""
    following = list(pairwise(group))
    return following + [(one, group[-1]) for one in group[:-2]]


def _misfit(pairs: FloatArray, half_life: float, floor: float) -> float:
    early, before, late, after = pairs.T
    curve = np.log(floor + (1 - floor) * 2.0 ** (-np.stack((early, late)) / half_life))
    return float(np.abs((after - before) - (curve[1] - curve[0])).sum())
