"""Grades that came back: written down beside my look at the copy, and how good the forecasts were."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import BotinError
from botin.core.grading.forecast import chances_of
from botin.core.grading.grades import GRADES, Grader, Quality
from botin.core.grading.learning import Bin, brier, learn_grader, reliability
from botin.desk.books.booking import book_belonging
from botin.desk.catalog.cards import find_card
from botin.desk.grading.counts import qualities, returned_grades
from botin.desk.grading.inspections import inspections
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.copies.copies import get_copy, require_here
from botin.store.grading.counts import returned
from botin.store.keys import stored_under
from botin.store.models_copies import ReturnedRecord
from botin.store.unit import finish


class BadGradeError(BotinError):
    """A grade that is none of the scale."""

    status = 422


def read_grade(text: str) -> float:
    """Return a grade from 1 to 10 in halves.

    Raises
    ------
    BadGradeError
        When it is none.
    """
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = 0.0
    if not 1 <= value <= GRADES[0] or value * 2 != round(value * 2):
        message = f"“{text}” is no grade. Write 1 to 10, in halves."
        raise BadGradeError(message)
    return value


@dataclass(frozen=True, slots=True)
class Back:
    """A copy that came back, with the grade as typed; today when no day is given."""

    copy: int
    grade: str
    house: str = ""
    returned_on: date | None = None


def note_return(session: Session, bench: Workbench, card_id: int, client_key: str, back: Back) -> None:
    """Write down a returned grade with what was forecast for the copy; the same key again stores nothing more.

    Nothing is committed here.

    Raises
    ------
    BadGradeError
        When the grade is none from 1 to 10 in halves.
    StaleFormError
        When the key was used for another one.
    """
    value = read_grade(back.grade)
    stored = stored_under(session, ReturnedRecord, client_key)
    if stored is not None:
        same_again(stored, card_id=card_id, copy_id=back.copy, house=back.house, grade_halves=round(2 * value))
        return
    record, _, card = find_card(session, bench, card_id)
    look = inspections(session, card_id).get(back.copy)
    known = qualities(session, record.id)
    quality = known.get(card.section) or known.get("") or Quality()
    forecast = chances_of(quality, learn_grader(returned_grades(session)), look)
    body = {"prior": [quality.mean, quality.spread], "chances": {f"{g:g}": share for g, share in forecast.items()}}
    score = look.score if look else None
    session.add(
        ReturnedRecord(
            client_key=client_key,
            copy_id=back.copy,
            card_id=card_id,
            house=back.house,
            score_halves=None if score is None else round(2 * score),
            grade_halves=round(2 * value),
            forecast=json.dumps(body),
            returned_on=back.returned_on or bench.today(),
        )
    )


def grade_copy(session: Session, bench: Workbench, card_id: int, client_key: str, back: Back) -> None:
    """Write down a grade that a copy came back with outside any order: it is a graded copy from now on.

    Raises
    ------
    NotFoundError
        When there is no such copy.
    BoxStateError
        When it has left, or is out in an order: then it comes back there.
    BadGradeError
        When the grade is none from 1 to 10 in halves.
    """
    copy = get_copy(session, back.copy)
    note_return(session, bench, card_id, client_key, back)
    require_here(copy)
    copy.grade, copy.house = f"{read_grade(back.grade):g}", back.house
    book_belonging(session, bench, copy)
    finish(session)


@dataclass(frozen=True)
class Calibration:
    """How good the forecasts were.

    Attributes
    ----------
    brier, prior_brier : float or None
        Of my forecasts, and of the prior alone; None before anything came back.
    bins : tuple of Bin
        The reliability diagram of the top grade.
    """

    count: int
    grader: Grader
    brier: float | None
    prior_brier: float | None
    bins: tuple[Bin, ...]
    latest: date | None


def calibration(session: Session) -> Calibration:
    """Hold the forecasts against the grades that came back."""
    rows = returned(session)
    grader = learn_grader(returned_grades(session))
    if not rows:
        return Calibration(0, grader, None, None, (), None)
    bodies = [json.loads(row.forecast) for row in rows]
    forecast = [{float(grade): share for grade, share in body["chances"].items()} for body in bodies]
    prior = [chances_of(Quality(*body["prior"]), Grader()) for body in bodies]
    grades = [row.grade_halves / 2 for row in rows]
    top = [f.get(GRADES[0], 0.0) for f in forecast]
    bins = reliability(top, [grade == GRADES[0] for grade in grades], min(5, max(1, len(rows) // 5)))
    return Calibration(len(rows), grader, brier(forecast, grades), brier(prior, grades), bins, rows[-1].returned_on)
