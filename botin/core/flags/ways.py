"""Where a copy should go: bulk, sold raw now or later, graded then sold, looked at first; what each nets after costs.

A sale is log-normal around the level of the price, which is itself uncertain; a graded copy sells by the chance of
each grade. A look is a choice like any other: what the best route after it nets on average, less its minutes, against
the best route without it.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from enum import StrEnum

from botin.core.grading.forecast import Forecaster
from botin.core.pricing.fade import Fade

NODES = 41
FAR = 1.3
"""Standard deviations up at which grading is still looked at: the dear end of an 80 % interval."""
LATER_WEEKS = 13.0
WEEKS_A_MONTH = 4.35
MONTHLY = 0.0
CLOSE = 0.15
"""Two routes whose means differ by less than this share of the larger (and a unit) are close."""
LEAST_GAIN = 0.05
"""A look that adds less than this (major units) on average is not asked for, even when time costs nothing."""


class Go(StrEnum):
    """Verdict on a copy."""

    GRADE = "grade"
    SELL = "sell now"
    LATER = "sell later"
    KEEP = "keep"
    BULK = "bulk"
    LOOK = "look closer"
    PRICE = "price it"


@dataclass(frozen=True, slots=True)
class Tier:
    """A grading tier.

    Attributes
    ----------
    fee : float
        A card, in major units.
    ceiling : float or None
        Largest value after grading that the fee covers; None without limit.
    upcharge : float
        Added when the value after grading passes the ceiling.
    days : float
        Usual waiting time.
    least : int
        Fewest cards an order takes.
    member : bool
        Only members may use it.
    house : str
        Grading house; houses differ in their limits and in how strict they are.
    service : str
        What is done: empty is grading a raw card; else review, cross over, new holder.
    years : (int or None, int or None)
        First and last year of the cards it takes.
    since, until : date or None
        First and last day on which it may be sent: a sale of a tier ends.
    """

    name: str
    fee: float
    ceiling: float | None = None
    upcharge: float = 0.0
    days: float = 30.0
    least: int = 1
    member: bool = False
    house: str = ""
    service: str = ""
    years: tuple[int | None, int | None] = (None, None)
    since: date | None = None
    until: date | None = None

    @property
    def label(self) -> str:
        """House and name."""
        return f"{self.house} {self.name}".strip()

    def offered(self, day: date) -> bool:
        """Whether it may be sent on a day."""
        return (self.since is None or self.since <= day) and (self.until is None or day <= self.until)

    def takes(self, year: int | None) -> bool:
        """Whether it takes a card of a year; one whose year is not known is taken everywhere."""
        first, last = self.years
        return year is None or ((first is None or first <= year) and (last is None or year <= last))

    def fee_for(self, value: float) -> float:
        """Fee for a copy of this value after grading."""
        return self.fee + (self.upcharge if self.ceiling is not None and value > self.ceiling else 0.0)


@dataclass(frozen=True, slots=True)
class GradingCosts:
    """Tiers and what an order costs beside them.

    Attributes
    ----------
    shipping : float
        Out and back for a whole order.
    insured : float
        Share of the value after grading, for insurance.
    together : int
        Cards one expects to send in one order: the shipping is shared by them.
    membership : float
        A year.
    monthly : float
        Share of the value that a month of waiting costs.
    joined : bool
        The membership is held already, at every house.
    held : frozenset of str
        Houses whose membership is held.
    returns : sequence of (str, int, float)
        House (empty for any), cards, and what shipping an order with more than so many costs instead.
    """

    tiers: tuple[Tier, ...] = ()
    shipping: float = 0.0
    insured: float = 0.0
    together: int = 1
    membership: float = 0.0
    monthly: float = MONTHLY
    handling_minutes: float = 0.0
    hourly: float = 0.0
    joined: bool = False
    held: frozenset[str] = frozenset()
    returns: tuple[tuple[str, int, float], ...] = ()

    def steps(self, house: str) -> tuple[tuple[int, float], ...]:
        """Shipping of an order of a house by its cards, in rising order: more than so many cost so much."""
        own = [(cards, cost) for of, cards, cost in self.returns if of == house]
        return tuple(sorted(own or [(cards, cost) for of, cards, cost in self.returns if not of]))

    def shipping_for(self, house: str, cards: int) -> float:
        """Shipping of an order of so many cards, out and back."""
        reached = [cost for more_than, cost in self.steps(house) if cards > more_than]
        return reached[-1] if reached else self.shipping

    def each(self, house: str = "") -> float:
        """What a card costs beside its fee."""
        together = max(1, self.together)
        return self.shipping_for(house, together) / together + self.hourly * self.handling_minutes / 60

    def membership_for(self, house: str) -> float:
        """What a year's membership of a house costs; none when it is held already."""
        return 0.0 if self.joined or house in self.held else self.membership

    def membership_share(self, house: str) -> float:
        """Part of a year's membership that a card of an order carries."""
        return self.membership_for(house) / max(1, self.together)

    def alone(self, house: str = "") -> float:
        """What a card costs beside its fee when it is sent by itself."""
        return self.shipping_for(house, 1) + self.hourly * self.handling_minutes / 60

    def alone_membership(self, house: str) -> float:
        """What more of the membership a card carries when it is the only one."""
        return self.membership_for(house) - self.membership_share(house)

    def on(self, day: date) -> GradingCosts:
        """Leave the tiers that grade raw cards on a day."""
        return replace(self, tiers=tuple(tier for tier in self.tiers if tier.offered(day) and not tier.service))

    def taking(self, year: int | None) -> GradingCosts:
        """Leave the tiers that take cards of a year."""
        return replace(self, tiers=tuple(tier for tier in self.tiers if tier.takes(year)))


@dataclass(frozen=True, slots=True)
class Priced:
    """What a copy is worth in money, 0 when unknown.

    Attributes
    ----------
    amount : float
        Mean of the level (major units).
    spread : float
        What is unknown of the level, on the log scale.
    noise : float
        How a single sale scatters around the level, on the log scale.
    """

    amount: float
    spread: float = 0.0
    noise: float = 0.0

    @property
    def wide(self) -> float:
        """Spread of the next sale: of its level and around it."""
        return math.hypot(self.spread, self.noise)

    @property
    def sale(self) -> float:
        """Mean of the next sale: that of the level times e^(σ²/2), since sales scatter around it on the log scale."""
        return self.amount * math.exp(self.noise**2 / 2)

    def times(self, factor: float) -> Priced:
        """Return the price of a damaged copy."""
        return replace(self, amount=self.amount * factor)


@dataclass(frozen=True)
class CopyFacts:
    """What a verdict on a copy needs.

    Attributes
    ----------
    raw : Priced
        Price ungraded.
    graded : mapping
        Price in each grade.
    chances : mapping
        Chance of each grade.
    wanted : bool
        It belongs to the personal collection.
    inspected : bool
        The chances rest on a look at this copy.
    fade, age_weeks
        For selling later.
    by_house : mapping
        Chance of each grade at the houses for which it is known to differ.
    looks : mapping
        For a copy nobody looked at closely: what a look can show at each house, empty key for any house.
    guessed : bool
        The raw price rests on nothing of its section, finish or player: it should be priced first.
    """

    raw: Priced
    graded: Mapping[float, Priced] = field(default_factory=dict)
    chances: Mapping[float, float] = field(default_factory=dict)
    wanted: bool = False
    inspected: bool = False
    fade: Fade | None = None
    age_weeks: float = 0.0
    by_house: Mapping[str, Mapping[float, float]] = field(default_factory=dict)
    looks: Mapping[str, Forecaster] = field(default_factory=dict)
    guessed: bool = False


@dataclass(frozen=True, slots=True)
class Looking:
    """What a closer look at one copy takes."""

    minutes: float = 8.0
    hourly: float = 0.0

    @property
    def cost(self) -> float:
        """What its time is worth (major units)."""
        return self.minutes * self.hourly / 60


@dataclass(frozen=True, slots=True)
class Route:
    """One route with what it nets (major units).

    Attributes
    ----------
    tier : str
        Tier of a graded copy, with its house.
    channel : str
        Where it is sold; empty when there is but one way.
    loss : float
        Chance that it leaves less than 0: money put in that does not come back.
    house : str
        Grading house of a graded copy.
    more : int
        How many more cards must go along for the tier to take the order; 0 when it can be sent as it is.
    alone : float or None
        What it nets when the copy is sent by itself and pays for everything: all of the shipping, and a membership.
    """

    go: Go
    tier: str
    mean: float
    p10: float
    p90: float
    loss: float
    channel: str = ""
    house: str = ""
    more: int = 0
    alone: float | None = None

    @property
    def label(self) -> str:
        """The route in words."""
        return f"{self.go.value} ({self.tier or self.channel})" if self.tier or self.channel else self.go.value


@dataclass(frozen=True)
class RouteVerdict:
    """The verdict with its reason.

    Attributes
    ----------
    margin : float
        By how much the best route beats the next one (keeping aside).
    flips : bool
        At one end of the price's own interval another route wins.
    top_only : bool
        Grading pays only if the top grade comes: the top grade or nothing.
    gem_needed : float or None
        Chance of the top grade from which the best tier beats selling raw.
    price_needed : float or None
        Raw price from which selling a single pays.
    look_gain : float
        What a closer look is expected to add over the best route without it, after its minutes; 0 when it was done.
    """

    go: Go
    tier: str
    reason: str
    margin: float
    routes: tuple[Route, ...]
    flips: bool
    top_only: bool
    gem_needed: float | None
    price_needed: float | None
    look_gain: float = 0.0
