"""People: a name is one party, however it is spelled."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.errors import NotFoundError
from botin.store.models_copies import ME, PartyRecord

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
