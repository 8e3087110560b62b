"""Looks at copies, pins and scans, in the store."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import ScalarSelect, func, select
from sqlalchemy.orm import Session

from botin.store.copies.copies import mine_present
from botin.store.models_copies import CopyRecord, InspectionRecord, PinRecord, ScanRecord


def latest_look(copy_id: int) -> ScalarSelect[int]:
    """Return the id of the look at a copy that counts, as a query."""
    return select(func.max(InspectionRecord.id)).where(InspectionRecord.copy_id == copy_id).scalar_subquery()


def pins(session: Session, copy_id: int) -> Sequence[PinRecord]:
    """Return the marks pinned on a copy."""
    p = PinRecord
    return session.scalars(select(p).where(p.copy_id == copy_id, p.removed_at.is_(None)).order_by(p.id)).all()


def scans_of(session: Session, copy_id: int) -> Sequence[ScanRecord]:
    """Return all scans of a copy, the latest first."""
    return session.scalars(
        select(ScanRecord).where(ScanRecord.copy_id == copy_id).order_by(ScanRecord.id.desc())
    ).all()


def latest_kept(session: Session, copy_id: int) -> InspectionRecord | None:
    """Return the look at a copy that counts."""
    return session.scalar(select(InspectionRecord).where(InspectionRecord.id == latest_look(copy_id)))


def looks_kept(session: Session, copy_id: int) -> Sequence[InspectionRecord]:
    """Return all looks at a copy, the latest first."""
    i = InspectionRecord
    return session.scalars(select(i).where(i.copy_id == copy_id).order_by(i.id.desc())).all()


def mine_of_card(session: Session, card_id: int, limit: int) -> Sequence[int]:
    """Return the ids of my copies of a card that are here."""
    c = CopyRecord
    return session.scalars(select(c.id).where(c.card_id == card_id, mine_present()).limit(limit)).all()


def said_by_copy(session: Session, copies: Sequence[int]) -> list[tuple[int, str, str | None, str]]:
    """Return what is known of the condition of copies: marks noted while opening, the latest look, pins as words."""
    i, c, p = InspectionRecord, CopyRecord, PinRecord
    latest = select(func.max(i.id)).where(i.copy_id == c.id).correlate(c).scalar_subquery()
    each = func.trim(p.severity + " " + p.kind)
    pinned = select(func.group_concat(each, ";")).where(p.copy_id == c.id, p.removed_at.is_(None)).correlate(c)
    pins = pinned.scalar_subquery()
    rows = session.execute(
        select(c.id, c.marks, i.values, pins)
        .outerjoin(i, i.id == latest)
        .where(c.id.in_(list(copies)), (c.marks != "") | i.values.is_not(None) | pins.is_not(None))
    )
    return [(copy, marks, values, said or "") for copy, marks, values, said in rows]


def looked_at(session: Session) -> int:
    """Count the copies that were looked at."""
    return session.scalar(select(func.count(func.distinct(InspectionRecord.copy_id)))) or 0
