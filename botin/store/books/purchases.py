"""Orders of boxes and singles: every question to the store about them."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.books.orders import ARRIVED
from botin.core.books.posting import Account
from botin.store.models import BoxRecord
from botin.store.models_books import PurchaseRecord
from botin.store.models_copies import CopyRecord, DisposalRecord


def boxes_of(session: Session, purchase_id: int) -> list[BoxRecord]:
    """Return the boxes of a purchase."""
    b = BoxRecord
    return list(session.scalars(select(b).where(b.purchase_id == purchase_id, b.state != "removed").order_by(b.id)))


def copies_of(session: Session, purchase_id: int) -> list[CopyRecord]:
    """Return the singles of a purchase."""
    c = CopyRecord
    wanted = select(c).where(c.purchase_id == purchase_id, c.pull_id.is_(None), c.state != "void").order_by(c.id)
    return list(session.scalars(wanted.execution_options(populate_existing=True)))


def open_orders(session: Session, limit: int = 50) -> Sequence[PurchaseRecord]:
    """Return the orders that have not arrived, the oldest first."""
    p = PurchaseRecord
    wanted = select(p).where(p.state != ARRIVED, p.undone_at.is_(None)).order_by(p.bought_on, p.id)
    return session.scalars(wanted.limit(limit)).all()


def went_of_box(session: Session, box_id: int) -> dict[int, Account]:
    """Account that took the basis of each copy of a box that left."""
    rows = session.execute(
        select(DisposalRecord.copy_id, DisposalRecord.went)
        .join(CopyRecord, CopyRecord.id == DisposalRecord.copy_id)
        .where(CopyRecord.box_id == box_id, DisposalRecord.undone_at.is_(None))
    )
    return {copy: Account.SOLD if went == "sold" else Account.FUN for copy, went in rows}
