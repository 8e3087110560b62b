"""People: a name is one party, however it is spelled."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session

from botin.core.errors import NotFoundError
from botin.store.copies.copies import is_present
from botin.store.models import BoxRecord, CardRecord, SectionRecord
from botin.store.models_copies import ME, CopyRecord, PartyRecord

UNSETTLED = "?"
"""Stands for the owner of a card of which nobody knows yet whose it is."""
LONGEST = 60


def name_key(name: str) -> str:
    """Return what tells a name apart: spaces and case do not."""
    return " ".join(name.split()).casefold()


def get_party(session: Session, party_id: int) -> PartyRecord:
    """Read a party.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = session.get(PartyRecord, party_id)
    if found is None:
        message = "That person is not in the records. Go back to People."
        raise NotFoundError(message)
    return found


def party_named(session: Session, name: str, now: datetime) -> PartyRecord:
    """Return the party of a name, made when it is new; nothing is committed here."""
    shown = " ".join(name.split())[:LONGEST]
    found = session.scalar(select(PartyRecord).where(PartyRecord.name_key == name_key(shown)))
    if found is None:
        found = PartyRecord(name=shown, name_key=name_key(shown), made_at=now)
        session.add(found)
        session.flush()
    return found


def owner_ids(session: Session, names: Iterable[str], my_name: str, now: datetime) -> dict[str, int | None]:
    """Return whose each name is: me by no name or my own, nobody by ``?``, else a party, made when it is new."""
    found: dict[str, int | None] = {}
    for name in names:
        key = name_key(name)
        if key in ("", "me", name_key(my_name)):
            found[name] = ME
        else:
            found[name] = None if key == UNSETTLED else party_named(session, name, now).id
    return found


def copies_by_owner(session: Session) -> dict[int, int]:
    """Count the copies here of everybody but me."""
    c = CopyRecord
    rows = session.execute(
        select(c.owner_id, func.count()).where(c.owner_id != ME, is_present()).group_by(c.owner_id)
    )
    return {owner: count for owner, count in rows if owner is not None}


def everybody_else(session: Session) -> Sequence[PartyRecord]:
    """Return everybody but me, by name."""
    return session.scalars(select(PartyRecord).where(PartyRecord.id != ME).order_by(PartyRecord.name)).all()


def copies_of_owner(
    session: Session, party_id: int, limit: int
) -> Sequence[Row[CopyRecord, str, str, str, int, BoxRecord]]:
    """Return somebody's copies: number, name, section, product and box of each, those of a box together."""
    c = CopyRecord
    return session.execute(
        select(c, CardRecord.number, CardRecord.name, SectionRecord.key, SectionRecord.product_id, BoxRecord)
        .outerjoin(CardRecord, CardRecord.id == c.card_id)
        .outerjoin(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .outerjoin(BoxRecord, BoxRecord.id == c.box_id)
        .where(c.owner_id == party_id, c.state != "void")
        .order_by(c.box_id, c.id)
        .limit(limit)
    ).all()
