"""A sale is made: its copies leave, its price and fees go into the books, and it begins its road."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books import channelsales
from botin.core.books import posting as rules
from botin.core.books.posting import Basis
from botin.core.errors import BotinError, BoxStateError
from botin.core.money import Money
from botin.core.selling.packing import goes_by_authenticator
from botin.core.selling.road import Stop
from botin.desk.books.booking import about_box, basis_of, take_back, unbook_left
from botin.desk.selling.disposals import Disposal, check_disposal
from botin.desk.selling.sealedgoods import SealedGoods, leaves, never_left, sealed_goods
from botin.desk.sentagain import same_again
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event, bases, free_key, post
from botin.store.copies.copies import copy_words, get_copy, require_here
from botin.store.copies.people import party_named
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.models_selling import SaleLineRecord, SaleRecord, SaleStepRecord
from botin.store.opening.boxes import get_box
from botin.store.selling.sales import (
    copies_with_cards,
    end_box,
    end_copies,
    get_listing,
    get_sale,
    lines_of,
    sale_keyed,
)
from botin.store.unit import finish

MOST = 2_000
"""Cards of one sale; a choice."""
DIRECTLY = "buyer"
"""Who pays when a sale is on no channel that pays out."""


class SaleError(BotinError):
    """A sale that cannot be, with what to do."""

    status = 422


@dataclass(frozen=True, slots=True)
class Sold:
    """A sale as it is noted: of copies, or of a sealed box (or the packs kept of one) by its id.

    Attributes
    ----------
    shipping : Money
        What the buyer paid for shipping; nothing when the seller pays it.
    fee : Money
        What the channel takes, as known.
    checked : bool or None
        Whether it goes by the authenticator; by the price and the setting when it is None.
    weights : mapping
        Value of each copy, by which the price is shared; equal without any.
    forecast : mapping
        What was estimated that day, for the result.
    """

    channel: str
    buyer: str
    day: date
    price: Money
    shipping: Money
    fee: Money
    copies: tuple[int, ...] = ()
    address: str = ""
    listing: int = 0
    by_hand: bool = False
    checked: bool | None = None
    weights: Mapping[int, float] = field(default_factory=dict)
    forecast: Mapping[str, object] = field(default_factory=dict)
    note: str = ""
    box: int = 0


def payer_of(session: Session, bench: Workbench, sale: SaleRecord) -> int | None:
    """Return who owes what a sale brought: its channel; None when it was paid from hand to hand."""
    return None if sale.by_hand else party_named(session, sale.channel or DIRECTLY, bench.now()).id


def note_sale(session: Session, bench: Workbench, client_key: str, sold: Sold) -> SaleRecord:
    """Note a sale; the same key again gives the same one.

    Raises
    ------
    SaleError
        When nothing is sold, or for nothing, or the fee is above the price.
    BoxStateError
        When a copy is not here, is promised, or was sold already: then none is.
    """
    known = sale_keyed(session, client_key)
    if known is not None:
        same_again(known, price_minor=sold.price.minor, sold_on=sold.day, channel=sold.channel)
        return known
    _check(session, sold)
    copies, goods = _copies(session, bench, sold), _goods(session, bench, sold)
    sale = _recorded(session, bench, client_key, sold, copies, goods)
    if goods is not None:
        leaves(session, bench, sale, goods, sold.fee, payer_of(session, bench, sale))
        end_box(session, goods.box.id, sold.day)
    if copies:
        _book(session, bench, sale, sold, copies)
    _book_shipping(session, bench, sale)
    key = f"sale-sold-{sale.id}"
    session.add(SaleStepRecord(client_key=key, sale_id=sale.id, state=Stop.SOLD, day=sold.day, made_at=bench.now()))
    finish(session)
    return sale


def _recorded(
    session: Session, bench: Workbench, client_key: str, sold: Sold, copies: Sequence[CopyRecord],
    goods: SealedGoods | None,
) -> SaleRecord:  # fmt: skip
    checked = _is_checked(session, sold, copies) if sold.checked is None else sold.checked
    sale = SaleRecord(
        client_key=client_key, channel=sold.channel[:60], address=sold.address.strip()[:400], sold_on=sold.day,
        price_minor=sold.price.minor, shipping_minor=sold.shipping.minor, fee_minor=sold.fee.minor,
        currency=sold.price.currency, checked=checked, by_hand=sold.by_hand, listing_id=sold.listing or None,
        forecast=json.dumps(dict(sold.forecast)), note=sold.note.strip()[:200], made_at=bench.now(),
        box_id=sold.box or None, packs=goods.packs if goods is not None else 0,
    )  # fmt: skip
    if sold.buyer.strip():
        sale.buyer_id = party_named(session, sold.buyer, bench.now()).id
    session.add(sale)
    session.flush()
    return sale


def _is_checked(session: Session, sold: Sold, copies: Sequence[CopyRecord]) -> bool:
    """Whether it goes by the authenticator: a raw card above the threshold, and never a sealed box."""
    if sold.by_hand or sold.box:
        return False
    threshold, graded = load_settings(session).authenticate_above, all(copy.grade for copy in copies)
    return goes_by_authenticator(graded=graded, price=sold.price.major, threshold=threshold)


def _check(session: Session, sold: Sold) -> None:
    what = len(sold.copies) + bool(sold.box)
    if sold.price.minor <= 0 or not 1 <= what <= MOST:
        message = f"A sale has a price above 0 and 1 to {MOST:,} cards, or a sealed box."
        raise SaleError(message)
    if sold.box and sold.copies:
        message = "A sealed box is sold by itself: note the cards as a sale of their own, in one parcel."
        raise SaleError(message)
    if not 0 <= sold.fee.minor <= sold.price.minor or sold.shipping.minor < 0:
        message = "The fee is between nothing and the price, and shipping is not less than nothing."
        raise SaleError(message)
    listed = None if not sold.listing else get_listing(session, sold.listing)
    if listed is not None and listed.ended_on is not None:
        message = "That listing is over: what it offered was sold or taken off. Look at the sales."
        raise BoxStateError(message)


def _goods(session: Session, bench: Workbench, sold: Sold) -> SealedGoods | None:
    """Return the sealed box, or the packs, that a sale is of."""
    if not sold.box:
        return None
    goods = sealed_goods(session, sold.box)
    if goods.box.currency != sold.price.currency:
        message = f"Box {goods.box.id} is kept in {goods.box.currency}. Write the price in it."
        raise SaleError(message)
    if not goods.box.bought_on <= sold.day <= bench.today():
        message = f"{sold.day.isoformat()} lies ahead, or before it was bought. Write the day it was sold."
        raise SaleError(message)
    return goods


def _copies(session: Session, bench: Workbench, sold: Sold) -> list[CopyRecord]:
    found = [get_copy(session, one) for one in dict.fromkeys(sold.copies)]
    require_currency(session, sold.copies, sold.price.currency)
    for copy in found:
        require_here(copy)
        check_disposal(session, bench, copy, Disposal("sold", sold.day, sold.price, sold.fee))
    return found


def require_currency(session: Session, copies: Sequence[int], currency: str) -> None:
    """Refuse copies whose products are kept in another currency: an amount would be taken for what it is not.

    Raises
    ------
    SaleError
        With the first of them.
    """
    for one in copies_with_cards(session, copies).values():
        if one.product.currency != currency:
            message = f"{one.words} is kept in {one.product.currency}, the others in {currency}: note them apart."
            raise SaleError(message)


def _book(session: Session, bench: Workbench, sale: SaleRecord, sold: Sold, copies: Sequence[CopyRecord]) -> None:
    weights = [max(0.0, sold.weights.get(copy.id, 0.0)) for copy in copies]
    weights = weights if any(weights) else [1.0] * len(copies)
    shares = zip(rules.split(sold.price.minor, weights), rules.split(sold.fee.minor, weights), strict=True)
    payer, code = payer_of(session, bench, sale), sale.currency
    for place, (copy, (price, fee)) in enumerate(zip(copies, shares, strict=True)):
        gone = DisposalRecord(
            client_key=f"sale-{sale.id}:{place}", copy_id=copy.id, went="sold", left_on=sold.day, price_minor=price,
            costs_minor=fee, currency=code, came_in="", to=sold.buyer.strip()[:120], made_at=bench.now(),
        )  # fmt: skip
        basis = basis_of(session, copy)
        session.add(gone)
        session.flush()
        line = SaleLineRecord(sale_id=sale.id, copy_id=copy.id, disposal_id=gone.id, price_minor=price, fee_minor=fee)
        session.add(line)
        words = f"{copy_words(session, copy)} sold{f' by {sale.channel}' if sale.channel else ''}"
        event = Event("sale", sold.day, free_key(session, f"leave-{gone.id}"), words, sale.buyer_id)
        post(
            session,
            bench.now(),
            event,
            channelsales.sold_on_account(Money(price, code), Money(fee, code), basis, payer),
        )
        copy.state = "sold"
    end_copies(session, [copy.id for copy in copies], sold.day)


def _book_shipping(session: Session, bench: Workbench, sale: SaleRecord) -> None:
    """What the buyer paid for shipping."""
    if not sale.shipping_minor:
        return
    about, money = shares_of(session, sale, 1)[0][0].about, Money(sale.shipping_minor, sale.currency)
    key = free_key(session, f"shipping-{sale.id}")
    event = Event("sale", sale.sold_on, key, f"shipping of sale {sale.id}", sale.buyer_id)
    post(session, bench.now(), event, channelsales.shipping_charged(money, about, payer_of(session, bench, sale)))


def owed_for(sale: SaleRecord, refunds: int = 0) -> Money:
    """Return what the channel pays out for a sale: price and shipping less its fee and what was refunded."""
    return Money(sale.price_minor + sale.shipping_minor - sale.fee_minor - refunds, sale.currency)


def shares_of(session: Session, sale: SaleRecord, amount: int) -> list[tuple[Basis, Money]]:
    """Share an amount over the copies of a sale by their prices; a sealed box carries all of it."""
    if sale.box_id is not None:
        box = get_box(session, sale.box_id)
        return [(Basis(about_box(box), box.currency, {}), Money(amount, sale.currency))]
    lines = lines_of(session, [sale.id])[sale.id]
    held = bases(session, [line.copy_id for line in lines])
    parts = rules.split(amount, [float(max(1, line.price_minor)) for line in lines])
    return [(held[line.copy_id], Money(part, sale.currency)) for line, part in zip(lines, parts, strict=True)]


def cancel_sale(session: Session, bench: Workbench, sale_id: int) -> None:
    """Take a sale back before it was sent: its copies are here again, nothing was sold.

    Raises
    ------
    BoxStateError
        When it is sent: then it is returned, or lost.
    """
    sale = get_sale(session, sale_id)
    if sale.over:
        return
    if sale.state not in (Stop.SOLD, Stop.PAID, Stop.PACKED) or sale.payout_on is not None:
        message = "That sale is on its way or paid out. Note a return or a loss instead."
        raise BoxStateError(message)
    for line in lines_of(session, [sale_id])[sale_id]:
        gone = session.get(DisposalRecord, line.disposal_id)
        if gone is not None and gone.undone_at is None:
            gone.undone_at = bench.now()
            unbook_left(session, bench, gone)
            get_copy(session, line.copy_id).state = "here"
    if sale.box_id is not None:
        never_left(session, bench, sale.box_id)
    take_back(session, bench, f"shipping-{sale.id}")
    sale.over, sale.parcel_id = "cancelled", None
    finish(session)
