"""The flags of all copies: filtered and sorted as one object, in SQL and in words; counted; put in place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from sqlalchemy import Row, Select, case, delete, func, insert, select, union_all, update
from sqlalchemy.orm import Session

from botin.core.flags.ways import Go
from botin.core.money import EXPONENTS
from botin.store.copies.copies import is_elsewhere, is_mine
from botin.store.grading.orders import promised_copies
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, FlagRecord


def _units() -> Any:
    """Minor units in a major one of the product's currency, in SQL."""
    return case(*((ProductRecord.currency == code, 10**places) for code, places in EXPONENTS.items()), else_=100)


def own_routes(session: Session, card_ids: Sequence[int]) -> dict[tuple[int, str], str]:
    """Return the user's own choice for versions of some cards, where one was made."""
    v = FlagRecord
    rows = session.execute(
        select(v.card_id, v.parallel, v.chosen).where(
            v.card_id.in_(list(card_ids)), v.chosen != "", v.copy_id.is_(None)
        )
    )
    return {(card, parallel): chosen for card, parallel, chosen in rows}


@cache
def waiting_cards() -> Select[int]:
    """Return the question of `waiting`; every page asks it, so it is put together once."""
    v = FlagRecord
    wanted = v.go.in_([Go.GRADE.value, Go.LOOK.value]) & (v.chosen == "")
    c = CopyRecord
    gone = union_all(select(c.id).where(is_elsewhere("out")), promised_copies())
    out = select(c.card_id, c.parallel, func.count().label("n")).where(c.id.in_(gone), is_mine())
    away = out.group_by(c.card_id, c.parallel).subquery()
    left = union_all(select(c.id).where(is_elsewhere("out", "sold", "gone")), promised_copies())
    alone = v.copy_id.in_(left)
    same = (away.c.card_id == v.card_id) & (away.c.parallel == v.parallel)
    here = (v.copy_id.is_(None) & (func.coalesce(away.c.n, 0) < v.copies)) | (v.copy_id.is_not(None) & ~alone)
    return select(func.count()).select_from(v).outerjoin(away, same).where(wanted, here)


PAGE = 60


SORTS = {
    "net": ("what it nets", FlagRecord.net.desc()),
    "margin": ("margin", FlagRecord.margin.desc()),
    "price": ("raw price", FlagRecord.price.desc()),
    "copies": ("copies", FlagRecord.copies.desc()),
    "loss": ("chance to lose", FlagRecord.loss_permille.desc()),
}


@dataclass(frozen=True, slots=True)
class BoardFilter:
    """What the flag board shows: filter and sort as one object, in SQL and in words."""

    go: str = ""
    product_id: int = 0
    words: str = ""
    least: float = 0.0
    unsure: bool = False
    sort: str = "net"
    page: int = 1

    def describe(self) -> str:
        """Return the filter in words."""
        parts = [self.go or "all flags"]
        parts += [f"named “{self.words}”"] if self.words else []
        parts += [f"netting {self.least:g} or more"] if self.least else []
        parts += ["whose verdict is not sure"] if self.unsure else []
        return ", ".join(parts) + f", by {SORTS[self.sort][0] if self.sort in SORTS else 'net'}"

    def conditions(self) -> list[Any]:
        """Return the SQL of it."""
        v = FlagRecord
        found: list[Any] = []
        if self.go:
            found.append(func.coalesce(func.nullif(v.chosen, ""), v.go) == self.go)
        if self.product_id:
            found.append(v.product_id == self.product_id)
        if self.words:
            found.append(CardRecord.name.contains(self.words, autoescape=True))
        if self.least:
            found.append(v.net >= self.least * _units())
        if self.unsure:
            found.append(v.flips)
        return found


@dataclass(frozen=True)
class RouteBoard:
    """One page of the board, and the totals by route and currency over everything (minor units)."""

    rows: tuple[tuple[FlagRecord, CardRecord, str, str, CopyRecord | None], ...]
    more: bool
    totals: tuple[tuple[str, str, int, int, int], ...]
    versions: int


def flag_board(session: Session, wanted: BoardFilter) -> RouteBoard:
    """Read a page of the board."""
    v = FlagRecord
    go = func.coalesce(func.nullif(v.chosen, ""), v.go)
    order = SORTS.get(wanted.sort, SORTS["net"])[1]
    rows = session.execute(
        select(v, CardRecord, ProductRecord.name, ProductRecord.currency, CopyRecord)
        .outerjoin(CopyRecord, CopyRecord.id == v.copy_id)
        .join(CardRecord, CardRecord.id == v.card_id)
        .join(ProductRecord, ProductRecord.id == v.product_id)
        .where(*wanted.conditions())
        .order_by(order, v.id)
        .offset((max(1, wanted.page) - 1) * PAGE)
        .limit(PAGE + 1)
    ).all()
    totals = session.execute(
        select(go, ProductRecord.currency, func.count(), func.sum(v.copies), func.sum(v.net * v.copies))
        .join(ProductRecord, ProductRecord.id == v.product_id)
        .group_by(go, ProductRecord.currency)
        .order_by(func.sum(v.net * v.copies).desc())
    ).all()
    shown = tuple((row[0], row[1], row[2], row[3], row[4]) for row in rows[:PAGE])
    sums = tuple((word, code, count, copies or 0, net or 0) for word, code, count, copies, net in totals)
    return RouteBoard(shown, len(rows) > PAGE, sums, sum(row[2] for row in sums))


def set_flags(session: Session, ids: Sequence[int], word: str) -> tuple[int, Sequence[int]]:
    """Write the user's own choice beside some flags (empty takes it back); return how many, and of which cards."""
    some = FlagRecord.id.in_(list(ids))
    found = session.execute(update(FlagRecord).where(some).values(chosen=word))
    cards = session.scalars(select(FlagRecord.card_id).where(some).distinct()).all()
    return int(getattr(found, "rowcount", 0)), cards


def flags_of_section(session: Session, section: int) -> dict[int, str]:
    """Return the flag of each plain version of a section by card: my choice, else what was worked out."""
    v = FlagRecord
    rows = session.execute(
        select(v.card_id, func.coalesce(func.nullif(v.chosen, ""), v.go))
        .join(CardRecord, CardRecord.id == v.card_id)
        .where(CardRecord.section_id == section, v.parallel == "", v.copy_id.is_(None))
    )
    return {card: word for card, word in rows}  # noqa: C416  (a Row is not a pair for mypy)


def flag_of_copy(session: Session, copy_id: int) -> FlagRecord | None:
    """Return the flag a copy has of its own."""
    return session.scalar(select(FlagRecord).where(FlagRecord.copy_id == copy_id))


def flag_of_version(session: Session, card_id: int, parallel: str) -> FlagRecord | None:
    """Return the flag of the copies of a version that differ in nothing."""
    v = FlagRecord
    return session.scalar(select(v).where(v.card_id == card_id, v.parallel == parallel, v.copy_id.is_(None)))


def take_the_right_to_write(session: Session) -> None:
    """Take it before anything is read that is then written: a statement that changes nothing."""
    session.execute(delete(FlagRecord).where(FlagRecord.id < 0))


def replace_flags(session: Session, rows: Sequence[dict[str, Any]]) -> None:
    """Put flags in place of all there are; what was chosen by then is kept."""
    v = FlagRecord
    chosen = {
        (card, parallel, copy): word
        for card, parallel, copy, word in session.execute(
            select(v.card_id, v.parallel, v.copy_id, v.chosen).where(v.chosen != "")
        )
    }
    session.execute(delete(v))
    kept = [{**row, "chosen": chosen.get((row["card_id"], row["parallel"], row["copy_id"]), "")} for row in rows]
    if kept:
        session.execute(insert(v), kept)


def wanted_for_grading(session: Session, limit: int) -> Sequence[Row[FlagRecord, str, str, str, str]]:
    """Return flags that say grade or look, the largest margin first: flag, number, name, section and its kind."""
    v = FlagRecord
    return session.execute(
        select(v, CardRecord.number, CardRecord.name, SectionRecord.key, SectionRecord.kind)
        .join(CardRecord, CardRecord.id == v.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .outerjoin(CopyRecord, CopyRecord.id == v.copy_id)
        .where(v.go.in_([Go.GRADE.value, Go.LOOK.value]), v.chosen.in_(["", Go.GRADE.value]))
        .where(v.copy_id.is_(None) | ((CopyRecord.state == "here") & (CopyRecord.grade == "")))
        .order_by(v.margin.desc())
        .limit(limit)
    ).all()


def commons_here(session: Session, limit: int) -> Sequence[Row[int, str, str, str, int]]:
    """Return my ungraded copies whose flag is bulk: copy, section, number, finish and product."""
    v, c, k, s = FlagRecord, CopyRecord, CardRecord, SectionRecord
    return session.execute(
        select(c.id, s.key, k.number, c.parallel, s.product_id)
        .join(k, k.id == c.card_id)
        .join(s, s.id == k.section_id)
        .join(v, (v.card_id == c.card_id) & (v.parallel == c.parallel) & v.copy_id.is_(None))
        .where(v.go == Go.BULK.value, v.chosen.in_(("", Go.BULK.value)), c.state == "here", is_mine(), c.grade == "")
        .limit(limit)
    ).all()


def waiting(session: Session) -> int:
    """Count the versions to grade or look at that are here: neither decided by the user nor all out for grading."""
    return session.scalar(waiting_cards()) or 0
