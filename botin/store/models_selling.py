"""The tables of selling: listings and offers, sales and their copies, parcels, the stops of the road, changes."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, text
from sqlalchemy.orm import Mapped, mapped_column

from botin.store.models import Base


class ListingRecord(Base):
    """Copies, a sealed box, or some ``packs`` kept of one, offered on a channel; over when ``ended_on`` is set.

    ``lower_permille`` is taken off the ask every so many days, to no less than the floor.
    """

    __tablename__ = "listing"
    __table_args__ = (CheckConstraint("ask_minor > 0 AND floor_minor >= 0", name="asks"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    channel: Mapped[str] = mapped_column(default="", server_default="")
    ask_minor: Mapped[int]
    floor_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    lower_permille: Mapped[int] = mapped_column(default=0, server_default="0")
    every_days: Mapped[int] = mapped_column(default=7, server_default="7")
    currency: Mapped[str]
    listed_on: Mapped[date]
    ended_on: Mapped[date | None]
    title: Mapped[str] = mapped_column(default="", server_default="")
    words: Mapped[str] = mapped_column(default="", server_default="")
    box_id: Mapped[int | None] = mapped_column(ForeignKey("box.id"))
    packs: Mapped[int] = mapped_column(default=0, server_default="0")
    made_at: Mapped[datetime]


class ListingCopyRecord(Base):
    """A copy in a listing; a copy is in one listing at a time, ``ended`` ones aside."""

    __tablename__ = "listing_copy"
    __table_args__ = (Index("uq_listing_copy_live", "copy_id", unique=True, sqlite_where=text("ended = 0")),)

    id: Mapped[int] = mapped_column(primary_key=True)
    listing_id: Mapped[int] = mapped_column(ForeignKey("listing.id", ondelete="CASCADE"), index=True)
    copy_id: Mapped[int] = mapped_column(ForeignKey("copy.id"), index=True)
    ended: Mapped[bool] = mapped_column(default=False, server_default="0")


class OfferRecord(Base):
    """What somebody offered for a listing: open, refused, or taken."""

    __tablename__ = "offer"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    listing_id: Mapped[int] = mapped_column(ForeignKey("listing.id", ondelete="CASCADE"), index=True)
    amount_minor: Mapped[int]
    by: Mapped[str] = mapped_column(default="", server_default="")
    made_on: Mapped[date]
    state: Mapped[str] = mapped_column(default="open", server_default="open")
    made_at: Mapped[datetime]


class ParcelRecord(Base):
    """A parcel of sales to one buyer (or to the authenticator on his behalf)."""

    __tablename__ = "parcel"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    address: Mapped[str] = mapped_column(default="", server_default="")
    checks: Mapped[str] = mapped_column(default="", server_default="")
    grams: Mapped[int | None]
    service: Mapped[str] = mapped_column(default="", server_default="")
    tracking: Mapped[str] = mapped_column(default="", server_default="")
    postage_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    insurance_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    insured: Mapped[bool] = mapped_column(default=False, server_default="0")
    currency: Mapped[str]
    sent_on: Mapped[date | None]
    made_at: Mapped[datetime]


class SaleRecord(Base):
    """A sale of copies, or of a sealed box or packs, to one buyer, on its road; ``over``: how it ended when not well.

    What the channel takes is ``fee_minor``; ``shipping_minor`` is what the buyer paid for it. ``forecast`` is what
    was estimated on the day of the sale: price and net, what waiting would bring, the flag and how sure it was.
    ``payout_minor`` is what the channel paid out, whatever was given back or taken back since.
    """

    __tablename__ = "sale"
    __table_args__ = (
        CheckConstraint(
            "state IN ('sold', 'paid', 'packed', 'sent', 'checking', 'passed', 'there', 'done')", name="state"
        ),
        CheckConstraint("over IN ('', 'cancelled', 'returned', 'lost')", name="over"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    channel: Mapped[str] = mapped_column(default="", server_default="")
    buyer_id: Mapped[int | None] = mapped_column(ForeignKey("party.id"))
    address: Mapped[str] = mapped_column(default="", server_default="")
    sold_on: Mapped[date] = mapped_column(index=True)
    price_minor: Mapped[int]
    shipping_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    fee_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    materials_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    currency: Mapped[str]
    state: Mapped[str] = mapped_column(default="sold", server_default="sold")
    over: Mapped[str] = mapped_column(default="", server_default="")
    checked: Mapped[bool] = mapped_column(default=False, server_default="0")
    by_hand: Mapped[bool] = mapped_column(default=False, server_default="0")
    payout_on: Mapped[date | None]
    payout_minor: Mapped[int | None]
    box_id: Mapped[int | None] = mapped_column(ForeignKey("box.id"), index=True)
    packs: Mapped[int] = mapped_column(default=0, server_default="0")
    parcel_id: Mapped[int | None] = mapped_column(ForeignKey("parcel.id"), index=True)
    listing_id: Mapped[int | None] = mapped_column(ForeignKey("listing.id"), index=True)
    feedback_given: Mapped[date | None]
    feedback_got: Mapped[str] = mapped_column(default="", server_default="")
    forecast: Mapped[str] = mapped_column(default="{}", server_default="{}")
    note: Mapped[str] = mapped_column(default="", server_default="")
    simulated: Mapped[bool] = mapped_column(default=False, server_default="0")
    made_at: Mapped[datetime]


class SaleLineRecord(Base):
    """A copy of a sale, with its part of the price and of the fees."""

    __tablename__ = "sale_line"

    id: Mapped[int] = mapped_column(primary_key=True)
    sale_id: Mapped[int] = mapped_column(ForeignKey("sale.id", ondelete="CASCADE"), index=True)
    copy_id: Mapped[int] = mapped_column(ForeignKey("copy.id"), index=True)
    disposal_id: Mapped[int | None] = mapped_column(ForeignKey("disposal.id"))
    price_minor: Mapped[int]
    fee_minor: Mapped[int] = mapped_column(default=0, server_default="0")


class SaleStepRecord(Base):
    """A stop that a sale reached, and the day; one that was a mistake is undone, not removed."""

    __tablename__ = "sale_step"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    sale_id: Mapped[int] = mapped_column(ForeignKey("sale.id", ondelete="CASCADE"), index=True)
    state: Mapped[str]
    day: Mapped[date]
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class SaleChangeRecord(Base):
    """What happened to a sale beside its road: a refund, a return, a loss, a claim that was paid."""

    __tablename__ = "sale_change"
    __table_args__ = (CheckConstraint("kind IN ('refund', 'return', 'lost', 'claim')", name="kind"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    sale_id: Mapped[int] = mapped_column(ForeignKey("sale.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    day: Mapped[date]
    amount_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    note: Mapped[str] = mapped_column(default="", server_default="")
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]
