"""Packs and photos of boxes, and what was typed beside them."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from botin.store.models import BoxPackRecord, BoxRecord, PhotoRecord, ProductRecord, PullRecord


def counts_by_pack(session: Session, boxes: Collection[int]) -> dict[int, dict[int, int]]:
    """Return the base cards that were only counted, by box and pack."""
    found: dict[int, dict[int, int]] = {}
    rows = session.execute(
        select(BoxPackRecord.box_id, BoxPackRecord.number, BoxPackRecord.base_count).where(
            BoxPackRecord.box_id.in_(boxes), BoxPackRecord.base_count.is_not(None)
        )
    )
    for box, pack, count in rows:
        found.setdefault(box, {})[pack] = count or 0
    return found


def has_owners(session: Session, box: BoxRecord) -> bool:
    """Whether anything of a box is somebody else's by its spots or its packs."""
    if box.owners.strip():
        return True
    return session.scalar(_OWNED_PACK, {"box": box.id}) is not None


def product_of_pack(session: Session, box: BoxRecord, pack: int) -> ProductRecord:
    """Return the product whose checklist holds for a pack: in a mixed box each pack may have its own."""
    own = session.scalar(_PRODUCT_OF_PACK, {"box": box.id, "pack": pack})
    return session.get_one(ProductRecord, own) if own is not None else box.format.product


# Built once: at the speed of logging, making a statement costs as much as running it.
_OWNED_PACK = (
    select(BoxPackRecord.id).where(BoxPackRecord.box_id == bindparam("box"), BoxPackRecord.owner != "").limit(1)
)
_PRODUCT_OF_PACK = select(BoxPackRecord.product_id).where(
    BoxPackRecord.box_id == bindparam("box"), BoxPackRecord.number == bindparam("pack")
)
_PACKS = select(BoxPackRecord).where(BoxPackRecord.box_id == bindparam("box")).order_by(BoxPackRecord.number)


def count_logged(session: Session, box_id: int) -> int:
    """How many copies are logged from a box, base that was only counted included."""
    alive = (PullRecord.box_id == box_id, PullRecord.undone_at.is_(None))
    logged = session.scalar(select(func.count()).select_from(PullRecord).where(*alive)) or 0
    counted = session.scalar(select(func.sum(BoxPackRecord.base_count)).where(BoxPackRecord.box_id == box_id)) or 0
    return logged + counted


def _logged_in(session: Session, box_id: int, pack: int) -> int:
    here = (PullRecord.box_id == box_id, PullRecord.pack == pack, PullRecord.undone_at.is_(None))
    return session.scalar(select(func.count()).select_from(PullRecord).where(*here)) or 0


def photos_of(session: Session, box_id: int) -> Sequence[PhotoRecord]:
    """Return the photos of a box."""
    return session.scalars(select(PhotoRecord).where(PhotoRecord.box_id == box_id).order_by(PhotoRecord.id)).all()


def pack_row(session: Session, box_id: int, number: int) -> BoxPackRecord:
    """Return the row of a pack, made when it is not there."""
    wanted = select(BoxPackRecord).where(BoxPackRecord.box_id == box_id, BoxPackRecord.number == number)
    found = session.scalar(wanted)
    if found is None:
        found = BoxPackRecord(box_id=box_id, number=number, flags="", owner="", note="")
        session.add(found)
        session.flush()
    return found


def last_pack(session: Session, box_id: int) -> int:
    """Return the last pack of a box of which a card is logged; 0 when none is."""
    wanted = select(func.max(PullRecord.pack)).where(PullRecord.box_id == box_id, PullRecord.undone_at.is_(None))
    return session.scalar(wanted) or 0


def lines_logged(session: Session, box_id: int) -> int:
    """Count the cards that are logged from a box, base that was only counted aside."""
    alive = (PullRecord.box_id == box_id, PullRecord.undone_at.is_(None))
    return session.scalar(select(func.count()).where(*alive)) or 0


def logged_at(session: Session, box_id: int) -> dict[int, datetime]:
    """Return when each line of a box was logged."""
    rows = session.execute(select(PullRecord.id, PullRecord.logged_at).where(PullRecord.box_id == box_id))
    return {pull: when for pull, when in rows}  # noqa: C416  (a Row is not a pair for mypy)


def pack_rows(session: Session, box_id: int) -> Sequence[BoxPackRecord]:
    """Return what was noted of the packs of a box, in their order."""
    return session.scalars(_PACKS, {"box": box_id}).all()


def has_photo(session: Session, box_id: int, file: str) -> bool:
    """Whether a box has a photo already."""
    p = PhotoRecord
    return session.scalar(select(p.id).where(p.box_id == box_id, p.file == file)) is not None


def same_serial(
    session: Session, card_id: int, parallel: str, serial: int | None, run: int | None
) -> PullRecord | None:
    """Return the line under which the very same numbered card is logged already."""
    p = PullRecord
    same = (p.card_id == card_id, p.parallel == parallel, p.serial == serial, p.run == run, p.undone_at.is_(None))
    return session.scalar(select(p).where(*same))


def box_with_key(session: Session, keys: Sequence[str]) -> BoxRecord | None:
    """Return the box that was stored under one of some keys."""
    return session.scalar(select(BoxRecord).where(BoxRecord.client_key.in_(keys)).limit(1))


def opened_of_case(session: Session, case_label: str, format_id: int) -> Sequence[BoxRecord]:
    """Return the boxes of a case that are not sealed any more."""
    b = BoxRecord
    same = (b.case_label == case_label, b.format_id == format_id, b.state != "sealed")
    return session.scalars(select(b).where(*same)).all()
