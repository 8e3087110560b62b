"""A purchase of several things in one parcel: what each of them cost with its part of postage and tax."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from botin.core.books.posting import split
from botin.core.money import Money, exponent

ORDERED, PAID, UNDER_WAY, IN_PART, ARRIVED = "pre-ordered", "paid", "on the way", "in part", "arrived"
STATES = (ORDERED, PAID, UNDER_WAY, IN_PART, ARRIVED)


@dataclass(frozen=True, slots=True)
class ItemCost:
    """What one thing of a purchase cost in the currency that was paid: its price and its parts."""

    price: Money
    shipping: Money
    tax: Money

    @property
    def total(self) -> Money:
        """All of it."""
        return self.price + self.shipping + self.tax

    def turned(self, rate: Decimal, currency: str) -> ItemCost:
        """Return the same in another currency; the parts add up to the whole at that rate."""
        whole = in_currency(self.total, rate, currency)
        parts = split(whole.minor, [float(part.minor) for part in (self.price, self.shipping, self.tax)])
        return ItemCost(*(Money(part, currency) for part in parts))


def in_currency(money: Money, rate: Decimal, currency: str) -> Money:
    """Turn an amount into another currency at a rate, rounded half-even to its minor unit."""
    major = Decimal(money.minor).scaleb(-exponent(money.currency)) * rate
    return Money.from_major(major, currency)


def share_parcel(prices: Sequence[Money], shipping: Money, tax: Money) -> list[ItemCost]:
    """Share postage and tax over the things of a parcel in proportion to their prices, to the minor unit.

    Things that cost nothing share them equally when all of them do.
    """
    weights = [float(price.minor) for price in prices]
    if not any(weights):
        weights = [1.0] * len(prices)
    parts = zip(split(shipping.minor, weights), split(tax.minor, weights), strict=True)
    return [
        ItemCost(price, Money(postage, price.currency), Money(duty, price.currency))
        for price, (postage, duty) in zip(prices, parts, strict=True)
    ]
