"""The tables of the books: purchases as orders, transactions and their postings, and the sums of each month."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, text
from sqlalchemy.orm import Mapped, mapped_column

from botin.store.models import Base


class PurchaseRecord(Base):
    """What was bought from one seller in one go: boxes and singles, with the postage and tax they share.

    ``state`` is pre-ordered, paid, on the way, in part or arrived. ``rate`` is what one unit of ``currency`` was
    worth in the currency of what was bought, empty when they are the same.
    """

    __tablename__ = "purchase"
    __table_args__ = (
        CheckConstraint("shipping_minor >= 0 AND tax_minor >= 0", name="not_negative"),
        CheckConstraint("state IN ('pre-ordered', 'paid', 'on the way', 'in part', 'arrived')", name="state"),
        Index("ix_purchase_open", "state", sqlite_where=text("state <> 'arrived'")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    bought_on: Mapped[date] = mapped_column(index=True)
    seller_id: Mapped[int | None] = mapped_column(ForeignKey("party.id"))
    currency: Mapped[str]
    rate: Mapped[str] = mapped_column(default="", server_default="")
    shipping_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    tax_minor: Mapped[int] = mapped_column(default=0, server_default="0")
    state: Mapped[str] = mapped_column(default="arrived", server_default="arrived")
    due_on: Mapped[date | None]
    note: Mapped[str] = mapped_column(default="", server_default="")
    to_pay: Mapped[str] = mapped_column(default="", server_default="")
    """What each single of a pre-order will cost (minor units), in the order of their ids; empty once it is paid."""
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class TransactionRecord(Base):
    """An event of the books; a wrong one is taken back by its mirror, ``voids_id``, and never changed.

    ``estimated`` says that its amounts were worked out and not written down by the collector.
    """

    __tablename__ = "transaction"
    __table_args__ = (Index("ix_transaction_day", "day", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    day: Mapped[date]
    kind: Mapped[str]
    party_id: Mapped[int | None] = mapped_column(ForeignKey("party.id"))
    words: Mapped[str] = mapped_column(default="", server_default="")
    estimated: Mapped[bool] = mapped_column(default=False, server_default="0")
    voids_id: Mapped[int | None] = mapped_column(ForeignKey("transaction.id"), unique=True)
    made_at: Mapped[datetime]


class PostingRecord(Base):
    """One line of a transaction and what it is for; the lines of one add up to zero in each currency."""

    __tablename__ = "posting"
    __table_args__ = (
        Index("ix_posting_transaction_id", "transaction_id"),
        Index("ix_posting_box", "box_id", "account", "minor", sqlite_where=text("box_id IS NOT NULL")),
        Index("ix_posting_copy", "copy_id", sqlite_where=text("copy_id IS NOT NULL")),
        Index("ix_posting_party", "party_id", sqlite_where=text("party_id IS NOT NULL")),
        Index("ix_posting_order", "order_id", sqlite_where=text("order_id IS NOT NULL")),
        Index("ix_posting_purchase", "purchase_id", sqlite_where=text("purchase_id IS NOT NULL")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    transaction_id: Mapped[int] = mapped_column(ForeignKey("transaction.id"))
    account: Mapped[str]
    minor: Mapped[int]
    currency: Mapped[str]
    box_id: Mapped[int | None] = mapped_column(ForeignKey("box.id"))
    copy_id: Mapped[int | None] = mapped_column(ForeignKey("copy.id"))
    order_id: Mapped[int | None] = mapped_column(ForeignKey("grading_order.id"))
    party_id: Mapped[int | None] = mapped_column(ForeignKey("party.id"))
    product_id: Mapped[int | None] = mapped_column(ForeignKey("product.id"))
    purchase_id: Mapped[int | None] = mapped_column(ForeignKey("purchase.id"))


class HistoryRecord(Base):
    """A value that was corrected: what it was and is, and when; ``subject`` names the table of ``row_id``."""

    __tablename__ = "history"
    __table_args__ = (Index("ix_history_subject", "subject", "row_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    subject: Mapped[str]
    row_id: Mapped[int]
    field: Mapped[str]
    was: Mapped[str] = mapped_column(default="", server_default="")
    now: Mapped[str] = mapped_column(default="", server_default="")
    made_at: Mapped[datetime]


class MonthSumRecord(Base):
    """Sum of the postings of a month by kind, product, account and currency, so that a million are not added up anew.

    ``product_id`` is 0 where a posting is for none.
    """

    __tablename__ = "month_sum"

    month: Mapped[str] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(primary_key=True)
    account: Mapped[str] = mapped_column(primary_key=True)
    currency: Mapped[str] = mapped_column(primary_key=True)
    minor: Mapped[int]
