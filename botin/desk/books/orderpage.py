"""One order of boxes and singles as a page: its lines with their parts of postage and tax, and where each is."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.books.orders import ARRIVED, ORDERED
from botin.core.books.results import Result
from botin.core.money import Money
from botin.desk.books.purchases import get_purchase
from botin.desk.workbench import Workbench
from botin.store.books.postings import paid_for, results_of_purchase
from botin.store.books.purchases import boxes_of, copies_of
from botin.store.copies.copies import copy_words
from botin.store.models import BoxRecord
from botin.store.models_books import PurchaseRecord
from botin.store.models_copies import CopyRecord, PartyRecord


@dataclass(frozen=True, slots=True)
class BoxRow:
    """A box of the order, in its own currency."""

    box: BoxRecord
    price: Money
    shared: Money

    @property
    def total(self) -> Money:
        """Price and its part of postage and tax."""
        return self.price + self.shared


@dataclass(frozen=True, slots=True)
class SingleRow:
    """A card of the order; ``cost`` is empty until it is paid."""

    copy: CopyRecord
    words: str
    cost: Money | None


@dataclass(frozen=True)
class OrderPage:
    """Everything the page of an order shows."""

    record: PurchaseRecord
    seller: PartyRecord | None
    boxes: tuple[BoxRow, ...]
    singles: tuple[SingleRow, ...]
    results: tuple[Result, ...] = ()

    @property
    def totals(self) -> tuple[Money, ...]:
        """What all of it cost, by currency."""
        found: dict[str, Money] = {}
        costs = [row.total for row in self.boxes] + [row.cost for row in self.singles if row.cost is not None]
        for money in costs:
            found[money.currency] = found.get(money.currency, Money(0, money.currency)) + money
        return tuple(found.values())

    @property
    def ordered(self) -> bool:
        """Whether it is not paid yet."""
        return self.record.state == ORDERED

    @property
    def arrived(self) -> bool:
        """Whether all of it is here."""
        return self.record.state == ARRIVED


def order_page(session: Session, _bench: Workbench, purchase_id: int) -> OrderPage:
    """Read an order.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    record = get_purchase(session, purchase_id)
    copies = copies_of(session, purchase_id)
    costs = paid_for(session, [copy.id for copy in copies])
    seller = session.get(PartyRecord, record.seller_id) if record.seller_id else None
    boxes = (
        BoxRow(box, Money(box.price_minor, box.currency), Money(box.shipping_minor + box.tax_minor, box.currency))
        for box in boxes_of(session, purchase_id)
    )
    singles = (SingleRow(copy, copy_words(session, copy), costs.get(copy.id)) for copy in copies)
    results = tuple(results_of_purchase(session, purchase_id)) if record.undone_at is None else ()
    return OrderPage(record, seller, tuple(boxes), tuple(singles), results)
