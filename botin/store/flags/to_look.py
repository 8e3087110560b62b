"""What waits to be looked at, graded and sold: counted on every page, listed by what a look earns."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.flags.ways import Go
from botin.store.copies.copies import is_here, is_mine
from botin.store.flags.board import waiting_cards
from botin.store.grading.orders import orders_under_way
from botin.store.models import CardRecord, ProductRecord
from botin.store.models_copies import CopyRecord, FlagRecord, InspectionRecord, ScanRecord
from botin.store.selling.sales import sales_under_way

PAGE = 40


@dataclass(frozen=True, slots=True)
class ToLook:
    """A card to look at.

    Attributes
    ----------
    copy_id : int
        The copy to take first; of alike copies the one that has lain longest.
    copies : int
        How many alike there are.
    gain : int
        What the look is expected to earn, its minutes taken off, minor units.
    """

    copy_id: int
    copies: int
    number: str
    name: str
    parallel: str
    product: str
    currency: str
    price: int
    gain: int
    reason: str
    cut: str


def to_look(session: Session) -> int:
    """Count the cards whose flag a look would change."""
    return session.scalar(_TO_LOOK) or 0


_TO_LOOK = select(func.count()).where(FlagRecord.go == Go.LOOK.value, FlagRecord.chosen == "")


def wait_on_the_rail(session: Session) -> dict[str, int]:
    """Count what waits at Flags, Look, Grading and Sales, in one question: every page asks it."""
    asked = (waiting_cards(), _TO_LOOK, orders_under_way(), sales_under_way())
    flags, look, orders, sold = session.execute(select(*(question.scalar_subquery() for question in asked))).one()
    return {"routes": flags or 0, "look": look or 0, "grading": orders or 0, "sales": sold or 0}


def cards_to_look_at(session: Session, word: str) -> list[ToLook]:
    """Return the cards of a flag, those whose look earns most first."""
    v, c = FlagRecord, CopyRecord
    go = func.coalesce(func.nullif(v.chosen, ""), v.go)
    looked = select(InspectionRecord.copy_id)
    alike = (
        select(func.min(c.id))
        .where(
            c.card_id == v.card_id, c.parallel == v.parallel, is_mine(), is_here(), c.grade == "", c.id.not_in(looked)
        )
        .correlate(v)
        .scalar_subquery()
    )
    copy = func.coalesce(v.copy_id, alike)
    cut = select(ScanRecord.cut).where(ScanRecord.copy_id == copy).order_by(ScanRecord.id.desc()).limit(1)
    rows = session.execute(
        select(v, copy, CardRecord.number, CardRecord.name, ProductRecord.name, ProductRecord.currency,
               cut.correlate(v).scalar_subquery())
        .join(CardRecord, CardRecord.id == v.card_id)
        .join(ProductRecord, ProductRecord.id == v.product_id)
        .where(go == word)
        .order_by(v.look_gain.desc(), v.net.desc(), v.id)
        .limit(PAGE)
    )  # fmt: skip
    return [
        ToLook(
            copy_id=copy_id, copies=max(1, flag.copies), number=number, name=name, parallel=flag.parallel,
            product=product, currency=currency, price=flag.price, gain=flag.look_gain, reason=flag.reason,
            cut=picture or "",
        )
        for flag, copy_id, number, name, product, currency, picture in rows
        if copy_id is not None
    ]  # fmt: skip


def count_by_flag(session: Session) -> dict[str, int]:
    """Count the flags by their word: my choice, else what was worked out."""
    v = FlagRecord
    go = func.coalesce(func.nullif(v.chosen, ""), v.go)
    return {word: count for word, count in session.execute(select(go, func.count()).group_by(go))}  # noqa: C416
