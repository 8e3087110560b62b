"""Prices in and out of the store."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date

from sqlalchemy import Row, delete, func, insert, select, update
from sqlalchemy.orm import Session

from botin.core.money import Money, exponent
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.store.models import CardRecord, PriceRecord, ProductRecord
from botin.store.models_books import HistoryRecord
from botin.store.models_copies import FlagRecord, LookRecord
from botin.store.unit import finish

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


def prices_of(
    session: Session, product_id: int, section: str, number: str, parallel: str, limit: int = 200
) -> Sequence[PriceRecord]:
    """Return the prices of a version of a card, the latest first."""
    p = PriceRecord
    wanted = select(p).where(
        p.product_id == product_id, p.section == section, p.number == number, p.parallel == parallel
    )
    return session.scalars(wanted.order_by(p.sold_on.desc(), p.id.desc()).limit(limit)).all()


def made_up(session: Session, source: str) -> int:
    """Count the sales a simulated feed made up."""
    return session.scalar(select(func.count()).where(PriceRecord.source == source)) or 0


def forget(session: Session, source: str) -> int:
    """Remove every sale a simulated feed made up; returns how many there were."""
    products = session.scalars(select(PriceRecord.product_id).where(PriceRecord.source == source).distinct()).all()
    count = made_up(session, source)
    session.execute(delete(PriceRecord).where(PriceRecord.source == source))
    for record in session.scalars(select(ProductRecord).where(ProductRecord.id.in_(products))):
        record.revision += 1
    finish(session)
    return count


def price_seen(session: Session, card_id: int, parallel: str) -> LookRecord | None:
    """Return the price of a version as it stood when its page was looked at last."""
    k = LookRecord
    return session.scalar(select(k).where(k.card_id == card_id, k.parallel == parallel))


def removed_of(session: Session, subject: str, limit: int) -> Sequence[HistoryRecord]:
    """Return the notes on prices that were taken out and did not come back, the latest first."""
    h = HistoryRecord
    there = select(PriceRecord.id).where(PriceRecord.id == h.row_id).exists()
    wanted = select(h).where(h.subject == subject, h.now == "", ~there).order_by(h.id.desc())
    return session.scalars(wanted.limit(limit)).all()


def out_of_interval(session: Session, limit: int) -> Sequence[Row[LookRecord, int, CardRecord, ProductRecord]]:
    """Return versions here whose price lies beyond the interval it had when it was looked at, with today's price."""
    v, k = FlagRecord, LookRecord
    return session.execute(
        select(k, v.price, CardRecord, ProductRecord)
        .join(v, (v.card_id == k.card_id) & (v.parallel == k.parallel) & v.copy_id.is_(None))
        .join(CardRecord, CardRecord.id == k.card_id)
        .join(ProductRecord, ProductRecord.id == v.product_id)
        .where((v.price < k.low) | (v.price > k.high))
        .limit(limit)
    ).all()


def products_priced_as(session: Session, prefix: str) -> Sequence[int]:
    """Return the products that have prices of something whose section begins so."""
    p = PriceRecord
    return session.scalars(select(p.product_id).where(p.section.like(f"{prefix}%")).distinct()).all()
