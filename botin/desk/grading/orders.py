"""Grading orders that are out: which copies went in them, and what came back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError, NotFoundError
from botin.core.flags.ways import Tier
from botin.desk.books.booking import book_back, book_sent, unbook_back, unbook_sent
from botin.desk.grading.returns import Back, note_return, read_grade
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.copies.copies import copies_of_version, get_copy, require_here
from botin.store.grading import Version
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, GradingCopyRecord, GradingOrderRecord, ReturnedRecord
from botin.store.unit import finish

Chosen = Version | int
"""What goes in an order: any copy of a version, or the copy of this id."""


def send(
    session: Session,
    bench: Workbench,
    client_key: str,
    tier: Tier,
    sent_on: date,
    chosen: Sequence[Chosen],
    note: str = "",
) -> GradingOrderRecord:
    """Note an order as sent, its copies in this order; the same key again gives the same order.

    Parameters
    ----------
    chosen : sequence of (card id, finish) or int
        One for each copy, by its id or by its version; which of several alike goes is chosen here, the oldest first.

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
    copies = _pick(session, chosen)
    session.add(order)
    session.flush()
    for place, copy in enumerate(copies, 1):
        session.add(GradingCopyRecord(order_id=order.id, place=place, copy_id=copy.id))
        copy.state = "out"
    book_sent(session, bench, order.id, sent_on, tier.label, copies, tier.fee)
    finish(session)
    return order


def _pick(session: Session, chosen: Sequence[Chosen]) -> list[CopyRecord]:
    """Choose a copy that is here for each."""
    if not chosen:
        message = "An order needs a card. Tick the ones that go."
        raise BoxStateError(message)
    found = [get_copy(session, one) for one in dict.fromkeys(chosen) if isinstance(one, int)]
    for copy in found:
        require_here(copy)
    for (card_id, parallel), count in Counter(one for one in chosen if not isinstance(one, int)).items():
        taken = {copy.id for copy in found}
        here = [copy for copy in copies_of_version(session, card_id, parallel) if copy.id not in taken][:count]
        if len(here) < count:
            message = "A copy of the order is not here any more, or is out already. Choose the mix anew."
            raise BoxStateError(message)
        found += here
    return found


@dataclass(frozen=True)
class OrderCopy:
    """A copy in an order."""

    id: int
    place: int
    copy_id: int
    card_id: int
    number: str
    name: str
    parallel: str
    product: str
    grade: str
    certificate: str
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
    g, c = GradingCopyRecord, CopyRecord
    rows = session.execute(
        select(g, c, CardRecord.id, CardRecord.number, CardRecord.name, ProductRecord.name)
        .join(c, c.id == g.copy_id)
        .join(CardRecord, CardRecord.id == c.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .join(ProductRecord, ProductRecord.id == SectionRecord.product_id)
        .where(g.order_id == order_id)
        .order_by(g.place)
    )
    found = [
        OrderCopy(
            id=row.id,
            place=row.place,
            copy_id=copy.id,
            card_id=card,
            number=number,
            name=name,
            parallel=copy.parallel,
            product=product,
            grade=_grade(row),
            certificate=copy.certificate,
            back_on=row.back_on,
        )
        for row, copy, card, number, name, product in rows
    ]
    return tuple(found)


def _grade(row: GradingCopyRecord) -> str:
    return "" if row.grade_halves is None else f"{row.grade_halves / 2:g}"


REFUSED = "none"
"""Typed for a copy that came back without a grade."""


@dataclass(frozen=True, slots=True)
class Slab:
    """What is written down of a copy that came back: the grade (``none`` when the house refused it), its number."""

    line: int
    grade: str
    certificate: str = ""

    @property
    def value(self) -> float | None:
        """The grade; None when there is none.

        Raises
        ------
        BadGradeError
            When it is none of the scale.
        """
        text = self.grade.strip()
        return None if text.casefold() in ("", REFUSED) else read_grade(text)


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
        When the day lies before the one the order was sent.
    """
    given = [slab for slab in slabs if slab.grade.strip()]
    for slab in given:
        _, order = _line(session, slab.line)
        _check_back(slab, order, back_on)
    for slab in given:
        _take_in(session, bench, slab, back_on)
    finish(session)
    return len(given)


def came_back(session: Session, bench: Workbench, line: int, grade: str, back_on: date) -> None:
    """Note that one copy is back, with its grade, or without one when the house refused it; as `grades_came_back`."""
    grades_came_back(session, bench, [Slab(line, grade.strip() or REFUSED)], back_on)


def _line(session: Session, line: int) -> tuple[GradingCopyRecord, GradingOrderRecord]:
    row = session.get(GradingCopyRecord, line)
    order = session.get(GradingOrderRecord, row.order_id) if row else None
    if row is None or order is None or order.undone_at is not None:
        message = "That copy is in no order. Go back to the orders."
        raise NotFoundError(message)
    return row, order


def _check_back(slab: Slab, order: GradingOrderRecord, back_on: date) -> None:
    if back_on < order.sent_on:
        message = f"It was sent on {order.sent_on.isoformat()}; it cannot be back before."
        raise BoxStateError(message)
    _ = slab.value


def _take_in(session: Session, bench: Workbench, slab: Slab, back_on: date) -> None:
    row, order = _line(session, slab.line)
    copy = get_copy(session, row.copy_id)
    if row.back_on is not None:
        _out_again(session, bench, row, copy)
    value = slab.value
    book_back(session, bench, row.id, order.id, copy, back_on, graded=value is not None)
    row.back_on, row.grade_halves = back_on, None if value is None else round(2 * value)
    copy.state = "here"
    copy.certificate = slab.certificate.strip()[:60] or copy.certificate
    if value is not None:
        copy.grade, copy.house = f"{value:g}", order.house
        back = Back(copy.id, slab.grade, order.house, back_on)
        note_return(session, bench, copy.card_id or 0, f"order-copy-{row.id}", back)


def _out_again(session: Session, bench: Workbench, row: GradingCopyRecord, copy: CopyRecord) -> None:
    """Put a copy back into the state before it came back: its grade never was, and teaches nothing.

    Raises
    ------
    BoxStateError
        When it has left since.
    """
    require_here(copy)
    unbook_back(session, bench, row.id)
    session.execute(delete(ReturnedRecord).where(ReturnedRecord.client_key == f"order-copy-{row.id}"))
    row.back_on = row.grade_halves = None
    copy.state, copy.grade, copy.house = "out", "", ""
    session.flush()


def not_back(session: Session, bench: Workbench, line: int) -> None:
    """Take it back that a copy came back: it is out again.

    Raises
    ------
    NotFoundError
        When it is in no order.
    BoxStateError
        When it has left since.
    """
    row, _ = _line(session, line)
    if row.back_on is not None:
        _out_again(session, bench, row, get_copy(session, row.copy_id))
        finish(session)


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
    lines = session.scalars(select(GradingCopyRecord).where(GradingCopyRecord.order_id == order_id)).all()
    if any(line.back_on is not None for line in lines):
        message = "Copies of this order came back already: it was sent."
        raise BoxStateError(message)
    for line in lines:
        line.back_on = bench.today()
        get_copy(session, line.copy_id).state = "here"
    order.undone_at = bench.now()
    unbook_sent(session, bench, order_id)
    finish(session)
