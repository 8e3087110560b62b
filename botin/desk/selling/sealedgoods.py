"""A sealed box, or packs that were kept sealed, as something one offers and sells: what it is, and its books."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.books import channelsales
from botin.core.books.posting import Account, Basis
from botin.core.errors import BoxStateError
from botin.core.money import Money
from botin.desk.books.booking import about_box, cost_of, take_back
from botin.desk.opened import opened_packs
from botin.desk.workbench import Workbench
from botin.store.books.postings import Event, free_key, live, post, postings_of, sums_by_box
from botin.store.models import BoxRecord
from botin.store.models_selling import SaleChangeRecord, SaleRecord
from botin.store.opening.boxes import get_box
from botin.store.selling.sales import listing_of_box, sale_of_box

KEPT, SOLD = "kept", "sold"


@dataclass(frozen=True)
class SealedGoods:
    """What is sold as it is.

    Attributes
    ----------
    packs : int
        How many packs; 0 for a whole box.
    cost : Money
        What it had cost.
    """

    box: BoxRecord
    packs: int
    cost: Money

    @property
    def words(self) -> str:
        """Product, format, and how much of it."""
        return words_of(self.box, self.packs)


def words_of(box: BoxRecord, packs: int = 0) -> str:
    """Return what a box, or so many packs of it, is called."""
    what = f"{packs} sealed pack{'' if packs == 1 else 's'}" if packs else "sealed"
    label = f" ({box.label})" if box.label else ""
    return f"{box.format.product.name} {box.format.label}, {what}{label}"


def sealed_goods(session: Session, box_id: int) -> SealedGoods:
    """Return a sealed box that is here, or the packs that were kept of a closed one.

    Raises
    ------
    NotFoundError
        When there is no such box.
    BoxStateError
        When nothing of it is sealed and here.
    """
    box = get_box(session, box_id)
    if box.state == "sealed" and not box.delivery:
        return SealedGoods(box, 0, cost_of(box))
    packs = box.format.packs_per_box - opened_packs(session, box) if box.state == "closed" and box.rest == KEPT else 0
    if packs <= 0:
        why = "has not arrived yet" if box.delivery else "holds nothing sealed any more"
        message = f"Box {box.id} {why}. Offer what lies sealed on the shelf, or the cards of an opened one."
        raise BoxStateError(message)
    sums = sums_by_box(session, [box.id]).get(box.id, [])
    cost = next((one[Account.BOXES] for one in sums if one.currency == box.currency), 0)
    return SealedGoods(box, packs, Money(cost, box.currency))


def require_not_offered(session: Session, box_id: int) -> None:
    """Refuse to open or remove what is offered for sale: somebody may have bought it by now.

    Raises
    ------
    BoxStateError
        With the channel on which it is offered.
    """
    listing = listing_of_box(session, box_id)
    if listing is not None:
        message = f"Box {box_id} is offered for sale ({listing.channel}). Take it off under Sales first."
        raise BoxStateError(message)


def require_not_sold_by(session: Session, box_id: int) -> None:
    """Refuse what would pull a box, or its packs, from under a sale.

    Raises
    ------
    BoxStateError
        With the sale.
    """
    sale = sale_of_box(session, box_id)
    if sale is not None:
        message = f"It left by sale {sale}. Cancel that sale, or note that it came back."
        raise BoxStateError(message)


def leaves(
    session: Session, bench: Workbench, sale: SaleRecord, goods: SealedGoods, fee: Money, payer: int | None
) -> None:
    """Write down that it left by a sale, with what it had cost."""
    box, price = goods.box, Money(sale.price_minor, sale.currency)
    basis = Basis(about_box(box), box.currency, {Account.BOXES: goods.cost.minor})
    event = Event("sale", sale.sold_on, free_key(session, f"sealed-{box.id}"), f"{goods.words} sold", sale.buyer_id)
    post(session, bench.now(), event, channelsales.sold_on_account(price, fee, basis, payer))
    _away(box)


def _away(box: BoxRecord) -> None:
    if box.state == "closed":
        box.rest = SOLD
    else:
        box.state = "sold"


def _here_again(box: BoxRecord) -> None:
    if box.state == "closed":
        box.rest = KEPT
    else:
        box.state = "sealed"


def never_left(session: Session, bench: Workbench, box_id: int) -> None:
    """Take its sale back: it is on the shelf as before."""
    take_back(session, bench, f"sealed-{box_id}")
    _here_again(get_box(session, box_id))


def comes_back(session: Session, bench: Workbench, sale: SaleRecord, made: SaleChangeRecord) -> None:
    """Put a returned box back on the shelf, at what it had cost when it was sold."""
    box = get_box(session, sale.box_id or 0)
    gone = live(session, f"sealed-{box.id}")
    rows = postings_of(session, gone.id) if gone is not None else ()
    cost = Money(sum(row.minor for row in rows if row.account is Account.SOLD), box.currency)
    event = Event(
        "sale",
        made.day,
        free_key(session, f"in-again-{made.id}-box"),
        f"{words_of(box, sale.packs)} came back",
        sale.buyer_id,
    )
    post(session, bench.now(), event, channelsales.sealed_again(cost, about_box(box)))
    _here_again(box)


def left_again(session: Session, bench: Workbench, sale: SaleRecord, made: SaleChangeRecord) -> None:
    """Take a return back: it is sold as before.

    Raises
    ------
    BoxStateError
        When it was opened, sold or offered since.
    """
    box = get_box(session, sale.box_id or 0)
    sealed_goods(session, box.id)
    require_not_offered(session, box.id)
    take_back(session, bench, f"in-again-{made.id}-box")
    _away(box)
