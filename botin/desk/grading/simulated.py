"""The simulated house plays the orders that went to it; what it does goes the way anybody's entry goes."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import NotFoundError
from botin.core.grading.ordercosts import surcharge_of
from botin.core.grading.steps import AWAY, Step
from botin.core.money import Money
from botin.desk.grading.back import Slab, grades_came_back, json_of, tell_grades
from botin.desk.grading.billing import Bill, correct_bill
from botin.desk.grading.moves import Told, move_on
from botin.desk.workbench import Workbench
from botin.standins.house import Graded, GradingHouse, Report, SimulatedHouse, Subject, Submission
from botin.store.copies.copies import get_copy
from botin.store.grading.orders import free_step_key, get_order, lines_of, under_way
from botin.store.models_grading import GradingCopyRecord, GradingOrderRecord


def submission_of(session: Session, order: GradingOrderRecord) -> Submission:
    """Return an order as the house gets it."""

    def major(minor: int) -> float:
        return Money(minor, order.currency).major

    return Submission(
        key=order.client_key, sent_on=order.sent_on or date.min, days=order.days,
        ceiling=None if order.ceiling_minor is None else major(order.ceiling_minor),
        upcharge=major(order.upcharge_minor), paid_on=order.paid_on,
        subjects=tuple(_subject(session, order, line) for line in lines_of(session, order.id)),
    )  # fmt: skip


def _subject(session: Session, order: GradingOrderRecord, line: GradingCopyRecord) -> Subject:
    told = json_of(line)
    chances, values = (_by_grade(told.get(name)) for name in ("chances", "values"))
    copy = get_copy(session, line.copy_id)
    keeps = float(copy.grade) if order.service == "new holder" and copy.grade else None
    return Subject(copy.id, chances, values, Money(line.declared_minor, order.currency).major, keeps)


def _by_grade(found: object) -> dict[float, float]:
    return {float(grade): float(value) for grade, value in found.items()} if isinstance(found, dict) else {}


def play(session: Session, bench: Workbench, house: GradingHouse | None = None) -> list[str]:
    """Let the house do what it has done by today, with every order that went to it; says what that was."""
    found: list[str] = []
    for order in under_way(session):
        if order.simulated and Step(order.state) in AWAY:
            found += play_order(session, bench, order.id, house or SimulatedHouse())
    return found


def play_order(session: Session, bench: Workbench, order_id: int, house: GradingHouse) -> list[str]:
    """Let the house do what it has done by today with one order.

    Raises
    ------
    NotFoundError
        When the order is not one of the simulated house.
    """
    order = get_order(session, order_id)
    if not order.simulated:
        message = "That order did not go to the simulated house."
        raise NotFoundError(message)
    report, today = house.report(submission_of(session, order)), bench.today()
    deeds: list[tuple[date | None, Step, Callable[[], str]]] = [
        (report.there_on, Step.THERE, lambda: _there(session, bench, order_id, report)),
        (report.graded_on, Step.GRADED, lambda: _graded(session, bench, order_id, report)),
        (report.returning_on, Step.RETURNING, lambda: _returning(session, bench, order_id, report)),
        (report.back_on, Step.BACK, lambda: _back(session, bench, order_id, report)),
    ]
    way = list(Step)
    return [
        deed()
        for day, step, deed in deeds
        if day is not None and day <= today and way.index(Step(get_order(session, order_id).state)) < way.index(step)
    ]


def _move(session: Session, bench: Workbench, order_id: int, to: Step, day: date, told: Told | None = None) -> None:
    key = f"house-{free_step_key(session, order_id, to.value)}"
    move_on(session, bench, order_id, to, day, key, told or Told())


def _there(session: Session, bench: Workbench, order_id: int, report: Report) -> str:
    _move(session, bench, order_id, Step.THERE, report.there_on)
    return f"Order {order_id} arrived at the simulated house."


def _graded(session: Session, bench: Workbench, order_id: int, report: Report) -> str:
    order = get_order(session, order_id)
    told = Told(pay_on=report.pay_on, number=f"S{order_id:05d}")
    _move(session, bench, order_id, Step.GRADED, report.graded_on, told)
    lines = {line.copy_id: line.id for line in lines_of(session, order_id)}
    ups = {
        lines[card.copy_id]: Money.from_major(card.upcharge, order.currency).minor
        for card in report.cards
        if card.copy_id in lines
    }
    extra = surcharge_of(order.fee_minor * len(lines)) if report.out_of_order else 0
    correct_bill(session, bench, order_id, Bill(order.return_minor, extra, ups, report.pay_on))
    tell_grades(session, [_slab(card, lines) for card in report.cards if card.copy_id in lines])
    wrong = " It found cards out of order and charges 5 % of the fees more." if extra else ""
    return f"The simulated house graded order {order_id} and asks for payment.{wrong}"


def _slab(card: Graded, lines: dict[int, int]) -> Slab:
    grade = card.outcome if card.grade is None else f"{card.grade:g}"
    return Slab(lines[card.copy_id], grade, card.certificate, wrong_label=card.outcome == "wrong label")


def _returning(session: Session, bench: Workbench, order_id: int, report: Report) -> str:
    _move(session, bench, order_id, Step.RETURNING, report.returning_on or bench.today(), Told(f"SIMB{order_id:06d}"))
    return f"The simulated house sent order {order_id} back."


def _back(session: Session, bench: Workbench, order_id: int, report: Report) -> str:
    lines = {line.copy_id: line.id for line in lines_of(session, order_id) if line.back_on is None}
    slabs = [_slab(card, lines) for card in report.cards if card.copy_id in lines]
    count = grades_came_back(session, bench, slabs, report.back_on or bench.today())
    return f"Order {order_id} is back: {count} card{'' if count == 1 else 's'} taken in from the simulated house."
