"""A product that is done with: removed when nothing hangs on it, else set aside."""

from __future__ import annotations

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError
from botin.desk.workbench import Workbench
from botin.store.catalog.history import fresh_key, note_change
from botin.store.catalog.index import forget_cards
from botin.store.models import (
    BoxRecord,
    CardRecord,
    CorrectionRecord,
    DraftRecord,
    FormatRecord,
    ProductRecord,
    SectionRecord,
)
from botin.store.models_copies import CopyRecord
from botin.store.unit import finish


def hangs_on(session: Session, record: ProductRecord) -> tuple[str, ...]:
    """Return what keeps a product from being removed, in words: boxes and copies."""
    boxes = select(func.count()).select_from(BoxRecord).join(FormatRecord, FormatRecord.id == BoxRecord.format_id)
    copies = (
        select(func.count())
        .select_from(CopyRecord)
        .join(CardRecord, CardRecord.id == CopyRecord.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
    )
    asked = (
        ("box", "boxes", boxes.where(FormatRecord.product_id == record.id)),
        ("copy", "copies", copies.where(SectionRecord.product_id == record.id)),
    )
    counts = ((one, many, session.scalar(query) or 0) for one, many, query in asked)
    return tuple(f"{count:,} {one if count == 1 else many}" for one, many, count in counts if count)


def remove_product(session: Session, bench: Workbench, record: ProductRecord) -> None:
    """Remove a product of which nothing was bought or logged, with its checklist, prices and decisions.

    The draft it was made of is kept: it can be stored again.

    Raises
    ------
    BoxStateError
        When something hangs on it: then it can be set aside.
    """
    kept = hangs_on(session, record)
    if kept:
        message = f"{record.name} stays: {', '.join(kept)} hang on it. Set it aside instead."
        raise BoxStateError(message)
    note_change(
        session, bench.now(), f"remove-product-{record.id}", "product", record.id, {"name": (record.name, "")}
    )
    forget_cards(session, record.id)
    for draft in session.scalars(select(DraftRecord).where(DraftRecord.product_id == record.id)):
        draft.product_id = draft.stored_at = None
    session.execute(delete(CorrectionRecord).where(CorrectionRecord.product_id == record.id))
    session.delete(record)
    finish(session)


def set_aside(session: Session, bench: Workbench, record: ProductRecord, *, aside: bool) -> None:
    """Take a product out of the lists one chooses from, or back into them; what is logged of it stays."""
    if record.set_aside != aside:
        key = fresh_key(bench.now(), f"aside-{record.id}")
        note_change(session, bench.now(), key, "product", record.id, {"set_aside": (record.set_aside, aside)})
        record.set_aside = aside
        finish(session)
