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
