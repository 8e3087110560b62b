"""The road of a sale, from sold to feedback: its steps, what each asks for, and the days one may expect."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum


class Stop(StrEnum):
    """Where a sale stands."""

    SOLD = "sold"
    PAID = "paid"
    PACKED = "packed"
    SENT = "sent"
    CHECKING = "checking"
    PASSED = "passed"
    THERE = "there"
    DONE = "done"


@dataclass(frozen=True, slots=True)
class StopWords:
    """What a stop is called, what is to do there, and what the button says that leads to it."""

    name: str
    to_do: str
    button: str


WORDS = {
    Stop.SOLD: StopWords("sold", "Wait for the payment", ""),
    Stop.PAID: StopWords("paid", "Pack it", "It is paid"),
    Stop.PACKED: StopWords("packed", "Send it", "It is packed"),
    Stop.SENT: StopWords("on its way", "Wait until it is there", "It is sent"),
    Stop.CHECKING: StopWords("at the authenticator", "Wait for the check", "The authenticator has it"),
    Stop.PASSED: StopWords("passed", "Wait until the buyer has it", "It passed"),
    Stop.THERE: StopWords("with the buyer", "Give feedback, and wait for the buyer’s", "The buyer has it"),
    Stop.DONE: StopWords("done", "Nothing is left to do", "It is done"),
}
DIRECT = (Stop.SOLD, Stop.PAID, Stop.PACKED, Stop.SENT, Stop.THERE, Stop.DONE)
CHECKED = (Stop.SOLD, Stop.PAID, Stop.PACKED, Stop.SENT, Stop.CHECKING, Stop.PASSED, Stop.THERE, Stop.DONE)
BY_HAND = (Stop.SOLD, Stop.PAID, Stop.THERE, Stop.DONE)
"""The roads: by post, by way of the authenticator, handed over."""


def road_of(*, checked: bool, by_hand: bool) -> tuple[Stop, ...]:
    """Return the stops of a sale in their order."""
    return BY_HAND if by_hand else CHECKED if checked else DIRECT


def after(road: tuple[Stop, ...], stop: Stop) -> tuple[Stop, ...]:
    """Stops that a sale may take next: the one that follows, and once it is sent also later ones."""
    at = road.index(stop)
    sent = stop in road[road.index(Stop.SENT) :] if Stop.SENT in road else at > 0
    return road[at + 1 :] if sent else road[at + 1 : at + 2]


@dataclass(frozen=True, slots=True)
class Pace:
    """How long things take, in days; common practice, no source.

    Attributes
    ----------
    hand_in : int
        From the payment until it is sent; a Sunday is no day for it, a Saturday neither.
    post : int
        From one address to the next.
    check : int
        The authenticator looks at it.
    feedback : int
        After that it is still missing: remind.
    """

    hand_in: int = 2
    post: int = 3
    check: int = 0
    feedback: int = 21


def expected(road: tuple[Stop, ...], days: dict[Stop, date], pace: Pace) -> dict[Stop, date]:
    """Return the day of each stop: as it was where it is behind, as one may expect it where it lies ahead.

    Sold on Saturday the 10th, sent on Monday the 12th, at the authenticator on the 15th, with the buyer on the 18th:
    eight days (common practice, no source).
    """
    lasts = {
        Stop.PAID: 0, Stop.PACKED: pace.hand_in, Stop.SENT: 0, Stop.CHECKING: pace.post, Stop.PASSED: pace.check,
        Stop.THERE: pace.post, Stop.DONE: pace.feedback,
    }  # fmt: skip
    found: dict[Stop, date] = {}
    at: date | None = None
    for stop in road:
        if stop in days:
            at = days[stop]
        elif at is not None:
            at = _workday(at + timedelta(lasts[stop])) if stop is Stop.PACKED else at + timedelta(lasts[stop])
        if at is not None:
            found[stop] = at
    return found


def _workday(day: date) -> date:
    """Return the day itself, or the Monday after a weekend: counters are closed."""
    return day + timedelta(7 - day.weekday()) if day.weekday() >= 5 else day


def is_late(road: tuple[Stop, ...], stop: Stop, days: dict[Stop, date], pace: Pace, today: date) -> Stop | None:
    """Return the stop that should have been reached by now; None when all is in time."""
    ahead = expected(road, days, pace)
    left = [one for one in road[road.index(stop) + 1 :] if one is not Stop.DONE]
    return next((one for one in left if one in ahead and ahead[one] < today), None)
