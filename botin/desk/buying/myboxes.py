"""What my own boxes of a format brought: the ticks on the value curve, and what a decision is held against."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from statistics import median

from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.books.results import Result
from botin.core.catalog.product import Product
from botin.core.money import Money
from botin.desk.workbench import Workbench
from botin.store.books.postings import results_by_box
from botin.store.copies.stamp import copies_stamp
from botin.store.models import BoxRecord, ProductRecord
from botin.store.opening.closed import closed_of_format, latest_paid, mine_from_boxes

LATEST = 40
ENOUGH = 3
"""Boxes from which on a usual cost can be said; a choice."""


@dataclass(frozen=True, slots=True)
class MyBox:
    """A closed box: what the books say of it, and what my cards of it are worth today (major units).

    Attributes
    ----------
    cost, grading, brought, owed : float
        Paid, added by grading, brought by sales after costs, owed by others for their cards: sums over postings.
    value : float
        What all my cards of it would sell for raw today, those that left included: what its luck is measured by.
    here : float
        What is still here is worth: raw, or in its grade; packs kept sealed at their part of the cost.
    """

    id: int
    label: str
    bought_on: date
    cost: float
    value: float
    cards: int
    here: float = 0.0
    brought: float = 0.0
    grading: float = 0.0
    owed: float = 0.0

    @property
    def result(self) -> float:
        """What it brought and what is here, less what it cost."""
        return self.brought + self.here + self.owed - self.cost - self.grading


def my_boxes(session: Session, bench: Workbench, record: ProductRecord, format_key: str) -> tuple[MyBox, ...]:
    """Value the latest closed boxes of a format at today's prices."""
    boxes = closed_of_format(session, record.id, format_key, LATEST)
    return value_boxes(session, bench, record, boxes, results_by_box(session, [box.id for box in boxes]))


def value_boxes(
    session: Session,
    bench: Workbench,
    record: ProductRecord,
    boxes: Sequence[BoxRecord],
    results: Mapping[int, Sequence[Result]],
) -> tuple[MyBox, ...]:
    """Value some boxes of a product at today's prices, beside what the books say of them."""
    stamp = (bench.today(), tuple((box.id, box.closed_at) for box in boxes), copies_stamp(session))
    worth = bench.keep(
        ("mine", record.id, record.revision, *stamp), lambda: _valued(session, bench, record, [b.id for b in boxes])
    )
    product = bench.product(session, record)
    return tuple(_box(box, product, worth.get(box.id, (0.0, 0.0, 0)), results.get(box.id, ())) for box in boxes)


Worth = tuple[float, float, int]
"""Value of what came out, worth of what is here, how many cards."""


def _valued(session: Session, bench: Workbench, record: ProductRecord, boxes: Sequence[int]) -> dict[int, Worth]:
    product, book = bench.product(session, record), bench.prices(session, record)
    found: dict[int, Worth] = {}
    for box, section, number, parallel, grade, present in mine_from_boxes(session, record.id, boxes):
        card = product.card_by_number.get((section, number))
        raw = book.estimate(card, parallel).amount if card else 0.0
        now = book.estimate(card, parallel, grade).amount if card and grade else raw
        value, here, cards = found.get(box or 0, (0.0, 0.0, 0))
        found[box or 0] = (value + raw, here + (now if present else 0.0), cards + 1)
    return found


def _box(box: BoxRecord, product: Product, worth: Worth, results: Sequence[Result]) -> MyBox:
    value, here, cards = worth
    own = next((one for one in results if one.currency == box.currency), Result(box.currency))
    kept = own.of([Account.BOXES])
    paid, grading, brought, owed, sealed = (
        Money(minor, box.currency).major
        for minor in (own.paid, own.grading, own.sold, own.of([Account.PEOPLE], "opening"), kept)
    )
    return MyBox(
        id=box.id,
        label=box.label or product.name,
        bought_on=box.bought_on,
        cost=paid,
        value=value,
        cards=cards,
        here=here + sealed,
        brought=brought,
        grading=grading,
        owed=owed,
    )


def usual_pack(session: Session, currency: str) -> float | None:
    """Return the median cost of a pack over the latest boxes bought in a currency; None with fewer than three."""
    rows = latest_paid(session, currency, LATEST)
    if len(rows) < ENOUGH:
        return None
    return median(Money(minor, currency).major / packs for minor, packs in rows)
