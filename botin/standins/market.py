"""A market, simulated: a small protocol a real one could stand behind, and a stand-in with buyers of its own.

Whoever offers something there finds a buyer by and by, the sooner the less is asked; the buyer pays, an
authenticator looks at dear raw cards, feedback comes or does not, and now and then there is trouble. The same listing
fares the same again.
"""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Protocol

import numpy as np

NAME = "simulated market"
A_DAY = 0.06
"""Share of listings at their worth that sell in a day."""
STEEP = 4.0
"""How much faster what is asked below its worth sells."""
NAMES = (
    "Ada Birkeland",
    "Tom Ashgrove",
    "Lia Verhaven",
    "Nils Oxmoor",
    "Rhea Calder",
    "Ivo Marsh",
    "Pia Holm",
    "Sven Dorn",
)
STREETS = ("Lamp Street", "Harbour Row", "Old Mill Lane", "Track Road", "Hill View")
TROUBLE = (("return", 0.02), ("refund", 0.03))
FEEDBACK = 0.7


@dataclass(frozen=True, slots=True)
class Offered:
    """A listing as the market sees it (major units); ``worth`` is what one like it brings."""

    key: str
    ask: float
    worth: float
    listed_on: date


@dataclass(frozen=True, slots=True)
class Bought:
    """Who bought, when, and at what price."""

    buyer: str
    address: str
    day: date
    price: float


@dataclass(frozen=True, slots=True)
class Fare:
    """How a sale fares after it is sent: days until each stop, whether it passes, feedback and trouble."""

    paid_after: int
    check_days: int
    passes: bool
    feedback_after: int | None
    trouble: str
    payout_after: int


class Market(Protocol):
    """What a market must offer."""

    name: str

    def bought(self, offered: Offered, until: date) -> Bought | None:
        """Return who bought a listing until a day; None while nobody did."""
        ...

    def fare(self, key: str) -> Fare:
        """Return how a sale fares."""
        ...


class SimulatedMarket:
    """The stand-in."""

    name = NAME

    def bought(self, offered: Offered, until: date) -> Bought | None:
        """Return who bought a listing until a day."""
        rng = _dice(offered.key)
        chance = chance_a_day(offered.ask, offered.worth)
        waits = int(rng.geometric(chance)) if chance > 1e-6 else 10**6
        day = offered.listed_on + timedelta(waits)
        who, street, number = rng.integers(len(NAMES)), rng.integers(len(STREETS)), int(rng.integers(1, 90))
        if day > until:
            return None
        return Bought(NAMES[who], f"{NAMES[who]}\n{STREETS[street]} {number}\n1234 Harrow Bay", day, offered.ask)

    def fare(self, key: str) -> Fare:
        """Return how a sale fares; the same sale always fares the same."""
        rng = _dice(f"fare {key}")
        luck, trouble = float(rng.random()), ""
        for kind, share in TROUBLE:
            if not trouble and luck < share:
                trouble = kind
            luck -= share
        later = int(rng.integers(1, 15)) if rng.random() < FEEDBACK else None
        return Fare(
            paid_after=int(rng.integers(0, 3)), check_days=int(rng.integers(1, 3)), passes=bool(rng.random() > 0.02),
            feedback_after=later, trouble=trouble, payout_after=int(rng.integers(1, 4)),
        )  # fmt: skip


def chance_a_day(ask: float, worth: float) -> float:
    """Return the chance that a listing sells in a day: by what is asked against what it is worth."""
    if ask <= 0 or worth <= 0:
        return 0.0
    return min(0.9, A_DAY * math.exp(-STEEP * math.log(ask / worth)))


def _dice(key: str) -> np.random.Generator:
    return np.random.default_rng(int.from_bytes(hashlib.sha256(key.encode()).digest()[:8], "big"))
