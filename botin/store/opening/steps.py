"""Steps at the rip desk, in the store."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import bindparam, func, select, update
from sqlalchemy.orm import Session

from botin.store.models import BoxRecord, StepRecord


def turned(session: Session, box: BoxRecord, key: str) -> StepRecord | None:
    """The step that this very undo or redo turned before: a repeat turns nothing."""
    wanted = select(StepRecord).where(StepRecord.box_id == box.id, StepRecord.turn_key == key)
    return session.scalar(wanted) if key else None


def leave_undone(session: Session, box_id: int) -> None:
    """Let what was undone be past: it cannot be redone any more."""
    session.execute(_LEAVE, {"box": box_id}, execution_options={"synchronize_session": False})


_LEAVE = (
    update(StepRecord).where(StepRecord.box_id == bindparam("box"), StepRecord.state == "undone").values(state="left")
)


def next_step(session: Session, box_id: int, *, back: bool) -> StepRecord | None:
    """Return the step that undoing (or redoing) turns next."""
    state, order = ("done", StepRecord.id.desc()) if back else ("undone", StepRecord.id)
    wanted = select(StepRecord).where(StepRecord.box_id == box_id, StepRecord.state == state)
    return session.scalar(wanted.order_by(order).limit(1))


@dataclass(frozen=True, slots=True)
class Turning:
    """Whether there is a step to undo and one to redo; ``version`` changes with every step and every turn."""

    back: bool
    forth: bool
    version: str


def turning(session: Session, box_id: int) -> Turning:
    """Read how the steps of a box stand, in one query."""
    last, turns, back, forth = session.execute(_TURNING, {"box": box_id}).one()
    return Turning(bool(back), bool(forth), f"{last or 0}.{turns or 0}")


_TURNING = select(
    func.max(StepRecord.id),
    func.sum(StepRecord.turns),
    func.sum(StepRecord.state == "done"),
    func.sum(StepRecord.state == "undone"),
).where(StepRecord.box_id == bindparam("box"))


def version(session: Session, box_id: int) -> str:
    """Return what changes with each step in a box, so that another window sees that there is news."""
    return turning(session, box_id).version
