"""What the base cards of a box add to its value when numbers repeat less, or more, than independent draws would.

Each card came its own number of times; that all of them together are the base cards of the box is kept exactly, by
reading the coefficient of the number of cards off the generating function of value and count. The number of base
cards depends on how many hits took their places, so the sum goes over the number of hits.

Where numbers clump (a factor above 1) one number may take over the box; no product of single cards tells that, so
seeded urns stand for all, their counts dealt to the cards at random.
"""

from __future__ import annotations

import math

import numpy as np

from botin.core.counts import FloatArray
from botin.core.odds.collation import URN_SEED, Repeats, box_law, urn_profiles
from botin.core.pricing.priced import PricedBox, PricedLine
from botin.core.pricing.waves import Grid, Ints, Waves, all_waves, draw_atoms, power

REACH = 6.5
"""Standard deviations of the number of cards on both sides of its mean that the circle is read within."""
MOST_PRICES = 24
"""Different prices of base cards that are told apart; beyond them neighbours are taken together at their mean."""
NEGLIGIBLE = 1e-13
DEALS = 16
"""Times the counts of each urn are dealt to the cards."""


class BaseCards:
    """Waves of the value of all base cards of a box, for each number of them.

    Parameters
    ----------
    pool : PricedLine
        The base cards.
    grid : Grid
        Where the value lives; cards count from the usual price.
    repeats : Repeats
        How numbers repeat.
    expected : float
        Base cards of a box on average.
    """

    def __init__(self, pool: PricedLine, grid: Grid, repeats: Repeats, expected: float) -> None:
        self.size = len(pool.values)
        self.repeats, self.expected, self.offsets = repeats, expected, pool.values - grid.usual
        chances = box_law(repeats, expected, self.size)
        first = int(np.flatnonzero(chances > NEGLIGIBLE)[0])
        last = int(np.flatnonzero(chances > NEGLIGIBLE)[-1])
        self.sure, self.chances = first, chances[first : last + 1]
        counts = np.arange(len(self.chances))
        mean = float(self.chances @ counts)
        self.spread = math.sqrt(max(self.size * float(self.chances @ (counts - mean) ** 2), 0.0))
        self.middle = self.size * (first + mean)
        self.prices, self.many = grouped(pool.values - grid.usual)
        self.grid = grid
        self.below, self.up = grid.split(self.prices)

    def for_counts(self, counts: Ints) -> list[Waves]:
        """Waves of the value, given each number of base cards; none of them is certain to be possible."""
        if self.repeats.factor > 1:
            return self._by_urns(counts)
        frequencies = np.arange(self.grid.waves)
        turns = np.exp(-2j * np.pi * np.arange(self.grid.points) / self.grid.points)
        cards = [
            turns[(frequencies * below) % self.grid.points] * (1 - up + up * turns)[frequencies]
            if up
            else turns[(frequencies * below) % self.grid.points]
            for below, up in zip(self.below.tolist(), self.up.tolist(), strict=True)
        ]
        angles, weight = self._circle(counts)
        found = [np.zeros(self.grid.waves, np.complex128) for _ in counts]
        bare = np.zeros(len(counts), np.complex128)
        certain = np.prod(
            [power(card, many * self.sure) for card, many in zip(cards, self.many.tolist(), strict=True)], 0
        )
        for angle in angles.tolist():
            mark = complex(math.cos(angle), math.sin(angle))
            value, plain = self._all(cards, mark)
            for at, count in enumerate(counts.tolist()):
                turn = mark ** -(count - self.size * self.sure) * weight
                found[at] += turn * value
                bare[at] += turn * plain
        found = [waves * certain for waves in found]
        return [waves / np.where(abs(total) > 0, total, 1.0) for waves, total in zip(found, bare, strict=True)]

    def _by_urns(self, counts: Ints) -> list[Waves]:
        """The same by urns of the usual number of cards; one card more or less adds a usual card's mean."""
        drawn = round(self.expected)
        profiles = urn_profiles(self.repeats.factor, drawn, self.size).astype(np.int64)
        levels = np.arange(profiles.shape[1])
        each = np.stack([np.repeat(levels, row) for row in profiles]).astype(np.float64)
        rng = np.random.default_rng(URN_SEED)
        flat = np.concatenate([rng.permuted(each, axis=1) @ self.offsets for _ in range(DEALS)])
        base = next(all_waves([draw_atoms(self.grid, flat, np.full(len(flat), 1 / len(flat)))], self.grid))
        mean = float(self.offsets.mean()) / self.grid.step
        turn = -2j * np.pi * np.arange(self.grid.waves) / self.grid.points
        return [base * np.exp(turn * mean * (count - drawn)) for count in counts.tolist()]

    def _circle(self, counts: Ints) -> tuple[FloatArray, float]:
        """Angles at which the generating function of the count is read, around 0, and the weight of each."""
        away = max(abs(float(count) - self.middle) for count in counts.tolist())
        spread = max(self.spread, 0.3)
        span = 2 * (REACH * spread + away) + 2
        step = 2 * math.pi / span
        most = min(math.pi, REACH / spread)
        if most >= math.pi - step:
            number = int(span) + 2
            return np.asarray(2 * np.pi * np.arange(number) / number, np.float64), 1 / number
        side = int(most / step) + 1
        return np.asarray(step * np.arange(-side, side + 1), np.float64), 1.0

    def _all(self, cards: list[Waves], mark: complex) -> tuple[Waves, complex]:
        """Product over all cards, each with its count marked; and the same for the count alone."""
        total: Waves = np.ones(self.grid.waves, np.complex128)
        for card, many in zip(cards, self.many.tolist(), strict=True):
            total *= power(_polynomial(self.chances, card * mark), many)
        return total, complex(_polynomial(self.chances, np.array([mark]))[0] ** int(self.many.sum()))


def _polynomial(chances: FloatArray, z: Waves) -> Waves:
    found = np.full_like(z, chances[-1])
    for chance in chances[-2::-1].tolist():
        found = found * z + chance
    return found


def grouped(prices: FloatArray) -> tuple[FloatArray, Ints]:
    """Return different prices and how many cards have each; neighbours are joined at their mean while too many."""
    values, many = np.unique(prices, return_counts=True)
    while len(values) > MOST_PRICES:
        gaps = np.diff(values) ** 2 * many[:-1] * many[1:] / (many[:-1] + many[1:])
        joined = np.argsort(gaps, kind="stable")[: max(1, (len(values) - MOST_PRICES) // 2)]
        keep = np.ones(len(values), bool)
        for at in np.sort(joined)[::-1].tolist():
            if keep[at + 1]:
                total = many[at] + many[at + 1]
                values[at] = (values[at] * many[at] + values[at + 1] * many[at + 1]) / total
                many[at], keep[at + 1] = total, False
        values, many = values[keep], many[keep]
    return values, many.astype(np.int64)


def hit_counts(box: PricedBox) -> FloatArray:
    """Chances of 0, 1, 2, … cards in the packs of a box that are not base."""
    slots = box.slots
    marks = np.exp(2j * np.pi * np.arange(2 * slots + 2) / (2 * slots + 2))
    total = np.ones(len(marks), np.complex128)
    tied = {place for joint in box.joint for place in joint.places}
    for at, line in enumerate(box.lines):
        if at not in tied and line.in_packs:
            total *= line.law.pgf(marks)
    for joint in box.joint:
        inside = sum(
            float(weight)
            for place, weight in zip(joint.places, joint.weights, strict=True)
            if box.lines[place].in_packs
        )
        total *= joint.law.pgf(1 - inside + inside * marks)
    return np.asarray(np.maximum(np.fft.fft(total).real / len(marks), 0.0))
