"""What I own, as flags are worked out for it: versions of alike copies, and copies that differ."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from sqlalchemy import ColumnElement, Row, func, select
from sqlalchemy.orm import Session

from botin.store.copies.copies import mine_present
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, FlagRecord, GradeCountRecord, InspectionRecord, PinRecord


def _differs() -> ColumnElement[bool]:
    """Whether a copy is more than one of its version: graded, marked, looked at, or decided by itself."""
    c = CopyRecord
    decided = select(FlagRecord.copy_id).where(FlagRecord.copy_id.is_not(None), FlagRecord.chosen != "")
    pinned = select(PinRecord.copy_id).where(PinRecord.removed_at.is_(None))
    looked = select(InspectionRecord.copy_id)
    return (c.grade != "") | (c.marks != "") | c.id.in_(looked) | c.id.in_(pinned) | c.id.in_(decided)


@dataclass(frozen=True, slots=True)
class Owned:
    """What gets one flag: my copies of a version that differ in nothing, or one copy that does.

    Attributes
    ----------
    copy_id : int or None
        None for the copies that differ in nothing.
    """

    card_id: int
    section: str
    number: str
    parallel: str
    copies: int = 1
    copy_id: int | None = None
    grade: str = ""


def owned_versions(session: Session, product_id: int) -> list[Owned]:
    """Return every version of a product of which I have copies that differ in nothing."""
    c = CopyRecord
    rows = session.execute(
        select(c.card_id, SectionRecord.key, CardRecord.number, c.parallel, func.count())
        .join(CardRecord, CardRecord.id == c.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id, mine_present(), ~_differs())
        .group_by(c.card_id, c.parallel)
    )
    return [Owned(card or 0, section, number, parallel, copies) for card, section, number, parallel, copies in rows]


def single_copies(session: Session, product_id: int) -> list[Owned]:
    """Return my copies of a product that differ from the others of their version."""
    c = CopyRecord
    rows = session.execute(
        select(c.card_id, SectionRecord.key, CardRecord.number, c.parallel, c.id, c.grade)
        .join(CardRecord, CardRecord.id == c.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id, mine_present(), _differs())
    )
    return [
        Owned(card or 0, section, number, parallel, copy_id=copy, grade=grade)
        for card, section, number, parallel, copy, grade in rows
    ]


def that_differ(session: Session, card_id: int, looked: Collection[int]) -> Sequence[Row[int, str, str]]:
    """Return id, finish and grade of my copies of a card that are graded or were looked at."""
    c = CopyRecord
    return session.execute(
        select(c.id, c.parallel, c.grade)
        .where(c.card_id == card_id, mine_present(), (c.grade != "") | c.id.in_(looked))
        .order_by(c.id)
    ).all()


def rests_on(session: Session) -> list[int]:
    """Return numbers that change with prices, checklists and counts of grades."""
    counts = session.execute(
        select(func.sum(ProductRecord.revision), select(func.max(GradeCountRecord.id)).scalar_subquery())
    ).one()
    return [int(value or 0) for value in counts]
