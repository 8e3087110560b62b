"""What a box is worth before it is opened: the mean of the value model, line by line, in closed form."""

from __future__ import annotations

import math
from dataclasses import dataclass

from botin.core.figure import Figure, Input
from botin.core.odds.lines import BoxModel, Line
from botin.core.pricing.prices import Basis, PriceBook


@dataclass(frozen=True, slots=True)
class LineValue:
    """What one line adds to the mean value of a box (major units)."""

    line: Line
    expected: float
    mean_price: float
    mean: float
    priced: int


def line_value(line: Line, prices: PriceBook) -> LineValue:
    """Expected count × mean price of the line's cards, each card alike; a card without a price counts 0."""
    own = prices.own_prices(line.section.key, line.parallel)
    known = [estimate.amount for number, estimate in own.items() if number in line.numbers]
    tier = prices.tier(line.section.key, line.parallel)
    others = len(line.cards) - len(known)
    total = math.fsum(known) + others * tier.amount
    mean_price = total / len(line.cards) if line.cards else 0.0
    expected = line.expected or 0.0
    priced = len(known) if tier.basis is Basis.NONE else len(line.cards)
    return LineValue(line, expected, mean_price, expected * mean_price, priced)


def line_values(model: BoxModel, prices: PriceBook) -> tuple[LineValue, ...]:
    """Return every line with what it adds, the largest first."""
    return tuple(sorted((line_value(line, prices) for line in model.lines), key=lambda row: -row.mean))


def mean_value(values: tuple[LineValue, ...], assumptions: tuple[str, ...] = ()) -> Figure:
    """Mean value of a box as a figure; linear in the counts, so dependence between lines does not matter."""
    inputs = tuple(
        Input(
            f"{row.expected:.3g} × {row.line.section.label}{' ' + row.line.parallel if row.line.parallel else ''}",
            row.mean,
            "money",
        )
        for row in values
        if row.mean > 0
    )
    blank = sum(len(row.line.cards) - row.priced for row in values)
    notes = (*assumptions, f"{blank} versions without a price count 0") if blank else assumptions
    total = math.fsum(row.mean for row in values)
    return Figure("value model’s mean", total, "money", "Σ expected count × mean price of the line", inputs, notes)
