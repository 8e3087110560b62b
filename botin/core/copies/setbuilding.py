"""Finish the set: what k more boxes, decided in advance, would cost with the singles that are still missing then."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from botin.core.counts import CountLaw, FloatArray
from botin.core.odds.collation import Repeats, expected_distinct
from botin.core.odds.repeats import spread_of_distinct

NODES = ((-math.sqrt(3.0), 1 / 6), (0.0, 2 / 3), (math.sqrt(3.0), 1 / 6))
"""Gauss–Hermite nodes and weights of three points (standard)."""
FEW = 40
EXACT_UP_TO = 80
"""While so few cards are missing the number of different cards in a box is followed number by number."""
"""With so many draws a box at most, the number of distinct cards is followed exactly."""


@dataclass(frozen=True)
class Wanted:
    """A group of the section whose cards are equally likely.

    Attributes
    ----------
    size : int
        Cards of the group.
    prices : array
        Price of each missing card (0 without one).
    law : CountLaw or None
        Draws from the group in a box; None when it is the rest, with ``rest`` cards on average.
    rest : float
        Cards a box holds of it on average, when it is the rest.
    """

    size: int
    prices: FloatArray
    law: CountLaw | None = None
    rest: float = 0.0


@dataclass(frozen=True, slots=True)
class Step:
    """The outcome of k more boxes; cost is boxes less what they bring beside, plus the singles still missing.

    Attributes
    ----------
    missing, complete : float
        Expected numbers still missing, and the chance that none is.
    cost, p10, p90 : float
        Expected cost and its spread from how many are still missing.
    with_rare : float
        The same cost with the rare cards of a box counted in: with them the curve may never say stop.
    spares : float
        Cards of the section that come and are not needed.
    """

    boxes: int
    missing: float
    cost: float
    p10: float
    p90: float
    complete: float
    with_rare: float
    spares: float


@dataclass(frozen=True)
class FinishCurve:
    """Cost over the number of boxes."""

    missing: int
    steps: tuple[Step, ...]
    best: int


def distinct_law(group: Wanted, repeats: Repeats) -> tuple[tuple[int, float], ...]:
    """How many different cards of a group a box shows: exact for few draws, else three nodes of its law."""
    if group.law is not None and group.law.mean + 6 * math.sqrt(group.law.variance) <= FEW:
        return _occupancy(group.law, group.size)
    drawn = group.law.mean if group.law is not None else group.rest
    cards = min(drawn, float(group.size)) if repeats.factor == 0 else drawn
    mean = expected_distinct(repeats, cards, group.size)
    spread = spread_of_distinct(repeats.factor, round(cards), group.size) if cards >= 1 else 0.0
    if group.law is not None:
        spread = math.hypot(spread, math.sqrt(group.law.variance) * mean / max(drawn, 1e-9))
    if spread < 0.3:
        below, share = math.floor(mean), mean - math.floor(mean)
        return ((below, 1 - share), (below + 1, share)) if share > 1e-9 else ((below, 1.0),)
    return _whole(mean, spread, group.size, exact=len(group.prices) <= EXACT_UP_TO)


def _whole(mean: float, spread: float, size: int, *, exact: bool) -> tuple[tuple[int, float], ...]:
    """A normal law of whole numbers: every one near the mean while few cards are missing, else a few nodes of it."""
    if not exact:
        found = [(round(mean + node * spread), weight) for node, weight in NODES]
        return tuple((max(0, min(size, value)), weight) for value, weight in found)
    low, high = max(0, math.floor(mean - 4 * spread)), min(size, math.ceil(mean + 4 * spread))
    values = np.arange(low, high + 1)
    edges = np.array([math.erf((x - 0.5 - mean) / (spread * math.sqrt(2))) for x in (*values.tolist(), high + 1)])
    weights = np.diff(edges)
    weights[0] += 1 + edges[0]
    weights[-1] += 1 - edges[-1]
    weights /= weights.sum()
    kept = weights > 1e-9
    return tuple(zip(values[kept].tolist(), (weights[kept] / weights[kept].sum()).tolist(), strict=True))


def _occupancy(law: CountLaw, size: int) -> tuple[tuple[int, float], ...]:
    """Distinct cards of X independent draws: the chain of occupied cells (Feller, vol. 1, II.5, from memory)."""
    state = np.zeros(min(size, FEW) + 1)
    state[0] = 1.0
    found, places = np.zeros_like(state), np.arange(len(state))
    for chance in law.pmf()[: 4 * FEW].tolist():
        found += chance * state
        fresh = state * (1 - places / size)
        state = state * (places / size)
        state[1:] += fresh[:-1]
    found /= found.sum()
    return tuple((int(value), float(found[value])) for value in np.flatnonzero(found > 1e-12))


def transition(size: int, missing: int, distinct: Sequence[tuple[int, float]]) -> FloatArray:
    """Chance to go from m to j missing cards by one box, as a matrix (m, j).

    Given D different cards of N, the new ones are hypergeometric: C(m, m − j)·C(N − m, D − m + j) ÷ C(N, D).
    """
    logs = np.concatenate(([0.0], np.cumsum(np.log(np.arange(1, size + 2)))))

    def choose(n: FloatArray, k: FloatArray) -> FloatArray:
        inside = (k >= 0) & (k <= n) & (n >= 0)
        n, k = np.where(inside, n, 0).astype(np.int64), np.where(inside, k, 0).astype(np.int64)
        return np.asarray(np.where(inside, logs[n] - logs[k] - logs[n - k], -np.inf))

    m, j = np.meshgrid(np.arange(missing + 1.0), np.arange(missing + 1.0), indexing="ij")
    new = m - j
    ways, found = choose(m, new), np.zeros_like(m)
    for value, weight in distinct:
        top = float(choose(np.array(float(size)), np.array(float(value))))
        found += weight * np.exp(ways + choose(size - m, value - new) - top)
    return np.asarray(found)


def finish_curve(
    groups: Sequence[Wanted],
    box_price: float,
    beside: float,
    rare: float,
    repeats: Repeats,
    most: int = 20,
    each: float = 0.0,
) -> FinishCurve:
    """Work out the cost of finishing for 0 … ``most`` boxes.

    Parameters
    ----------
    groups : sequence of Wanted
        The section by groups with the prices of what is missing.
    box_price, beside, rare : float
        Cost of a box, what it brings beside the section without rare cards, and what the rare ones add.
    repeats : Repeats
        How the plain cards of the rest repeat in a box.
    each : float
        Postage of a single bought.
    """
    chains = [_Chain(group, repeats, each) for group in groups]
    steps = []
    for boxes in range(most + 1):
        spent = boxes * (box_price - beside)
        mean = math.fsum(chain.mean_cost for chain in chains)
        low, high = _spread([chain.cost_law() for chain in chains])
        steps.append(
            Step(
                boxes=boxes,
                missing=math.fsum(chain.mean_missing for chain in chains),
                cost=spent + mean,
                p10=spent + low,
                p90=spent + high,
                complete=math.prod(chain.complete for chain in chains),
                with_rare=spent + mean - boxes * rare,
                spares=math.fsum(boxes * chain.drawn - (chain.missing - chain.mean_missing) for chain in chains),
            )
        )
        for chain in chains:
            chain.open_box()
    best = min(steps, key=lambda step: (round(step.cost, 9), step.boxes)).boxes
    return FinishCurve(sum(chain.missing for chain in chains), tuple(steps), best)


class _Chain:
    """How many cards of a group are still missing, box by box."""

    def __init__(self, group: Wanted, repeats: Repeats, each: float) -> None:
        self.missing = len(group.prices)
        self.prices = group.prices + np.where(group.prices > 0, each, 0.0)
        self.drawn = group.law.mean if group.law is not None else group.rest
        self._step = transition(group.size, self.missing, distinct_law(group, repeats))
        self.state = np.zeros(self.missing + 1)
        self.state[-1] = 1.0
        self._counts = np.arange(self.missing + 1)

    def open_box(self) -> None:
        """Open one more box."""
        self.state = self.state @ self._step

    @property
    def mean_missing(self) -> float:
        """Expected cards still missing."""
        return float(self.state @ self._counts)

    @property
    def complete(self) -> float:
        """Chance that none is missing."""
        return float(self.state[0])

    @property
    def mean_cost(self) -> float:
        """Expected cost of what is still missing: every missing card is as likely to be left as any other."""
        return self.mean_missing * float(self.prices.mean()) if self.missing else 0.0

    def cost_law(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Chance, mean and variance of the cost for each number still missing (drawn without replacement)."""
        if not self.missing:
            none: FloatArray = np.zeros(1)
            return np.ones(1), none, none
        left = self._counts * (1 - self._counts / self.missing) * float(self.prices.var())
        corrected = left * self.missing / max(1, self.missing - 1)
        means: FloatArray = np.asarray(self._counts * float(self.prices.mean()))
        return self.state, means, np.asarray(corrected)


def _spread(laws: Sequence[tuple[FloatArray, FloatArray, FloatArray]]) -> tuple[float, float]:
    """10 % and 90 % points of the summed cost: a mixture of normals for one group, moments for several."""
    if len(laws) == 1:
        chances, means, variances = laws[0]
        kept = chances > 1e-9
        points = [_mixture_point(chances[kept], means[kept], np.sqrt(variances[kept]), q) for q in (0.1, 0.9)]
        return points[0], points[1]
    mean = sum(float(c @ m) for c, m, _ in laws)
    variance = sum(float(c @ (m * m + v)) - float(c @ m) ** 2 for c, m, v in laws)
    away = 1.2815515655446004 * math.sqrt(max(0.0, variance))
    return max(0.0, mean - away), mean + away


def _mixture_point(chances: FloatArray, means: FloatArray, spreads: FloatArray, share: float) -> float:
    """Smallest x with Σ chance·Φ((x − mean)/spread) ≥ share."""
    low, high = float((means - 8 * spreads).min()), float((means + 8 * spreads).max())
    for _ in range(60):
        middle = (low + high) / 2
        below = sum(
            c * (0.5 * (1 + math.erf((middle - m) / (s * math.sqrt(2)))) if s > 1e-12 else float(middle >= m - 1e-12))
            for c, m, s in zip(chances.tolist(), means.tolist(), spreads.tolist(), strict=True)
        )
        low, high = (low, middle) if below >= share else (middle, high)
    return max(0.0, high)
