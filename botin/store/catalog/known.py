"""What the library knows already: columns the user named, and the words of its products."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.catalog.product import split_names
from botin.store.models import CardRecord, KnownColumnsRecord, ParallelRecord, ProductRecord, SectionRecord


@dataclass(frozen=True, slots=True)
class KnownWords:
    """Names, clubs, sections and finishes of the products in the library."""

    people: frozenset[str]
    clubs: frozenset[str]
    sections: frozenset[str]
    finishes: frozenset[str]


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
    """Return every name, club, section and finish of the library.

    Parameters
    ----------
    but : str
        Key of the product that is left out: it does not know itself.
    """
    c, s, p, f = CardRecord, SectionRecord, ProductRecord, ParallelRecord
    others = select(s.id).join(p, p.id == s.product_id).where(p.key != but).scalar_subquery()
    cards = session.execute(select(c.name, c.team).where(c.section_id.in_(others)).distinct()).all()
    labels = session.scalars(select(s.label).where(s.id.in_(others)).distinct())
    finishes = session.scalars(select(f.label).where(f.section_id.in_(others)).distinct())
    return KnownWords(
        people=frozenset(person for name, _ in cards for person in split_names(name)),
        clubs=frozenset(club for _, team in cards for club in split_names(team)),
        sections=frozenset(labels),
        finishes=frozenset(finishes),
    )


def product_choices(session: Session) -> list[tuple[str, str]]:
    """Return key and name of every product, the latest first."""
    p = ProductRecord
    rows = session.execute(select(p.key, p.name).order_by(p.released_on.desc(), p.name))
    return [(key, name) for key, name in rows]
