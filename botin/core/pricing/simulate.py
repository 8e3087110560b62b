"""The same boxes by simulation: a check of the value curve, and what “open a hundred of them” draws from."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.counts import FloatArray
from botin.core.pricing.priced import PricedBox, PricedLine

Ints = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Drawn:
    """Cards of one line in many boxes: which box each copy is in, and which card of the line it is."""

    line: PricedLine
    box: Ints
    card: Ints


def draw_hits(box: PricedBox, size: int, rng: np.random.Generator) -> Iterator[Drawn]:
    """Draw all cards but the rest for ``size`` boxes, line by line."""
    counts = {at: line.law.draw(rng, size) for at, line in enumerate(box.lines)}
    for joint in box.joint:
        split = rng.multinomial(joint.law.draw(rng, size), joint.weights / joint.weights.sum())
        for column, at in enumerate(joint.places):
            counts[at] = split[:, column]
    for at, line in enumerate(box.lines):
        where = np.repeat(np.arange(size), counts[at])
        yield Drawn(line, where, draw_cards(line, len(where), rng))


def draw_cards(line: PricedLine, count: int, rng: np.random.Generator) -> Ints:
    """Draw cards of a line by their shares."""
    if count == 0:
        return np.zeros(0, np.int64)
    even = np.ptp(line.shares) == 0
    return rng.integers(len(line.shares), size=count) if even else rng.choice(len(line.shares), count, p=line.shares)


def simulate(box: PricedBox, size: int, rng: np.random.Generator) -> FloatArray:
    """Draw the values of ``size`` boxes; the usual base card is counted, only the others are drawn one by one."""
    values = np.zeros(size)
    room = np.full(size, box.slots)
    for drawn in draw_hits(box, size, rng):
        values += np.bincount(drawn.box, drawn.line.values[drawn.card], size)
        if drawn.line.in_packs:
            room -= np.bincount(drawn.box, minlength=size)
    if box.pool is not None:
        rest = simulate_rest(box.pool, np.maximum(room, 0), rng)
        values += np.bincount(rest.box, rest.prices, size) + rest.usual
    return values


@dataclass(frozen=True)
class Rest:
    """Base cards of many boxes: what the usual ones are worth in each box, and the others one by one."""

    usual: FloatArray
    box: Ints
    prices: FloatArray


def simulate_rest(pool: PricedLine, room: Ints, rng: np.random.Generator) -> Rest:
    """Draw the base cards of boxes with so much room each, independently."""
    prices, place = np.unique(pool.values, return_inverse=True)
    shares = np.bincount(place, pool.shares)
    usual = int(np.argmax(shares))
    others = rng.binomial(room, 1 - shares[usual]) if shares[usual] < 1 else np.zeros_like(room)
    worth = prices[usual] * (room - others)
    shares[usual] = 0.0
    if not others.any() or not shares.sum():
        return Rest(worth, np.zeros(0, np.int64), np.zeros(0))
    steps = np.cumsum(shares) / shares.sum()
    drawn = np.searchsorted(steps, rng.random(int(others.sum())), side="right")
    return Rest(worth, np.repeat(np.arange(len(room)), others), prices[np.minimum(drawn, len(prices) - 1)])
