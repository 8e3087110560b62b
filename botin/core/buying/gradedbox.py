"""A box as it sells when the cards that gain by it are graded first."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from botin.core.counts import FloatArray
from botin.core.pricing.priced import PricedBox, PricedLine, line_prices
from botin.core.pricing.prices import PriceBook
from botin.core.selling.costs import SaleCosts


@dataclass(frozen=True, slots=True)
class GemTerms:
    """What grading one copy costs with its share of shipping, and the chance to reckon with before a box is open.

    ``gem_chance`` is the share of top grades to reckon with, from ``counted`` graded copies of the product, or the
    user's usual one when that is 0; a copy that misses it sells as if raw.
    """

    cost: float
    top_grade: str
    gem_chance: float
    counted: int = 0


def graded_box(box: PricedBox, book: PriceBook, costs: SaleCosts, grading: GemTerms) -> PricedBox:
    """The box as it sells when every card that gains by grading is sent in: two outcomes for each such card."""
    lines = tuple(_graded(line, book, costs, grading) for line in box.lines)
    rest = tuple(_graded(line, book, costs, grading) for line in box.rest)
    pool = _graded(box.pool, book, costs, grading) if box.pool is not None and len(rest) == 1 else box.pool
    return PricedBox(box.model, lines, box.joint, rest, pool, box.assumptions)


def _graded(line: PricedLine, book: PriceBook, costs: SaleCosts, grading: GemTerms) -> PricedLine:
    raw, _ = line_prices(line.line, book)
    top, known = line_prices(line.line, book, grading.top_grade)
    net_raw = costs.nets(raw)
    net_top: FloatArray = costs.nets(top) - grading.cost
    missed: FloatArray = net_raw - grading.cost
    gain = grading.gem_chance * net_top + (1 - grading.gem_chance) * missed - net_raw
    send = known & (gain > 0)
    values = np.concatenate((np.where(send, missed, net_raw), net_top[send]))
    shares = np.concatenate(
        (line.shares * np.where(send, 1 - grading.gem_chance, 1.0), line.shares[send] * grading.gem_chance)
    )
    return PricedLine(
        line=line.line,
        values=values,
        shares=shares,
        law=line.law,
        case_law=line.case_law,
        expected=line.expected,
        unpriced=line.unpriced,
        in_packs=line.in_packs,
    )
