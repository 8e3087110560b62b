"""The tables of grading: orders, the copies in them, every step of their way, memberships and vouchers."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, text
from sqlalchemy.orm import Mapped, mapped_column

from botin.store.models import Base


class GradingOrderRecord(Base):
    """Copies that go to a grading house together, from the draft on.

    What its tier costs stands here as it was when the order was made. ``share_by`` says how what the order costs as a
    whole is shared: by ``card`` or by ``person``. Orders with the same ``parcel`` go in one box. ``checks`` are the
    steps of packing that were done, by their keys; ``number`` is what the house calls the order.
    """

    __tablename__ = "grading_order"
    __table_args__ = (
        CheckConstraint(
            "state IN ('draft', 'closed', 'packed', 'sent', 'there', 'graded', 'returning', 'back', 'done')",
            name="state",
        ),
        CheckConstraint("share_by IN ('card', 'person')", name="share_by"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    house: Mapped[str] = mapped_column(default="")
    tier: Mapped[str] = mapped_column(default="")
    sent_on: Mapped[date | None]
    due_on: Mapped[date | None]
    note: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]
    state: Mapped[str] = mapped_column(default="draft", server_default="draft")
    service: Mapped[str] = mapped_column(default="", server_default="")
    item: Mapped[str] = mapped_column(default="card", server_default="card")
    currency: Mapped[str] = mapped_column(default="EUR", server_default="EUR")
    fee_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    ceiling_minor: Mapped[int | None]
    upcharge_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    days: Mapped[int] = mapped_column(default=30, server_default="30")
    least: Mapped[int] = mapped_column(default=1, server_default="1")
    member: Mapped[bool] = mapped_column(default=False, server_default="0")
    share_by: Mapped[str] = mapped_column(default="card", server_default="card")
    phone: Mapped[str] = mapped_column(default="", server_default="")
    agreed: Mapped[bool] = mapped_column(default=False, server_default="0")
    parcel: Mapped[str] = mapped_column(default="", server_default="")
    checks: Mapped[str] = mapped_column(default="", server_default="")
    weight_g: Mapped[int | None]
    tracking: Mapped[str] = mapped_column(default="", server_default="")
    tracking_back: Mapped[str] = mapped_column(default="", server_default="")
    number: Mapped[str] = mapped_column(default="", server_default="")
    postage_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    insurance_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    return_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    surcharge_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    membership_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    voucher_id: Mapped[int | None] = mapped_column(ForeignKey("voucher.id"))
    voucher_cards: Mapped[int] = mapped_column(default=0, server_default="0")
    voucher_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    pay_on: Mapped[date | None]
    paid_on: Mapped[date | None]
    simulated: Mapped[bool] = mapped_column(default=False, server_default="0")


class GradingCopyRecord(Base):
    """A copy in an order, at its place of the form; on its way until ``back_on``.

    ``grade_halves`` stays empty when it came back without a grade; ``outcome`` then says why. ``forecast`` is
    what was expected when it was sent: chances and values by grade, and the raw value. ``handed_on`` is the day
    another owner got his card.
    """

    __tablename__ = "grading_copy"
    __table_args__ = (Index("uq_grading_copy_out", "copy_id", unique=True, sqlite_where=text("back_on IS NULL")),)

    id: Mapped[int] = mapped_column(primary_key=True)
    order_id: Mapped[int] = mapped_column(ForeignKey("grading_order.id", ondelete="CASCADE"), index=True)
    place: Mapped[int]
    copy_id: Mapped[int] = mapped_column(ForeignKey("copy.id"), index=True)
    grade_halves: Mapped[int | None]
    back_on: Mapped[date | None]
    declared_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    upcharge_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    packed_at: Mapped[datetime | None]
    outcome: Mapped[str] = mapped_column(default="", server_default="")
    forecast: Mapped[str] = mapped_column(default="{}", server_default="{}")
    told_halves: Mapped[int | None]
    """The grade as the house told it before the slab was back."""
    handed_on: Mapped[date | None]


class GradingStepRecord(Base):
    """A step of an order on its way, and the day it was taken; one that was a mistake is undone, not removed."""

    __tablename__ = "grading_step"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    order_id: Mapped[int] = mapped_column(ForeignKey("grading_order.id", ondelete="CASCADE"), index=True)
    state: Mapped[str]
    day: Mapped[date]
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class MembershipRecord(Base):
    """A membership of a grading house, from a day to a day; ``order_id`` is the order it was bought with."""

    __tablename__ = "membership"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    house: Mapped[str]
    from_on: Mapped[date]
    until_on: Mapped[date]
    cost_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    currency: Mapped[str]
    order_id: Mapped[int | None] = mapped_column(ForeignKey("grading_order.id"))
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class VoucherRecord(Base):
    """An amount off the fee of so many cards at a house, in one tier or (``tier`` empty) in any, until a day."""

    __tablename__ = "voucher"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    house: Mapped[str]
    tier: Mapped[str] = mapped_column(default="", server_default="")
    off_minor: Mapped[int]
    currency: Mapped[str]
    cards: Mapped[int] = mapped_column(default=1, server_default="1")
    until_on: Mapped[date | None]
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]
