"""Purchases as orders: boxes and singles of one seller in one parcel, on their way until they arrive."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from botin.core.books.orders import (
    ARRIVED,
    IN_PART,
    ORDERED,
    PAID,
    STATES,
    UNDER_WAY,
    ItemCost,
    in_currency,
    share_parcel,
)
from botin.core.books.posting import AmountError
from botin.core.errors import BoxStateError, NotFoundError
from botin.core.money import Money
from botin.desk.books.booking import book_acquired, book_box, unbook_acquired, unbook_box
from botin.desk.books.singles import SingleLine, known_of
from botin.desk.pricing.rates import rate_on
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.books.purchases import boxes_of, copies_of
from botin.store.copies.people import party_named
from botin.store.keys import stored_under
from botin.store.models import BoxRecord, FormatRecord, ProductRecord
from botin.store.models_books import PurchaseRecord
from botin.store.models_copies import CopyRecord
from botin.store.opening.boxes import card_ids
from botin.store.selling.sales import listing_of_box
from botin.store.unit import finish

MOST_BOXES, MOST_SINGLES = 60, 200


@dataclass(frozen=True, slots=True)
class BoxLine:
    """Some boxes of a format at the same price each."""

    format_id: int
    quantity: int
    price: Money
    label: str = ""


@dataclass(frozen=True, slots=True)
class Order:
    """What was bought from one seller in one go; amounts in the currency that was paid."""

    bought_on: date
    seller: str
    shipping: Money
    tax: Money
    state: str
    boxes: tuple[BoxLine, ...]
    singles: tuple[SingleLine, ...] = ()
    rate: str = ""
    due_on: date | None = None
    note: str = ""

    @property
    def currency(self) -> str:
        """Currency that was paid."""
        return self.shipping.currency

    @property
    def prices(self) -> list[Money]:
        """Price of each thing, boxes first."""
        boxes = [line.price for line in self.boxes for _ in range(line.quantity)]
        return [*boxes, *(line.price for line in self.singles)]

    @property
    def total(self) -> Money:
        """All that is paid for it."""
        return sum(self.prices, self.shipping + self.tax)


def place_order(session: Session, bench: Workbench, client_key: str, order: Order) -> PurchaseRecord:
    """Store a purchase with everything in it, all or nothing; the same key again gives the same purchase.

    Raises
    ------
    AmountError
        When nothing is in it, too much is, or an amount is below nothing.
    NotFoundError
        When a format or card is not there.
    NoRateError
        When it was paid in another currency and no rate is known.
    StaleFormError
        When the key was used for another purchase.
    """
    known = stored_under(session, PurchaseRecord, client_key)
    if known is not None:
        same_again(known, bought_on=order.bought_on, shipping_minor=order.shipping.minor, tax_minor=order.tax.minor)
        return known
    _check(order, bench.today())
    seller = party_named(session, order.seller, bench.now()).id if order.seller.strip() else None
    made = PurchaseRecord(
        client_key=client_key, bought_on=order.bought_on, seller_id=seller, currency=order.currency, rate=order.rate,
        shipping_minor=order.shipping.minor, tax_minor=order.tax.minor, state=order.state, due_on=order.due_on,
        note=order.note.strip()[:300], made_at=bench.now(),
    )  # fmt: skip
    session.add(made)
    session.flush()
    _check_rate(session, order)
    costs = share_parcel(order.prices, order.shipping, order.tax)
    count = sum(line.quantity for line in order.boxes)
    boxes = _boxes(session, made, order, costs[:count])
    copies = _copies(session, bench, made, order)
    session.flush()
    if order.state != ORDERED:
        _book(session, bench, made, list(zip(boxes, costs[:count], strict=True)))
        _book_singles(session, bench, made, list(zip(copies, costs[count:], strict=True)))
    else:
        made.to_pay = ",".join(str(cost.total.minor) for cost in costs[count:])
    finish(session)
    return made


def _check(order: Order, today: date) -> None:
    count = sum(line.quantity for line in order.boxes)
    if order.state not in STATES or order.state == IN_PART:
        message = f"“{order.state}” is none of {', '.join(state for state in STATES if state != IN_PART)}."
        raise AmountError(message)
    if not count and not order.singles:
        message = "Nothing was stored: an order needs a box or a card in it."
        raise AmountError(message)
    if count > MOST_BOXES or len(order.singles) > MOST_SINGLES or any(line.quantity < 1 for line in order.boxes):
        message = f"An order takes 1 to {MOST_BOXES} boxes and up to {MOST_SINGLES} singles. Write it as several."
        raise AmountError(message)
    if any(money.minor < 0 for money in (*order.prices, order.shipping, order.tax)):
        message = "A price is not negative. Write what you paid, or 0 for a gift."
        raise AmountError(message)
    if order.bought_on > today and order.state != ORDERED:
        message = f"{order.bought_on.isoformat()} lies ahead. Write the day it was paid, or keep it as pre-ordered."
        raise AmountError(message)


def _check_rate(session: Session, order: Order) -> None:
    """Refuse a rate that nothing of the order would use."""
    formats = [session.get(FormatRecord, line.format_id) for line in order.boxes]
    products = {line.product_id for line in order.singles}
    codes = {fmt.product.currency for fmt in formats if fmt is not None} | {
        session.get_one(ProductRecord, product).currency for product in products
    }
    if order.rate and codes == {order.currency}:
        message = (
            f"Everything in it is of {order.currency}, so no rate is needed. Take it out, or correct the currency."
        )
        raise AmountError(message)


def _rate(session: Session, made: PurchaseRecord, currency: str) -> Decimal:
    """What one unit of the purchase's currency was worth: as written beside it, else by the rates of its day."""
    if made.currency == currency:
        return Decimal(1)
    return (
        Decimal(made.rate) if made.rate else Decimal(str(rate_on(session, made.currency, currency, made.bought_on)))
    )


def _boxes(session: Session, made: PurchaseRecord, order: Order, costs: Sequence[ItemCost]) -> list[BoxRecord]:
    found: list[BoxRecord] = []
    lines = [line for line in order.boxes for _ in range(line.quantity)]
    for place, (line, cost) in enumerate(zip(lines, costs, strict=True)):
        fmt = session.get(FormatRecord, line.format_id)
        if fmt is None:
            message = "That format is not in the library any more. Pick another one."
            raise NotFoundError(message)
        currency = fmt.product.currency
        own = cost.turned(_rate(session, made, currency), currency)
        found.append(
            BoxRecord(
                client_key=f"{made.client_key}:box:{place}", format_id=fmt.id, label=line.label.strip()[:80],
                bought_on=made.bought_on, price_minor=own.price.minor, shipping_minor=own.shipping.minor,
                tax_minor=own.tax.minor, currency=currency, purchase_id=made.id, delivery=_delivery(made.state),
            )
        )  # fmt: skip
    session.add_all(found)
    return found


def _delivery(state: str) -> str:
    return "" if state == ARRIVED else ORDERED if state == ORDERED else UNDER_WAY


def _copies(session: Session, bench: Workbench, made: PurchaseRecord, order: Order) -> list[CopyRecord]:
    found: list[CopyRecord] = []
    for place, line in enumerate(order.singles):
        known = line.item.known
        ids = card_ids(session, line.product_id, [(known.section, known.number)])
        found.append(
            CopyRecord(
                client_key=f"{made.client_key}:{place}", card_id=ids[(known.section, known.number)],
                parallel=line.item.parallel, serial=line.item.serial, run=line.item.run, grade=line.grade,
                came="bought", source=order.seller.strip()[:120], got_on=made.bought_on, made_at=bench.now(),
                state="here" if made.state == ARRIVED else "coming", purchase_id=made.id,
                **known_of(line.item),
            )
        )  # fmt: skip
    session.add_all(found)
    return found


def _book(
    session: Session, bench: Workbench, made: PurchaseRecord, boxes: Sequence[tuple[BoxRecord, ItemCost]]
) -> None:
    for box, cost in boxes:
        with_ = cost.total if box.currency != made.currency else None
        book_box(session, bench, box, with_, made.seller_id)


def _book_singles(
    session: Session, bench: Workbench, made: PurchaseRecord, copies: Sequence[tuple[CopyRecord, ItemCost]]
) -> None:
    for copy, cost in copies:
        currency = _currency_of(session, copy)
        own = in_currency(cost.total, _rate(session, made, currency), currency)
        with_ = cost.total if currency != made.currency else None
        book_acquired(session, bench, copy, own, made.seller_id, with_)


def _currency_of(session: Session, copy: CopyRecord) -> str:
    from botin.store.catalog.products import product_of_card  # noqa: PLC0415

    return session.get_one(ProductRecord, product_of_card(session, copy.card_id or 0)).currency


def get_purchase(session: Session, purchase_id: int) -> PurchaseRecord:
    """Read a purchase.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = session.get(PurchaseRecord, purchase_id)
    if found is None:
        message = "There is no such order. Go back to the shelf."
        raise NotFoundError(message)
    return found


def pay(session: Session, bench: Workbench, purchase_id: int, day: date) -> PurchaseRecord:
    """Say that a pre-order was paid: from then on it is in the books. Paid already, nothing changes."""
    made = get_purchase(session, purchase_id)
    if made.state != ORDERED or made.undone_at is not None:
        return made
    if day > bench.today():
        message = f"{day.isoformat()} lies ahead. Write the day it was paid."
        raise AmountError(message)
    made.state, made.bought_on = PAID, day
    for box in boxes_of(session, made.id):
        box.bought_on, box.delivery = day, UNDER_WAY
        own = Money(box.price_minor + box.shipping_minor + box.tax_minor, box.currency)
        rate = _rate(session, made, box.currency)
        with_ = in_currency(own, 1 / rate, made.currency) if box.currency != made.currency else None
        book_box(session, bench, box, with_, made.seller_id)
    copies, nothing = copies_of(session, made.id), Money(0, made.currency)
    totals = [Money(int(part), made.currency) for part in made.to_pay.split(",")] if made.to_pay else []
    costs = [ItemCost(total, nothing, nothing) for total in totals]
    _book_singles(session, bench, made, list(zip(copies, costs, strict=True)))
    made.to_pay = ""
    finish(session)
    return made


def send_off(session: Session, purchase_id: int, due_on: date | None) -> PurchaseRecord:
    """Say that a paid order is on its way, and when it should be here."""
    made = get_purchase(session, purchase_id)
    if made.state == ORDERED:
        message = "It is not paid yet. Say first that it was paid."
        raise BoxStateError(message)
    if made.state in (PAID, UNDER_WAY):
        made.state, made.due_on = UNDER_WAY, due_on
        finish(session)
    return made


def arrive(
    session: Session, bench: Workbench, purchase_id: int, boxes: Sequence[int], copies: Sequence[int]
) -> PurchaseRecord:
    """Say what of an order arrived; all of it when nothing is named.

    Raises
    ------
    BoxStateError
        When it is not paid yet: then what arrives would be in no book.
    NotFoundError
        When something that is named is not of this order.
    """
    made = get_purchase(session, purchase_id)
    if made.state == ORDERED:
        message = "It is not paid yet. Say first that it was paid."
        raise BoxStateError(message)
    every = not boxes and not copies
    own_boxes, own_copies = boxes_of(session, made.id), copies_of(session, made.id)
    strange = {*boxes} - {box.id for box in own_boxes} or {*copies} - {copy.id for copy in own_copies}
    if strange:
        message = "What you ticked is not of this order. Reload the page, and tick what arrived."
        raise NotFoundError(message)
    for box in own_boxes:
        if every or box.id in boxes:
            box.delivery = ""
    for copy in own_copies:
        if copy.state == "coming" and (every or copy.id in copies):
            copy.state, copy.got_on = "here", bench.today()
    left = [box for box in own_boxes if box.delivery] + [copy for copy in own_copies if copy.state == "coming"]
    made.state = IN_PART if left else ARRIVED
    finish(session)
    return made


def cancel(session: Session, bench: Workbench, purchase_id: int) -> PurchaseRecord:
    """Take a whole purchase back, as if it had not been: boxes, singles and money.

    Raises
    ------
    BoxStateError
        When a box of it was opened or a single has left.
    """
    made = get_purchase(session, purchase_id)
    if made.undone_at is not None:
        return made
    boxes, copies = boxes_of(session, made.id), copies_of(session, made.id)
    if any(box.state != "sealed" for box in boxes) or any(copy.state not in ("here", "coming") for copy in copies):
        message = "A box of it was opened, or a card of it has left: it was bought. Correct what is wrong there."
        raise BoxStateError(message)
    if any(listing_of_box(session, box.id) is not None for box in boxes):
        message = "A box of it is offered for sale. Take it off under Sales first."
        raise BoxStateError(message)
    for box in boxes:
        unbook_box(session, bench, box)
        box.state = "removed"
    for copy in copies:
        unbook_acquired(session, bench, copy)
        copy.state, copy.void_at = "void", bench.now()
    made.undone_at = bench.now()
    finish(session)
    return made
