"""Steps at the rip desk: each stored once with what it changed, undone and redone in order, at any depth."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError, StaleFormError
from botin.desk.opening.owners import settle_owners
from botin.desk.workbench import Workbench
from botin.store.copies.copies import follow
from botin.store.models import BoxRecord, PullRecord, StepRecord
from botin.store.opening.packs import pack_row
from botin.store.opening.steps import leave_undone, next_step, turned, version
from botin.store.unit import finish

Cells = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Change:
    """What a step changes of one row: ``table`` is pull, pack or box; a pack is named by its number."""

    table: str
    row: int
    before: Cells
    after: Cells


def require_open(box: BoxRecord) -> None:
    """Refuse to log into a box that is not open.

    Raises
    ------
    BoxStateError
        With the step that is needed first.
    """
    if box.state == "sealed":
        message = "This box is still sealed. Open it on the shelf first."
        raise BoxStateError(message)
    if box.state == "closed":
        message = (
            "This box was closed meanwhile, in another window perhaps. Reopen it to add cards; nothing was stored."
        )
        raise BoxStateError(message)
    if box.state != "open":
        message = f"This box was {box.state}: nothing is logged into it. Take that back on the shelf first."
        raise BoxStateError(message)


def add_step(
    session: Session, box: BoxRecord, now: datetime, client_key: str, words: str, changes: Sequence[Change]
) -> StepRecord:
    """Note a step whose changes were made; what was undone before cannot be redone any more. Nothing is committed."""
    leave_undone(session, box.id)
    cells = [[c.table, c.row, c.before, c.after] for c in changes]
    step = StepRecord(
        box_id=box.id, client_key=client_key, made_at=now, words=words[:300], changes=json.dumps(cells, default=str)
    )
    session.add(step)
    return step


def _target(session: Session, box: BoxRecord, table: str, row: int) -> Any:
    if table == "pull":
        return session.get_one(PullRecord, row)
    return pack_row(session, box.id, row) if table == "pack" else box


def _value(name: str, value: Any) -> Any:
    return datetime.fromisoformat(value) if name.endswith("_at") and isinstance(value, str) else value


MOVED = ("owner", "place")
"""Columns of a line that steps of older versions changed; a copy has them now, and its owner is settled anew."""


def _apply(session: Session, box: BoxRecord, step: StepRecord, side: int) -> None:
    changes = json.loads(step.changes)
    for table, row, *cells in changes if side else reversed(changes):
        target = _target(session, box, table, row)
        for name, value in cells[side].items():
            if not (table == "pull" and name in MOVED):
                setattr(target, name, _value(name, value))
    follow(session, [row for table, row, *_ in changes if table == "pull"])


def _lines_of(step: StepRecord) -> list[int] | None:
    """Return the lines a step changed; None when it changed a pack or the box, which all lines hang on."""
    changes = json.loads(step.changes)
    if any(table == "pack" or (table == "box" and "owners" in cells) for table, _, cells, _ in changes):
        return None
    return [row for table, row, *_ in changes if table == "pull"]


def undo(session: Session, bench: Workbench, box: BoxRecord, key: str = "", seen: str = "") -> StepRecord | None:
    """Take the last step back; None when there is none. The same key again takes nothing more back.

    Parameters
    ----------
    seen : str
        How the steps stood on the screen that asks (`version`); empty when it asks whatever they are.

    Raises
    ------
    StaleFormError
        When another window went on meanwhile: the last step is another one than was seen.
    """
    return _turn(session, bench, box, key, seen, back=True)


def redo(session: Session, bench: Workbench, box: BoxRecord, key: str = "", seen: str = "") -> StepRecord | None:
    """Bring the step back that was taken back last; None when there is none. As `undo` otherwise."""
    return _turn(session, bench, box, key, seen, back=False)


def _turn(
    session: Session, bench: Workbench, box: BoxRecord, key: str, seen: str, *, back: bool
) -> StepRecord | None:
    repeated = turned(session, box, key)
    if repeated is not None:
        return repeated
    if seen and seen != version(session, box.id):
        message = "Nothing was changed: another window went on meanwhile. Look at the last step, then say it again."
        raise StaleFormError(message)
    require_open(box)
    step = next_step(session, box.id, back=back)
    if step is None:
        return None
    _apply(session, box, step, side=0 if back else 1)
    settle_owners(session, bench, box, _lines_of(step))
    step.state, step.turn_key, step.turns = ("undone" if back else "done"), key, step.turns + 1
    finish(session)
    return step
