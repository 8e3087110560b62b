"""Logged copies that a card known later concerns, in the store."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

from sqlalchemy import Row, func, insert, select
from sqlalchemy.orm import Session, aliased

from botin.core.catalog.product import Kind
from botin.store.models import BoxRecord, CardRecord, LookAgainRecord, PullRecord, SectionRecord


def ids_of_cards(session: Session, product_id: int) -> dict[tuple[str, str], int]:
    """Return the ids of a product's cards by section and number."""
    found = session.execute(
        select(SectionRecord.key, CardRecord.number, CardRecord.id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id)
    )
    return {(section, number): card for section, number, card in found}


def base_pulls(session: Session, product_id: int) -> dict[tuple[str, str], list[int]]:
    """Logged copies by number, by name and by card."""
    found: dict[tuple[str, str], list[int]] = defaultdict(list)
    rows = session.execute(
        select(PullRecord.id, CardRecord.id, CardRecord.number, CardRecord.name, SectionRecord.kind)
        .join(CardRecord, CardRecord.id == PullRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id, PullRecord.undone_at.is_(None), PullRecord.parallel == "")
    )
    for pull, card, number, name, kind in rows:
        found[("card", str(card))].append(pull)
        if kind == Kind.BASE.value:
            found[("number", number)].append(pull)
            found[("name", name)].append(pull)
    return found


def waiting_by_product(session: Session, limit: int) -> list[tuple[int, int]]:
    """Count by product the logged copies that still wait to be looked at again."""
    k = LookAgainRecord
    wanted = select(k.product_id, func.count()).where(k.done_at.is_(None)).group_by(k.product_id)
    return [(product, count) for product, count in session.execute(wanted.limit(limit))]


def add_to_look_at(session: Session, rows: Sequence[Mapping[str, object]]) -> int:
    """Put logged copies on the list of those to look at again; return how many were not on it."""
    k = LookAgainRecord
    known = {(pull, card) for pull, card in session.execute(select(k.pull_id, k.card_id))}
    fresh = [row for row in rows if (row["pull_id"], row["card_id"]) not in known]
    if fresh:
        session.execute(insert(k), fresh)
    return len(fresh)


Waiting = Row[int, int, str, int, CardRecord, CardRecord, SectionRecord, str]
"""Id, box, its label, pack, the card that was logged, the one it could be, its section, and the section logged."""


def waiting_rows(session: Session, product_id: int, limit: int) -> Sequence[Waiting]:
    """Return the copies of a product that still wait to be looked at again, as they lie in their boxes."""
    logged, target = aliased(CardRecord), aliased(CardRecord)
    section, own, k = aliased(SectionRecord), aliased(SectionRecord), LookAgainRecord
    return session.execute(
        select(k.id, BoxRecord.id, BoxRecord.label, PullRecord.pack, logged, target, section, own.label)
        .join(PullRecord, PullRecord.id == k.pull_id)
        .join(BoxRecord, BoxRecord.id == PullRecord.box_id)
        .join(logged, logged.id == PullRecord.card_id)
        .join(own, own.id == logged.section_id)
        .join(target, target.id == k.card_id)
        .join(section, section.id == target.section_id)
        .where(k.product_id == product_id, k.done_at.is_(None))
        .order_by(BoxRecord.id, PullRecord.pack, k.id)
        .limit(limit)
    ).all()
