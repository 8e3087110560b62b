"""A price that was typed wrongly: every price of a version as it is stored, one taken out, brought back again."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import NotFoundError
from botin.desk.workbench import Workbench
from botin.store.catalog.history import fresh_key, note_change
from botin.store.keys import stored_meanwhile
from botin.store.models import PriceRecord, ProductRecord
from botin.store.models_books import HistoryRecord
from botin.store.pricing.prices import removed_of
from botin.store.unit import finish

COLUMNS = (
    "product_id", "section", "number", "parallel", "grade", "amount_minor", "currency", "source", "kind",
)  # fmt: skip
SUBJECT = "price"


@dataclass(frozen=True, slots=True)
class Removed:
    """A price that was taken out and is not back."""

    id: int
    amount: int
    currency: str
    day: str


def removed_prices(session: Session, product_id: int, section: str, number: str, parallel: str) -> list[Removed]:
    """Return the prices of a version that were taken out, the latest first."""
    found = []
    for row in removed_of(session, SUBJECT, 200):
        was = json.loads(row.was)
        which = (was["product_id"], was["section"], was["number"], was["parallel"])
        if which == (product_id, section, number, parallel):
            found.append(Removed(row.id, was["amount_minor"], was["currency"], was["sold_on"] or ""))
    return found


def remove_price(session: Session, bench: Workbench, product_id: int, price_id: int) -> HistoryRecord:
    """Take a price out; everything that rests on it is worked out anew. It can be brought back.

    Raises
    ------
    NotFoundError
        When the product has no such price.
    """
    row = session.get(PriceRecord, price_id)
    if row is None or row.product_id != product_id:
        message = "That price is not there any more. Reload the page."
        raise NotFoundError(message)
    was = {name: getattr(row, name) for name in COLUMNS} | {
        "sold_on": row.sold_on.isoformat() if row.sold_on else None
    }
    key = fresh_key(bench.now(), f"price-{price_id}")
    note_change(session, bench.now(), key, SUBJECT, price_id, {"all": (json.dumps(was), "")})
    session.delete(row)
    session.get_one(ProductRecord, product_id).revision += 1
    finish(session)
    return stored_meanwhile(session, HistoryRecord, f"{key}:all")


def bring_back_price(session: Session, bench: Workbench, product_id: int, history_id: int) -> None:
    """Put a price back that was taken out; a second time it is there already.

    Raises
    ------
    NotFoundError
        When nothing was taken out under that number.
    """
    found = session.get(HistoryRecord, history_id)
    if found is None or found.subject != SUBJECT or json.loads(found.was or "{}").get("product_id") != product_id:
        message = "That price was not taken out. Reload the page."
        raise NotFoundError(message)
    if session.get(PriceRecord, found.row_id) is not None:
        return
    cells = json.loads(found.was)
    day = date.fromisoformat(cells["sold_on"]) if cells["sold_on"] else None
    session.add(PriceRecord(**{**cells, "id": found.row_id, "sold_on": day}))
    session.get_one(ProductRecord, product_id).revision += 1
    key = fresh_key(bench.now(), f"back-price-{found.id}")
    note_change(session, bench.now(), key, SUBJECT, found.row_id, {"all": ("", found.was)})
    finish(session)
