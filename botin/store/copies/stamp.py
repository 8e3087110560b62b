"""Numbers that change when anything happens to a copy: what rests on copies is kept until one of them does."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.store.models import StepRecord
from botin.store.models_books import HistoryRecord, TransactionRecord
from botin.store.models_copies import CopyRecord, DisposalRecord, InspectionRecord, PinRecord, ReturnedRecord
from botin.store.models_grading import GradingCopyRecord
from botin.store.once import once

LATEST_STEPS = 500
"""Steps at the rip desk among which one may be undone or redone; what lies further back stays as it is."""


def copies_stamp(session: Session) -> tuple[int, ...]:
    """Return numbers that change with every event of a copy.

    Copies that come, leave, go out, are looked at, graded or corrected, the books, steps at the rip desk. Each is
    read from an index or a small table: it costs the same with a million copies.
    """
    return once(session, "copies stamp", lambda: _stamp(session))


def _stamp(session: Session) -> tuple[int, ...]:
    newest = (CopyRecord, ReturnedRecord, StepRecord, TransactionRecord, HistoryRecord, PinRecord)
    latest = select(StepRecord.turns).order_by(StepRecord.id.desc()).limit(LATEST_STEPS).subquery()
    looked = func.strftime("%s", InspectionRecord.made_at)
    void = (CopyRecord.pull_id.is_(None), CopyRecord.state == "void")
    counts = (
        *(select(func.max(row.id)) for row in newest),
        select(func.sum(latest.c.turns)),
        select(func.sum(looked)),
        select(func.count(PinRecord.removed_at)),
        select(func.count()).select_from(GradingCopyRecord),
        select(func.count(GradingCopyRecord.back_on)),
        select(func.count()).select_from(DisposalRecord),
        select(func.count(DisposalRecord.undone_at)),
        select(func.count()).where(*void),
    )
    row = session.execute(select(*(query.scalar_subquery() for query in counts))).one()
    return tuple(int(value or 0) for value in row)
