"""The tables of what is decided before a purchase, and of copies that did not come from a box or have left."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from botin.store.models import Base


class DecisionRecord(Base):
    """A decision at the buy desk with its figures as they were, to be held against what happened."""

    __tablename__ = "decision"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    format_id: Mapped[int] = mapped_column(ForeignKey("format.id", ondelete="CASCADE"), index=True)
    made_on: Mapped[date]
    made_at: Mapped[datetime]
    price_minor: Mapped[int]
    currency: Mapped[str]
    choice: Mapped[str]
    words: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")
    figures: Mapped[str] = mapped_column(default="{}")
    scores: Mapped[str] = mapped_column(default="{}")


class SeenCopyRecord(Base):
    """A numbered copy known to be pulled by someone else: it cannot come any more."""

    __tablename__ = "seen_copy"
    __table_args__ = (UniqueConstraint("product_id", "section", "number", "parallel", "serial"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"), index=True)
    section: Mapped[str]
    number: Mapped[str]
    parallel: Mapped[str] = mapped_column(default="")
    serial: Mapped[int] = mapped_column(default=0)
    made_at: Mapped[datetime]
    note: Mapped[str] = mapped_column(default="")


class ArrivalRecord(Base):
    """A copy that did not come from one of my boxes: bought, traded, given, of an old part set."""

    __tablename__ = "arrival"
    __table_args__ = (
        CheckConstraint("cost_minor >= 0", name="not_negative"),
        CheckConstraint("serial IS NULL OR serial BETWEEN 1 AND run", name="serial"),
        Index("ix_arrival_card_alive", "card_id", sqlite_where=text("undone_at IS NULL")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id"))
    parallel: Mapped[str] = mapped_column(default="")
    serial: Mapped[int | None]
    run: Mapped[int | None]
    grade: Mapped[str] = mapped_column(default="")
    came: Mapped[str]
    source: Mapped[str] = mapped_column(default="")
    got_on: Mapped[date]
    cost_minor: Mapped[int] = mapped_column(default=0)
    currency: Mapped[str]
    note: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class DepartureRecord(Base):
    """A copy that left: sold, swapped, given away, lost. It stays in every count of what was pulled."""

    __tablename__ = "departure"
    __table_args__ = (
        CheckConstraint("(pull_id IS NULL) <> (arrival_id IS NULL)", name="one_copy"),
        CheckConstraint("price_minor >= 0 AND costs_minor >= 0", name="not_negative"),
        Index("uq_departure_pull", "pull_id", unique=True, sqlite_where=text("undone_at IS NULL")),
        Index("uq_departure_arrival", "arrival_id", unique=True, sqlite_where=text("undone_at IS NULL")),
        Index("ix_departure_left_on", "left_on"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    pull_id: Mapped[int | None] = mapped_column(ForeignKey("pull.id"))
    arrival_id: Mapped[int | None] = mapped_column(ForeignKey("arrival.id"))
    went: Mapped[str]
    left_on: Mapped[date]
    price_minor: Mapped[int] = mapped_column(default=0)
    costs_minor: Mapped[int] = mapped_column(default=0)
    currency: Mapped[str]
    came_in: Mapped[str] = mapped_column(default="")
    to: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class VerdictRecord(Base):
    """Where the copies of a version should go, as last worked out; ``chosen`` is what the user decided instead."""

    __tablename__ = "verdict"
    __table_args__ = (
        UniqueConstraint("card_id", "parallel"),
        Index("ix_verdict_go_net", "go", "net"),
        Index("ix_verdict_product", "product_id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"))
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"))
    parallel: Mapped[str] = mapped_column(default="")
    copies: Mapped[int] = mapped_column(default=0)
    go: Mapped[str]
    tier: Mapped[str] = mapped_column(default="")
    chosen: Mapped[str] = mapped_column(default="")
    net: Mapped[int] = mapped_column(default=0)
    net_raw: Mapped[int] = mapped_column(default=0)
    p10: Mapped[int] = mapped_column(default=0)
    p90: Mapped[int] = mapped_column(default=0)
    loss_permille: Mapped[int] = mapped_column(default=0)
    margin: Mapped[int] = mapped_column(default=0)
    price: Mapped[int] = mapped_column(default=0)
    found: Mapped[str] = mapped_column(default="")
    flips: Mapped[bool] = mapped_column(default=False)
    top_only: Mapped[bool] = mapped_column(default=False)
    reason: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]


class InspectionRecord(Base):
    """My look at a copy; the copy is named like ``pull-12`` or ``arrival-3``."""

    __tablename__ = "inspection"

    id: Mapped[int] = mapped_column(primary_key=True)
    copy: Mapped[str] = mapped_column(unique=True)
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"), index=True)
    parallel: Mapped[str] = mapped_column(default="")
    values: Mapped[str] = mapped_column(default="{}")
    made_at: Mapped[datetime]


class ReturnedRecord(Base):
    """A grade that came back for a copy that had been looked at; what teaches bias and noise."""

    __tablename__ = "returned"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    copy: Mapped[str]
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"), index=True)
    house: Mapped[str] = mapped_column(default="")
    score_halves: Mapped[int | None]
    grade_halves: Mapped[int]
    forecast: Mapped[str] = mapped_column(default="{}")
    returned_on: Mapped[date]


class GradeCountRecord(Base):
    """How many graded copies of a product (or a section of it) got a grade, as a house publishes it."""

    __tablename__ = "grade_count"
    __table_args__ = (UniqueConstraint("product_id", "section", "grade_halves"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"))
    section: Mapped[str] = mapped_column(default="")
    grade_halves: Mapped[int]
    count: Mapped[int]


class LookRecord(Base):
    """The price of a version when I last looked: what moved beyond its interval since then is pointed out."""

    __tablename__ = "look"
    __table_args__ = (UniqueConstraint("card_id", "parallel"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"))
    parallel: Mapped[str] = mapped_column(default="")
    amount: Mapped[int]
    low: Mapped[int]
    high: Mapped[int]
    looked_at: Mapped[datetime]


class TermsRecord(Base):
    """Fees and tiers from a day on, as text the user edits; the older ones are kept."""

    __tablename__ = "terms"
    __table_args__ = (UniqueConstraint("kind", "valid_from"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    valid_from: Mapped[date]
    body: Mapped[str]


class ExchangeRateRecord(Base):
    """One ``base`` was worth ``rate`` of ``quote`` on a day; the digits are kept as they were typed."""

    __tablename__ = "exchange_rate"
    __table_args__ = (UniqueConstraint("base", "quote", "day"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    day: Mapped[date]
    base: Mapped[str]
    quote: Mapped[str]
    rate: Mapped[str]


class GradingOrderRecord(Base):
    """Copies that were sent to a grading house together."""

    __tablename__ = "grading_order"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    house: Mapped[str] = mapped_column(default="")
    tier: Mapped[str] = mapped_column(default="")
    sent_on: Mapped[date]
    due_on: Mapped[date | None]
    note: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class GradingCopyRecord(Base):
    """A copy in an order: out until ``back_on``; ``grade_halves`` stays empty when it came back without a grade."""

    __tablename__ = "grading_copy"
    __table_args__ = (
        CheckConstraint("(pull_id IS NULL) <> (arrival_id IS NULL)", name="one_copy"),
        Index("uq_grading_copy_pull_out", "pull_id", unique=True, sqlite_where=text("back_on IS NULL")),
        Index("uq_grading_copy_arrival_out", "arrival_id", unique=True, sqlite_where=text("back_on IS NULL")),
        Index("ix_grading_copy_pull", "pull_id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    order_id: Mapped[int] = mapped_column(ForeignKey("grading_order.id", ondelete="CASCADE"), index=True)
    place: Mapped[int]
    pull_id: Mapped[int | None] = mapped_column(ForeignKey("pull.id"))
    arrival_id: Mapped[int | None] = mapped_column(ForeignKey("arrival.id"))
    grade_halves: Mapped[int | None]
    back_on: Mapped[date | None]
