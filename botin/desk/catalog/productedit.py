"""A product that is done with: removed when nothing hangs on it, else set aside."""

from __future__ import annotations

from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError
from botin.desk.workbench import Workbench
from botin.store.catalog.history import fresh_key, note_change
from botin.store.catalog.lists import hangs_on
from botin.store.catalog.products import forget_product
from botin.store.models import (
    ProductRecord,
)
from botin.store.unit import finish


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
    forget_product(session, record)
    finish(session)


def set_aside(session: Session, bench: Workbench, record: ProductRecord, *, aside: bool) -> None:
    """Take a product out of the lists one chooses from, or back into them; what is logged of it stays."""
    if record.set_aside != aside:
        key = fresh_key(bench.now(), f"aside-{record.id}")
        note_change(session, bench.now(), key, "product", record.id, {"set_aside": (record.set_aside, aside)})
        record.set_aside = aside
        finish(session)
