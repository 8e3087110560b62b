"""How copies left, in the store."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Row, select
from sqlalchemy.orm import Session, aliased

from botin.store.copies.copies import is_mine, order_holding
from botin.store.models import BoxRecord, CardRecord, ProductRecord, PullRecord, SectionRecord
from botin.store.models_copies import CopyRecord, DisposalRecord, PartyRecord


def left_box(session: Session, box_id: int) -> dict[int, DisposalRecord]:
    """Return how copies of a box left, by copy."""
    d = DisposalRecord
    rows = session.scalars(
        select(d)
        .join(CopyRecord, CopyRecord.id == d.copy_id)
        .where(CopyRecord.box_id == box_id, d.undone_at.is_(None))
    )
    return {row.copy_id: row for row in rows}


def left_copies(session: Session, copies: Sequence[int]) -> dict[int, DisposalRecord]:
    """Return how some copies left, by copy."""
    d = DisposalRecord
    rows = session.scalars(select(d).where(d.copy_id.in_(list(copies)), d.undone_at.is_(None)))
    return {row.copy_id: row for row in rows}


def copies_with_leaving(
    session: Session, card_id: int, limit: int
) -> Sequence[Row[CopyRecord, DisposalRecord, BoxRecord, str, int]]:
    """Return all copies of a card, those of boxes first: copy, how it left, box, owner, the order that holds it."""
    c, d = CopyRecord, DisposalRecord
    return session.execute(
        select(c, d, BoxRecord, PartyRecord.name, order_holding(c.id))
        .outerjoin(d, (d.copy_id == c.id) & d.undone_at.is_(None))
        .outerjoin(BoxRecord, BoxRecord.id == c.box_id)
        .outerjoin(PartyRecord, PartyRecord.id == c.owner_id)
        .where(c.card_id == card_id, c.state != "void")
        .order_by(c.pull_id.is_(None), c.id)
        .limit(limit)
        .execution_options(populate_existing=True)
    ).all()


def from_elsewhere_or_gone(session: Session) -> Sequence[Row[CopyRecord, DisposalRecord, str, str, str, str, str]]:
    """Return my copies from elsewhere, and all that left.

    Copy, how it left, number, section, product, currency, and the key of its line of a log.
    """
    y, d, c, s, p = CopyRecord, aliased(DisposalRecord), CardRecord, SectionRecord, ProductRecord
    return session.execute(
        select(y, d, c.number, s.key, p.key, p.currency, PullRecord.client_key)
        .outerjoin(d, (d.copy_id == y.id) & d.undone_at.is_(None))
        .outerjoin(PullRecord, PullRecord.id == y.pull_id)
        .join(c, c.id == y.card_id)
        .join(s, s.id == c.section_id)
        .join(p, p.id == s.product_id)
        .where(y.state != "void", is_mine(), y.pull_id.is_(None) | d.id.is_not(None))
        .order_by(y.pull_id.is_not(None), y.id)
    ).all()
