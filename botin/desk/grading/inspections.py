"""Looks at copies, as the core reads them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.grading.grades import Inspection, noted_look
from botin.desk.stored import as_json, from_json
from botin.desk.workbench import Workbench
from botin.store.copies.copies import get_copy, mine_present
from botin.store.models_copies import (
    CopyRecord,
    InspectionRecord,
)
from botin.store.unit import finish


def read_inspection(text: str) -> Inspection:
    """Read a stored inspection."""
    return from_json(text, Inspection)


def save_inspection(session: Session, bench: Workbench, copy_id: int, inspection: Inspection) -> None:
    """Keep my look at a copy; a new look replaces the old one.

    Raises
    ------
    NotFoundError
        When the copy is not in the records any more.
    """
    copy = get_copy(session, copy_id)
    row = session.scalar(select(InspectionRecord).where(InspectionRecord.copy_id == copy_id))
    if row is None:
        row = InspectionRecord(copy_id=copy_id, made_at=bench.now(), values="{}")
        session.add(row)
    names = ("centering", "corners", "edges", "surface", "front", "back")
    row.card_id, row.parallel = copy.card_id or 0, copy.parallel
    row.values, row.made_at = as_json({name: getattr(inspection, name) for name in names}), bench.now()
    finish(session)


def inspections(session: Session, card_id: int) -> dict[int, Inspection]:
    """Return the looks at my copies of a card; marks noted before stand in for a missing one."""
    ids = session.scalars(select(CopyRecord.id).where(CopyRecord.card_id == card_id, mine_present()).limit(MOST))
    return looks_at(session, ids.all())


MOST = 500
"""Copies of one card whose looks are read."""


def looks_at(session: Session, copies: Sequence[int]) -> dict[int, Inspection]:
    """Return the looks at some copies; marks noted while opening stand in for a missing one and stay beside it."""
    i, c = InspectionRecord, CopyRecord
    rows = session.execute(
        select(c.id, c.marks, i.values)
        .outerjoin(i, i.copy_id == c.id)
        .where(c.id.in_(list(copies)), (c.marks != "") | i.values.is_not(None))
    )
    looks = ((copy, _look_of(marks, values)) for copy, marks, values in rows)
    return {copy: look for copy, look in looks if look is not None}


def _look_of(marks: str, values: str | None) -> Inspection | None:
    noted = noted_look(marks.split(";")) if marks else None
    if values is None:
        return noted
    look, before = read_inspection(values), noted.marks if noted else ()
    return replace(look, marks=tuple(dict.fromkeys((*before, *look.marks))))
