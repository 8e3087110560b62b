"""What is left of a price after selling: fees, postage, insurance, materials, and the time it takes.

A collector sells through several channels (a listing, an auction, a table at a card show) and sends cheap cards
otherwise than dear ones. Each price is sold where it leaves most among the channels that take it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from botin.core.counts import FloatArray

TINY = 1e-9


@lru_cache(maxsize=64)
def _step_table(steps: tuple[PostageStep, ...]) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Upper prices, postage and insured shares of the steps; made once, since thousands of sales ask for them."""
    tops = np.array([math.inf if step.up_to is None else step.up_to for step in steps])
    return tops, np.array([step.postage for step in steps]), np.array([step.insured for step in steps])


@dataclass(frozen=True, slots=True)
class PostageStep:
    """How a card up to a price is sent (major units); ``insured`` is a share of the price, no ``up_to`` no limit."""

    up_to: float | None
    postage: float
    insured: float = 0.0


@dataclass(frozen=True, slots=True)
class Channel:
    """A way to sell.

    Attributes
    ----------
    fee : float
        Share of the price that it takes (0.12 is 12 %).
    fixed, materials : float
        Taken from every sale (major units).
    minutes : float
        The time a sale takes.
    least, most : float, float or None
        Prices it takes; None without limit.
    sent : bool
        The card goes by post; handed over otherwise, without postage.
    """

    name: str
    fee: float = 0.0
    fixed: float = 0.0
    materials: float = 0.0
    minutes: float = 0.0
    least: float = 0.0
    most: float | None = None
    sent: bool = True


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
    channels : tuple of Channel
        Ways to sell; with none, the one described by the fields above.
    steps : tuple of PostageStep
        Postage by price, the cheapest first; with none, ``postage`` for all.
    places : int
        Decimals of the currency: a sale is settled in whole minor units.
    currency : str
        Its ISO 4217 code, written behind amounts in words; empty when it is not known.
    """

    fee: float = 0.0
    fixed: float = 0.0
    postage: float = 0.0
    materials: float = 0.0
    minutes: float = 0.0
    hourly: float = 0.0
    bulk_below: float = 0.0
    bulk_each: float = 0.0
    channels: tuple[Channel, ...] = ()
    steps: tuple[PostageStep, ...] = ()
    places: int = 2
    currency: str = ""

    def said(self, amount: float) -> str:
        """Return an amount as it stands in a sentence: ``48.50 EUR``."""
        return f"{amount:.{self.places}f} {self.currency}".rstrip()

    @property
    def ways(self) -> tuple[Channel, ...]:
        """The channels there are."""
        return self.channels or (Channel("", self.fee, self.fixed, self.materials, self.minutes),)

    def each_by(self, way: Channel) -> float:
        """What a sale there costs whatever the price, sending aside."""
        return way.fixed + way.materials + self.hourly * way.minutes / 60

    @property
    def each(self) -> float:
        """What a sale in the first channel costs whatever the price, the cheapest postage included."""
        way = self.ways[0]
        return self.each_by(way) + (self._postage()[0].postage if way.sent else 0.0)

    def _postage(self) -> tuple[PostageStep, ...]:
        return self.steps or (PostageStep(None, self.postage),)

    def sending(self, prices: FloatArray) -> FloatArray:
        """Postage and insurance of each price; beyond the last step its terms go on."""
        tops, postage, share = _step_table(self._postage())
        if len(tops) == 1:
            return np.asarray(postage[0] + share[0] * prices)
        at = np.minimum(np.searchsorted(tops, prices - TINY), len(tops) - 1)
        return np.asarray(postage[at] + share[at] * prices)

    def single_by(self, way: Channel, prices: FloatArray) -> FloatArray:
        """What a single sale of each price leaves in one channel, whether it takes the price or not."""
        return self.by_each((way,), prices)[0]

    def by_each(self, ways: Sequence[Channel], prices: FloatArray) -> list[FloatArray]:
        """Return the same for several channels: sending is reckoned once."""
        sent = self.sending(prices) if any(way.sent for way in ways) else 0.0
        each = [(way, prices * (1 - way.fee) - self.each_by(way)) for way in ways]
        return [left - sent if way.sent else left for way, left in each]

    def single(self, prices: FloatArray) -> FloatArray:
        """What a single sale of each price leaves where it leaves most; a bulk card's worth where none takes it."""
        if not self.channels:
            return self.single_by(self.ways[0], prices)
        sent, best = self.sending(prices), np.full(np.shape(prices), -np.inf)
        for way in self.channels:
            left = prices * (1 - way.fee) - self.each_by(way)
            left = left - sent if way.sent else left
            if way.least > 0 or way.most is not None:
                most = math.inf if way.most is None else way.most + TINY
                left = np.where((prices >= way.least - TINY) & (prices <= most), left, -np.inf)
            np.maximum(best, left, out=best)
        return np.where(best > -np.inf, best, self.bulk_each)

    def open_to(self, price: float) -> tuple[Channel, ...]:
        """Channels that take a price."""
        return tuple(way for way in self.ways if way.least <= price <= (math.inf if way.most is None else way.most))

    def price_for(self, wanted: float) -> float | None:
        """Smallest price of which a single sale leaves so much; None when no price does."""
        found = [price for way in self.ways for price in self._prices_for(way, wanted)]
        return min(found, default=None)

    def _prices_for(self, way: Channel, wanted: float) -> list[float]:
        """Candidates of one channel, one for every step of the postage that is reached."""
        found, above = [], way.least
        for step in self._postage() if way.sent else (PostageStep(None, 0.0),):
            kept = 1 - way.fee - step.insured
            top = min(x for x in (step.up_to, way.most, math.inf) if x is not None)
            price = max(above, (wanted + self.each_by(way) + step.postage) / kept) if kept > 0 else math.inf
            if price <= top + TINY and math.isfinite(price):
                found.append(price)
            above = max(above, top)
        return found

    def net(self, price: float) -> float:
        """What is left of one price, settled in whole minor units; below the bulk line what a bulk card brings."""
        return float(self.nets(np.array([price]))[0])

    def nets(self, prices: FloatArray) -> FloatArray:
        """What is left of each price, in whole minor units as a sale is settled."""
        left = np.round(self.single(prices), self.places)
        return np.where(left >= self.bulk_below - TINY, left, self.bulk_each)

    def words(self) -> str:
        """Return the costs in words."""
        ways = ", ".join(f"{way.name} {way.fee:.0%} fee, {self.each_by(way):.2f} a sale".strip() for way in self.ways)
        steps = self._postage()
        sent = f"postage {steps[0].postage:.2f}" + (f" to {steps[-1].postage:.2f} by price" if len(steps) > 1 else "")
        return f"net of selling: {ways}, {sent}; below {self.bulk_below:.2f} a card counts {self.bulk_each:.2f}"
