"""What a format costs by what one cares about: a card, a pack, a hit, an autograph, a numbered card."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Kind
from botin.core.figure import Figure, Input, ratio
from botin.core.odds.lines import BoxModel, Line

SIGNED = (Kind.AUTOGRAPH, Kind.AUTOGRAPH_RELIC)
WEIGHED = ("autographs", "numbered cards", "base cards", "value")


@dataclass(frozen=True, slots=True)
class Price:
    """What is paid for a box: the price with shipping and tax, and the rate into the product's currency.

    Attributes
    ----------
    price, shipping : float
        As asked, in the seller's currency.
    tax : float
        Share of price and shipping.
    rate : float
        One unit of the seller's currency in the product's.
    """

    price: float
    shipping: float = 0.0
    tax: float = 0.0
    rate: float = 1.0

    @property
    def total(self) -> float:
        """Return everything, in the product's currency."""
        return (self.price + self.shipping) * (1 + self.tax) * self.rate

    def figure(self) -> Figure:
        """Return the total with its parts."""
        inputs = (
            Input("price", self.price, "number"),
            Input("shipping", self.shipping, "number"),
            Input("tax", self.tax, "share"),
            Input("exchange rate", self.rate, "number"),
        )
        return Figure(
            "cost of the box", self.total, "money", "(price + shipping) × (1 + tax) × exchange rate", inputs
        )


@dataclass(frozen=True)
class Counts:
    """What a box of a format holds on average."""

    cards: float
    packs: float
    hits: float
    autographs: float
    numbered: float
    base: float


def counts_in(model: BoxModel, rule: HitRule, numbered_to: int | None = None) -> Counts:
    """Expected counts of a box.

    Parameters
    ----------
    model : BoxModel
        The lines of the format.
    rule : HitRule
        What counts as a hit.
    numbered_to : int, optional
        Largest run that still counts as numbered; any when not given.
    """

    def total(lines: list[Line]) -> float:
        return sum(line.expected or 0.0 for line in lines)

    lines = list(model.lines)
    numbered = [line for line in lines if line.run and (numbered_to is None or line.run <= numbered_to)]
    return Counts(
        cards=model.format.cards_per_box + total([line for line in lines if not line.in_packs]),
        packs=model.format.packs_per_box,
        hits=total([line for line in lines if rule.is_hit(line.section.kind, line.run)]),
        autographs=total([line for line in lines if line.section.kind in SIGNED]),
        numbered=total(numbered),
        base=total([line for line in lines if line.is_rest]),
    )


def cost_figures(cost: float, counts: Counts) -> tuple[Figure, ...]:
    """Cost per card, pack, hit, autograph and numbered card."""
    top = Input("cost of the box", cost, "money")
    each = (
        ("card", counts.cards),
        ("pack", counts.packs),
        ("hit", counts.hits),
        ("autograph", counts.autographs),
        ("numbered card", counts.numbered),
    )
    return tuple(ratio(f"cost per {what}", "money", top, Input(f"{what}s", count)) for what, count in each)


def rank_score(cost: float, counts: Counts, mean: float, weights: Mapping[str, float]) -> float:
    """What a box gives for its money, by the user's weights: Σ weight × count ÷ cost; higher is better."""
    got = {
        "autographs": counts.autographs,
        "numbered cards": counts.numbered,
        "base cards": counts.base,
        "value": mean,
    }
    return sum(weights.get(name, 0.0) * amount for name, amount in got.items()) / cost if cost else 0.0
