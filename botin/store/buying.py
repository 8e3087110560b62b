"""What is asked before a purchase: products, earlier decisions, what was seen elsewhere, my own boxes."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session

from botin.store.models import FormatRecord, ProductRecord
from botin.store.models_copies import DecisionRecord, SeenCopyRecord


def products_to_buy(session: Session) -> list[ProductRecord]:
    """Return all products, the newest first."""
    p = ProductRecord
    return list(session.scalars(select(p).order_by(p.released_on.desc(), p.name)))


def seen_list(session: Session, record: ProductRecord) -> list[SeenCopyRecord]:
    """Return the copies known to be pulled elsewhere."""
    s = SeenCopyRecord
    return list(session.scalars(select(s).where(s.product_id == record.id).order_by(s.id)))


def season_choices(session: Session, record: ProductRecord) -> tuple[tuple[int, str], ...]:
    """Other products one can compare with, the same maker's first."""
    p = ProductRecord
    rows = session.execute(
        select(p.id, p.name)
        .where(p.id != record.id)
        .order_by((p.maker == record.maker).desc(), p.released_on.desc(), p.name)
        .limit(100)
    )
    return tuple((key, name) for key, name in rows)


def seen_of_all(session: Session) -> dict[int, dict[tuple[str, str, str], int]]:
    """Count them for all products at once: there are few."""
    s, found = SeenCopyRecord, dict[int, dict[tuple[str, str, str], int]]()
    rows = session.execute(
        select(s.product_id, s.section, s.number, s.parallel, func.count()).group_by(
            s.product_id, s.section, s.number, s.parallel
        )
    )
    for product, section, number, parallel, count in rows:
        found.setdefault(product, {})[(section, number, parallel)] = count
    return found


def decisions_made(
    session: Session, product_id: int | None, limit: int
) -> Sequence[Row[DecisionRecord, FormatRecord, ProductRecord]]:
    """Return the latest decisions, of one product or of all, with format and product."""
    query = (
        select(DecisionRecord, FormatRecord, ProductRecord)
        .join(FormatRecord, FormatRecord.id == DecisionRecord.format_id)
        .join(ProductRecord, ProductRecord.id == FormatRecord.product_id)
        .order_by(DecisionRecord.made_at.desc(), DecisionRecord.id.desc())
        .limit(limit)
    )
    if product_id is not None:
        query = query.where(ProductRecord.id == product_id)
    return session.execute(query).all()


def is_seen(session: Session, product_id: int, version: tuple[str, str, str], serial: int) -> bool:
    """Whether a numbered copy is known to be pulled elsewhere."""
    section, number, parallel = version
    same = select(SeenCopyRecord.id).filter_by(
        product_id=product_id, section=section, number=number, parallel=parallel, serial=serial
    )
    return session.scalar(same) is not None


def names_and_days(session: Session, besides: int) -> list[tuple[int, str, date | None]]:
    """Return id, name and day of release of all products but one."""
    p = ProductRecord
    rows = session.execute(select(p.id, p.name, p.released_on).where(p.id != besides))
    return [(key, name, day) for key, name, day in rows]
