"""The characteristic function of a box's value on a grid in money, from the laws of its lines.

Every draw is rounded to the two neighbouring grid points so that its mean is kept. A card in the packs takes the
place of a base card: with φ_b of the base, the whole is φ_b^(P·C) times φ_hit/φ_b for each hit, exactly.
"""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np

from botin.core.counts import CountLaw, FloatArray
from botin.core.odds.collation import INDEPENDENT, Repeats
from botin.core.pricing.baserepeats import NEGLIGIBLE, BaseCards, hit_counts
from botin.core.pricing.priced import PricedBox, PricedLine, Singles
from botin.core.pricing.waves import Atoms, Grid, Ints, Waves, all_waves, draw_atoms, joined, power

SMALL = 1e-17
THRESHOLDS = (0.5, 0.35, 0.2, 0.1, 0.05)
MOST_MARKS = 12
"""Numbers of hits in a box that are told apart where base cards repeat."""
PAIR_UP_TO = 30_000
"""Two lines are merged before the transform while their cards make no more pairs than this."""


@dataclass(frozen=True)
class Laws:
    """Which count each line and promise has in the boxes asked for; rare lines of one card are left to the box.

    ``own`` counts per box and is raised to ``boxes``; ``whole`` counts once, over a whole case.
    """

    boxes: int
    lines: tuple[tuple[PricedLine, CountLaw, CountLaw], ...]
    joint: tuple[tuple[tuple[int, ...], FloatArray, CountLaw, CountLaw], ...]


def laws_of(box: PricedBox, boxes: int, *, one_case: bool) -> Laws:
    """Split the counts into what repeats box by box and what the case holds as a whole."""
    nothing = CountLaw()

    def pair(law: CountLaw, case_law: CountLaw | None) -> tuple[CountLaw, CountLaw]:
        return (nothing, case_law) if one_case and case_law is not None else (law, nothing)

    return Laws(
        boxes,
        tuple((line, *pair(line.law, line.case_law)) for line in box.larger),
        tuple((joint.places, joint.weights, *pair(joint.law, joint.case_law)) for joint in box.joint),
    )


def box_waves(box: PricedBox, grid: Grid, laws: Laws, repeats: Repeats = INDEPENDENT) -> Waves:
    """Characteristic function of the value of the boxes on the grid.

    Parameters
    ----------
    box : PricedBox
        Lines with prices.
    grid : Grid
        Where the value lives.
    laws : Laws
        Counts for the boxes asked for.
    repeats : Repeats
        How base cards repeat within a box.
    """
    if box.sizes:
        one = sum(
            chance * box_waves(size, grid, laws_of(size, 1, one_case=False), repeats) for chance, size in box.sizes
        )
        return power(np.asarray(one), laws.boxes)
    pool = box.pool
    if pool is None or not (pool.values != grid.usual).any():  # only the usual price is displaced, by its count
        return _assemble(box, grid, laws, None, None)
    if not repeats.independent:
        return _repeated(box, grid, laws, repeats)
    base = next(all_waves([draw_atoms(grid, pool.values, pool.shares, grid.usual)], grid))
    limit, size = _threshold(box, laws), np.abs(base)
    if limit is None and float(size.min()) < THRESHOLDS[-1]:
        return _conditioned(box, grid, laws, base)
    blank = size < limit if limit else np.zeros(len(base), bool)
    inverse = np.divide(1, base, out=np.zeros_like(base), where=~blank)
    found = _assemble(box, grid, laws, inverse, power(base, box.slots))
    found[blank] = 0.0
    return found


def _repeated(box: PricedBox, grid: Grid, laws: Laws, repeats: Repeats) -> Waves:
    """Σ_h A_h φ(base | P·C − h), with A_h the hits of a box when h of them lie in its packs, read off marked hits."""
    pool, slots = box.pool, box.slots
    if pool is None:
        return _assemble(box, grid, laws, None, None)
    chances = hit_counts(box)
    likely = np.flatnonzero(chances > NEGLIGIBLE)
    first, many = int(likely[0]), int(likely[-1] - likely[0]) + 1
    if many > MOST_MARKS:
        return _displaced(box, grid, laws, repeats)
    once, marks = _once(laws), np.exp(2j * np.pi * np.arange(many) / many)
    parts = [_assemble(box, grid, once, np.full(grid.waves, mark), None) for mark in marks]
    left = np.maximum(slots - first - np.arange(many), 0)
    expected = max(0.0, slots - box.hits_in_packs)
    bases = BaseCards(pool, grid, repeats, expected).for_counts(left)
    found: Waves = np.zeros(grid.waves, np.complex128)
    for at in range(many):
        hits = sum(part * mark ** -(first + at) for part, mark in zip(parts, marks, strict=True)) / many
        found += hits * (bases[at] if left[at] else 1.0)
    return power(found, laws.boxes) * _assemble(box, grid, _only_cases(laws), None, None)


def _displaced(box: PricedBox, grid: Grid, laws: Laws, repeats: Repeats) -> Waves:
    """The same where many hits vary: the base cards at their mean number, each hit takes the mean of one away.

    One card more or less of a hundred changes how base cards repeat by a hundredth; its mean is kept exactly.
    """
    pool = box.pool
    if pool is None:
        return _assemble(box, grid, laws, None, None)
    expected = max(0.0, box.slots - box.hits_in_packs)
    low = math.floor(expected)
    share, mean = expected - low, float((pool.values - grid.usual).mean()) / grid.step
    turn = 2j * np.pi * np.arange(grid.waves) / grid.points * mean
    few, more = BaseCards(pool, grid, repeats, expected).for_counts(np.array([low, low + 1]))
    filled = (1 - share) * few * np.exp(-turn * share) + share * more * np.exp(turn * (1 - share))
    found = _assemble(box, grid, laws, np.exp(turn), None)
    return found * power(filled * np.exp(-turn * (box.slots - expected)), laws.boxes)


def _threshold(box: PricedBox, laws: Laws) -> float | None:
    """Largest |φ_b| below which the whole weighs nothing: E[τ^rest] < 1e-17; None when there is none."""
    for limit in THRESHOLDS:
        logs = box.slots * math.log(limit)
        each = np.array([1 / limit])
        for line, own, _ in laws.lines:
            if line.in_packs:
                logs += float(own.log_pgf(each)[0])
        for trials, rows in box.singles.items():
            logs += trials * float(np.log1p(rows.chances[rows.in_packs] * (1 / limit - 1)).sum())
        for places, weights, own, _ in laws.joint:
            inside = sum(w for p, w in zip(places, weights, strict=True) if box.lines[p].in_packs)
            logs += float(own.log_pgf(1 - inside + inside * each)[0])
        if logs < math.log(SMALL):
            return limit
    return None


def _assemble(box: PricedBox, grid: Grid, laws: Laws, inverse: Waves | None, filled: Waves | None) -> Waves:
    """Multiply all lines together; ``inverse`` is 1/φ_b, ``filled`` is φ_b^(P·C)."""
    parts = _parts(box, grid, laws)
    found = parts.each.value(grid, inverse)
    for trials, rows in parts.singles.items():
        found *= np.exp(trials * _single_logs(rows, grid, inverse))
    if filled is not None:
        found *= filled
    found = power(found, laws.boxes) * parts.whole.value(grid, inverse)
    for schools, boxes in parts.schools:
        found *= sum(weight * power(counts.value(grid, inverse), boxes) for weight, counts in schools)
    return found


@dataclass
class _Counts:
    """Counts of draws, sorted by how they enter: trials, a constant number, or a Poisson."""

    trials: dict[int, list[tuple[Atoms, float, bool]]] = field(default_factory=lambda: defaultdict(list))
    fixed: list[tuple[list[tuple[Atoms, bool]], int]] = field(default_factory=list)
    poisson: list[tuple[Atoms, float, bool]] = field(default_factory=list)
    steps: list[tuple[list[tuple[Atoms, bool]], int, tuple[float, ...]]] = field(default_factory=list)
    poisson_mean: float = 0.0

    def add(self, law: CountLaw, draw: list[tuple[Atoms, bool]]) -> None:
        """Take a count of draws; a draw is a mixture of cards in the packs and outside."""
        if law.fixed:
            self.fixed.append((draw, law.fixed))
        self.steps += [(draw, n, small) for n, small in law.steps]
        one = draw[0] if len(draw) == 1 else None
        for n, p in law.binomials:
            if one is not None:
                self.trials[n].append((one[0], p, one[1]))
            else:
                inside = [(atoms.scaled(p), packed) for atoms, packed in draw]
                self.fixed.append(([*inside, (Atoms(np.zeros(1, np.int64), np.array([1 - p])), False)], n))
        if law.poisson:
            self.poisson_mean += law.poisson
            self.poisson += [(atoms, law.poisson, packed) for atoms, packed in draw]

    def value(self, grid: Grid, inverse: Waves | None) -> Waves:
        """Return E[Π draws] over all counts."""
        found = self._poisson_waves(grid, inverse)
        for n, rows in self.trials.items():
            found *= power(_trial_waves(rows, grid, inverse), n)
        for draw, k in self.fixed:
            found *= power(_mixture(draw, grid, inverse), k)
        for draw, n, small in self.steps:
            one, total = _mixture(draw, grid, inverse), np.full(grid.waves, small[-1], np.complex128)
            for chance in small[-2::-1]:
                total = total * one + chance
            found *= power(total, n)
        return found

    def _poisson_waves(self, grid: Grid, inverse: Waves | None) -> Waves:
        if not self.poisson:
            return np.ones(grid.waves, np.complex128)
        parts = [(atoms.scaled(rate), packed) for atoms, rate, packed in self.poisson]
        return np.exp(_mixture(parts, grid, inverse) - self.poisson_mean)


def _mixture(draw: list[tuple[Atoms, bool]], grid: Grid, inverse: Waves | None) -> Waves:
    """Waves of a mixture; what lies in the packs displaces a base card."""
    inside = [atoms for atoms, packed in draw if packed and inverse is not None]
    outside = [atoms for atoms, packed in draw if not packed or inverse is None]
    found: Waves = np.zeros(grid.waves, np.complex128)
    if outside:
        found = found + next(all_waves([joined(outside)], grid))
    if inside and inverse is not None:
        found = found + next(all_waves([joined(inside)], grid)) * inverse
    return found


def _trial_waves(rows: list[tuple[Atoms, float, bool]], grid: Grid, inverse: Waves | None) -> Waves:
    """Π (1 − p + p·φ) over lines with the same number of trials; two lines share a transform where they can."""
    plain = [atoms.scaled(p, 1 - p) for atoms, p, packed in rows if inverse is None or not packed]
    found: Waves = np.ones(grid.waves, np.complex128)
    for waves in all_waves(_paired(plain, grid.points), grid):
        found *= waves
    if inverse is not None:
        inside = [(atoms.scaled(p), p) for atoms, p, packed in rows if packed]
        for waves, (_, p) in zip(all_waves([atoms for atoms, _ in inside], grid), inside, strict=True):
            np.multiply(waves, inverse, out=waves)
            np.add(waves, 1 - p, out=waves)
            found *= waves
    return found


def _paired(parts: list[Atoms], points: int) -> list[Atoms]:
    """Merge lines two by two, small with large, as long as that is cheaper than a transform."""
    left = sorted(parts, key=lambda atoms: len(atoms.places))
    found: list[Atoms] = []
    while len(left) > 1:
        large = left.pop()
        if len(large.places) * len(left[0].places) <= PAIR_UP_TO:
            large = large.with_each(left.pop(0), points)
        found.append(large)
    return found + left


@dataclass
class _Parts:
    """What is multiplied: counts box by box, counts of a whole case, and lines of one card."""

    each: _Counts
    whole: _Counts
    singles: dict[int, Singles]
    schools: list[tuple[list[tuple[float, _Counts]], int]] = field(default_factory=list)
    """Averages of an unknown school, the same for all boxes: each school's counts, and over how many boxes."""

    def add(self, own: CountLaw, of_case: CountLaw, draw: list[tuple[Atoms, bool]], boxes: int) -> None:
        """Take the counts of a line or promise, box by box and over the case."""
        for law, counts, times in ((own, self.each, boxes), (of_case, self.whole, 1)):
            if not law.schools:
                counts.add(law, draw)
                continue
            split = []
            for weight, school in law.schools:
                one = _Counts()
                one.add(school, draw)
                split.append((weight, one))
            self.schools.append((split, times))


def _parts(box: PricedBox, grid: Grid, laws: Laws) -> _Parts:
    found = _Parts(_Counts(), _Counts(), box.singles if laws.boxes else {})
    for line, own, of_case in laws.lines:
        found.add(own, of_case, [(_atoms(line, grid), line.in_packs)], laws.boxes)
    for places, weights, own, of_case in laws.joint:
        rows = [(box.lines[place], float(weight)) for place, weight in zip(places, weights, strict=True)]
        draw = [(_atoms(line, grid).scaled(weight), line.in_packs) for line, weight in rows]
        found.add(own, of_case, draw, laws.boxes)
    return found


def _atoms(line: PricedLine, grid: Grid) -> Atoms:
    return draw_atoms(grid, line.values, line.shares, grid.usual if line.in_packs else 0.0)


def _single_logs(rows: Singles, grid: Grid, inverse: Waves | None) -> Waves:
    """Σ log(1 − p + p·z^x) over lines of one card, as Σ_j (−1)^(j+1) (p/(1−p))^j z^(jx)/j, one transform for each j.

    With displaced base cards z^x stands beside 1/φ_b, so that the j-th transform is multiplied by its j-th power.
    """
    values, chances, packed = rows.values, rows.chances, rows.in_packs
    logs = np.full(grid.waves, float(np.log1p(-chances).sum()), np.complex128)
    for inside in (True, False):
        chosen = (packed == inside) & (values < grid.reach)
        if chosen.any():
            below, up = grid.split(values[chosen] - (grid.usual if inside else 0.0))
            ratio = chances[chosen] / (1 - chances[chosen])
            logs += _series(below, up, ratio, grid, inverse if inside else None)
    return logs


def _series(below: Ints, up: FloatArray, ratio: FloatArray, grid: Grid, inverse: Waves | None) -> Waves:
    largest = float(ratio.max()) * (1.0 if inverse is None else float(np.abs(inverse).max()))
    depth = 1
    while largest ** (depth + 1) / (depth + 1) * len(ratio) > 1e-13 and depth < 60:
        depth += 1
    whole = not up.any()
    orders = []
    for j in range(1, depth + 1):
        splits = [math.comb(j, i) * up**i * (1 - up) ** (j - i) for i in range(1 if whole else j + 1)]
        places = np.concatenate([(j * below + i) % grid.points for i in range(len(splits))])
        orders.append(Atoms(places, np.concatenate([(-1) ** (j + 1) * ratio**j * split / j for split in splits])))
    if inverse is None:
        return next(all_waves([joined(orders)], grid))
    total: Waves = np.zeros(grid.waves, np.complex128)
    growing: Waves = np.ones(grid.waves, np.complex128)
    for waves in all_waves(orders, grid):
        growing = growing * inverse
        total += waves * growing
    return total


def _conditioned(box: PricedBox, grid: Grid, laws: Laws, base: Waves) -> Waves:
    """For boxes full of hits whose base prices differ widely: condition on the number of hits, do not divide.

    Σ_h A_h φ_b^(P·C − h), with A_h read off the product at roots of unity that mark each hit; more hits than
    slots leave no base card.
    """
    slots, once = box.slots, _once(laws)
    marks = np.exp(2j * np.pi * np.arange(2 * (slots + 1)) / (2 * (slots + 1)))
    found: Waves = np.zeros(len(base), np.complex128)
    for mark in marks:
        back = 1 / mark
        gap = base - back
        near = np.abs(gap) < 1e-9
        series = (power(base, slots + 1) - back ** (slots + 1)) / np.where(near, 1.0, gap)
        series = np.where(near, (slots + 1) * power(base, slots), series)
        over = sum(back**h for h in range(slots + 1, 2 * slots + 2))
        found += _assemble(box, grid, once, np.full(len(base), mark), None) * (series + over)
    whole = _assemble(box, grid, _only_cases(laws), None, None)
    return power(found / len(marks), laws.boxes) * whole


def _once(laws: Laws) -> Laws:
    nothing = CountLaw()
    return Laws(
        1,
        tuple((line, own, nothing) for line, own, _ in laws.lines),
        tuple((places, weights, own, nothing) for places, weights, own, _ in laws.joint),
    )


def _only_cases(laws: Laws) -> Laws:
    nothing = CountLaw()
    return Laws(
        0,
        tuple((line, nothing, of_case) for line, _, of_case in laws.lines),
        tuple((places, weights, nothing, of_case) for places, weights, _, of_case in laws.joint),
    )
