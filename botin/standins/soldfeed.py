"""A sold-price feed, simulated: a small protocol that a real source could stand behind, and a stand-in for it.

The stand-in makes seeded sales around what a version is thought to be worth, with everything that makes real ones
hard: noise, wild prices, listings of another card, lots, the fade after release, best offers with a hidden price.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Protocol

import numpy as np

from botin.core.pricing.fade import Fade

NAME = "simulated feed"


@dataclass(frozen=True, slots=True)
class Listing:
    """One listing as a feed gives it; ``price`` None is a best offer accepted at a price nobody shows."""

    title: str
    price: float | None
    asked: float
    sold_on: date
    lot: int = 1
    other_card: bool = False


class SoldFeed(Protocol):
    """What a source of sold prices must offer."""

    name: str

    def sales(self, title: str, near: float, since: date, until: date, released: date | None) -> Sequence[Listing]:
        """Return the listings of a card sold between two days; ``near`` helps only a simulated source."""
        ...


class SimulatedFeed:
    """The stand-in: the same question gives the same sales."""

    name = NAME

    def __init__(self, seed: int = 1, fade: Fade | None = None) -> None:
        self._seed, self._fade = seed, fade or Fade(3.0, 0.6)

    def sales(self, title: str, near: float, since: date, until: date, released: date | None) -> Sequence[Listing]:
        """Return simulated sales; about one in twelve is wild, one in fifteen another card, one in twenty a lot."""
        digest = hashlib.sha256(f"{self._seed}:{title}".encode()).digest()
        rng = np.random.default_rng(int.from_bytes(digest[:8], "big"))
        days = max(1, (until - since).days)
        found = []
        for _ in range(int(rng.integers(3, 12))):
            day = since + timedelta(days=int(rng.integers(0, days + 1)))
            weeks = (day - released).days / 7 if released else 52.0
            level = near * float(self._fade.share(weeks)) / self._fade.floor
            found.append(self._listing(title, level, day, rng))
        return sorted(found, key=lambda listing: listing.sold_on)

    @staticmethod
    def _listing(title: str, level: float, day: date, rng: np.random.Generator) -> Listing:
        price = level * float(np.exp(rng.normal(0, 0.18)))
        kind = rng.random()
        if kind < 0.08:
            price *= float(rng.choice([0.2, 6.0]))
        other, lot = 0.08 <= kind < 0.15, 3 if 0.15 <= kind < 0.20 else 1
        if other:
            price *= float(rng.uniform(0.1, 3.0))
        hidden = 0.20 <= kind < 0.30
        price = round(max(0.05, price * lot * (0.9 if lot > 1 else 1.0)), 2)
        return Listing(title, None if hidden else price, round(price * 1.15, 2), day, lot, other)


def usable(listings: Sequence[Listing]) -> list[Listing]:
    """Leave out what is no sold price of one copy of this card: hidden offers, lots, other cards."""
    return [row for row in listings if row.price is not None and row.lot == 1 and not row.other_card]
