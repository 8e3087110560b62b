"""What a box costs: per card, pack, hit, always with shipping and tax."""

from __future__ import annotations

from dataclasses import dataclass

from botin.core.figure import Figure, Input, ratio
from botin.core.money import Money


@dataclass(frozen=True, slots=True)
class Cost:
    """What was paid for a box."""

    price: Money
    shipping: Money
    tax: Money

    @property
    def total(self) -> Money:
        """Price, shipping and tax together."""
        return self.price + self.shipping + self.tax

    def figure(self) -> Figure:
        """Return the total with its parts."""
        parts = (("price", self.price), ("shipping", self.shipping), ("tax", self.tax))
        inputs = tuple(Input(name, money.major, "money") for name, money in parts)
        return Figure("cost of the box", self.total.major, "money", "price + shipping + tax", inputs)

    def per(self, what: str, count: float) -> Figure:
        """Cost ÷ count of something."""
        top = Input("cost of the box", self.total.major, "money")
        return ratio(f"cost per {what}", "money", top, Input(f"{what}s", count))
