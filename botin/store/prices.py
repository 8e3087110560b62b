"""Prices in and out of the store."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import insert, select, update
from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.core.prices import PriceKind, PriceRow
from botin.store.models import PriceRecord, ProductRecord


def add_prices(session: Session, record: ProductRecord, rows: Iterable[PriceRow]) -> int:
    """Add prices to a product; its revision grows, so that what rests on them is worked out anew."""
    cells = [
        {
            "product_id": record.id,
            "section": row.section,
            "number": row.number,
            "parallel": row.parallel,
            "grade": row.grade,
            "amount_minor": Money.from_major(row.amount, record.currency).minor,
            "currency": record.currency,
            "sold_on": row.sold_on,
            "source": row.source,
            "kind": row.kind.value,
        }
        for row in rows
    ]
    if cells:
        session.execute(insert(PriceRecord), cells)
        grown = update(ProductRecord).where(ProductRecord.id == record.id)
        session.execute(grown.values(revision=ProductRecord.revision + 1))
        session.refresh(record)
    return len(cells)


def load_prices(session: Session, product_id: int) -> list[PriceRow]:
    """Read all prices of a product."""
    p = PriceRecord
    columns = (p.section, p.number, p.parallel, p.grade, p.amount_minor, p.currency, p.sold_on, p.source, p.kind)
    found = session.execute(select(*columns).where(p.product_id == product_id))
    return [
        PriceRow(section, number, parallel, grade, Money(minor, code).major, sold_on, source, PriceKind(kind))
        for section, number, parallel, grade, minor, code, sold_on, source, kind in found
    ]
