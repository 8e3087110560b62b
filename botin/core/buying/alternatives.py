"""What else the same money would do: singles outright, a graded one, the box kept sealed."""

from __future__ import annotations

import math
from dataclasses import dataclass

from botin.core.figure import Figure, Input
from botin.core.pricing.fade import Fade


def singles_outright(price: float, each: float, money: float) -> Figure:
    """How many copies of a single the money buys for certain.

    Parameters
    ----------
    price, each : float
        Price of a copy, and the postage of a purchase (major units).
    money : float
        What the box costs.
    """
    whole = math.floor(money / (price + each) + 1e-9) if price + each > 0 else 0
    inputs = (
        Input("money", money, "money"),
        Input("price of a copy", price, "money"),
        Input("postage", each, "money"),
    )
    return Figure("copies bought outright", float(whole), "count", "⌊money ÷ (price of a copy + postage)⌋", inputs)


def wait_saves(price: float, fade: Fade, age_weeks: float, wait: float) -> Figure:
    """What waiting saves on a single, by the product's fade curve."""
    share = fade.saving(age_weeks, wait)
    inputs = (
        Input("price today", price, "money"),
        Input("weeks since release", age_weeks),
        Input("weeks waited", wait),
        Input("half-life in weeks", fade.half_life),
        Input("floor", fade.floor, "share"),
    )
    basis = f"fitted to {fade.prices} sold prices" if fade.prices else "half-life and floor are your settings"
    formula = "price × (1 − curve after waiting ÷ curve today), curve = floor + (1 − floor)·2^(−weeks ÷ half-life)"
    return Figure("saved by waiting", price * share, "money", formula, inputs, (basis,))


@dataclass(frozen=True, slots=True)
class Holding:
    """What keeping a box sealed costs: storage and insurance a year, and what selling it takes."""

    years: float
    yearly_cost: float
    fee: float
    each: float


def growth_needed(cost: float, rip: float, terms: Holding) -> Figure:
    """Yearly growth of the sealed price at which holding and selling leaves as much as ripping now.

    (rip + costs of holding + costs of selling) ÷ (1 − fee) is the price it must reach.
    """
    reach = (rip + terms.yearly_cost * terms.years + terms.each) / (1 - terms.fee)
    growth = (reach / cost) ** (1 / terms.years) - 1 if cost > 0 and terms.years > 0 else None
    inputs = (
        Input("cost of the box", cost, "money"),
        Input("what ripping leaves (median)", rip, "money"),
        Input("years", terms.years),
        Input("storage and insurance a year", terms.yearly_cost, "money"),
        Input("selling fee", terms.fee, "share"),
        Input("postage and fixed fee", terms.each, "money"),
        Input("price it must reach", reach, "money"),
    )
    formula = "(price it must reach ÷ cost)^(1 ÷ years) − 1; it must reach (rip + storage + postage) ÷ (1 − fee)"
    return Figure(
        "growth a year to beat ripping", growth, "share", formula, inputs, ("no forecast: only what is needed",)
    )
