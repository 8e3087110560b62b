"""What the library knows already: columns the user named, and the words of its products."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.catalog.product import split_names
from botin.store.models import CardRecord, KnownColumnsRecord, ProductRecord, SectionRecord


@dataclass(frozen=True, slots=True)
class KnownWords:
    """Names and clubs of the products in the library, each with a product that has it."""

    people: dict[str, str]
    clubs: dict[str, str]


def known_columns(session: Session) -> dict[str, dict[int, str]]:
    """Return what the user said of columns, by the shape of their table."""
    rows = session.execute(select(KnownColumnsRecord.shape, KnownColumnsRecord.fields))
    return {shape: {int(place): name for place, name in json.loads(fields).items()} for shape, fields in rows}


def remember_columns(session: Session, shape: str, fields: dict[int, str], now: datetime) -> None:
    """Keep what the user said of the columns of a shape, for the next file."""
    session.merge(KnownColumnsRecord(shape=shape, fields=json.dumps(fields), told_at=now))


def words_stamp(session: Session) -> int:
    """Return what changes whenever a product does."""
    return session.scalar(select(func.sum(ProductRecord.revision))) or 0


def known_words(session: Session, but: str) -> KnownWords:
    """Return every name and club of the library, without those that only one product has.

    Parameters
    ----------
    but : str
        Key of the product that is left out: it does not know itself.
    """
    c, p = CardRecord, ProductRecord
    rows = session.execute(
        select(c.name, c.team, p.name)
        .join(SectionRecord, SectionRecord.id == c.section_id)
        .join(p, p.id == SectionRecord.product_id)
        .where(p.key != but)
        .distinct()
    )
    people: dict[str, str] = {}
    clubs: dict[str, str] = {}
    for name, team, product in rows:
        for person in split_names(name):
            people.setdefault(person, product)
        for club in split_names(team):
            clubs.setdefault(club, product)
    return KnownWords(people, clubs)


def product_choices(session: Session) -> list[tuple[str, str]]:
    """Return key and name of every product, the latest first."""
    p = ProductRecord
    rows = session.execute(select(p.key, p.name).order_by(p.released_on.desc(), p.name))
    return [(key, name) for key, name in rows]
