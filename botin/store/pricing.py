"""Prices in and out of the store."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date

from sqlalchemy import insert, update
from sqlalchemy.orm import Session

from botin.core.money import Money, exponent
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.store.models import PriceRecord, ProductRecord

KINDS = {kind.value: kind for kind in PriceKind}


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
    """Read all prices of a product; straight from the driver, since there are thousands of them."""
    found = session.connection().exec_driver_sql(
        "SELECT section, number, parallel, grade, amount_minor, currency, sold_on, source, kind"
        " FROM price WHERE product_id = ?",
        (product_id,),
    )
    units: dict[str, int] = {}
    days: dict[str, date] = {}
    rows = []
    for section, number, parallel, grade, minor, code, sold_on, source, kind in found:
        unit = units.get(code) or units.setdefault(code, 10 ** exponent(code))
        day = None
        if sold_on is not None:
            day = days.get(sold_on) or days.setdefault(sold_on, date.fromisoformat(sold_on))
        rows.append(
            PriceRow(
                section=section,
                number=number,
                parallel=parallel,
                grade=grade,
                amount=minor / unit,
                sold_on=day,
                source=source,
                kind=KINDS[kind],
            )
        )
    return rows
