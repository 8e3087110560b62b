"""An order's cards are back: grades, certificates, places; a wrong entry is put right and teaches nothing."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError
from botin.core.grading.steps import AWAY, Step
from botin.core.money import Money
from botin.desk.books.booking import CopyBack, book_back, book_belonging, unbook_back
from botin.desk.grading.billing import costs_of
from botin.desk.grading.returns import Back, BadGradeError, note_return, read_grade
from botin.desk.workbench import Workbench
from botin.store.copies.copies import get_copy, require_here
from botin.store.grading.counts import forget_return
from botin.store.grading.orders import free_step_key, get_line, get_order, lines_of, steps_of
from botin.store.models_copies import CopyRecord
from botin.store.models_grading import GradingCopyRecord, GradingOrderRecord, GradingStepRecord
from botin.store.unit import finish

REFUSED, ALTERED, WRONG_LABEL, GRADED = "refused", "altered", "wrong label", "graded"
UNGRADED = {"none": REFUSED, "refused": REFUSED, "altered": ALTERED}
"""Typed in place of a grade."""
OUTCOMES = (GRADED, REFUSED, ALTERED, WRONG_LABEL)


@dataclass(frozen=True, slots=True)
class Slab:
    """What is written down of a copy that came back.

    Attributes
    ----------
    grade : str
        As typed; ``none``, ``refused`` or ``altered`` when the house gave none.
    place : str
        Where the slab is kept.
    wrong_label : bool
        Its label says another card: it goes back for a new one.
    """

    line: int
    grade: str
    certificate: str = ""
    place: str = ""
    wrong_label: bool = False

    @property
    def value(self) -> float | None:
        """The grade; None when there is none.

        Raises
        ------
        BadGradeError
            When it is none of the scale.
        """
        text = self.grade.strip().casefold()
        return None if text == "" or text in UNGRADED else read_grade(text)

    @property
    def outcome(self) -> str:
        """What came of it in a word."""
        if self.value is None:
            return UNGRADED.get(self.grade.strip().casefold(), REFUSED)
        return WRONG_LABEL if self.wrong_label else GRADED


def tell_grades(session: Session, slabs: Sequence[Slab]) -> int:
    """Keep the grades that the house tells before the slabs are back: nothing is taught, the copies stay out.

    Raises
    ------
    BadGradeError
        When one is none of the scale; then nothing is kept.
    """
    given = [slab for slab in slabs if slab.grade.strip()]
    values = [slab.value for slab in given]
    for slab, value in zip(given, values, strict=True):
        row, _ = get_line(session, slab.line)
        row.told_halves = None if value is None else round(2 * value)
        row.outcome = slab.outcome if row.back_on is None else row.outcome
        if slab.certificate.strip():
            get_copy(session, row.copy_id).certificate = slab.certificate.strip()[:60]
    finish(session)
    return len(given)


def grades_came_back(session: Session, bench: Workbench, slabs: Sequence[Slab], back_on: date) -> int:
    """Note what came back, all or none; fields left empty are passed over. Returns how many came.

    A copy that came back already gets the grade now written: what the old one taught is put right.

    Raises
    ------
    NotFoundError
        When one is in no order.
    BadGradeError
        When a grade is none of the scale; the whole parcel is then still out.
    BoxStateError
        When its order is not sent, or the day lies before that, or ahead.
    """
    given = [slab for slab in slabs if slab.grade.strip()]
    for slab in given:
        _, order = get_line(session, slab.line)
        _check_back(slab, order, back_on, bench.today())
    for slab in given:
        _take_in(session, bench, slab, back_on)
    for order_id in dict.fromkeys(get_line(session, slab.line)[1].id for slab in given):
        _all_in(session, bench, get_order(session, order_id), back_on)
    finish(session)
    return len(given)


def came_back(session: Session, bench: Workbench, line: int, grade: str, back_on: date) -> None:
    """Note that one copy is back, with its grade, or without one when the house refused it; as `grades_came_back`."""
    grades_came_back(session, bench, [Slab(line, grade.strip() or REFUSED)], back_on)


def _check_back(slab: Slab, order: GradingOrderRecord, back_on: date, today: date) -> None:
    if order.sent_on is None:
        message = f"Order {order.id} is not sent yet: nothing can be back."
        raise BoxStateError(message)
    if back_on < order.sent_on:
        message = f"It was sent on {order.sent_on.isoformat()}; it cannot be back before."
        raise BoxStateError(message)
    if back_on > today:
        message = f"{back_on.isoformat()} lies ahead. Write the day it came back."
        raise BoxStateError(message)
    value = slab.value
    if order.service == "new holder" and value is None:
        message = "A slab that got a new holder keeps its grade: write that."
        raise BadGradeError(message)


def _take_in(session: Session, bench: Workbench, slab: Slab, back_on: date) -> None:
    row, order = get_line(session, slab.line)
    copy = get_copy(session, row.copy_id)
    if row.back_on is not None:
        _out_again(session, bench, row, order, copy)
    value = slab.value
    part = Money(costs_of(session, order).by_line[row.id], order.currency)
    kept = value is None and bool(copy.grade)  # a slab that came back as it went
    graded = value is not None or kept
    book_back(session, bench, CopyBack(row.id, order.id, copy, back_on, part, graded))
    row.back_on, row.grade_halves = back_on, None if value is None else round(2 * value)
    row.outcome = slab.outcome
    copy.state, copy.place = "here", slab.place.strip()[:60] or copy.place
    copy.certificate = slab.certificate.strip()[:60] or copy.certificate
    if value is not None:
        copy.grade, copy.house = f"{value:g}", order.house
        if order.service != "new holder":
            back = Back(copy.id, f"{value:g}", order.house, back_on)
            note_return(session, bench, copy.card_id or 0, f"order-copy-{row.id}", back)
    session.flush()


def _all_in(session: Session, bench: Workbench, order: GradingOrderRecord, day: date) -> None:
    """Once the last copy is in, the order is back; it is done when its bill was paid before that."""
    if any(line.back_on is None for line in lines_of(session, order.id)) or Step(order.state) not in AWAY:
        return
    for step in (Step.BACK, Step.DONE) if order.paid_on is not None else (Step.BACK,):
        order.state = step.value
        session.flush()
        key = free_step_key(session, order.id, step.value)
        session.add(GradingStepRecord(client_key=key, order_id=order.id, state=step, day=day, made_at=bench.now()))


def _out_again(
    session: Session, bench: Workbench, row: GradingCopyRecord, order: GradingOrderRecord, copy: CopyRecord
) -> None:
    """Put a copy back into the state before it came back: its grade never was, and teaches nothing.

    Raises
    ------
    BoxStateError
        When it has left since, or is in another order.
    """
    require_here(copy)
    unbook_back(session, bench, row.id, order.id, copy)
    forget_return(session, f"order-copy-{row.id}")
    row.back_on = row.grade_halves = None
    row.outcome = ""
    copy.state = "out"
    copy.grade, copy.house = grade_before(order, row, copy)
    session.flush()
    book_belonging(session, bench, copy)


def grade_before(order: GradingOrderRecord, row: GradingCopyRecord, copy: CopyRecord) -> tuple[str, str]:
    """Return grade and house of a copy before its order: none, but for a slab that was sent again."""
    if not order.service:
        return "", ""
    was = dict(json_of(row)).get("slab")
    return (str(was[0]), str(was[1])) if isinstance(was, list) and len(was) == 2 else (copy.grade, copy.house)


def json_of(row: GradingCopyRecord) -> dict[str, object]:
    """Return what was expected of a copy when it was put into its order."""
    found: dict[str, object] = json.loads(row.forecast or "{}")
    return found


def not_back(session: Session, bench: Workbench, line: int) -> None:
    """Take it back that a copy came back: it is out again.

    Raises
    ------
    NotFoundError
        When it is in no order.
    BoxStateError
        When it has left since.
    """
    row, order = get_line(session, line)
    if row.back_on is None:
        return
    _out_again(session, bench, row, order, get_copy(session, row.copy_id))
    if Step(order.state) in (Step.BACK, Step.DONE):
        for step in _steps(session, order):
            step.undone_at = bench.now()
        session.flush()
        order.state = _last(session, order)
    finish(session)


def _steps(session: Session, order: GradingOrderRecord) -> list[GradingStepRecord]:
    return [step for step in steps_of(session, order.id) if step.state in (Step.BACK, Step.DONE)]


def _last(session: Session, order: GradingOrderRecord) -> str:
    rest = steps_of(session, order.id)
    return rest[-1].state if rest else Step.SENT.value
