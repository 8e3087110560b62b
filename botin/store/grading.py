"""Grading orders: what is still prepaid for the copies that are out."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_books import PostingRecord
from botin.store.models_copies import CopyRecord, GradingCopyRecord


def still_out(session: Session, order_id: int, currency: str) -> tuple[int, int]:
    """Return what is prepaid for an order in a currency (minor units), and its copies in it that are not back."""
    p, g = PostingRecord, GradingCopyRecord
    prepaid = select(func.sum(p.minor)).where(
        p.order_id == order_id, p.account == Account.PREPAID.value, p.currency == currency
    )
    copies = (
        select(func.count())
        .select_from(g)
        .join(CopyRecord, CopyRecord.id == g.copy_id)
        .join(CardRecord, CardRecord.id == CopyRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .join(ProductRecord, ProductRecord.id == SectionRecord.product_id)
        .where(g.order_id == order_id, g.back_on.is_(None), ProductRecord.currency == currency)
    )
    return session.scalar(prepaid) or 0, session.scalar(copies) or 0
