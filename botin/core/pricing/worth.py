"""What a box is worth, in one answer: the curve, the lines' shares of it, what is rare, and what has no price."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.catalog.product import Kind
from botin.core.counts import FloatArray
from botin.core.odds.collation import INDEPENDENT, Repeats
from botin.core.pricing.priced import PricedBox, PricedLine, mean_of
from botin.core.pricing.valuecurve import POINTS, ValueCurve, value_curve

RARE = 0.05
"""Rarer than one box of twenty is rare."""


@dataclass(frozen=True, slots=True)
class LineShare:
    """What a line adds to the mean of the boxes asked for (major units), and its share of it."""

    line: PricedLine
    expected: float
    mean: float
    share: float


@dataclass(frozen=True)
class Worth:
    """The answer for some boxes at a cost each.

    Attributes
    ----------
    cost : float
        Of all boxes together (major units).
    share_from_rare : float
        Share of the mean from the dearest cards, taken down in price until the chance of at least one of them in
        a box reaches 1/20.
    rare_from : float or None
        Price of the cheapest of them.
    """

    curve: ValueCurve
    cost: float
    chance_break_even: float
    lines: tuple[LineShare, ...]
    share_from_rare: float
    rare_from: float | None
    unpriced: tuple[PricedLine, ...]
    error_bound: float
    assumptions: tuple[str, ...]


def worth(
    box: PricedBox,
    cost: float,
    boxes: int = 1,
    *,
    one_case: bool = False,
    repeats: Repeats = INDEPENDENT,
    points: int = POINTS,
) -> Worth:
    """Work out what some boxes are worth.

    Parameters
    ----------
    box : PricedBox
        One box with its prices.
    cost : float
        Cost of one box, major units.
    boxes : int
        How many; of different cases, or all of one case with ``one_case``.
    """
    total = cost * boxes
    curve = value_curve(box, total, boxes, one_case=one_case, repeats=repeats, points=points)
    share, rare_from = rare_share(box)
    return Worth(
        curve=curve,
        cost=total,
        chance_break_even=curve.chance_at_least(total),
        lines=line_shares(box, boxes),
        share_from_rare=share,
        rare_from=rare_from,
        unpriced=tuple(line for line in box.all_lines if line.unpriced),
        error_bound=curve.error_bound(total),
        assumptions=(*box.assumptions, repeats.words()),
    )


def line_shares(box: PricedBox, boxes: int = 1) -> tuple[LineShare, ...]:
    """Return each line's part of the mean, the largest first."""
    total = mean_of(box)
    rows = [
        LineShare(
            line, boxes * line.expected, boxes * (part := line.expected * line.mean), part / total if total else 0
        )
        for line in box.all_lines
    ]
    return tuple(sorted(rows, key=lambda row: -row.mean))


def rare_share(box: PricedBox) -> tuple[float, float | None]:
    """Share of the mean in the dearest cards that together come in about one box of twenty, and their price."""
    total, flat = mean_of(box), box.flat
    order = np.argsort(-flat.price, kind="stable")
    order = order[flat.price[order] > 0]
    if not total or not len(order):
        return 0.0, None
    low, high = 0, len(order)
    while low < high:  # the smallest number of versions whose chance reaches 1/20
        middle = (low + high) // 2
        low, high = (low, middle) if _chance_of(box, order[:middle]) >= RARE else (middle + 1, high)
    chosen = order[:low]
    part = float(flat.price[chosen] @ flat.expected[chosen])
    return part / total, float(flat.price[chosen[-1]]) if low else None


def _chance_of(box: PricedBox, chosen: npt.NDArray[np.int64]) -> float:
    """Chance of at least one of the chosen versions in one box."""
    flat, lines = box.flat, len(box.lines)
    taken = np.bincount(flat.line[chosen], flat.share[chosen], lines + 1).astype(np.float64)
    return 1 - chance_of_none(box, taken[:lines], float(taken[lines]))


def chance_of_none(box: PricedBox, taken: FloatArray, of_base: float) -> float:
    """Chance that none of the chosen cards comes in a box with independent base draws.

    Parameters
    ----------
    taken : array (lines)
        Share of each line's draws that is chosen.
    of_base : float
        The same for the pool of base cards.
    """
    left = 1 - min(of_base, 1.0)
    if box.pool is not None and left <= 0:
        return 0.0
    base = left if box.pool is not None else 1.0
    tied = {place for joint in box.joint for place in joint.places}
    found = base**box.slots
    for at, line in enumerate(box.lines):
        if at not in tied:
            found *= line.law.pgf(np.array([(1 - taken[at]) / (base if line.in_packs else 1.0)]))[0]
    for joint in box.joint:
        each = [(1 - taken[p]) / (base if box.lines[p].in_packs else 1.0) for p in joint.places]
        found *= joint.law.pgf(np.array([float(joint.weights @ np.array(each))]))[0]
    return float(min(1.0, max(0.0, found)))


def by_person(box: PricedBox, most: int = 12) -> tuple[tuple[str, float], ...]:
    """Return who brings the mean: each name's part of it (major units), cards of several people shared alike."""
    parts: dict[str, float] = defaultdict(float)
    for line in box.all_lines:
        worth_each = line.expected * line.values * line.shares
        for card, part in zip(line.line.cards, worth_each.tolist(), strict=True):
            people = card.people if part else ()
            for name in people:
                parts[name] += part / len(people)
    return tuple(sorted(parts.items(), key=lambda row: (-row[1], row[0]))[:most])


def is_hit_line(line: PricedLine) -> bool:
    """Whether a line is anything but plain base."""
    return line.line.section.kind is not Kind.BASE or bool(line.line.parallel)
