"""Grading orders, the copies in them, memberships and vouchers: every question to the store about them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import cache

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.errors import NotFoundError
from botin.core.grading.steps import AT_HOME
from botin.store.copies.copies import is_elsewhere, is_here, is_mine, is_present
from botin.store.keys import stored_under
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_books import PostingRecord
from botin.store.models_copies import CopyRecord, PartyRecord
from botin.store.models_grading import (
    GradingCopyRecord,
    GradingOrderRecord,
    GradingStepRecord,
    MembershipRecord,
    VoucherRecord,
)
from botin.store.once import once

"""States of an order whose copies are here, but promised to it."""
Version = tuple[int, str]
"""A card's id and a finish."""


def promised_copies() -> Select[int]:
    """Return the copies that are in an order which is not sent yet, as a query."""
    g, o = GradingCopyRecord, GradingOrderRecord
    lines = select(g.copy_id).join(o, o.id == g.order_id).where(g.back_on.is_(None), o.undone_at.is_(None))
    return lines.where(o.state.in_(AT_HOME))


def promised(session: Session) -> set[int]:
    """Return the copies that are in an order which is not sent yet."""
    return set(session.scalars(promised_copies()))


def out_counts(session: Session, *, still_out: bool = False) -> Counter[Version]:
    """Count my copies that are in an order by version, and those that have their grade unless ``still_out``."""
    c = CopyRecord
    away = is_elsewhere("out") if still_out else (c.state == "out") | (is_present() & (c.grade != ""))
    found: Counter[Version] = Counter()
    for which in (away, c.id.in_(promised_copies()) & (c.grade == "")):
        rows = session.execute(
            select(c.card_id, c.parallel, func.count()).where(which, is_mine()).group_by(c.card_id, c.parallel)
        )
        for card, parallel, count in rows:
            found[(card or 0, parallel)] += count
    return found


def get_order(session: Session, order_id: int) -> GradingOrderRecord:
    """Read an order that was not taken back.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = session.get(GradingOrderRecord, order_id, populate_existing=True)
    if found is None or found.undone_at is not None:
        message = "That grading order is not in the records any more. Go back to Grading."
        raise NotFoundError(message)
    return found


def order_keyed(session: Session, client_key: str) -> GradingOrderRecord | None:
    """Return the order made under a key."""
    return stored_under(session, GradingOrderRecord, client_key)


def all_orders(session: Session, limit: int) -> Sequence[GradingOrderRecord]:
    """Return the orders: those under way first, then the latest."""
    o = GradingOrderRecord
    wanted = select(o).where(o.undone_at.is_(None))
    return session.scalars(wanted.order_by(o.state == "done", o.sent_on.desc(), o.id.desc()).limit(limit)).all()


def under_way(session: Session) -> Sequence[GradingOrderRecord]:
    """Return the orders that are not done."""
    o = GradingOrderRecord
    return session.scalars(select(o).where(o.undone_at.is_(None), o.state != "done").order_by(o.id)).all()


@cache
def orders_under_way() -> Select[int]:
    """Return the question how many orders are not done; every page asks it."""
    o = GradingOrderRecord
    return select(func.count()).where(o.undone_at.is_(None), o.state != "done")


def get_line(session: Session, line: int) -> tuple[GradingCopyRecord, GradingOrderRecord]:
    """Read a copy in an order.

    Raises
    ------
    NotFoundError
        When it is in none.
    """
    row = session.get(GradingCopyRecord, line)
    order = session.get(GradingOrderRecord, row.order_id) if row else None
    if row is None or order is None or order.undone_at is not None:
        message = "That copy is in no order. Go back to the orders."
        raise NotFoundError(message)
    return row, order


def lines_of(session: Session, order_id: int) -> Sequence[GradingCopyRecord]:
    """Return the copies of an order in the order of its form."""
    g = GradingCopyRecord
    return session.scalars(select(g).where(g.order_id == order_id).order_by(g.place, g.id)).all()


def owners_of(session: Session, order_id: int) -> dict[int, int | None]:
    """Return whose the copies of an order are, by copy."""
    g, c = GradingCopyRecord, CopyRecord
    rows = session.execute(select(c.id, c.owner_id).join(g, g.copy_id == c.id).where(g.order_id == order_id))
    return dict(rows.all())


@dataclass(frozen=True, slots=True)
class FormLine:
    """A copy in an order with everything its form says of it."""

    line: GradingCopyRecord
    copy: CopyRecord
    card: CardRecord
    section: str
    label: str
    kind: str
    product: ProductRecord
    owner: str


def form_of(session: Session, order_id: int) -> list[FormLine]:
    """Read the copies of an order in the order of its form."""
    g, c, k, s = GradingCopyRecord, CopyRecord, CardRecord, SectionRecord
    rows = session.execute(
        select(g, c, k, s.key, s.label, s.kind, ProductRecord, PartyRecord.name)
        .join(c, c.id == g.copy_id)
        .join(k, k.id == c.card_id)
        .join(s, s.id == k.section_id)
        .join(ProductRecord, ProductRecord.id == s.product_id)
        .outerjoin(PartyRecord, PartyRecord.id == c.owner_id)
        .where(g.order_id == order_id)
        .order_by(g.place, g.id)
    )
    return [
        FormLine(
            line=line, copy=copy, card=card, section=section, label=label, kind=kind, product=product,
            owner=owner or "?",
        )
        for line, copy, card, section, label, kind, product, owner in rows
    ]  # fmt: skip


def steps_of(session: Session, order_id: int) -> Sequence[GradingStepRecord]:
    """Return the steps an order took and did not take back, in their order."""
    p = GradingStepRecord
    return session.scalars(select(p).where(p.order_id == order_id, p.undone_at.is_(None)).order_by(p.id)).all()


def free_step_key(session: Session, order_id: int, state: str) -> str:
    """Return a key of its own for a step that an order takes by itself."""
    taken = session.scalar(select(func.count()).where(GradingStepRecord.order_id == order_id))
    return f"{state}-{order_id}-{taken or 0}"


def step_keyed(session: Session, client_key: str) -> GradingStepRecord | None:
    """Return the step taken under a key."""
    return stored_under(session, GradingStepRecord, client_key)


def memberships(session: Session) -> Sequence[MembershipRecord]:
    """Return all memberships that were not taken back, the latest first."""
    m = MembershipRecord
    wanted = select(m).where(m.undone_at.is_(None)).order_by(m.until_on.desc(), m.id.desc())
    return once(session, "memberships", lambda: session.scalars(wanted).all())


def held_memberships(session: Session, day: date) -> frozenset[str]:
    """Return the houses whose membership is held on a day."""
    return frozenset(one.house for one in memberships(session) if one.from_on <= day <= one.until_on)


def vouchers(session: Session) -> Sequence[VoucherRecord]:
    """Return all vouchers that were not taken back."""
    v = VoucherRecord
    return session.scalars(select(v).where(v.undone_at.is_(None)).order_by(v.id)).all()


def vouchers_used(session: Session) -> Counter[int]:
    """Count for how many cards each voucher was given, in orders that were not taken back."""
    o, found = GradingOrderRecord, Counter[int]()
    given = select(o.voucher_id, func.sum(o.voucher_cards)).where(o.undone_at.is_(None), o.voucher_id.is_not(None))
    for voucher, cards in session.execute(given.group_by(o.voucher_id)):
        found[voucher or 0] = cards or 0
    return found


def booked_by_copy(session: Session, order_id: int, account: Account, currency: str) -> Counter[int]:
    """Sum the postings of an account that are for an order and a copy, by copy (minor units)."""
    p, found = PostingRecord, Counter[int]()
    mine = (p.order_id == order_id, p.account == account.value, p.currency == currency, p.copy_id.is_not(None))
    for copy, minor in session.execute(select(p.copy_id, func.sum(p.minor)).where(*mine).group_by(p.copy_id)):
        found[copy or 0] = minor or 0
    return found


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


def house_names(session: Session) -> set[str]:
    """Return the names of the houses that orders went to."""
    return set(session.scalars(select(GradingOrderRecord.house).distinct()))


@dataclass(frozen=True, slots=True)
class Found:
    """A copy that may be put into an order."""

    copy: CopyRecord
    card: CardRecord
    product: ProductRecord
    section: str
    kind: str
    owner: str


def copies_found(session: Session, words: str, limit: int = 20) -> list[Found]:
    """Find copies in my place that are in no order, by their number, words of the name, or their owner."""
    c, k, s = CopyRecord, CardRecord, SectionRecord
    wanted = _found().where(is_here(), c.id.not_in(promised_copies()))
    for word in words.split():
        plain = word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
        said = [column.ilike(f"%{plain}%", escape="\\") for column in (k.name, PartyRecord.name, s.label)]
        wanted = wanted.where((k.number == word) | said[0] | said[1] | said[2])
    rows = session.execute(wanted.order_by(k.name, c.id).limit(limit))
    return [
        Found(copy, card, product, section, kind, owner or "?") for copy, card, product, section, kind, owner in rows
    ]


def found_copies(session: Session, ids: Sequence[int]) -> list[Found]:
    """Read some copies with their cards, in the order of the ids; those that are not there are left out."""
    rows = session.execute(_found().where(CopyRecord.id.in_(list(ids))))
    found = {row[0].id: Found(row[0], row[1], row[2], row[3], row[4], row[5] or "?") for row in rows}
    return [found[one] for one in ids if one in found]


def _found() -> Select[CopyRecord, CardRecord, ProductRecord, str, str, str]:
    c, k, s = CopyRecord, CardRecord, SectionRecord
    return (
        select(c, k, ProductRecord, s.key, s.kind, PartyRecord.name)
        .join(k, k.id == c.card_id)
        .join(s, s.id == k.section_id)
        .join(ProductRecord, ProductRecord.id == s.product_id)
        .outerjoin(PartyRecord, PartyRecord.id == c.owner_id)
    )


def graded_since(session: Session, box_id: int) -> tuple[int, tuple[str, ...]]:
    """Return how many copies of a box are out for grading, and the grades that came back."""
    g, c, o = GradingCopyRecord, CopyRecord, GradingOrderRecord
    rows = session.execute(
        select(g.back_on, g.grade_halves)
        .join(c, c.id == g.copy_id)
        .join(o, o.id == g.order_id)
        .where(c.box_id == box_id, o.undone_at.is_(None))
        .order_by(g.id)
    ).all()
    back = tuple(f"{halves / 2:g}" for _, halves in rows if halves is not None)
    return sum(1 for day, _ in rows if day is None), back


def memberships_of(session: Session, order_id: int) -> Sequence[MembershipRecord]:
    """Return the memberships that were bought with an order."""
    m = MembershipRecord
    return session.scalars(select(m).where(m.order_id == order_id, m.undone_at.is_(None))).all()
