"""A card of a checklist, found by its id."""

from __future__ import annotations

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Product
from botin.core.errors import NotFoundError
from botin.desk.workbench import Workbench
from botin.store.models import CardRecord, ProductRecord, SectionRecord


def find_card(session: Session, bench: Workbench, card_id: int) -> tuple[ProductRecord, Product, Card]:
    """Return a card with its product.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    row = session.get(CardRecord, card_id)
    if row is None:
        message = "That card is not on any checklist here. Look it up in the library."
        raise NotFoundError(message)
    section = session.get_one(SectionRecord, row.section_id)
    record = bench.record(session, section.product_id)
    product = bench.product(session, record)
    return record, product, product.card_by_number[(section.key, row.number)]
