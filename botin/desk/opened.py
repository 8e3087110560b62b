"""How far a box is opened: packs of which something is known, and base that was counted and not typed."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.store.boxes import pulls_of
from botin.store.models import BoxPackRecord, BoxRecord


def opened_packs(session: Session, box: BoxRecord) -> int:
    """Packs of a box of which something is known; in a stack as many as its cards fill."""
    rows = pulls_of(session, box.id)
    counted = session.scalars(
        select(BoxPackRecord).where(BoxPackRecord.box_id == box.id, BoxPackRecord.base_count.is_not(None))
    ).all()
    most = int(box.format.packs_range.partition("-")[2] or box.format.packs_per_box)
    if box.stacked:
        cards = len(rows) + sum(row.base_count or 0 for row in counted)
        return min(most, -(-cards // box.format.cards_per_pack))
    return min(most, len({row.pack for row in rows if row.pack} | {row.number for row in counted}))


def counted_base(session: Session, box_id: int) -> int:
    """Base cards of a box that were counted and not typed."""
    return session.scalar(select(func.sum(BoxPackRecord.base_count)).where(BoxPackRecord.box_id == box_id)) or 0
