"""The physical cards: kept in step with the log of their box, and the one answer to “is it here”."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from sqlalchemy import ColumnElement, ScalarSelect, Select, bindparam, func, select, text, update
from sqlalchemy.orm import InstrumentedAttribute, Session, object_session

from botin.core.errors import BoxStateError, NotFoundError
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import ME, PRESENT, CopyRecord
from botin.store.models_grading import GradingCopyRecord, GradingOrderRecord

AT_ONCE = 400
"""Ids in one question."""

MANY = 100
"""Copies are counted up to so many: whoever has a hundred of a card does not ask for the exact number here."""


def is_mine() -> ColumnElement[bool]:
    """Whether a copy is my own: another owner's is nowhere mine, nor is one of which nobody knows whose it is."""
    return CopyRecord.owner_id == ME


def is_present() -> ColumnElement[bool]:
    """Whether a copy has not left: it is here, at a grading house, or offered for sale."""
    return CopyRecord.state.in_(PRESENT)


def is_here() -> ColumnElement[bool]:
    """Whether a copy is in my place, so that one may send, sell or swap it."""
    return CopyRecord.state.in_(("here", "listed"))


def is_elsewhere(*states: str) -> ColumnElement[bool]:
    """Whether a copy is in one of some states other than here; said so that the small index of those is used."""
    return (CopyRecord.state != "here") & CopyRecord.state.in_(states)


def mine_present() -> ColumnElement[bool]:
    """Whether a copy is mine and has not left: what counts in worth, sets and flags."""
    return is_mine() & is_present()


def get_copy(session: Session, copy_id: int) -> CopyRecord:
    """Read a copy that was not taken out of the records.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = session.get(CopyRecord, copy_id, populate_existing=True)
    if found is None or found.state == "void":
        message = "That copy is not in the records any more. Go back to its card."
        raise NotFoundError(message)
    return found


def copy_words(session: Session, copy: CopyRecord) -> str:
    """Return a copy in words: number, name, finish and serial."""
    card = session.get(CardRecord, copy.card_id) if copy.card_id else None
    words = [card.number, card.name] if card else ["a card that is not on the checklist"]
    words += [copy.parallel, f"{copy.serial}/{copy.run}" if copy.serial else ""]
    return " ".join(word for word in words if word)


WHERE_IT_IS = {
    "coming": "has not arrived yet",
    "out": "is out for grading: take it in first",
    "sold": "has left, sold: take its sale back first",
    "gone": "has left: take that back first",
    "void": "is not in the records any more",
}


def require_here(copy: CopyRecord) -> None:
    """Refuse what can only be done with a card in hand that is promised to no grading order.

    Raises
    ------
    BoxStateError
        With where it is.
    """
    if copy.state in WHERE_IT_IS:
        message = f"That copy {WHERE_IT_IS[copy.state]}."
        raise BoxStateError(message)
    session = object_session(copy)
    order = session.scalar(_order_of(copy.id)) if session is not None else None
    if order is not None:
        message = f"That copy is in grading order {order}, which is not sent yet: take it out of it first."
        raise BoxStateError(message)


def _order_of(copy_id: int | InstrumentedAttribute[int]) -> Select[int]:
    """Return the order a copy is in and not back from, as a query."""
    g, o = GradingCopyRecord, GradingOrderRecord
    mine = (g.copy_id == copy_id, g.back_on.is_(None), o.undone_at.is_(None))
    return select(g.order_id).join(o, o.id == g.order_id).where(*mine).limit(1)


def order_holding(copy_id: InstrumentedAttribute[int]) -> ScalarSelect[int]:
    """Return the grading order that a copy of a query is in and not back from."""
    return _order_of(copy_id).correlate(CopyRecord).scalar_subquery()


_DETAIL = "CASE WHEN p.details = '' THEN '' ELSE coalesce(json_extract(p.details, '$.{}'), '') END"
_SOME, _ALL = "p.id IN (SELECT value FROM json_each(:pulls))", "p.box_id = :box"
_FOLLOW = (
    "INSERT INTO copy (pull_id, box_id, card_id, parallel, serial, run, marks, certificate, state, came, made_at, "  # noqa: S608
    "void_at) SELECT p.id, p.box_id, p.card_id, p.parallel, p.serial, p.run, "
    f"{_DETAIL.format('marks')}, {_DETAIL.format('certificate')}, "
    "CASE WHEN p.undone_at IS NULL THEN 'here' ELSE 'void' END, 'box', p.logged_at, "
    "p.undone_at FROM pull p WHERE {} "
    "ON CONFLICT (pull_id) DO UPDATE SET card_id = excluded.card_id, parallel = excluded.parallel, "
    "serial = excluded.serial, run = excluded.run, marks = excluded.marks, void_at = excluded.void_at, "
    "certificate = CASE WHEN excluded.certificate <> '' THEN excluded.certificate ELSE copy.certificate END, "
    "state = CASE WHEN excluded.state = 'void' OR copy.state = 'void' THEN excluded.state ELSE copy.state END"
)


_AWAY = (
    "SELECT coalesce(card.number, p.typed), c.state FROM pull p JOIN copy c ON c.pull_id = p.id "
    "LEFT JOIN card ON card.id = p.card_id WHERE {} AND p.undone_at IS NOT NULL "
    "AND (c.state IN ('out', 'sold', 'gone') OR EXISTS (SELECT 1 FROM grading_copy g JOIN grading_order o "
    "ON o.id = g.order_id WHERE g.copy_id = c.id AND g.back_on IS NULL AND o.undone_at IS NULL)) LIMIT 1"
)
_FOLLOW_SOME, _FOLLOW_ALL = text(_FOLLOW.format(_SOME)), text(_FOLLOW.format(_ALL))
_AWAY_SOME, _AWAY_ALL = text(_AWAY.format(_SOME)), text(_AWAY.format(_ALL))


def follow(session: Session, pulls: Sequence[int]) -> None:
    """Make or change the copies of some lines of a log as the lines stand now.

    Raises
    ------
    BoxStateError
        When a line is taken out whose copy has left or is out for grading.
    """
    session.flush()
    named = {"pulls": json.dumps(list(pulls))}
    _refuse_away(session.execute(_AWAY_SOME, named).first())
    session.execute(_FOLLOW_SOME, named)


def follow_box(session: Session, box_id: int) -> None:
    """Do the same for all lines of a box."""
    session.flush()
    _refuse_away(session.execute(_AWAY_ALL, {"box": box_id}).first())
    session.execute(_FOLLOW_ALL, {"box": box_id})


def _refuse_away(away: Any) -> None:
    if away is not None:
        where = WHERE_IT_IS.get(away[1], "is in a grading order that is not sent yet: take it out of it first")
        message = f"Nothing was changed. The card {away[0]} that would be taken out {where}."
        raise BoxStateError(message)


def set_owners(session: Session, owners: Mapping[int, int | None]) -> None:
    """Set whose the copies of some lines of a log are, by line."""
    for pull, owner in owners.items():
        session.execute(_OWNER, {"pull": pull, "owner": owner})


_OWNER = text("UPDATE copy SET owner_id = :owner WHERE pull_id = :pull AND owner_id IS NOT :owner")


def owned_counts(session: Session, cards: Sequence[int]) -> dict[int, int]:
    """How many copies of each card I hold, at most `MANY`."""
    return {row[0]: row[1] for row in session.execute(_OWNED, {"cards": list(cards)})}


def _owned() -> Select[Any]:
    some = select(CopyRecord.id).where(CopyRecord.card_id == CardRecord.id, mine_present())
    counted = select(func.count()).select_from(some.correlate(CardRecord).limit(MANY).subquery()).scalar_subquery()
    return select(CardRecord.id, counted).where(CardRecord.id.in_(bindparam("cards", expanding=True)))


# Built once: at the speed of logging, making a statement costs as much as running it.
_OWNED = _owned()


def copies_at_most(session: Session, most: int) -> int:
    """How many copies there are, counted up to some number: the answer takes no longer with a million."""
    return session.scalar(select(func.count()).select_from(select(CopyRecord.id).limit(most).subquery())) or 0


def copies_of_version(session: Session, card_id: int, parallel: str) -> list[CopyRecord]:
    """Return my copies of a version that are here, without a grade and in no order: those of boxes first."""
    c, g = CopyRecord, GradingCopyRecord
    in_order = select(g.id).where(g.copy_id == c.id, g.back_on.is_(None)).exists()
    wanted = select(c).where(
        c.card_id == card_id, c.parallel == parallel, is_mine(), c.state == "here", c.grade == ""
    )
    wanted = wanted.where(~in_order)
    return list(session.scalars(wanted.order_by(c.pull_id.is_(None), c.id).execution_options(populate_existing=True)))


def spare_copies(session: Session, cards: Sequence[int]) -> dict[int, list[int]]:
    """Return my plain copies beyond the first of each card, by card: here, in no order and offered nowhere."""
    c, g, found = CopyRecord, GradingCopyRecord, dict[int, list[int]]()
    in_order = select(g.id).where(g.copy_id == c.id, g.back_on.is_(None)).exists()
    plain = (c.parallel == "", c.grade == "", is_mine(), c.state == "here", ~in_order)
    for start in range(0, len(cards), AT_ONCE):
        some = list(cards[start : start + AT_ONCE])
        rows = session.execute(select(c.card_id, c.id).where(c.card_id.in_(some), *plain).order_by(c.id))
        for card, copy in rows:
            found.setdefault(card or 0, []).append(copy)
    return {card: copies[1:] for card, copies in found.items() if len(copies) > 1}


def here_by_finish(session: Session, card_id: int) -> dict[str, int]:
    """Count my copies of a card that have not left, by finish."""
    c = CopyRecord
    counted = select(c.parallel, func.count()).where(c.card_id == card_id, mine_present()).group_by(c.parallel)
    return dict(session.execute(counted.order_by(c.parallel)).all())


def copies_ever(session: Session, card_id: int) -> int:
    """Count all copies of a card there ever were, whoever owns them and wherever they went."""
    c = CopyRecord
    return session.scalar(select(func.count()).where(c.card_id == card_id, c.state != "void")) or 0


def cards_of_all(session: Session) -> dict[tuple[str, str, str], tuple[int, str]]:
    """Return the id and currency of every card of every checklist, by product, section and number."""
    c, s, p = CardRecord, SectionRecord, ProductRecord
    rows = session.execute(
        select(p.key, s.key, c.number, c.id, p.currency).join(s, s.id == c.section_id).join(p, p.id == s.product_id)
    )
    return {(product, section, number): (card, code) for product, section, number, card, code in rows}


def plain_counts(session: Session, section_ids: Sequence[int]) -> dict[int, tuple[int, int, int]]:
    """Return my plain copies there, those that left, and those in other finishes, by card."""
    c, found = CopyRecord, dict[int, list[int]]()
    rows = session.execute(
        select(c.card_id, c.parallel == "", is_present(), func.count())
        .join(CardRecord, CardRecord.id == c.card_id)
        .where(CardRecord.section_id.in_(section_ids), is_mine(), c.state != "void")
        .group_by(c.card_id, c.parallel == "", is_present())
    )
    for card, plain, present, count in rows:
        sums = found.setdefault(card or 0, [0, 0, 0])
        if present:
            sums[0 if plain else 2] += count
        elif plain:
            sums[1] += count
    return {card: (there, left, other) for card, (there, left, other) in found.items()}


def first_days(session: Session, product_id: int, section: str) -> dict[int, date]:
    """Return by card of a section the day on which the first plain copy of mine came."""
    c = CopyRecord
    rows = session.execute(
        select(c.card_id, func.min(func.coalesce(c.got_on, func.date(c.made_at))))
        .join(CardRecord, CardRecord.id == c.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id, SectionRecord.key == section)
        .where(c.parallel == "", c.state != "void", is_mine())
        .group_by(c.card_id)
    )
    return {card or 0: date.fromisoformat(str(day)) for card, day in rows}


def put_copies(session: Session, ids: Sequence[int], place: str) -> None:
    """Note where some copies lie."""
    session.execute(update(CopyRecord).where(CopyRecord.id.in_(ids)).values(place=place))


def any_copy(session: Session) -> bool:
    """Whether there is any copy at all."""
    return session.scalar(select(CopyRecord.id).limit(1)) is not None


def copies_alike(
    session: Session, card_id: int, parallel: str, *, grade: str = "", serial: int | None = None
) -> Sequence[CopyRecord]:
    """Return my copies of a version that are here or offered, in the order they came."""
    c = CopyRecord
    wanted = select(c).where(c.card_id == card_id, c.parallel == parallel, c.state.in_(("here", "listed")))
    wanted = wanted.where(is_mine(), c.grade == grade)
    if serial is not None:
        wanted = wanted.where(c.serial == serial)
    return session.scalars(wanted.order_by(c.id)).all()
