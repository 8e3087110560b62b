"""What my own boxes of a format brought: the ticks on the value curve, and what a decision is held against."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from statistics import median

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.core.product import Product
from botin.desk.workbench import Workbench
from botin.store.copies import is_mine
from botin.store.models import BoxRecord, CardRecord, FormatRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord

LATEST = 40
ENOUGH = 3
"""Boxes from which on a usual cost can be said; a choice."""


@dataclass(frozen=True, slots=True)
class MyBox:
    """A closed box: what it cost and what its cards are worth raw today (major units)."""

    id: int
    label: str
    bought_on: date
    cost: float
    value: float
    cards: int


def my_boxes(session: Session, bench: Workbench, record: ProductRecord, format_key: str) -> tuple[MyBox, ...]:
    """Value the latest closed boxes of a format at today's prices."""
    boxes = session.scalars(
        select(BoxRecord)
        .join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
        .where(FormatRecord.product_id == record.id, FormatRecord.key == format_key, BoxRecord.state == "closed")
        .order_by(BoxRecord.closed_at.desc())
        .limit(LATEST)
    ).all()
    return value_boxes(session, bench, record, boxes)


def value_boxes(
    session: Session, bench: Workbench, record: ProductRecord, boxes: Sequence[BoxRecord]
) -> tuple[MyBox, ...]:
    """Value some boxes of a product at today's prices; kept until one of them or a price changes."""
    key = ("mine", record.id, record.revision, bench.today(), tuple((box.id, box.closed_at) for box in boxes))
    return bench.keep(key, lambda: _valued(session, bench, record, boxes))


def _valued(
    session: Session, bench: Workbench, record: ProductRecord, boxes: Sequence[BoxRecord]
) -> tuple[MyBox, ...]:
    product, book = bench.product(session, record), bench.prices(session, record)
    values: dict[int, float] = defaultdict(float)
    counts: dict[int, int] = defaultdict(int)
    rows = session.execute(
        select(CopyRecord.box_id, SectionRecord.key, CardRecord.number, CopyRecord.parallel)
        .join(CardRecord, CardRecord.id == CopyRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(
            CopyRecord.box_id.in_([box.id for box in boxes]),
            CopyRecord.state != "void",
            is_mine(),
            SectionRecord.product_id == record.id,
        )
    )
    for box_id, section, number, parallel in rows:
        card = product.card_by_number.get((section, number))
        counts[box_id or 0] += 1
        values[box_id or 0] += book.estimate(card, parallel).amount if card else 0.0
    return tuple(_box(box, product, values[box.id], counts[box.id]) for box in boxes)


def _box(box: BoxRecord, product: Product, value: float, cards: int) -> MyBox:
    cost = Money(box.price_minor + box.shipping_minor + box.tax_minor, box.currency).major
    return MyBox(box.id, box.label or product.name, box.bought_on, cost, value, cards)


def usual_pack(session: Session, currency: str) -> float | None:
    """Return the median cost of a pack over the latest boxes bought in a currency; None with fewer than three."""
    b = BoxRecord
    query = select(b.price_minor + b.shipping_minor + b.tax_minor, FormatRecord.packs_per_box)
    query = query.join(FormatRecord, FormatRecord.id == b.format_id).where(b.currency == currency, b.price_minor > 0)
    rows = session.execute(query.order_by(b.bought_on.desc(), b.id.desc()).limit(LATEST)).all()
    if len(rows) < ENOUGH:
        return None
    return median(Money(minor, currency).major / packs for minor, packs in rows)
