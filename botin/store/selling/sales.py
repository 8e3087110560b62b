"""Listings, sales and parcels: every question to the store about them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import cache
from typing import TypeVar

from sqlalchemy import Select, func, select, update
from sqlalchemy.orm import Session, joinedload

from botin.core.errors import NotFoundError
from botin.store.keys import stored_under
from botin.store.models import BoxRecord, CardRecord, FormatRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, DisposalRecord, PartyRecord
from botin.store.models_selling import (
    ListingCopyRecord,
    ListingRecord,
    OfferRecord,
    ParcelRecord,
    SaleChangeRecord,
    SaleLineRecord,
    SaleRecord,
    SaleStepRecord,
)

Row = TypeVar("Row", ListingRecord, SaleRecord, ParcelRecord)


@dataclass(frozen=True, slots=True)
class SoldCopy:
    """A copy that is or was for sale, with its card."""

    copy: CopyRecord
    card: CardRecord
    section: str
    label: str
    kind: str
    product: ProductRecord

    @property
    def serial(self) -> str:
        """Its serial, when it is numbered."""
        return f"{self.copy.serial}/{self.copy.run}" if self.copy.serial else ""

    @property
    def words(self) -> str:
        """Number, name, finish, serial and grade."""
        grade = f"{self.copy.house} {self.copy.grade}".strip() if self.copy.grade else ""
        parts = (self.card.number, self.card.name, self.copy.parallel, self.serial, grade)
        return " ".join(part for part in parts if part)


def copies_with_cards(session: Session, ids: Sequence[int]) -> dict[int, SoldCopy]:
    """Read some copies with their cards, by their ids."""
    c, k, s = CopyRecord, CardRecord, SectionRecord
    rows = session.execute(
        select(c, k, s.key, s.label, s.kind, ProductRecord)
        .join(k, k.id == c.card_id)
        .join(s, s.id == k.section_id)
        .join(ProductRecord, ProductRecord.id == s.product_id)
        .where(c.id.in_(list(ids)))
    )
    return {row[0].id: SoldCopy(*row) for row in rows}


def _get(session: Session, kind: type[Row], row_id: int, words: str) -> Row:
    found = session.get(kind, row_id, populate_existing=True)
    if found is None:
        message = f"That {words} is not in the records any more. Go back to Sales."
        raise NotFoundError(message)
    return found


def get_listing(session: Session, listing_id: int) -> ListingRecord:
    """Read a listing.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    return _get(session, ListingRecord, listing_id, "listing")


def get_sale(session: Session, sale_id: int) -> SaleRecord:
    """Read a sale.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    return _get(session, SaleRecord, sale_id, "sale")


def get_parcel(session: Session, parcel_id: int) -> ParcelRecord:
    """Read a parcel.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    return _get(session, ParcelRecord, parcel_id, "parcel")


def live_listings(session: Session) -> Sequence[ListingRecord]:
    """Return the listings that are not over, the longest there first."""
    x = ListingRecord
    return session.scalars(select(x).where(x.ended_on.is_(None)).order_by(x.listed_on, x.id)).all()


def listed_copies(session: Session, listings: Sequence[int]) -> dict[int, list[int]]:
    """Return the copies that listings still offer, in their order."""
    x, found = ListingCopyRecord, defaultdict[int, list[int]](list)
    wanted = select(x.listing_id, x.copy_id).where(x.listing_id.in_(list(listings)), x.ended.is_(False))
    rows = session.execute(wanted.order_by(x.id))
    for listing, copy in rows:
        found[listing].append(copy)
    return found


def listing_of(session: Session, copy_id: int) -> ListingRecord | None:
    """Return the listing that a copy is in now."""
    x = ListingCopyRecord
    wanted = select(ListingRecord).join(x, x.listing_id == ListingRecord.id)
    return session.scalar(wanted.where(x.copy_id == copy_id, x.ended.is_(False)))


def listing_of_box(session: Session, box_id: int) -> ListingRecord | None:
    """Return the listing in which a sealed box, or the packs kept of it, is offered now."""
    x = ListingRecord
    return session.scalar(select(x).where(x.box_id == box_id, x.ended_on.is_(None)))


def end_box(session: Session, box_id: int, day: date) -> None:
    """Take a sealed box out of its listing, which is over then. Nothing is committed here."""
    found = listing_of_box(session, box_id)
    if found is not None:
        found.ended_on = day


def sale_of_box(session: Session, box_id: int) -> int | None:
    """Return the sale by which a sealed box, or the packs kept of it, left."""
    x = SaleRecord
    return session.scalar(select(x.id).where(x.box_id == box_id, x.over.in_(("", "lost"))))


def boxes_of(session: Session, ids: Sequence[int]) -> dict[int, BoxRecord]:
    """Return boxes with their formats and products, by their ids."""
    whole = joinedload(BoxRecord.format).joinedload(FormatRecord.product)
    rows = session.scalars(select(BoxRecord).where(BoxRecord.id.in_(list(ids))).options(whole))
    return {row.id: row for row in rows}


def end_copies(session: Session, copies: Sequence[int], day: date) -> None:
    """Take copies out of their listings; a listing that has none left is over. Nothing is committed here."""
    x = ListingCopyRecord
    listings = session.scalars(
        select(x.listing_id).where(x.copy_id.in_(list(copies)), x.ended.is_(False)).distinct()
    ).all()
    if not listings:
        return
    session.execute(update(x).where(x.copy_id.in_(list(copies)), x.ended.is_(False)).values(ended=True))
    for listing in listings:
        left = session.scalar(select(func.count()).where(x.listing_id == listing, x.ended.is_(False)))
        if not left:
            session.get_one(ListingRecord, listing).ended_on = day


def offers_of(session: Session, listings: Sequence[int]) -> dict[int, list[OfferRecord]]:
    """Return the offers made for listings, the highest first."""
    found = defaultdict[int, list[OfferRecord]](list)
    x = OfferRecord
    for row in session.scalars(select(x).where(x.listing_id.in_(list(listings))).order_by(x.amount_minor.desc())):
        found[row.listing_id].append(row)
    return found


def sale_keyed(session: Session, client_key: str) -> SaleRecord | None:
    """Return the sale made under a key."""
    return stored_under(session, SaleRecord, client_key)


def sales(session: Session, limit: int = 200) -> Sequence[SaleRecord]:
    """Return the sales: those under way first, then the latest."""
    x = SaleRecord
    over = (x.state == "done") | (x.over != "")
    return session.scalars(select(x).order_by(over, x.sold_on.desc(), x.id.desc()).limit(limit)).all()


@cache
def sales_under_way() -> Select[int]:
    """Return the question how many sales are not done; every page asks it."""
    x = SaleRecord
    return select(func.count()).where(x.state != "done", x.over == "")


def open_sales(session: Session) -> Sequence[SaleRecord]:
    """Return the sales that are under way, the oldest first."""
    x = SaleRecord
    return session.scalars(select(x).where(x.state != "done", x.over == "").order_by(x.sold_on, x.id)).all()


def lines_of(session: Session, sales_: Sequence[int]) -> dict[int, list[SaleLineRecord]]:
    """Return the copies of sales, in their order."""
    found = defaultdict[int, list[SaleLineRecord]](list)
    x = SaleLineRecord
    for row in session.scalars(select(x).where(x.sale_id.in_(list(sales_))).order_by(x.id)):
        found[row.sale_id].append(row)
    return found


def steps_of(session: Session, sales_: Sequence[int]) -> dict[int, list[SaleStepRecord]]:
    """Return the stops that sales reached and did not take back."""
    found = defaultdict[int, list[SaleStepRecord]](list)
    x = SaleStepRecord
    rows = session.scalars(select(x).where(x.sale_id.in_(list(sales_)), x.undone_at.is_(None)).order_by(x.id))
    for row in rows:
        found[row.sale_id].append(row)
    return found


def step_keyed(session: Session, client_key: str) -> SaleStepRecord | None:
    """Return the stop noted under a key."""
    return stored_under(session, SaleStepRecord, client_key)


def changes_of(session: Session, sales_: Sequence[int]) -> dict[int, list[SaleChangeRecord]]:
    """Return what happened to sales beside their road and was not taken back."""
    found = defaultdict[int, list[SaleChangeRecord]](list)
    x = SaleChangeRecord
    rows = session.scalars(select(x).where(x.sale_id.in_(list(sales_)), x.undone_at.is_(None)).order_by(x.id))
    for row in rows:
        found[row.sale_id].append(row)
    return found


def change_keyed(session: Session, client_key: str) -> SaleChangeRecord | None:
    """Return what was noted under a key."""
    return stored_under(session, SaleChangeRecord, client_key)


def parcels_of(session: Session, ids: Sequence[int]) -> dict[int, ParcelRecord]:
    """Return parcels by their ids."""
    return {row.id: row for row in session.scalars(select(ParcelRecord).where(ParcelRecord.id.in_(list(ids))))}


def sales_in(session: Session, parcel_id: int) -> Sequence[SaleRecord]:
    """Return the sales that go in a parcel."""
    x = SaleRecord
    return session.scalars(select(x).where(x.parcel_id == parcel_id, x.over == "").order_by(x.id)).all()


def sale_of_disposal(session: Session, disposal_id: int) -> int | None:
    """Return the sale to which a note of how a copy left belongs."""
    x = SaleLineRecord
    return session.scalar(select(x.sale_id).where(x.disposal_id == disposal_id))


def given_under(session: Session, client_key: str) -> Sequence[DisposalRecord]:
    """Return the notes of copies that left together under a key and are not taken back."""
    d = DisposalRecord
    keys = d.client_key.between(f"{client_key}:", f"{client_key}:~")
    return session.scalars(select(d).where(keys, d.undone_at.is_(None)).order_by(d.id)).all()


def was_given(session: Session, client_key: str) -> bool:
    """Whether copies left together under a key, also when that was taken back since."""
    d = DisposalRecord
    wanted = select(d.id).where(d.client_key.between(f"{client_key}:", f"{client_key}:~"))
    return session.scalar(wanted.limit(1)) is not None


def given_lately(session: Session, limit: int = 6) -> list[tuple[str, int, date, str]]:
    """Return what was given away together lately: its key, how many cards, the day, and to whom."""
    d = DisposalRecord
    key = func.substr(d.client_key, 1, func.instr(d.client_key, ":") - 1)
    rows = session.execute(
        select(key, func.count(), func.max(d.left_on), func.max(d.to))
        .where(d.went == "given away", d.undone_at.is_(None), d.client_key.like("give-%:%"))
        .group_by(key)
        .order_by(func.max(d.id).desc())
        .limit(limit)
    )
    return [(name, count, day, to) for name, count, day, to in rows]


def buyers(session: Session) -> dict[int, str]:
    """Return the names of those who bought, by their ids."""
    wanted = select(PartyRecord.id, PartyRecord.name).join(SaleRecord, SaleRecord.buyer_id == PartyRecord.id)
    return dict(session.execute(wanted.distinct()).all())


def free_step_key(session: Session, sale_id: int, state: str) -> str:
    """Return a key of its own for a stop that a sale reaches by itself."""
    taken = session.scalar(select(func.count()).where(SaleStepRecord.sale_id == sale_id))
    return f"sale-{state}-{sale_id}-{taken or 0}"
