"""Find cards over all checklists: one filter object that holds its conditions and its words."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, and_, column, func, or_, select, table, text
from sqlalchemy.orm import Session

from botin.store.copies.copies import mine_present
from botin.store.models import CardRecord, ProductRecord, SectionRecord, TeamClubRecord
from botin.store.models_copies import CopyRecord

PAGE = 60
_INDEX = table("card_search", column("rowid"), column("card_search"))
_WORD = re.compile(r"[^\W_]+")


@dataclass(frozen=True, slots=True)
class CardFilter:
    """What to look for.

    Attributes
    ----------
    words : str
        As typed: beginnings of numbers, names, teams, clubs or sections, all of which must occur.
    product_id, section : int or None, str
        Only this product, this section of it.
    kinds : tuple of str
        Only sections of these kinds.
    rookie_kinds : tuple of str
        Only cards with one of these rookie words; ``*`` is any.
    club : str
        Only cards of a team whose rights this club holds, or of the club itself.
    after : int
        Only cards behind this one; pages go by key.
    """

    words: str = ""
    product_id: int | None = None
    section: str = ""
    kinds: tuple[str, ...] = ()
    rookie_kinds: tuple[str, ...] = ()
    club: str = ""
    after: int = 0

    def describe(self) -> str:
        """Return the filter in words."""
        parts = [f"“{self.words.strip()}”"] if self.words.strip() else []
        parts += ["rookies"] if self.rookie_kinds else []
        parts += [" and ".join(kind.replace("_", " ") for kind in self.kinds)] if self.kinds else []
        parts += [f"of {self.club}"] if self.club else []
        return ", ".join(parts) or "all cards"

    def conditions(self) -> list[ColumnElement[bool]]:
        """Return the SQL of everything but the words."""
        found: list[ColumnElement[bool]] = []
        if self.product_id is not None:
            found.append(SectionRecord.product_id == self.product_id)
        if self.section:
            found.append(SectionRecord.key == self.section)
        if self.kinds:
            found.append(SectionRecord.kind.in_(self.kinds))
        if "*" in self.rookie_kinds:
            found.append(CardRecord.rookie != "")
        elif self.rookie_kinds:
            found.append(CardRecord.rookie.in_(self.rookie_kinds))
        if self.club:
            found.append(self._of_club())
        return found

    def _of_club(self) -> ColumnElement[bool]:
        """Teams whose rights the club holds; a card of several teams counts for each."""
        holds = select(TeamClubRecord.id).where(
            TeamClubRecord.product_id == SectionRecord.product_id,
            TeamClubRecord.club == self.club,
            func.instr(CardRecord.team, TeamClubRecord.team) > 0,
        )
        return or_(CardRecord.team == self.club, holds.exists())

    def match(self) -> str:
        """Return the words as an FTS5 query: beginnings, all of them."""
        return " ".join(f'"{word}"*' for word in _WORD.findall(self.words)[:8])


@dataclass(frozen=True, slots=True)
class FoundCard:
    """A card as the list shows it."""

    id: int
    product_id: int
    product: str
    section: str
    section_key: str
    kind: str
    number: str
    name: str
    team: str
    rookie: str


@dataclass(frozen=True, slots=True)
class FoundPage:
    """One page of found cards; ``after`` is where the next one begins, None on the last."""

    cards: tuple[FoundCard, ...]
    after: int | None


def _columns() -> Any:
    c, s, p = CardRecord, SectionRecord, ProductRecord
    wanted = select(c.id, p.id, p.name, s.label, s.key, s.kind, c.number, c.name, c.team, c.rookie)
    return wanted.select_from(c).join(s, s.id == c.section_id).join(p, p.id == s.product_id)


def find_cards(session: Session, wanted: CardFilter) -> FoundPage:
    """Return a page of cards; a card whose number is exactly what was typed comes first."""
    query, own = _columns().where(*wanted.conditions()), wanted.match()
    first: list[Any] = []
    if wanted.words.strip() and not own:
        return FoundPage((), None)
    if own:
        if not wanted.after:
            exact = query.where(CardRecord.number == wanted.words.strip()).order_by(CardRecord.id).limit(PAGE)
            first = list(session.execute(exact))
        query = query.join(_INDEX, _INDEX.c.rowid == CardRecord.id)
        query = query.where(text("card_search MATCH :words"), _INDEX.c.rowid > wanted.after).params(words=own)
    else:
        query = query.where(CardRecord.id > wanted.after)
    order = _INDEX.c.rowid if own else CardRecord.id
    if first:
        query = query.where(and_(CardRecord.id.not_in([row[0] for row in first])))
    rows = list(session.execute(query.order_by(order).limit(PAGE + 1)))
    more = len(rows) > PAGE
    found = [*first, *rows[:PAGE]]
    cards = tuple(FoundCard(*row) for row in found)
    return FoundPage(cards, rows[PAGE - 1][0] if more else None)


def where_kept(session: Session, cards: Sequence[int]) -> dict[int, str]:
    """Say for each card how many copies of it are mine and here, and the places they were put away in."""
    rows = session.execute(
        select(CopyRecord.card_id, CopyRecord.place, func.count())
        .where(CopyRecord.card_id.in_(cards), mine_present())
        .group_by(CopyRecord.card_id, CopyRecord.place)
    )
    found: dict[int, list[str]] = {}
    for card, place, count in rows:
        found.setdefault(card or 0, []).append(f"{count} in {place}" if place else f"{count}")
    return {card: ", ".join(parts) for card, parts in found.items()}


def rookie_words(session: Session) -> list[str]:
    """Return every word for a kind of rookie that some checklist uses."""
    return sorted(session.scalars(select(CardRecord.rookie).where(CardRecord.rookie != "").distinct()))


def club_names(session: Session, product_id: int | None = None) -> list[str]:
    """Return the clubs of a product's team table, or of all."""
    wanted = select(TeamClubRecord.club).distinct()
    if product_id is not None:
        wanted = wanted.where(TeamClubRecord.product_id == product_id)
    return sorted(session.scalars(wanted))
