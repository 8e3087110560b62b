"""Copies of boxes that are out for grading or came back with a grade."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.store.models_copies import GradingCopyRecord, GradingOrderRecord


def grades_of(session: Session, pull_ids: Sequence[int]) -> dict[int, str]:
    """Return the grade that copies came back with, by pull."""
    g = GradingCopyRecord
    graded = select(g.pull_id, g.grade_halves).where(g.pull_id.in_(list(pull_ids)), g.grade_halves.is_not(None))
    return {pull or 0: f"{(halves or 0) / 2:g}" for pull, halves in session.execute(graded.order_by(g.id))}


def out_of(session: Session, pull_ids: Sequence[int]) -> frozenset[int]:
    """Return the copies that are out for grading, by pull."""
    g = GradingCopyRecord
    rows = session.scalars(
        select(g.pull_id)
        .join(GradingOrderRecord, GradingOrderRecord.id == g.order_id)
        .where(g.pull_id.in_(list(pull_ids)), g.back_on.is_(None), GradingOrderRecord.undone_at.is_(None))
    )
    return frozenset(pull or 0 for pull in rows)
