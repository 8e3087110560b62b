"""Grading orders that are out: which copies went in them, and what came back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError, NotFoundError
from botin.core.routing import Tier
from botin.desk.returns import Back, note_return, read_grade
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.models import CardRecord, ProductRecord, PullRecord, SectionRecord
from botin.store.models_copies import ArrivalRecord, DepartureRecord, GradingCopyRecord, GradingOrderRecord

Version = tuple[int, str]
"""A card's id and a finish."""


def _away() -> ColumnElement[bool]:
    """In an order that was not taken back, and either still there or with a grade."""
    return GradingOrderRecord.undone_at.is_(None) & (
        GradingCopyRecord.back_on.is_(None) | GradingCopyRecord.grade_halves.is_not(None)
    )


def out_counts(session: Session, *, still_out: bool = False) -> Counter[Version]:
    """Count by version the copies that are out for grading, and those that have their grade unless ``still_out``."""
    found: Counter[Version] = Counter()
    wanted = _away() & GradingCopyRecord.back_on.is_(None) if still_out else _away()
    for model, link in ((PullRecord, GradingCopyRecord.pull_id), (ArrivalRecord, GradingCopyRecord.arrival_id)):
        rows = session.execute(
            select(model.card_id, model.parallel)
            .join(GradingCopyRecord, link == model.id)
            .join(GradingOrderRecord, GradingOrderRecord.id == GradingCopyRecord.order_id)
            .where(wanted)
        )
        found.update((card or 0, parallel) for card, parallel in rows)
    return found


def send(
    session: Session,
    bench: Workbench,
    client_key: str,
    tier: Tier,
    sent_on: date,
    versions: Sequence[Version],
    note: str = "",
) -> GradingOrderRecord:
    """Note an order as sent, its copies in this order; the same key again gives the same order.

    Parameters
    ----------
    versions : sequence of (card id, finish)
        One for each copy; which copy of several alike goes is chosen here, the oldest first.

    Raises
    ------
    BoxStateError
        When a copy is not here any more, or is out already: then nothing is stored.
    """
    known = session.scalar(select(GradingOrderRecord).where(GradingOrderRecord.client_key == client_key))
    if known is not None:
        same_again(known, house=tier.house, tier=tier.name, sent_on=sent_on)
        return known
    order = GradingOrderRecord(
        client_key=client_key,
        house=tier.house,
        tier=tier.name,
        sent_on=sent_on,
        due_on=sent_on + timedelta(round(tier.days)),
        note=note.strip()[:200],
        made_at=bench.now(),
    )
    copies = _pick(session, versions)
    session.add(order)
    session.flush()
    for place, (pull, arrival) in enumerate(copies, 1):
        session.add(GradingCopyRecord(order_id=order.id, place=place, pull_id=pull, arrival_id=arrival))
    session.commit()
    return order


def _pick(session: Session, versions: Sequence[Version]) -> list[tuple[int | None, int | None]]:
    """Choose a copy that is here for each version."""
    if not versions:
        message = "An order needs a card. Tick the ones that go."
        raise BoxStateError(message)
    found: list[tuple[int | None, int | None]] = []
    for (card_id, parallel), count in Counter(versions).items():
        here = _here(session, card_id, parallel)[:count]
        if len(here) < count:
            message = "A copy of the order is not here any more, or is out already. Choose the mix anew."
            raise BoxStateError(message)
        found += here
    return found


def _here(session: Session, card_id: int, parallel: str) -> list[tuple[int | None, int | None]]:
    """Copies of a version that are neither gone nor out nor graded, those of boxes first."""
    found: list[tuple[int | None, int | None]] = []
    for model, gone, out in (
        (PullRecord, DepartureRecord.pull_id, GradingCopyRecord.pull_id),
        (ArrivalRecord, DepartureRecord.arrival_id, GradingCopyRecord.arrival_id),
    ):
        left = select(gone).where(gone.is_not(None), DepartureRecord.undone_at.is_(None))
        away = select(out).join(GradingOrderRecord).where(out.is_not(None), _away())
        ids = session.scalars(
            select(model.id)
            .where(model.card_id == card_id, model.parallel == parallel, model.undone_at.is_(None))
            .where(model.id.not_in(left), model.id.not_in(away))
            .order_by(model.id)
        )
        found += [(key, None) if model is PullRecord else (None, key) for key in ids]
    return found


@dataclass(frozen=True)
class OrderCopy:
    """A copy in an order."""

    id: int
    place: int
    card_id: int
    number: str
    name: str
    parallel: str
    product: str
    grade: str
    back_on: date | None


@dataclass(frozen=True)
class Order:
    """An order with its copies in the order of the form: the parcel must hold them so."""

    record: GradingOrderRecord
    copies: tuple[OrderCopy, ...]

    @property
    def out(self) -> int:
        """Copies that are still there."""
        return sum(1 for copy in self.copies if copy.back_on is None)


def orders(session: Session, limit: int = 20) -> list[Order]:
    """Return the orders, those still out first, then the latest."""
    records = session.scalars(
        select(GradingOrderRecord)
        .where(GradingOrderRecord.undone_at.is_(None))
        .order_by(GradingOrderRecord.sent_on.desc(), GradingOrderRecord.id.desc())
        .limit(limit)
    ).all()
    found = [Order(record, _copies(session, record.id)) for record in records]
    return sorted(found, key=lambda order: not order.out)


def _copies(session: Session, order_id: int) -> tuple[OrderCopy, ...]:
    g = GradingCopyRecord
    rows: list[Any] = []
    for model, link in ((PullRecord, g.pull_id), (ArrivalRecord, g.arrival_id)):
        rows += session.execute(
            select(g, CardRecord.id, CardRecord.number, CardRecord.name, model.parallel, ProductRecord.name)
            .join(model, model.id == link)
            .join(CardRecord, CardRecord.id == model.card_id)
            .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
            .join(ProductRecord, ProductRecord.id == SectionRecord.product_id)
            .where(g.order_id == order_id)
        ).all()
    found = [
        OrderCopy(
            row.id, row.place, card, number, name, parallel, product,
            "" if row.grade_halves is None else f"{row.grade_halves / 2:g}", row.back_on,
        )
        for row, card, number, name, parallel, product in rows
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda copy: copy.place))


REFUSED = "none"
"""Typed for a copy that came back without a grade."""


def grades_came_back(session: Session, bench: Workbench, filled: Sequence[tuple[int, str]], back_on: date) -> int:
    """Note what came back, all or none; fields left empty are passed over. Returns how many came.

    Raises
    ------
    BadGradeError
        When a grade is none of the scale; the whole parcel is then still out.
    """
    given = [(copy, grade.strip()) for copy, grade in filled if grade.strip()]
    for _, grade in given:
        if grade.casefold() != REFUSED:
            read_grade(grade)
    for copy, grade in given:
        came_back(session, bench, copy, "" if grade.casefold() == REFUSED else grade, back_on)
    return len(given)


def came_back(session: Session, bench: Workbench, copy_id: int, grade: str, back_on: date) -> None:
    """Note that a copy is back, with its grade, or without one when the house refused it.

    Raises
    ------
    NotFoundError
        When there is no such copy in an order.
    BadGradeError
        When the grade is none of the scale.
    BoxStateError
        When it lies before the day the order was sent.
    """
    row = session.get(GradingCopyRecord, copy_id)
    order = session.get(GradingOrderRecord, row.order_id) if row else None
    if row is None or order is None or order.undone_at is not None:
        message = "That copy is in no order. Go back to the orders."
        raise NotFoundError(message)
    if back_on < order.sent_on:
        message = f"It was sent on {order.sent_on.isoformat()}; it cannot be back before."
        raise BoxStateError(message)
    if row.pull_id:
        name, card_id = f"pull-{row.pull_id}", session.get_one(PullRecord, row.pull_id).card_id
    else:
        name, card_id = f"arrival-{row.arrival_id}", session.get_one(ArrivalRecord, row.arrival_id).card_id
    value = read_grade(grade) if grade.strip() else None
    row.back_on, row.grade_halves = back_on, None if value is None else round(2 * value)
    if value is not None:
        note_return(session, bench, card_id or 0, f"order-copy-{row.id}", Back(name, grade, order.house, back_on))
    session.commit()


def take_back_order(session: Session, bench: Workbench, order_id: int) -> None:
    """Take an order back as if it had not been sent; it is kept as undone.

    Raises
    ------
    BoxStateError
        When a copy of it came back already.
    """
    order = session.get(GradingOrderRecord, order_id)
    if order is None or order.undone_at is not None:
        return
    copies = session.scalars(select(GradingCopyRecord).where(GradingCopyRecord.order_id == order_id)).all()
    if any(copy.back_on is not None for copy in copies):
        message = "Copies of this order came back already: it was sent."
        raise BoxStateError(message)
    for copy in copies:
        copy.back_on = bench.today()
    order.undone_at = bench.now()
    session.commit()
