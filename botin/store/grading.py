"""Grading orders: what is still prepaid for the copies that are out."""

from __future__ import annotations

from collections import Counter

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.store.copies.copies import is_elsewhere, is_mine, is_present
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


Version = tuple[int, str]
"""A card's id and a finish."""


def out_counts(session: Session, *, still_out: bool = False) -> Counter[Version]:
    """Count my copies that are out for grading by version, and those that have their grade unless ``still_out``."""
    c = CopyRecord
    away = is_elsewhere("out") if still_out else (c.state == "out") | (is_present() & (c.grade != ""))
    found: Counter[Version] = Counter()
    for card, parallel, count in session.execute(
        select(c.card_id, c.parallel, func.count()).where(away, is_mine()).group_by(c.card_id, c.parallel)
    ):
        found[(card or 0, parallel)] = count
    return found
