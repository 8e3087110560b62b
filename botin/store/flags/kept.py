"""Flags that say to keep a card: since when, and what selling it left on that day."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from functools import cache
from typing import Any

from sqlalchemy import ColumnElement, Row, Select, bindparam, func, select
from sqlalchemy.orm import InstrumentedAttribute, Session, aliased

from botin.core.flags.ways import Go
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, FlagRecord, KeptRecord

KEEPS = ("keep", "sell later")
"""Flags by which a card stays that could be sold today."""
Which = tuple[int, str, int | None]


def _sells() -> ColumnElement[int]:
    """What selling one leaves: nobody sells singly at a loss."""
    return func.max(FlagRecord.net_raw, 0)


def kept_now(session: Session, cards: Sequence[int] | None = None) -> dict[Which, dict[str, Any]]:
    """Return the flags that say to keep, by card, finish and copy: flag, copies, what selling leaves, currency."""
    v = FlagRecord
    word = func.coalesce(func.nullif(v.chosen, ""), v.go)
    rows = session.execute(
        select(v.card_id, v.parallel, v.copy_id, word, v.copies, _sells(), ProductRecord.currency)
        .join(ProductRecord, ProductRecord.id == v.product_id)
        .where(word.in_(KEEPS), *_of(v.card_id, cards))
    )
    return {
        (card, parallel, copy): {"go": go, "copies": copies, "net": net, "currency": code}
        for card, parallel, copy, go, copies, net, code in rows
    }


def flags_of(session: Session, copies: Sequence[int]) -> dict[int, str]:
    """Return the flag of each copy: its own, else that of its version; as the user chose it, else as worked out."""
    v, c = FlagRecord, CopyRecord
    word = func.coalesce(func.nullif(v.chosen, ""), v.go)
    same = (v.card_id == c.card_id) & (v.parallel == c.parallel) & (v.copy_id.is_(None) | (v.copy_id == c.id))
    rows = session.execute(
        select(c.id, word).join(v, same).where(c.id.in_(list(copies))).order_by(v.copy_id.is_not(None))
    )
    return {copy: go for copy, go in rows}  # noqa: C416  (a Row is not a pair for mypy)


def sells_for(session: Session, cards: Sequence[int]) -> dict[Which, int]:
    """Return what selling leaves today by the flags of some cards (minor units)."""
    v = FlagRecord
    rows = session.execute(select(v.card_id, v.parallel, v.copy_id, _sells()).where(v.card_id.in_(list(cards))))
    return {(card, parallel, copy): net for card, parallel, copy, net in rows}


def _of(column: InstrumentedAttribute[int], cards: Sequence[int] | None) -> tuple[ColumnElement[bool], ...]:
    return () if cards is None else (column.in_(list(cards)),)


def note_kept(session: Session, day: date, cards: Sequence[int] | None = None) -> None:
    """Note which cards (some, or all) are kept from a day on, and which not any more; nothing is committed."""
    now = kept_now(session, cards)
    k = KeptRecord
    open_ = {
        (row.card_id, row.parallel, row.copy_id): row
        for row in session.scalars(select(k).where(k.until.is_(None), *_of(k.card_id, cards)))
    }
    ended = [row for which, row in open_.items() if which not in now or now[which]["go"] != row.go]
    values = sells_for(session, [row.card_id for row in ended])
    for row in ended:
        row.until, row.net_then = day, values.get((row.card_id, row.parallel, row.copy_id))
    for (card, parallel, copy), told in now.items():
        known = open_.get((card, parallel, copy))
        if known is None or known.go != told["go"]:
            session.add(KeptRecord(card_id=card, parallel=parallel, copy_id=copy, since=day, **told))
    session.flush()


def kept(session: Session, limit: int = 2_000) -> Sequence[Row[KeptRecord, CardRecord, str]]:
    """Return what is kept, and then what was, the dearest first, with its card and product."""
    k = KeptRecord
    wanted = (
        select(k, CardRecord, ProductRecord.name)
        .join(CardRecord, CardRecord.id == k.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .join(ProductRecord, ProductRecord.id == SectionRecord.product_id)
    )
    return session.execute(wanted.order_by(k.until.is_not(None), k.net.desc()).limit(limit)).all()


def said_of(session: Session, copies: Sequence[int]) -> tuple[dict[int, str], dict[int, str]]:
    """Return what the user decided for copies (the very one, else its version), and the flag of their version."""
    rows = session.execute(_said(), {"copies": list(copies)}).all()
    chosen = {copy: mine or version or "" for copy, mine, version, _ in rows}
    return chosen, {copy: go for copy, _, _, go in rows if go}


@cache
def _said() -> Select[int, str, str, str]:
    """Put the question of `said_of` together, once."""
    c, v, own = CopyRecord, aliased(FlagRecord), aliased(FlagRecord)
    wanted = select(c.id, own.chosen, v.chosen, v.go).outerjoin(own, own.copy_id == c.id)
    wanted = wanted.outerjoin(v, (v.card_id == c.card_id) & (v.parallel == c.parallel) & v.copy_id.is_(None))
    return wanted.where(c.id.in_(bindparam("copies", expanding=True)))


def that_sell(session: Session, limit: int) -> Sequence[FlagRecord]:
    """Return the flags that say to sell now, what nets most first."""
    v = FlagRecord
    sells = (v.go == Go.SELL.value) & (v.chosen == "") | (v.chosen == Go.SELL.value)
    return session.scalars(select(v).where(sells, v.copies > 0).order_by(v.net.desc()).limit(limit)).all()
