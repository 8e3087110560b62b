"""Walk the box: what must happen for it to break even, from the likeliest combination on."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.counts import FloatArray
from botin.core.pricing.priced import PricedBox
from botin.core.pricing.simulate import draw_hits, simulate_rest

DEAR = 0.04
"""A card is counted by name when it is worth this share of the mean box or more."""
LONGEST = 4


@dataclass(frozen=True)
class Sample:
    """Simulated boxes: their values, and the dear cards of each, the dearest first."""

    values: FloatArray
    box: npt.NDArray[np.int64]
    line: npt.NDArray[np.int64]
    price: FloatArray
    starts: npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Way:
    """One way to break even: how many cards of which lines, the least any of them was worth, and how often."""

    cards: tuple[tuple[str, int], ...]
    least: float
    share: float


@dataclass(frozen=True, slots=True)
class Walk:
    """All ways, from the likeliest on.

    Attributes
    ----------
    boxes, winners : int
        Simulated boxes, and those that broke even.
    usual : float
        What the cards nobody counts by name are worth together (median).
    """

    ways: tuple[Way, ...]
    boxes: int
    winners: int
    usual: float


def sample_boxes(box: PricedBox, size: int, rng: np.random.Generator) -> Sample:
    """Draw boxes and keep their dear cards."""
    values, room = np.zeros(size), np.full(size, box.slots)
    floor = DEAR * max(1e-9, sum(line.expected * line.mean for line in box.all_lines))
    parts: list[tuple[npt.NDArray[np.int64], int, FloatArray]] = []
    for at, drawn in enumerate(draw_hits(box, size, rng)):
        prices = drawn.line.values[drawn.card]
        values += np.bincount(drawn.box, prices, size)
        if drawn.line.in_packs:
            room -= np.bincount(drawn.box, minlength=size)
        dear = prices >= floor
        parts.append((drawn.box[dear], at, prices[dear]))
    if box.pool is not None:
        rest = simulate_rest(box.pool, np.maximum(room, 0), rng)
        values += np.bincount(rest.box, rest.prices, size) + rest.usual
        dear = rest.prices >= floor
        parts.append((rest.box[dear], len(box.lines), rest.prices[dear]))
    where = np.concatenate([part[0] for part in parts]) if parts else np.zeros(0, np.int64)
    lines = np.concatenate([np.full(len(part[0]), part[1]) for part in parts]) if parts else np.zeros(0, np.int64)
    prices = np.concatenate([part[2] for part in parts]) if parts else np.zeros(0)
    order = np.lexsort((-prices, where))
    starts = np.searchsorted(where[order], np.arange(size + 1))
    return Sample(values, where[order], lines[order], prices[order], starts)


def walk(box: PricedBox, sample: Sample, cost: float, most: int = 8, look: int = 1500) -> Walk:
    """List what broke even in the sample: in each box the fewest of its dearest cards that were needed.

    Parameters
    ----------
    sample : Sample
        Simulated boxes of this format.
    cost : float
        What must be reached, major units.
    most, look : int
        Ways listed, and winners looked at.
    """
    winners = np.flatnonzero(sample.values >= cost - 1e-9)
    counted = np.bincount(sample.box, sample.price, len(sample.values))
    small = sample.values - counted
    names = [_name(box, at) for at in range(len(box.lines) + 1)]
    ways: Counter[tuple[tuple[str, int], ...]] = Counter()
    least: dict[tuple[tuple[str, int], ...], float] = {}
    for at in winners[:look].tolist():
        lines, prices = _needed(sample, at, cost - float(small[at]))
        key = tuple(sorted(Counter(names[line] for line in lines).items(), key=lambda row: (-row[1], row[0])))
        ways[key] += 1
        least[key] = min(least.get(key, np.inf), min(prices, default=0.0))
    seen = max(1, min(look, len(winners)))
    share = len(winners) / len(sample.values)
    listed = [Way(key, least[key], count / seen * share) for key, count in ways.most_common(most)]
    return Walk(tuple(listed), len(sample.values), len(winners), float(np.median(small)) if len(small) else 0.0)


def _needed(sample: Sample, at: int, gap: float) -> tuple[list[int], list[float]]:
    """The fewest of a box's dearest cards that close the gap."""
    lines: list[int] = []
    prices: list[float] = []
    for place in range(int(sample.starts[at]), int(sample.starts[at + 1])):
        if gap <= 1e-9 or len(prices) == LONGEST:
            break
        lines.append(int(sample.line[place]))
        prices.append(float(sample.price[place]))
        gap -= prices[-1]
    return lines, prices


def _name(box: PricedBox, at: int) -> str:
    line = box.lines[at].line if at < len(box.lines) else (box.pool.line if box.pool else None)
    return " ".join(filter(None, (line.section.label, line.parallel, line.group))) if line else ""
