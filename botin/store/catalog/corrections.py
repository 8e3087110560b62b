"""Corrections of products and drafts of new ones, in the store."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.store.models import CorrectionRecord, DraftRecord


def corrections_of(session: Session, product_id: int) -> Sequence[CorrectionRecord]:
    """Return the corrections of a product, the latest first."""
    wanted = select(CorrectionRecord).where(CorrectionRecord.product_id == product_id)
    return session.scalars(wanted.order_by(CorrectionRecord.id.desc()).limit(200)).all()


def open_drafts(session: Session) -> Sequence[DraftRecord]:
    """Return the drafts that were not stored yet, the latest first."""
    wanted = select(DraftRecord).where(DraftRecord.stored_at.is_(None)).order_by(DraftRecord.id.desc())
    return session.scalars(wanted.limit(20)).all()
