"""Finish the set from a product's lines: which groups a section has, and what a box brings beside it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from botin.core.copies.setbuilding import FinishCurve, Wanted, finish_curve
from botin.core.counts import FloatArray
from botin.core.errors import NotFoundError
from botin.core.odds.collation import Repeats
from botin.core.pricing.priced import PricedBox, PricedLine, mean_of
from botin.core.pricing.worth import rare_share


@dataclass(frozen=True)
class Finish:
    """The curve, the numbers missing, and those of them without a price.

    Attributes
    ----------
    beside, rare : float
        What a box brings beside the section, without and in rare cards (major units).
    """

    curve: FinishCurve
    missing: tuple[str, ...]
    unpriced: tuple[str, ...]
    beside: float
    rare: float
    assumptions: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Terms:
    """Cost of a box, the most boxes looked at, and the postage of a single bought."""

    box_price: float
    most: int = 20
    each: float = 0.0


def finish(
    box: PricedBox,
    singles: PricedBox,
    section: str,
    have: Mapping[str, int],
    terms: Terms,
    repeats: Repeats,
) -> Finish:
    """Work out finishing a section with more boxes of a format.

    Parameters
    ----------
    box, singles : PricedBox
        The format with what cards bring (net), and with what singles cost (raw prices).
    section : str
        The section; its plain cards are wanted.
    have : mapping
        Copies owned by number.
    terms : Terms
        What boxes and singles cost.

    Raises
    ------
    NotFoundError
        When the format has no such section.
    """
    lines = [line for line in singles.all_lines if line.line.section.key == section and not line.line.parallel]
    if not lines:
        message = f"This format has no plain cards of “{section}”. Name a section that it holds."
        raise NotFoundError(message)
    groups: list[Wanted] = []
    missing: list[str] = []
    unpriced: list[str] = []
    for line in lines:
        open_numbers = [card.number for card in line.line.cards if not have.get(card.number)]
        prices = np.array([line.values[line.line.place_of[number]] for number in open_numbers])
        groups.append(_wanted(line, prices, singles))
        missing += open_numbers
        unpriced += [number for number, price in zip(open_numbers, prices, strict=True) if price <= 0]
    others = _without(box, section)
    share, _ = rare_share(others)
    total = mean_of(others)
    split = total * (1 - share), total * share
    curve = finish_curve(groups, terms.box_price, *split, repeats, terms.most, terms.each)
    notes = (
        *box.assumptions,
        repeats.words(),
        "boxes are decided on in advance and come from different cases",
        "spare plain cards of the section count 0, and so do rare cards: those come in one box of twenty",
    )
    return Finish(curve, tuple(missing), tuple(unpriced), total * (1 - share), total * share, notes)


def _wanted(line: PricedLine, prices: FloatArray, box: PricedBox) -> Wanted:
    size = len(line.line.cards)
    if line.line.is_rest:
        return Wanted(size, prices, None, line.expected)
    at = next(place for place, other in enumerate(box.lines) if other is line)
    law = line.law
    for joint in box.joint:
        if at in joint.places:
            law = joint.law.thinned(float(joint.weights[joint.places.index(at)]))
    return Wanted(size, prices, law)


def _without(box: PricedBox, section: str) -> PricedBox:
    """The box with the section's plain cards worth nothing."""

    def worthless(line: PricedLine) -> PricedLine:
        mine = line.line.section.key == section and not line.line.parallel
        return replace(line, values=np.zeros_like(line.values)) if mine else line

    rest = tuple(worthless(line) for line in box.rest)
    pool = box.pool
    if pool is not None:
        values = np.concatenate([line.values for line in rest])
        pool = replace(pool, values=values, shares=np.full(len(values), 1 / len(values)))
    return replace(box, lines=tuple(worthless(line) for line in box.lines), rest=rest, pool=pool)
