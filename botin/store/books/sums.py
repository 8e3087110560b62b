"""What the pages of the books and of people add up."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session, aliased

from botin.core.books.posting import Account
from botin.core.money import Money
from botin.store.books.postings import Sums, sums_where
from botin.store.models import BoxRecord, FormatRecord, ProductRecord
from botin.store.models_books import PostingRecord, TransactionRecord
from botin.store.models_copies import FlagRecord


def flag_sums(session: Session, currency: str) -> dict[int, int]:
    """Return by product what its copies would sell for by their flags, in minor units."""
    v, p = FlagRecord, ProductRecord
    rows = session.execute(
        select(v.product_id, func.sum(v.price * v.copies))
        .join(p, p.id == v.product_id)
        .where(p.currency == currency)
        .group_by(v.product_id)
    )
    return {product: int(minor or 0) for product, minor in rows}


def sealed_sums(session: Session, currency: str) -> list[tuple[int, str, int, int]]:
    """Return product, format, how many sealed boxes of it there are, and what was paid for them."""
    b, f = BoxRecord, FormatRecord
    rows = session.execute(
        select(f.product_id, f.key, func.count(), func.sum(b.price_minor + b.shipping_minor + b.tax_minor))
        .join(f, f.id == b.format_id)
        .where(b.state == "sealed", b.currency == currency)
        .group_by(f.id)
    )
    return [(product, key, count, int(paid or 0)) for product, key, count, paid in rows]


def owed_by_party(session: Session, party: int | None = None) -> list[tuple[int, Money]]:
    """Return what each person (or one) owes, or is owed when below nothing, by currency; who is even is left out."""
    p = PostingRecord
    wanted = select(p.party_id, p.currency, func.sum(p.minor)).where(
        p.party_id.is_not(None), p.account == Account.PEOPLE.value
    )
    if party is not None:
        wanted = wanted.where(p.party_id == party)
    rows = session.execute(wanted.group_by(p.party_id, p.currency))
    return [(found or 0, Money(minor, code)) for found, code, minor in rows if minor]


def latest_entries(session: Session, first: int, limit: int) -> list[tuple[TransactionRecord, bool]]:
    """Return entries and whether each was voided, the latest first."""
    t, mirror = TransactionRecord, aliased(TransactionRecord)
    made = session.execute(
        select(t, mirror.id)
        .outerjoin(mirror, mirror.voids_id == t.id)
        .order_by(t.day.desc(), t.id.desc())
        .offset(first)
        .limit(limit)
    )
    return [(one, mirrored is not None) for one, mirrored in made]


def cash_and_volume(session: Session, ids: Sequence[int], currency: str) -> dict[int, tuple[int, int]]:
    """Return by entry how cash moved, and how much moved at all."""
    p = PostingRecord
    rows = session.execute(
        select(
            p.transaction_id,
            func.sum(p.minor).filter(p.account == Account.CASH.value),
            func.sum(p.minor).filter(p.minor > 0),
        )
        .where(p.transaction_id.in_(ids), p.currency == currency)
        .group_by(p.transaction_id)
    )
    return {key: (cash or 0, volume or 0) for key, cash, volume in rows}


def entries_with(session: Session, party_id: int, limit: int) -> list[tuple[TransactionRecord, Money, Money]]:
    """Return the entries a person takes part in, the latest first: what he then owed, and how cash moved."""
    p, t = PostingRecord, TransactionRecord
    his = select(p.transaction_id).where(p.party_id == party_id)
    rows = session.execute(
        select(
            t,
            p.currency,
            func.sum(p.minor).filter(p.account == Account.PEOPLE.value, p.party_id == party_id),
            func.sum(p.minor).filter(p.account == Account.CASH.value),
        )
        .join(p, p.transaction_id == t.id)
        .where((t.party_id == party_id) | t.id.in_(his))
        .group_by(t.id, p.currency)
        .order_by(t.day.desc(), t.id.desc())
        .limit(limit)
    )
    return [(made, Money(owes or 0, code), Money(cash or 0, code)) for made, code, owes, cash in rows]


def orders_booked_on(session: Session, copy_id: int) -> list[int]:
    """Return the grading orders whose costs stand with a copy."""
    p = PostingRecord
    wanted = select(p.order_id).where(p.copy_id == copy_id, p.order_id.is_not(None)).distinct()
    return [order for order in session.scalars(wanted) if order is not None]


def order_costs_gone(session: Session, copy_id: int) -> list[tuple[int, Sums]]:
    """Return what orders turned out to cost for a copy after it had left, order by order and currency by currency."""
    p = PostingRecord
    mine = (p.copy_id == copy_id, p.order_id.is_not(None), p.account.in_([Account.SOLD, Account.FUN]))
    orders = [
        order for order in session.scalars(select(p.order_id).where(*mine).distinct()).all() if order is not None
    ]
    return [(order, found) for order in orders for found in sums_where(session, *mine, p.order_id == order)]
