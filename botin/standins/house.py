"""A grading house, simulated: a protocol a real one could stand behind, and a stand-in that plays a whole order.

It takes the parcel in, finds cards out of order, grades with a bias and a noise of its own, charges up what came out
above the ceiling of its tier, asks for payment, and sends back when it is paid. What it will do follows from the
order alone, so that the same order fares the same again.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Protocol

import numpy as np

NAME = "simulated house"
OUT_OF_ORDER = 0.05
"""Share of parcels in which it finds cards out of order."""
BIAS = -0.15
"""Grades it gives less than expected, on average."""
NOISE = 0.35
TROUBLE = (("refused", 0.01), ("altered", 0.008), ("wrong label", 0.008))
PAY_WITHIN = 14


@dataclass(frozen=True, slots=True)
class Subject:
    """A card of an order, as the house sees it: the chance of each grade, and what it is worth in each."""

    copy_id: int
    chances: Mapping[float, float] = field(default_factory=dict)
    values: Mapping[float, float] = field(default_factory=dict)
    declared: float = 0.0
    keeps: float | None = None
    """The grade of a slab that only gets a new holder."""


@dataclass(frozen=True)
class Submission:
    """An order as it arrives (major units): its tier's terms, its cards in the order of the form, and its key."""

    key: str
    sent_on: date
    days: int
    ceiling: float | None
    upcharge: float
    subjects: tuple[Subject, ...]
    paid_on: date | None = None


@dataclass(frozen=True, slots=True)
class Graded:
    """What the house says of a card."""

    copy_id: int
    grade: float | None
    outcome: str
    certificate: str
    upcharge: float


@dataclass(frozen=True)
class Report:
    """What becomes of an order, with its days; those that wait for payment are None until it is paid."""

    there_on: date
    graded_on: date
    pay_on: date
    returning_on: date | None
    back_on: date | None
    out_of_order: bool
    cards: tuple[Graded, ...]


class GradingHouse(Protocol):
    """What a grading house must offer."""

    name: str

    def report(self, submission: Submission) -> Report:
        """Return what becomes of an order."""
        ...


class SimulatedHouse:
    """The stand-in."""

    name = NAME

    def report(self, submission: Submission) -> Report:
        """Return what becomes of an order; the same order always fares the same."""
        digest = hashlib.sha256(submission.key.encode()).digest()
        rng = np.random.default_rng(int.from_bytes(digest[:8], "big"))
        there = submission.sent_on + timedelta(2 + int(rng.integers(0, 3)))
        wrong = bool(rng.random() < OUT_OF_ORDER)
        longer = 7 if wrong else 0
        graded = there + timedelta(max(1, round(submission.days * float(rng.uniform(0.85, 1.25))) + longer))
        pay_on = graded + timedelta(PAY_WITHIN)
        cards = tuple(self._grade(rng, submission, one) for one in submission.subjects)
        off = None if submission.paid_on is None else max(graded, submission.paid_on) + timedelta(2)
        back = None if off is None else off + timedelta(2 + int(rng.integers(0, 3)))
        return Report(
            there_on=there, graded_on=graded, pay_on=pay_on, returning_on=off, back_on=back, out_of_order=wrong,
            cards=cards,
        )  # fmt: skip

    def _grade(self, rng: np.random.Generator, submission: Submission, one: Subject) -> Graded:
        luck, number = float(rng.random()), f"{int(rng.integers(10_000_000, 99_999_999))}"
        grade = self._draw(rng, one)
        for outcome, share in TROUBLE:
            if luck < share and one.keeps is None:
                if outcome == "wrong label":
                    return Graded(one.copy_id, grade, outcome, number, self._upcharge(submission, one, grade))
                return Graded(one.copy_id, None, outcome, "", 0.0)
            luck -= share
        return Graded(one.copy_id, grade, "graded", number, self._upcharge(submission, one, grade))

    @staticmethod
    def _draw(rng: np.random.Generator, one: Subject) -> float:
        """Draw a grade by its chances, moved by the bias and the noise of the house."""
        shift = float(rng.normal(BIAS, NOISE))
        if one.keeps is not None:
            return one.keeps
        grades = sorted(one.chances) or [7.0, 8.0, 9.0, 10.0]
        weights = np.array([one.chances.get(grade, 1.0) for grade in grades])
        at = int(np.searchsorted(np.cumsum(weights / weights.sum()), rng.random()))
        moved = grades[min(at, len(grades) - 1)] + shift
        return min(grades, key=lambda grade: abs(grade - moved))

    @staticmethod
    def _upcharge(submission: Submission, one: Subject, grade: float) -> float:
        value = one.values.get(grade, one.declared)
        above = submission.ceiling is not None and value > submission.ceiling
        return submission.upcharge if above else 0.0
