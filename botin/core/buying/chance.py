"""The chance of what one hopes to pull: in a pack, a box, a case, in n boxes; of any of a list, and of all of it.

The chance of none is a product of generating functions: a line whose draws miss with chance 1 − q gives E[(1 − q)^X].
Base cards fill what the hits leave, so the number of hits in the packs is followed along.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product as combinations

import numpy as np

from botin.core.counts import CountLaw, FloatArray
from botin.core.errors import BotinError
from botin.core.odds.collation import INDEPENDENT, Repeats, missed
from botin.core.pricing.priced import PricedBox, PricedLine

Versions = frozenset[tuple[str, str, str]]
CERTAIN = 1e-12
ROUNDING = 1e-14
MOST_SCHOOLS = 6
"""Averages whose schools are told apart over several boxes; of more, the others mix box by box."""
MOST_SETS = 20_000
"""Most subsets that the chance of “all of these” is added up over."""


class TooManyWantsError(BotinError):
    """The chance of all of a list was asked for a list too long to add up exactly."""

    status = 422

    def __init__(self) -> None:
        super().__init__(
            "That is too many different wishes for the chance of all of them. Ask for fewer at once, or ask how many"
            " boxes finish the set."
        )


@dataclass(frozen=True)
class Chances:
    """Chance of what is wanted.

    Attributes
    ----------
    expected : float
        Copies of any of it in one box.
    pack, box, case, boxes : float or None
        In a random sealed pack, a box, a case (None when its size is unknown), and the boxes asked for.
    even, most : int or None
        Smallest number of boxes with a chance of 1/2 and of 95 %; None when no number is enough.
    """

    expected: float
    pack: float
    box: float
    case: float | None
    boxes: float
    even: int | None
    most: int | None
    assumptions: tuple[str, ...]


@dataclass(frozen=True)
class _Taken:
    """How much of each line is wanted, and how many cards of the base pool."""

    lines: FloatArray
    base: int


def chances(
    box: PricedBox,
    wants: Sequence[Versions],
    *,
    every: bool = False,
    boxes: int = 1,
    repeats: Repeats = INDEPENDENT,
) -> Chances:
    """Return the chance of any, or of all, of some wants.

    Parameters
    ----------
    box : PricedBox
        Lines of the format; its prices play no part.
    wants : sequence of sets of versions
        Each want is satisfied by any of its versions.
    every : bool
        All wants must come; else any of them.
    boxes : int
        Boxes of different cases.
    repeats : Repeats
        How base cards repeat within a box.

    Raises
    ------
    TooManyWantsError
        When all of too long a list are wanted.
    """
    places = _Places(box)
    union: Versions = frozenset().union(*wants)
    sets = _signed_sets(places, wants) if every else [(-1.0, places.taken([union]))]
    worlds = [(weight, _Misses(one, repeats)) for weight, one in school_worlds(box, places.taken([union]).lines)]
    none = [(sign * weight, one.in_box(taken)) for sign, taken in sets for weight, one in worlds]

    def at(power: int) -> float:
        return _clip(1.0 + sum(sign * miss**power for sign, miss in none))

    def whole(miss: Callable[[_Misses, _Taken], float]) -> float:
        return _clip(1.0 + sum(sign * weight * miss(one, taken) for sign, taken in sets for weight, one in worlds))

    size = box.model.format.boxes_per_case
    return Chances(
        expected=places.expected(union),
        pack=whole(lambda one, taken: one.in_pack(taken)),
        box=at(1),
        case=whole(lambda one, taken: one.in_case(taken, size)) if size else None,
        boxes=at(boxes),
        even=_smallest(at, 0.5),
        most=_smallest(at, 0.95),
        assumptions=(*box.assumptions, repeats.words(), *places.notes(union)),
    )


def school_worlds(box: PricedBox, taken: FloatArray) -> list[tuple[float, PricedBox]]:
    """Return the box under each set of schools that its averages may follow, with how likely it is.

    The school of a line is the same for all boxes, so several boxes are reckoned within a school and then averaged.
    Only lines with something wanted matter; the others keep their mixture.
    """
    wanted: list[tuple[str, int]] = [
        ("line", at) for at, line in enumerate(box.lines) if line.law.schools and taken[at] > 0
    ]
    wanted += [
        ("joint", at)
        for at, joint in enumerate(box.joint)
        if joint.law.schools and any(taken[place] > 0 for place in joint.places)
    ]
    found = [(1.0, box)]
    for kind, at in wanted[:MOST_SCHOOLS]:
        found = [
            (weight * share, _of_school(one, kind, at, which))
            for weight, one in found
            for which, (share, _) in enumerate((box.lines[at] if kind == "line" else box.joint[at]).law.schools)
            if share > 0
        ]
    return found


def _of_school(box: PricedBox, kind: str, at: int, which: int) -> PricedBox:
    """Return the box with one line or promise following one of its schools, in every size it comes in."""
    box = replace(box, sizes=tuple((chance, _of_school(one, kind, at, which)) for chance, one in box.sizes))
    if kind == "line":
        lines = list(box.lines)
        line = lines[at]
        lines[at] = replace(line, law=line.law.schools[which][1], case_law=_school(line.case_law, which))
        return replace(box, lines=tuple(lines))
    joints = list(box.joint)
    joint = joints[at]
    joints[at] = replace(joint, law=joint.law.schools[which][1], case_law=_school(joint.case_law, which))
    return replace(box, joint=tuple(joints))


def _school(law: CountLaw | None, which: int) -> CountLaw | None:
    """Return a law under one school, where it has several."""
    return law.schools[which][1] if law is not None and law.schools else law


def _clip(chance: float) -> float:
    """Keep it between 0 and 1; what is left by rounding in the last digits is 0 or 1."""
    if chance < ROUNDING:
        return 0.0
    return 1.0 if chance > 1 - ROUNDING else chance


def _smallest(at: Callable[[int], float], share: float) -> int | None:
    """Smallest number of boxes whose chance reaches a share."""
    high = 1
    while at(high) < share - CERTAIN:
        high *= 2
        if high > 2**40:
            return None
    low = high // 2
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if at(middle) >= share - CERTAIN else (middle, high)
    return high


class _Places:
    """Where each wanted version lies: in which line, or in the base pool."""

    def __init__(self, box: PricedBox) -> None:
        self.box = box
        self._lines: dict[tuple[str, str], list[tuple[int, PricedLine]]] = {}
        for at, line in enumerate(box.lines):
            self._lines.setdefault((line.line.section.key, line.line.parallel), []).append((at, line))
        self._rest = {(line.line.section.key, number): line for line in box.rest for number in line.line.place_of}

    def of(self, version: tuple[str, str, str]) -> tuple[int, float] | None:
        """Line (or the pool, last) of a version and its share of the draws; None when this format lacks it."""
        section, number, parallel = version
        for at, line in self._lines.get((section, parallel), ()):
            place = line.line.place_of.get(number)
            if place is not None:
                return at, float(line.shares[place])
        if not parallel and (section, number) in self._rest and self.box.pool is not None:
            return len(self.box.lines), 1 / len(self.box.pool.values)
        return None

    def taken(self, wants: Iterable[Versions]) -> _Taken:
        """Add up what several wants take of each line."""
        shares = np.zeros(len(self.box.lines) + 1)
        union: Versions = frozenset().union(*wants)
        for version in union:
            found = self.of(version)
            if found is not None:
                shares[found[0]] += found[1]
        base = round(shares[-1] * len(self.box.pool.values)) if self.box.pool is not None else 0
        return _Taken(np.minimum(shares[:-1], 1.0), base)

    def expected(self, versions: Versions) -> float:
        """Copies of any of these versions expected in a box."""
        taken = self.taken([versions])
        base = self.box.pool.expected * taken.base / len(self.box.pool.values) if self.box.pool else 0.0
        lines = self.box.lines
        return base + math.fsum(line.expected * float(part) for line, part in zip(lines, taken.lines, strict=True))

    def notes(self, versions: Versions) -> tuple[str, ...]:
        """Say what of it this format does not have, or prints no odds for."""
        lacking = sum(1 for version in versions if self.of(version) is None)
        if not lacking:
            return ()
        return (f"{lacking} of the {len(versions)} wanted versions are not in this format, counted 0",)


def _signed_sets(places: _Places, wants: Sequence[Versions]) -> list[tuple[float, _Taken]]:
    """Inclusion and exclusion over the wants; wants that look the same to the box are counted, not listed.

    P(all) = Σ over subsets S of (−1)^|S| P(none of S); the empty set's 1 is left to the caller.
    """
    distinct = list(dict.fromkeys(wants))
    alike: dict[object, list[Versions]] = {}
    alone = _disjoint(distinct)
    for want in distinct:
        kind = _signature(places, want) if want in alone else want
        alike.setdefault(kind, []).append(want)
    groups = list(alike.values())
    if math.prod(len(group) + 1 for group in groups) > MOST_SETS or any(len(group) > 40 for group in groups):
        raise TooManyWantsError
    found = []
    for counts in combinations(*(range(len(group) + 1) for group in groups)):
        if not any(counts):
            continue
        chosen = [want for group, count in zip(groups, counts, strict=True) for want in group[:count]]
        ways = math.prod(math.comb(len(group), count) for group, count in zip(groups, counts, strict=True))
        found.append(((-1.0) ** sum(counts) * ways, places.taken(chosen)))
    return found


def _disjoint(wants: Sequence[Versions]) -> set[Versions]:
    """Wants that share no version with another one."""
    seen: dict[tuple[str, str, str], int] = {}
    for want in wants:
        for version in want:
            seen[version] = seen.get(version, 0) + 1
    return {want for want in wants if all(seen[version] == 1 for version in want)}


def _signature(places: _Places, want: Versions) -> tuple[tuple[int, float], ...]:
    """What a want takes of each line: two wants with the same are exchangeable."""
    return tuple(sorted(found for version in want if (found := places.of(version)) is not None))


class _Misses:
    """Chance that nothing wanted comes."""

    def __init__(self, box: PricedBox, repeats: Repeats) -> None:
        self.box, self.repeats = box, repeats
        self._tied = {place for joint in box.joint for place in joint.places}
        self._sizes = [(chance, _Misses(one, repeats)) for chance, one in box.sizes]

    def in_box(self, taken: _Taken) -> float:
        """In one box."""
        return self.in_any(taken, skip_case=False)

    def in_any(self, taken: _Taken, *, skip_case: bool) -> float:
        """In one box of whatever size."""
        if self._sizes:
            return math.fsum(chance * one.in_any(taken, skip_case=skip_case) for chance, one in self._sizes)
        return self._miss(taken, self.box.slots, 1, outside=True, skip_case=skip_case)

    def in_pack(self, taken: _Taken) -> float:
        """In a random sealed pack; toppers lie outside the packs."""
        fmt = self.box.model.format
        if self._sizes:  # a pack taken at random lies more often in a box of many
            packs = [(chance * one.box.model.format.packs_per_box, one) for chance, one in self._sizes]
            return math.fsum(weight * one.in_pack(taken) for weight, one in packs) / math.fsum(w for w, _ in packs)
        return self._miss(taken, fmt.cards_per_pack, fmt.packs_per_box, outside=False, skip_case=False)

    def in_case(self, taken: _Taken, size: int) -> float:
        """In a whole case: box by box, but what the case as a whole holds counts once."""
        each = self.in_any(taken, skip_case=True)
        found = each**size
        for at, line in enumerate(self.box.lines):
            if line.case_law is not None and at not in self._tied:
                found *= float(line.case_law.pgf(np.array([1 - taken.lines[at]]))[0])
        for joint in self.box.joint:
            if joint.case_law is not None:
                hit = float(joint.weights @ taken.lines[list(joint.places)])
                found *= float(joint.case_law.pgf(np.array([1 - hit]))[0])
        return found

    def _miss(self, taken: _Taken, slots: int, parts: int, *, outside: bool, skip_case: bool) -> float:
        """Σ_h P(h hits in the packs, none wanted) · P(none wanted among the base cards that are left).

        Each hit in the packs is marked by a root of unity, so that the sum over h is read off by a Fourier sum.
        """
        size = 2 * slots + 2 if taken.base else 1
        marks = np.exp(2j * np.pi * np.arange(size) / size)
        product = np.ones(size, np.complex128)
        for law, free, packed in self._draws(taken, outside=outside, skip_case=skip_case):
            product *= law.part(parts).pgf(free + packed * marks)
        if not taken.base or self.box.pool is None:
            return _clip(float(product[0].real))
        by_hits = np.fft.fft(product).real / size
        left = np.maximum(slots - np.arange(size), 0).astype(np.float64)
        base = missed(self.repeats, left, len(self.box.pool.values), taken.base)
        return _clip(float(by_hits @ base))

    def _draws(self, taken: _Taken, *, outside: bool, skip_case: bool) -> Iterator[tuple[CountLaw, float, float]]:
        """Each count with the chance that a draw misses outside the packs, and inside them."""

        def parts(places: Sequence[int], weights: FloatArray, *, unwanted: bool) -> tuple[float, float]:
            free = packed = 0.0
            for place, weight in zip(places, weights.tolist(), strict=True):
                inside = self.box.lines[place].in_packs
                blind = unwanted or not (inside or outside)
                left = weight * (1.0 if blind else 1.0 - float(taken.lines[place]))
                free, packed = (free, packed + left) if inside else (free + left, packed)
            return free, packed

        one = np.ones(1)
        for at, line in enumerate(self.box.lines):
            if at not in self._tied:
                yield line.law, *parts((at,), one, unwanted=skip_case and line.case_law is not None)
        for joint in self.box.joint:
            yield joint.law, *parts(joint.places, joint.weights, unwanted=skip_case and joint.case_law is not None)
