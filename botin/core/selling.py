"""What is left of a price after selling: fees, postage, materials, and the time it takes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from botin.core.counts import FloatArray


@dataclass(frozen=True, slots=True)
class SaleCosts:
    """Costs of one sale, in major units.

    Attributes
    ----------
    fee : float
        Share of the price that the channel takes (0.12 is 12 %).
    fixed, postage, materials : float
        Taken from every sale.
    minutes, hourly : float
        The time a sale takes, and what an hour is worth.
    bulk_below : float
        A card that nets less than this goes to bulk.
    bulk_each : float
        What a bulk card brings.
    """

    fee: float = 0.0
    fixed: float = 0.0
    postage: float = 0.0
    materials: float = 0.0
    minutes: float = 0.0
    hourly: float = 0.0
    bulk_below: float = 0.0
    bulk_each: float = 0.0

    @property
    def each(self) -> float:
        """What every sale costs whatever the price."""
        return self.fixed + self.postage + self.materials + self.hourly * self.minutes / 60

    def net(self, price: float) -> float:
        """What is left of one price; below the bulk line it is what a bulk card brings."""
        left = price * (1 - self.fee) - self.each
        return left if left >= self.bulk_below else self.bulk_each

    def nets(self, prices: FloatArray) -> FloatArray:
        """What is left of each price, in whole cents as a sale is settled."""
        left = np.round(prices * (1 - self.fee) - self.each, 2)
        return np.where(left >= self.bulk_below - 1e-9, left, self.bulk_each)

    def words(self) -> str:
        """Return the costs in words."""
        return (
            f"net of selling: {self.fee:.0%} fee, {self.each:.2f} a sale;"
            f" below {self.bulk_below:.2f} a card counts {self.bulk_each:.2f}"
        )
