"""Looks at copies, as the core reads them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sqlalchemy.orm import Session

from botin.core.grading.grades import Inspection, noted_look
from botin.desk.stored import as_json, from_json
from botin.desk.workbench import Workbench
from botin.store.copies.copies import get_copy
from botin.store.grading.looks import latest_kept, mine_of_card, said_by_copy
from botin.store.models_copies import (
    InspectionRecord,
)
from botin.store.unit import finish


def read_inspection(text: str) -> Inspection:
    """Read a stored inspection."""
    return from_json(text, Inspection)


def save_inspection(session: Session, bench: Workbench, copy_id: int, inspection: Inspection) -> None:
    """Keep my look at a copy with its day; earlier looks stay, the latest counts.

    Raises
    ------
    NotFoundError
        When the copy is not in the records any more.
    """
    copy = get_copy(session, copy_id)
    values = as_json({name: getattr(inspection, name) for name in SEEN})
    latest = latest_kept(session, copy_id)
    if latest is None or (latest.values, latest.parallel) != (values, copy.parallel):
        session.add(
            InspectionRecord(
                copy_id=copy_id, card_id=copy.card_id or 0, parallel=copy.parallel, values=values, made_at=bench.now()
            )
        )
    finish(session)


SEEN = ("centering", "corners", "edges", "surface", "front", "back", "signature")


def inspections(session: Session, card_id: int) -> dict[int, Inspection]:
    """Return the looks at my copies of a card; marks noted before stand in for a missing one."""
    return looks_at(session, mine_of_card(session, card_id, MOST))


MOST = 500
"""Copies of one card whose looks are read."""


def looks_at(session: Session, copies: Sequence[int]) -> dict[int, Inspection]:
    """Return the looks at some copies; marks noted while opening stand in for a missing one and stay beside it."""
    rows = said_by_copy(session, copies)
    looks = ((copy, _look_of(marks, values, said.split(";"))) for copy, marks, values, said in rows)
    return {copy: look for copy, look in looks if look is not None}


def _look_of(marks: str, values: str | None, pins: Sequence[str] = ()) -> Inspection | None:
    """Put a look together: what was scored counts; marks stand in for parts nobody scored."""
    noted = noted_look([*(marks.split(";") if marks else ()), *pins])
    if values is None:
        return noted
    look, before = read_inspection(values), noted.marks if noted else ()
    return replace(look, marks=tuple(dict.fromkeys((*before, *look.marks))))
