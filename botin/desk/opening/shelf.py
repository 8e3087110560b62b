"""The shelf: products, and boxes sealed, open and closed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.errors import NotFoundError
from botin.core.money import Money
from botin.desk.books.booking import book_box, cost_of
from botin.desk.opened import opened_packs
from botin.desk.opening.sealed import read_check
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.books.postings import Sums, sums_by_box
from botin.store.catalog.lists import products_with_formats
from botin.store.keys import TakenError, stored_meanwhile, stored_under
from botin.store.models import BoxRecord, FormatRecord, ProductRecord
from botin.store.opening.boxes import (
    boxes_by_product,
    boxes_by_state,
    boxes_with_packs_kept,
    pull_counts,
    state_counts,
)
from botin.store.unit import finish


@dataclass(frozen=True, slots=True)
class BoxTile:
    """A box on the shelf."""

    id: int
    label: str
    product: str
    product_id: int
    format: str
    format_key: str
    state: str
    bought_on: date
    cost: Money
    packs: int
    cards: int
    logged: int
    pack: int
    check: str = ""
    delivery: str = ""
    purchase_id: int | None = None


@dataclass(frozen=True, slots=True)
class ProductTile:
    """A product on the shelf."""

    id: int
    name: str
    maker: str
    season: str
    formats: tuple[str, ...]
    cards: int
    boxes: int
    aside: bool = False


@dataclass(frozen=True, slots=True)
class Shelf:
    """Everything the shelf shows."""

    sealed: tuple[BoxTile, ...]
    open: tuple[BoxTile, ...]
    closed: tuple[BoxTile, ...]
    kept: tuple[BoxTile, ...]
    products: tuple[ProductTile, ...]
    counts: dict[str, int]


def _tiles(session: Session, limit: int = 60) -> dict[str, tuple[BoxTile, ...]]:
    rows = {state: boxes_by_state(session, state, limit) for state in ("sealed", "open", "closed")}
    logged = pull_counts(session, [box.id for found in rows.values() for box, *_ in found])
    return {
        state: tuple(_tile(box, fmt, product, logged.get(box.id, 0)) for box, fmt, product in found)
        for state, found in rows.items()
    }


def _tile(box: BoxRecord, fmt: FormatRecord, product: ProductRecord, logged: int) -> BoxTile:
    return BoxTile(
        id=box.id,
        label=box.label,
        product=product.name,
        product_id=product.id,
        format=fmt.label,
        format_key=fmt.key,
        state=box.state,
        bought_on=box.bought_on,
        cost=cost_of(box),
        packs=fmt.packs_per_box,
        cards=fmt.packs_per_box * fmt.cards_per_pack,
        logged=logged,
        pack=box.pack,
        check=read_check(box).opinion.verdict if box.sealed_check else "",
        delivery=box.delivery,
        purchase_id=box.purchase_id,
    )


def shelf(session: Session) -> Shelf:
    """Read the shelf; at most 60 boxes of each state, the latest first."""
    tiles = _tiles(session)
    counts = state_counts(session)
    kept = kept_packs(session)
    return Shelf(tiles["sealed"], tiles["open"], tiles["closed"], kept, product_tiles(session, 12), counts)


def kept_packs(session: Session, limit: int = 60) -> tuple[BoxTile, ...]:
    """Return closed boxes of which packs were kept sealed; ``packs`` counts those, ``cost`` is their part."""
    boxes = boxes_with_packs_kept(session, limit)
    sums = sums_by_box(session, [box.id for box in boxes])
    return tuple(tile for box in boxes if (tile := _kept_tile(session, box, sums.get(box.id, []))) is not None)


def _kept_tile(session: Session, box: BoxRecord, sums: Sequence[Sums]) -> BoxTile | None:
    fmt = box.format
    packs = fmt.packs_per_box - opened_packs(session, box)
    cost = next((one[Account.BOXES] for one in sums if one.currency == box.currency), 0)
    if packs <= 0:
        return None
    return BoxTile(
        id=box.id,
        label=box.label,
        product=fmt.product.name,
        product_id=fmt.product_id,
        format=fmt.label,
        format_key=fmt.key,
        state="sealed",
        bought_on=box.bought_on,
        cost=Money(cost, box.currency),
        packs=packs,
        cards=packs * fmt.cards_per_pack,
        logged=0,
        pack=1,
    )


def product_tiles(session: Session, limit: int = 60, *, aside: bool = False) -> tuple[ProductTile, ...]:
    """Return products with their sizes, the newest first; those set ``aside`` too when they are asked for."""
    products, boxes = products_with_formats(session, limit, aside=aside), boxes_by_product(session)
    return tuple(
        ProductTile(
            id=row.id,
            name=row.name,
            maker=row.maker,
            season=row.season,
            formats=tuple(fmt.label for fmt in row.formats),
            cards=row.cards,
            boxes=boxes.get(row.id, 0),
            aside=row.set_aside,
        )
        for row in products
    )


@dataclass(frozen=True, slots=True)
class Purchase:
    """A box as bought; amounts are what was paid."""

    format_id: int
    bought_on: date
    price: Money
    shipping: Money
    tax: Money
    label: str = ""


def new_box(session: Session, client_key: str, purchase: Purchase) -> BoxRecord:
    """Make a bought box; nothing is committed here.

    Raises
    ------
    NotFoundError
        When the format is not there.
    """
    if session.get(FormatRecord, purchase.format_id) is None:
        message = "That format is not in the library any more. Pick another one."
        raise NotFoundError(message)
    box = BoxRecord(
        client_key=client_key,
        format_id=purchase.format_id,
        label=purchase.label,
        bought_on=purchase.bought_on,
        price_minor=purchase.price.minor,
        shipping_minor=purchase.shipping.minor,
        tax_minor=purchase.tax.minor,
        currency=purchase.price.currency,
    )
    session.add(box)
    return box


def buy_box(session: Session, bench: Workbench, client_key: str, purchase: Purchase) -> BoxRecord:
    """Put a bought box on the shelf; the same key again gives the same box.

    Raises
    ------
    NotFoundError
        When the format is not there.
    StaleFormError
        When the key was used for another box.
    """
    known = stored_under(session, BoxRecord, client_key)
    if known is not None:
        return _same_box(known, purchase)
    box = new_box(session, client_key, purchase)
    try:
        session.flush()
        book_box(session, bench, box)
        finish(session)
    except TakenError:
        session.rollback()
        return _same_box(stored_meanwhile(session, BoxRecord, client_key), purchase)
    return box


def _same_box(known: BoxRecord, purchase: Purchase) -> BoxRecord:
    """Return the box of a form that came before, when it is the same one."""
    price, shipping, tax = (money.minor for money in (purchase.price, purchase.shipping, purchase.tax))
    same_again(known, price_minor=price, shipping_minor=shipping, tax_minor=tax)
    same_again(known, format_id=purchase.format_id, bought_on=purchase.bought_on)
    return known
