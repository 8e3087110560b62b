"""Boxes that were closed, and what came out of them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import date, datetime

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session, contains_eager

from botin.store.copies.copies import is_mine, is_present
from botin.store.models import BoxRecord, CardRecord, FormatRecord, PullRecord, SectionRecord
from botin.store.models_copies import CopyRecord


def closed_boxes(
    session: Session,
    *,
    product_id: int | None = None,
    year: int | None = None,
    bought_on: date | None = None,
    ids: Sequence[int] = (),
) -> list[BoxRecord]:
    """Return closed boxes of a product, of a year, of one purchase (a day), or by their ids."""
    query = select(BoxRecord).join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
    query = query.options(contains_eager(BoxRecord.format).joinedload(FormatRecord.product))
    query = query.where(BoxRecord.state == "closed").order_by(BoxRecord.closed_at.desc())
    if product_id is not None:
        query = query.where(FormatRecord.product_id == product_id)
    if year is not None:
        query = query.where(BoxRecord.bought_on >= date(year, 1, 1), BoxRecord.bought_on < date(year + 1, 1, 1))
    if bought_on is not None:
        query = query.where(BoxRecord.bought_on == bought_on)
    if ids:
        query = query.where(BoxRecord.id.in_(ids))
    return list(session.scalars(query.limit(200)))


def not_closed(session: Session, bought_on: date) -> list[BoxRecord]:
    """Return what was bought on a day and is still sealed or half open."""
    b = BoxRecord
    return list(session.scalars(select(b).where(b.bought_on == bought_on, b.state != "closed").order_by(b.id)))


def years(session: Session) -> list[int]:
    """Return the years in which boxes were bought, the latest first."""
    found = session.execute(select(func.strftime("%Y", BoxRecord.bought_on)).distinct()).scalars()
    return sorted((int(year) for year in found), reverse=True)


def stamps_of_formats(session: Session) -> dict[tuple[int, str], tuple[object, ...]]:
    """Read them for all formats at once, from the boxes alone."""
    return {(product, key): (count, latest) for product, key, count, latest in session.execute(_STAMPS)}


_STAMPS = (
    select(FormatRecord.product_id, FormatRecord.key, func.count(), func.max(BoxRecord.closed_at))
    .join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
    .where(BoxRecord.state == "closed")
    .group_by(FormatRecord.id)
)


def latest_closed(session: Session, product_id: int, limit: int) -> list[tuple[int, datetime | None, str]]:
    """Return id, day of closing and format of a product's closed boxes, the latest first."""
    rows = session.execute(
        select(BoxRecord.id, BoxRecord.closed_at, FormatRecord.key)
        .join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
        .where(FormatRecord.product_id == product_id, BoxRecord.state == "closed")
        .order_by(BoxRecord.closed_at.desc(), BoxRecord.id.desc())
        .limit(limit)
    )
    return [(box, closed, key) for box, closed, key in rows]


def closed_of_format(session: Session, product_id: int, format_key: str, limit: int) -> Sequence[BoxRecord]:
    """Return the closed boxes of a format, the latest first."""
    return session.scalars(
        select(BoxRecord)
        .join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
        .where(FormatRecord.product_id == product_id, FormatRecord.key == format_key, BoxRecord.state == "closed")
        .order_by(BoxRecord.closed_at.desc())
        .limit(limit)
    ).all()


def boxes_by_id(session: Session, ids: Sequence[int]) -> dict[int, BoxRecord]:
    """Return some boxes by their ids."""
    return {box.id: box for box in session.scalars(select(BoxRecord).where(BoxRecord.id.in_(ids)))}


def logged_versions(
    session: Session, product_id: int, boxes: Sequence[int]
) -> Sequence[Row[int, int, str, str, str]]:
    """Return box, pack, section, number and finish of every copy of a product logged from some boxes, in order."""
    return session.execute(
        select(PullRecord.box_id, PullRecord.pack, SectionRecord.key, CardRecord.number, PullRecord.parallel)
        .join(CardRecord, CardRecord.id == PullRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(PullRecord.box_id.in_(boxes), PullRecord.undone_at.is_(None), SectionRecord.product_id == product_id)
        .order_by(PullRecord.box_id, PullRecord.pack, PullRecord.id)
    ).all()


def count_by_line(session: Session, boxes: Collection[int]) -> Sequence[Row[int, str, str, str, int]]:
    """Count the copies logged from some boxes: box, section, group, finish, copies."""
    return session.execute(
        select(PullRecord.box_id, SectionRecord.key, CardRecord.grp, PullRecord.parallel, func.count())
        .join(CardRecord, CardRecord.id == PullRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(PullRecord.box_id.in_(boxes), PullRecord.undone_at.is_(None))
        .group_by(PullRecord.box_id, SectionRecord.key, CardRecord.grp, PullRecord.parallel)
    ).all()


def serials_read(session: Session, product_id: int) -> list[tuple[str, str, str, int]]:
    """Return section, number, finish and run of every serial read off a card of a product."""
    rows = session.execute(
        select(SectionRecord.key, CardRecord.number, PullRecord.parallel, PullRecord.run)
        .join(CardRecord, CardRecord.id == PullRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id, PullRecord.run.is_not(None), PullRecord.undone_at.is_(None))
        .distinct()
    )
    return [(section, number, parallel, run or 0) for section, number, parallel, run in rows]


def mine_from_boxes(
    session: Session, product_id: int, boxes: Sequence[int]
) -> Sequence[Row[int | None, str, str, str, str, bool]]:
    """Return my copies of a product from some boxes: box, section, number, finish, grade, and whether it is here."""
    c = CopyRecord
    return session.execute(
        select(c.box_id, SectionRecord.key, CardRecord.number, c.parallel, c.grade, is_present())
        .join(CardRecord, CardRecord.id == c.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(c.box_id.in_(boxes), c.state != "void", is_mine(), SectionRecord.product_id == product_id)
    ).all()


def latest_paid(session: Session, currency: str, limit: int) -> list[tuple[int, int]]:
    """Return what the boxes bought last in a currency cost (minor units), and how many packs each has."""
    b = BoxRecord
    query = select(b.price_minor + b.shipping_minor + b.tax_minor, FormatRecord.packs_per_box)
    query = query.join(FormatRecord, FormatRecord.id == b.format_id).where(b.currency == currency, b.price_minor > 0)
    rows = session.execute(query.order_by(b.bought_on.desc(), b.id.desc()).limit(limit))
    return [(minor, packs) for minor, packs in rows]
