"""Grading orders as one looks at them: their cards, what they cost, where they stand, and whose cards are in them."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from botin.core.grading.ordercosts import person_costs
from botin.core.grading.steps import AT_HOME, WAY, WORDS, Step, StepWords, after
from botin.desk.grading.billing import Costs, costs_of
from botin.desk.grading.packing import parcel_of
from botin.store.grading.orders import FormLine, all_orders, form_of, get_order, house_names, steps_of, under_way
from botin.store.models_copies import ME
from botin.store.models_grading import GradingOrderRecord


@dataclass(frozen=True)
class OrderCopy:
    """A copy in an order, as its line of the form says it."""

    form: FormLine
    part: int

    @property
    def id(self) -> int:
        """Id of the line."""
        return self.form.line.id

    @property
    def place(self) -> int:
        """Its number on the form."""
        return self.form.line.place

    @property
    def copy_id(self) -> int:
        """Id of the copy."""
        return self.form.copy.id

    @property
    def card_id(self) -> int:
        """Id of its card."""
        return self.form.card.id

    @property
    def number(self) -> str:
        """Number on the checklist."""
        return self.form.card.number

    @property
    def name(self) -> str:
        """Who is on it."""
        return self.form.card.name

    @property
    def parallel(self) -> str:
        """Its finish."""
        return self.form.copy.parallel

    @property
    def product(self) -> str:
        """Name of its product."""
        return self.form.product.name

    @property
    def year(self) -> str:
        """Year of the card, as the form asks for it."""
        product = self.form.product
        return product.season or (str(product.released_on.year) if product.released_on else "")

    @property
    def serial(self) -> str:
        """Its serial, when it is numbered."""
        return f"{self.form.copy.serial}/{self.form.copy.run}" if self.form.copy.serial else ""

    @property
    def grade(self) -> str:
        """The grade it came back with; empty before, and when the house gave none."""
        halves = self.form.line.grade_halves
        return "" if halves is None else f"{halves / 2:g}"

    @property
    def told(self) -> str:
        """The grade the house told before it was back."""
        halves = self.form.line.told_halves
        return "" if halves is None else f"{halves / 2:g}"

    @property
    def certificate(self) -> str:
        """Certificate number."""
        return self.form.copy.certificate

    @property
    def back_on(self) -> date | None:
        """Day it came back."""
        return self.form.line.back_on

    @property
    def outcome(self) -> str:
        """What came of it in a word."""
        return self.form.line.outcome

    @property
    def mine(self) -> bool:
        """Whether it is my own."""
        return self.form.copy.owner_id == ME

    @property
    def forecast(self) -> dict[str, Any]:
        """What was expected of it when it was put into the order."""
        found: dict[str, Any] = json.loads(self.form.line.forecast or "{}")
        return found


@dataclass(frozen=True)
class Share:
    """A person's part of an order: his cards, and what they cost (minor units)."""

    owner: int | None
    name: str
    cards: tuple[OrderCopy, ...]
    minor: int
    parts: tuple[int, ...] = ()

    @property
    def me(self) -> bool:
        """Whether it is my own."""
        return self.owner == ME


@dataclass(frozen=True)
class Order:
    """An order with its copies in the order of the form: the parcel must hold them so."""

    record: GradingOrderRecord
    copies: tuple[OrderCopy, ...]
    costs: Costs
    days: dict[str, date]
    parcel: tuple[int, int]

    @property
    def out(self) -> int:
        """Copies that are not back."""
        return sum(1 for copy in self.copies if copy.back_on is None)

    @property
    def step(self) -> Step:
        """Where it stands."""
        return Step(self.record.state)

    @property
    def words(self) -> StepWords:
        """What that is called and asks for."""
        return WORDS[self.step]

    @property
    def next(self) -> tuple[tuple[Step, str], ...]:
        """Steps it may take, with what the button says."""
        return tuple((step, WORDS[step].button) for step in after(self.step))

    @property
    def way(self) -> tuple[tuple[Step, str, date | None, bool], ...]:
        """Every step with its name, its day and whether it is behind."""
        at = WAY.index(self.step)
        return tuple((step, WORDS[step].name, self.days.get(step), place <= at) for place, step in enumerate(WAY))

    @property
    def declared(self) -> int:
        """Total of the declared values (minor units)."""
        return sum(copy.form.line.declared_minor for copy in self.copies)

    @property
    def above(self) -> tuple[OrderCopy, ...]:
        """Copies declared above what the tier covers."""
        most = self.record.ceiling_minor
        return tuple(copy for copy in self.copies if most is not None and copy.form.line.declared_minor > most)

    @property
    def upcharge_expected(self) -> int:
        """Upcharges one may expect, by the chance that a value passes the ceiling (minor units)."""
        return sum(int(copy.forecast.get("upcharge", 0) or 0) for copy in self.copies)

    @property
    def at_home(self) -> bool:
        """Whether its copies are still here."""
        return self.step in AT_HOME

    @property
    def label(self) -> str:
        """House and tier."""
        return f"{self.record.house} {self.record.tier}".strip()

    @property
    def shares(self) -> tuple[Share, ...]:
        """Each person's part, mine first."""
        costs = person_costs(self.costs.lines, self.costs.parts)
        found: dict[int | None, list[tuple[OrderCopy, int]]] = {}
        for copy, part in zip(self.copies, self.costs.parts, strict=True):
            found.setdefault(copy.form.copy.owner_id, []).append((copy, part))
        shares = [
            Share(owner, rows[0][0].form.owner, tuple(c for c, _ in rows), costs[owner], tuple(p for _, p in rows))
            for owner, rows in found.items()
        ]
        return tuple(sorted(shares, key=lambda share: (not share.me, share.name)))


def view(session: Session, record: GradingOrderRecord, others: Sequence[GradingOrderRecord] = ()) -> Order:
    """Put an order together as one looks at it."""
    costs = costs_of(session, record)
    copies = tuple(OrderCopy(one, costs.by_line[one.line.id]) for one in form_of(session, record.id))
    days = {step.state: step.day for step in steps_of(session, record.id)}
    return Order(record, copies, costs, days, parcel_of(session, record, others))


def order_page(session: Session, order_id: int) -> Order:
    """Read one order.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    return view(session, get_order(session, order_id), under_way(session))


def orders(session: Session, limit: int = 30) -> list[Order]:
    """Return the orders: those under way first, then the latest."""
    others = under_way(session)
    return [view(session, record, others) for record in all_orders(session, limit)]


def houses(session: Session) -> set[str]:
    """Return the names of the houses that orders went to: in the books they are people one owes."""
    return house_names(session)
