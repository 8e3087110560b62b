"""Copies offered for sale: on which channel, since when, what is asked and offered; the words made ready to copy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import BotinError, BoxStateError
from botin.core.money import Money
from botin.core.selling.asking import AskPlan
from botin.desk.selling.sealedgoods import require_not_offered, sealed_goods, words_of
from botin.desk.selling.selling import require_currency
from botin.desk.sentagain import same_again
from botin.desk.workbench import Workbench
from botin.store.copies.copies import get_copy, require_here
from botin.store.keys import stored_under
from botin.store.models import BoxRecord
from botin.store.models_copies import CopyRecord
from botin.store.models_selling import ListingCopyRecord, ListingRecord, OfferRecord
from botin.store.selling.sales import (
    SoldCopy,
    boxes_of,
    copies_with_cards,
    end_copies,
    get_listing,
    listed_copies,
    live_listings,
    offers_of,
)
from botin.store.unit import finish

MOST = 2_000
"""Cards of one listing; a choice."""
LONGEST_TITLE = 80
"""Letters of a title; most channels cut it there (common practice, no source)."""


class ListingError(BotinError):
    """A listing that cannot be, with what to do."""

    status = 422


@dataclass(frozen=True, slots=True)
class Offering:
    """What is offered: the ask, the floor, and how the ask is lowered (permille every so many days)."""

    channel: str
    ask: Money
    floor: Money
    copies: tuple[int, ...]
    day: date
    lower_permille: int = 0
    every_days: int = 7
    title: str = ""
    words: str = ""
    box: int = 0


def offer_for_sale(session: Session, bench: Workbench, client_key: str, what: Offering) -> ListingRecord:
    """Offer copies, or a sealed box; all or none. The same key again gives the same listing.

    Raises
    ------
    ListingError
        When the ask is nothing, the floor above it, the day ahead, or nothing is offered.
    BoxStateError
        When a copy is not here, is promised, or is offered already; when a box is not sealed.
    """
    known = stored_under(session, ListingRecord, client_key)
    if known is not None:
        same_again(known, ask_minor=what.ask.minor, channel=what.channel)
        return known
    _check(what, bench.today())
    packs = _check_box(session, what) if what.box else 0
    copies = [_free(session, one) for one in dict.fromkeys(what.copies)]
    require_currency(session, what.copies, what.ask.currency)
    made = ListingRecord(
        client_key=client_key, channel=what.channel[:60], ask_minor=what.ask.minor, floor_minor=what.floor.minor,
        lower_permille=what.lower_permille, every_days=max(1, what.every_days), currency=what.ask.currency,
        listed_on=what.day, title=what.title.strip()[:200], words=what.words.strip()[:4000],
        box_id=what.box or None, packs=packs, made_at=bench.now(),
    )  # fmt: skip
    session.add(made)
    session.flush()
    for copy in copies:
        copy.state = "listed"
        session.add(ListingCopyRecord(listing_id=made.id, copy_id=copy.id))
    finish(session)
    return made


def _check_box(session: Session, what: Offering) -> int:
    """Return how many packs are offered; refuse what is not sealed and here, or offered already, or with cards."""
    goods = sealed_goods(session, what.box)
    require_not_offered(session, what.box)
    if what.copies:
        message = "A sealed box is offered by itself. Offer the cards in a listing of their own."
        raise ListingError(message)
    if goods.box.currency != what.ask.currency:
        message = f"Box {what.box} is kept in {goods.box.currency}. Ask for an amount in it."
        raise ListingError(message)
    return goods.packs


def _free(session: Session, copy_id: int) -> CopyRecord:
    """Read a copy that is here and not offered yet."""
    copy = get_copy(session, copy_id)
    require_here(copy)
    if copy.state == "listed":
        message = "That copy is offered for sale already. End that listing first."
        raise BoxStateError(message)
    return copy


def _check(what: Offering, today: date) -> None:
    if what.ask.minor <= 0 or not 0 <= what.floor.minor <= what.ask.minor:
        message = "Ask for something, and for no less than the floor."
        raise ListingError(message)
    if not 0 <= what.lower_permille < 1000:
        message = "A plan lowers by 0 to 99 percent at a time."
        raise ListingError(message)
    if what.day > today:
        message = f"{what.day.isoformat()} lies ahead. Write the day it was listed."
        raise ListingError(message)
    if not what.copies and not what.box:
        message = "A listing offers something: tick a card, or choose a box."
        raise ListingError(message)
    if len(what.copies) > MOST:
        message = f"A listing takes {MOST:,} cards at most. Make two of it."
        raise ListingError(message)


def end_listing(session: Session, bench: Workbench, listing_id: int) -> None:
    """Take a listing off: its copies are here as before. One that is over stays so."""
    listing = get_listing(session, listing_id)
    if listing.ended_on is not None:
        return
    copies = listed_copies(session, [listing_id])[listing_id]
    for one in copies:
        copy = get_copy(session, one)
        if copy.state == "listed":
            copy.state = "here"
    end_copies(session, copies, bench.today())
    listing.ended_on = bench.today()
    finish(session)


def change_ask(session: Session, listing_id: int, ask: Money, floor: Money) -> None:
    """Ask for something else from now on.

    Raises
    ------
    ListingError
        When the ask is nothing, or less than the floor; when the listing is over.
    """
    listing = get_listing(session, listing_id)
    if listing.ended_on is not None or ask.minor <= 0 or floor.minor > ask.minor:
        message = "Ask for something, and for no less than the floor, while it is offered."
        raise ListingError(message)
    listing.ask_minor, listing.floor_minor = ask.minor, floor.minor
    finish(session)


def note_offer(session: Session, bench: Workbench, client_key: str, listing_id: int, amount: Money, by: str) -> None:
    """Note what somebody offers; the same key again notes nothing more.

    Raises
    ------
    ListingError
        When it offers nothing, or the listing is over.
    """
    listing = get_listing(session, listing_id)
    if stored_under(session, OfferRecord, client_key) is not None:
        return
    if amount.minor <= 0 or listing.ended_on is not None:
        message = "An offer is for something that is still offered, and more than nothing."
        raise ListingError(message)
    session.add(
        OfferRecord(
            client_key=client_key, listing_id=listing_id, amount_minor=amount.minor, by=by.strip()[:60],
            made_on=bench.today(), made_at=bench.now(),
        )
    )  # fmt: skip
    finish(session)


def refuse_offer(session: Session, offer_id: int) -> None:
    """Refuse an offer."""
    found = session.get(OfferRecord, offer_id)
    if found is not None and found.state == "open":
        found.state = "refused"
        finish(session)


@dataclass(frozen=True)
class Listed:
    """A listing as one looks at it."""

    record: ListingRecord
    copies: tuple[SoldCopy, ...]
    box: BoxRecord | None
    offers: tuple[OfferRecord, ...]
    asks_now: int

    @property
    def words(self) -> str:
        """What is offered, in a few words."""
        if self.record.title:
            return self.record.title
        if self.box is not None:
            return words_of(self.box, self.record.packs)
        return self.copies[0].words if len(self.copies) == 1 else f"a lot of {len(self.copies)}"

    @property
    def best(self) -> OfferRecord | None:
        """The highest offer that is open."""
        return next((one for one in self.offers if one.state == "open"), None)


def listings(session: Session, day: date) -> list[Listed]:
    """Return everything that is offered, with what is asked on a day by its plan."""
    rows = live_listings(session)
    ids = [row.id for row in rows]
    inside, offers = listed_copies(session, ids), offers_of(session, ids)
    cards = copies_with_cards(session, [copy for copies in inside.values() for copy in copies])
    boxes = boxes_of(session, [row.box_id for row in rows if row.box_id is not None])
    return [
        Listed(
            row,
            tuple(cards[copy] for copy in inside[row.id] if copy in cards),
            boxes.get(row.box_id or 0),
            tuple(offers[row.id]),
            asked_on(row, day),
        )
        for row in rows
    ]


def asked_on(row: ListingRecord, day: date) -> int:
    """Return what a listing asks on a day (minor units)."""
    plan = AskPlan(row.ask_minor / 100, row.floor_minor / 100, row.lower_permille / 1000, row.every_days)
    return round(100 * plan.on(row.listed_on, day))


def title_for(copies: Sequence[SoldCopy]) -> str:
    """Return a title made of what is known: season and product, number, name, finish, serial, grade."""
    if len(copies) == 1:
        one = copies[0]
        parts = (one.product.name, f"#{one.card.number}", one.card.name, one.copy.parallel, one.serial, _grade(one))
        return " ".join(part for part in parts if part)[:LONGEST_TITLE]
    products = {one.product.name for one in copies}
    names = list(dict.fromkeys(one.card.name for one in copies))
    who = names[0] if len(names) == 1 else f"{len(names)} names"
    return f"Lot of {len(copies)}: {', '.join(sorted(products))}, {who}"[:LONGEST_TITLE]


def _grade(one: SoldCopy) -> str:
    return f"{one.copy.house} {one.copy.grade}".strip() if one.copy.grade else ""
