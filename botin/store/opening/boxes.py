"""Boxes and the copies logged from them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Integer, Row, Select, bindparam, case, func, select, text
from sqlalchemy.orm import Session, joinedload

from botin.core.errors import NotFoundError
from botin.store.copies.people import UNSETTLED
from botin.store.models import KEPT, BoxRecord, CardRecord, FormatRecord, ProductRecord, PullRecord, SectionRecord
from botin.store.models_copies import ME, CopyRecord, PartyRecord
from botin.store.once import once


@dataclass(frozen=True, slots=True)
class PullRow:
    """A line of a log with its checklist entry and its copy; one not on the checklist has only what was typed.

    ``owner`` is empty when the copy is mine, ``?`` while nobody knows whose it is.
    """

    id: int
    pack: int
    product_id: int | None
    section: str
    number: str
    name: str
    parallel: str
    serial: int | None
    run: int | None
    typed: str
    details: str
    candidates: str
    owner: str
    place: str
    card_id: int | None
    copy_id: int
    state: str
    grade: str
    logged_at: datetime

    @property
    def mine(self) -> bool:
        """Whether the copy is mine."""
        return not self.owner

    @property
    def unlisted(self) -> bool:
        """Whether it is not on the checklist (yet)."""
        return self.product_id is None


_BOX = (
    select(BoxRecord)
    .where(BoxRecord.id == bindparam("box"))
    .options(joinedload(BoxRecord.format).joinedload(FormatRecord.product))
)


def get_box(session: Session, box_id: int) -> BoxRecord:
    """Read a box with its format and product.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    box = once(session, ("box", box_id), lambda: session.scalar(_BOX, {"box": box_id}))
    if box is None:
        message = f"There is no box {box_id}. Go back to the shelf and pick one."
        raise NotFoundError(message)
    return box


def boxes_by_state(
    session: Session, state: str, limit: int = 200
) -> Sequence[Row[BoxRecord, FormatRecord, ProductRecord]]:
    """Return (box, format, product) of every box in a state, the latest bought first."""
    return session.execute(_BY_STATE, {"state": state, "most": limit}).all()


_BY_STATE = (
    select(BoxRecord, FormatRecord, ProductRecord)
    .join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
    .join(ProductRecord, ProductRecord.id == FormatRecord.product_id)
    .where(BoxRecord.state == bindparam("state"))
    .order_by(BoxRecord.bought_on.desc(), BoxRecord.id.desc())
    .limit(bindparam("most", type_=Integer))
)


def sealed_boxes(session: Session, product_id: int | None = None) -> Sequence[BoxRecord]:
    """Return the sealed boxes that are here (of one product), the longest there first, with format and product."""
    whole = joinedload(BoxRecord.format).joinedload(FormatRecord.product)
    wanted = select(BoxRecord).where(BoxRecord.state == "sealed", BoxRecord.delivery == "").options(whole)
    if product_id is not None:
        wanted = wanted.join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
        wanted = wanted.where(FormatRecord.product_id == product_id)
    return session.scalars(wanted.order_by(BoxRecord.bought_on, BoxRecord.id)).all()


def state_counts(session: Session) -> dict[str, int]:
    """How many boxes are in each state."""
    return once(session, "state counts", lambda: _state_counts(session))


def _state_counts(session: Session) -> dict[str, int]:
    found = session.execute(select(BoxRecord.state, func.count()).group_by(BoxRecord.state))
    return {state: count for state, count in found}  # noqa: C416  (a Row is not a pair for mypy)


def pull_counts(session: Session, box_ids: Sequence[int]) -> dict[int, int]:
    """How many copies each box has logged."""
    found = session.execute(_PULL_COUNTS, {"boxes": list(box_ids)})
    return {box: count for box, count in found}  # noqa: C416


_PULL_COUNTS = (
    select(PullRecord.box_id, func.count())
    .where(PullRecord.box_id.in_(bindparam("boxes", expanding=True)), PullRecord.undone_at.is_(None))
    .group_by(PullRecord.box_id)
)


def pulls_of(session: Session, box_id: int, pack: int | None = None) -> list[PullRow]:
    """Copies logged from a box (or one pack of it) in the order they came."""
    if pack is not None:
        return [_pull_row(row) for row in session.execute(_PULLS_OF_PACK, {"box": box_id, "pack": pack})]
    return list(once(session, ("lines", box_id), lambda: _lines_of(session, box_id)))


def _lines_of(session: Session, box_id: int) -> list[PullRow]:
    return [_pull_row(row) for row in session.execute(_PULLS, {"box": box_id})]


def lines_named(session: Session, pulls: Sequence[int]) -> list[PullRow]:
    """Return some lines of a log."""
    return [_pull_row(row) for row in session.execute(_LINES, {"pulls": list(pulls)})]


def _pulls() -> Select[Any]:
    p, c, s, y = PullRecord, CardRecord, SectionRecord, CopyRecord
    owner = case((y.owner_id == ME, ""), (y.owner_id.is_(None), UNSETTLED), else_=PartyRecord.name)
    own = (p.typed, p.details, p.candidates, owner, y.place, p.card_id, y.id, y.state, y.grade, p.logged_at)
    wanted: Any = select(p.id, p.pack, s.product_id, s.key, c.number, c.name, p.parallel, p.serial, p.run, *own)
    wanted = wanted.outerjoin(c, c.id == p.card_id).outerjoin(s, s.id == c.section_id)
    wanted = wanted.join(y, y.pull_id == p.id).outerjoin(PartyRecord, PartyRecord.id == y.owner_id)
    made: Select[Any] = wanted.where(p.undone_at.is_(None)).order_by(p.pack, p.id)
    return made


# Built once: at the speed of logging, making a statement costs as much as running it.
_PULLS = _pulls().where(PullRecord.box_id == bindparam("box"))
_LINES = _pulls().where(PullRecord.id.in_(bindparam("pulls", expanding=True)))
_PULLS_OF_PACK = _PULLS.where(PullRecord.pack == bindparam("pack"))


def _pull_row(row: Any) -> PullRow:
    section, number, name = row[3] or "", row[4] or "", row[5] or row[9]
    return PullRow(row[0], row[1], row[2], section, number, name, *row[6:])


def card_ids(session: Session, product_id: int, versions: Sequence[tuple[str, str]]) -> dict[tuple[str, str], int]:
    """Ids of checklist entries by (section, number)."""
    numbers = sorted({number for _, number in versions})
    found = session.execute(_CARD_IDS, {"product": product_id, "numbers": numbers})
    return {(section, number): card for section, number, card in found}


_CARD_IDS = (
    select(SectionRecord.key, CardRecord.number, CardRecord.id)
    .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
    .where(
        SectionRecord.product_id == bindparam("product"),
        CardRecord.number.in_(bindparam("numbers", expanding=True)),
    )
)


def logged_in_pack(session: Session, box: BoxRecord, pack: int) -> set[tuple[str, str]]:
    """Return the cards that are logged in a pack already."""
    rows = session.execute(
        select(SectionRecord.key, CardRecord.number)
        .join(CardRecord, CardRecord.section_id == SectionRecord.id)
        .join(PullRecord, PullRecord.card_id == CardRecord.id)
        .where(PullRecord.box_id == box.id, PullRecord.pack == pack, PullRecord.undone_at.is_(None))
    )
    return {(section, number) for section, number in rows}


def boxes_in_state(session: Session, state: str, limit: int) -> Sequence[BoxRecord]:
    """Return boxes in a state with their formats and products, by when they came to it, the longest there first."""
    b = BoxRecord
    order = b.opened_at if state == "open" else b.id
    wanted = select(b).where(b.state == state).options(joinedload(b.format).joinedload(FormatRecord.product))
    return session.scalars(wanted.order_by(order).limit(limit)).all()


def boxes_with_packs_kept(session: Session, limit: int) -> Sequence[BoxRecord]:
    """Return closed boxes of which packs were kept sealed, with formats and products, the latest closed first."""
    return session.scalars(_KEPT, {"most": limit}).all()


_KEPT = (
    select(BoxRecord)
    .where(BoxRecord.state == "closed", text(KEPT))  # in these words, so that the small index of them is used
    .options(joinedload(BoxRecord.format).joinedload(FormatRecord.product))
    .order_by(BoxRecord.closed_at.desc())
    .limit(bindparam("most", type_=Integer))
)


def boxes_by_product(session: Session) -> dict[int, int]:
    """Count the boxes of each product, those removed aside."""
    rows = session.execute(_BY_PRODUCT)
    return {product: count for product, count in rows}  # noqa: C416  (a Row is not a pair for mypy)


_BY_PRODUCT = (
    select(FormatRecord.product_id, func.count(BoxRecord.id))
    .join(BoxRecord, BoxRecord.format_id == FormatRecord.id)
    .where(BoxRecord.state != "removed")
    .group_by(FormatRecord.product_id)
)
