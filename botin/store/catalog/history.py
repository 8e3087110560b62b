"""What was corrected by hand: each value once, with what it was."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.store.models_books import HistoryRecord


def fresh_key(now: datetime, words: str) -> str:
    """Return a key for what is done by a button, once each time it is pressed."""
    return f"{words}-{now:%Y%m%d%H%M%S%f}"


@dataclass(frozen=True, slots=True)
class Corrected:
    """What a form corrected before: of which row, and what each field became."""

    subject: str
    row_id: int
    now: Mapping[str, str]


def corrected(session: Session, key: str) -> Corrected | None:
    """Return what a form of this key corrected before; None when it did not."""
    rows = session.scalars(select(HistoryRecord).where(HistoryRecord.client_key.between(f"{key}:", f"{key}:~"))).all()
    if not rows:
        return None
    return Corrected(rows[0].subject, rows[0].row_id, {row.field: row.now for row in rows})


def note_change(
    session: Session, now: datetime, key: str, subject: str, row_id: int, changes: Mapping[str, tuple[object, object]]
) -> bool:
    """Keep what was corrected of a row (field: before and after); whether anything was. Nothing is committed."""
    rows = [
        HistoryRecord(
            client_key=f"{key}:{field}", subject=subject, row_id=row_id, field=field, was=as_text(was),
            now=as_text(after), made_at=now,
        )
        for field, (was, after) in changes.items()
        if was != after
    ]  # fmt: skip
    session.add_all(rows)
    return bool(rows)


def as_text(value: object) -> str:
    """Return a value as the history keeps it."""
    return "" if value is None else str(value)


def history_of(session: Session, subject: str, row_id: int) -> Sequence[HistoryRecord]:
    """Return what was corrected of a row, the latest first."""
    h = HistoryRecord
    wanted = select(h).where(h.subject == subject, h.row_id == row_id).order_by(h.id.desc()).limit(50)
    return session.scalars(wanted).all()
