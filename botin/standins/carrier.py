"""A carrier, simulated: a small protocol a real one could stand behind, and a stand-in with invented services.

What a parcel costs follows from its weight, its size, how far it goes, what it is insured for, and a signature.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Protocol

NAME = "simulated carrier"
ZONES = ("inland", "near", "far")


@dataclass(frozen=True, slots=True)
class Parcel:
    """What is sent: grams, the longest side in centimetres, how far, and what it is worth (major units)."""

    grams: int
    longest_cm: float = 16.0
    zone: str = "inland"
    value: float = 0.0
    signature: bool = False
    insured: bool = True


@dataclass(frozen=True, slots=True)
class Service:
    """A way to send: what it costs by weight and zone, how much it covers without more, and how long it takes.

    Attributes
    ----------
    steps : sequence of (int, float)
        Up to so many grams costs so much, inland; the last is the most it takes.
    zones : mapping
        Factor by zone; a zone that is missing is not served.
    covers : float
        Loss that is paid for without insurance.
    insures_to : float
        Most it can be insured for; 0 when it cannot.
    signed_from : float
        From this value on a signature is compulsory.
    lost, late : float
        Share of parcels that are lost, or come a week late.
    """

    name: str
    steps: tuple[tuple[int, float], ...]
    zones: dict[str, float] = field(default_factory=lambda: {"inland": 1.0, "near": 2.1, "far": 3.4})
    days: tuple[int, int] = (2, 4)
    longest_cm: float = 35.0
    covers: float = 0.0
    insures_to: float = 0.0
    rate: float = 0.006
    least: float = 1.0
    signature: float = 0.0
    signed_from: float | None = None
    tracked: bool = True
    lost: float = 0.002
    late: float = 0.03


SERVICES = (
    Service(
        "plain letter", ((20, 0.95), (50, 1.10), (100, 1.80)), days=(2, 5), longest_cm=24, tracked=False, lost=0.006
    ),
    Service("tracked letter", ((50, 2.60), (100, 3.20), (500, 4.10)), days=(2, 4), longest_cm=35, covers=25),
    Service(
        "parcel", ((500, 4.90), (1000, 5.90), (2000, 6.90), (5000, 8.40)), days=(2, 3), longest_cm=60, covers=50,
        insures_to=2_500, signature=1.60, signed_from=1_000,
    ),
    Service(
        "courier", ((1000, 11.50), (5000, 14.90)), days=(1, 2), longest_cm=80, covers=500, insures_to=25_000,
        rate=0.004, signature=0.0, signed_from=0.0, lost=0.0006, late=0.01,
    ),
)  # fmt: skip
"""Invented figures of no real carrier."""


@dataclass(frozen=True, slots=True)
class Quote:
    """What a service asks for a parcel (major units), or why it does not take it.

    Attributes
    ----------
    at_risk : float
        What a loss would cost that nobody pays for, times the chance of one.
    """

    service: str
    postage: float = 0.0
    insurance: float = 0.0
    signature: float = 0.0
    days: tuple[int, int] = (0, 0)
    at_risk: float = 0.0
    must_sign: bool = False
    why_not: str = ""

    @property
    def total(self) -> float:
        """All that is paid."""
        return self.postage + self.insurance + self.signature

    @property
    def in_all(self) -> float:
        """What is paid, and what an uninsured loss costs on average."""
        return self.total + self.at_risk


@dataclass(frozen=True, slots=True)
class Travel:
    """How a parcel fared: the day it is there; None when it is lost."""

    there_on: date | None
    late: bool = False


class Carrier(Protocol):
    """What a carrier must offer."""

    name: str

    def quotes(self, parcel: Parcel) -> Sequence[Quote]:
        """Return what each service asks for a parcel, those first that take it, the cheapest first."""
        ...

    def travel(self, number: str, service: str, sent_on: date) -> Travel:
        """Return how a parcel fares."""
        ...


class SimulatedCarrier:
    """The stand-in: invented services, and parcels that travel as their number says."""

    name = NAME

    def quotes(self, parcel: Parcel) -> Sequence[Quote]:
        """Return what each service asks for a parcel."""
        return sorted((_quote(service, parcel) for service in SERVICES), key=lambda q: (bool(q.why_not), q.in_all))

    def number_for(self, key: str) -> str:
        """Return a number under which a parcel is followed."""
        return f"SIM{int.from_bytes(hashlib.sha256(key.encode()).digest()[:5], 'big') % 10**10:010d}"

    def travel(self, number: str, service: str, sent_on: date) -> Travel:
        """Return how a parcel fares; the same number fares the same again."""
        found = next((one for one in SERVICES if one.name == service), SERVICES[2])
        dice = hashlib.sha256(f"{number}{service}".encode()).digest()
        luck = int.from_bytes(dice[:4], "big") / 2**32
        if luck < found.lost:
            return Travel(None)
        late = luck < found.lost + found.late
        first, last = found.days
        return Travel(sent_on + timedelta(first + dice[4] % (last - first + 1) + (7 if late else 0)), late)


def _quote(service: Service, parcel: Parcel) -> Quote:
    factor = service.zones.get(parcel.zone)
    price = next((cost for most, cost in service.steps if parcel.grams <= most), None)
    if factor is None or price is None:
        return Quote(service.name, why_not="too heavy" if factor is not None else "does not go there")
    if parcel.longest_cm > service.longest_cm:
        return Quote(service.name, why_not="too large")
    above = max(0.0, parcel.value - service.covers)
    insured = above if parcel.insured and above and service.insures_to >= parcel.value else 0.0
    premium = round(max(service.least, service.rate * insured), 2) if insured else 0.0
    must = service.signed_from is not None and parcel.value >= service.signed_from
    sign = service.signature if parcel.signature or must else 0.0
    at_risk = round(service.lost * (above - insured), 2)
    return Quote(
        service.name, postage=round(price * factor, 2), insurance=premium, signature=sign, days=service.days,
        at_risk=at_risk, must_sign=must,
    )  # fmt: skip
