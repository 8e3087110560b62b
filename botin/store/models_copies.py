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


ME = 1
"""Id of the party that is the collector."""
PRESENT = ("coming", "here", "out", "listed")
"""States of a copy that has not left: on its way to me, in my place, at a grading house, offered for sale."""


class PartyRecord(Base):
    """Somebody: me, an owner of cards, a buyer, a seller, a house, a channel. A name is one party, in any case."""

    __tablename__ = "party"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    name_key: Mapped[str] = mapped_column(unique=True)
    note: Mapped[str] = mapped_column(default="", server_default="")
    made_at: Mapped[datetime]


class CopyRecord(Base):
    """One physical card, from the day it was logged or acquired.

    ``pull_id`` is its line in the log of its box, empty when it came from elsewhere. ``owner_id`` is empty while
    nobody knows whose it is. A copy that was logged or acquired by mistake is ``void``: it never was.
    """

    __tablename__ = "copy"
    __table_args__ = (
        CheckConstraint("serial IS NULL OR serial BETWEEN 1 AND run", name="serial"),
        CheckConstraint("state IN ('coming', 'here', 'out', 'listed', 'sold', 'gone', 'void')", name="state"),
        CheckConstraint("(state = 'void') = (void_at IS NOT NULL)", name="void"),
        Index("ix_copy_card", "card_id", "parallel", "owner_id", "state", "place", "got_on", "made_at"),
        Index("ix_copy_box", "box_id"),
        Index("ix_copy_others", "owner_id", sqlite_where=text("owner_id <> 1")),
        Index("ix_copy_away", "state", sqlite_where=text("state <> 'here'")),
        Index("ix_copy_purchase_id", "purchase_id", sqlite_where=text("purchase_id IS NOT NULL")),
        Index("ix_copy_elsewhere", "got_on", sqlite_where=text("pull_id IS NULL")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    pull_id: Mapped[int | None] = mapped_column(ForeignKey("pull.id"), unique=True)
    box_id: Mapped[int | None] = mapped_column(ForeignKey("box.id"))
    client_key: Mapped[str | None] = mapped_column(unique=True)
    card_id: Mapped[int | None] = mapped_column(ForeignKey("card.id"))
    parallel: Mapped[str] = mapped_column(default="", server_default="")
    serial: Mapped[int | None]
    run: Mapped[int | None]
    owner_id: Mapped[int | None] = mapped_column(ForeignKey("party.id"), default=ME, server_default="1")
    place: Mapped[str] = mapped_column(default="", server_default="")
    marks: Mapped[str] = mapped_column(default="", server_default="")
    grade: Mapped[str] = mapped_column(default="", server_default="")
    house: Mapped[str] = mapped_column(default="", server_default="")
    certificate: Mapped[str] = mapped_column(default="", server_default="")
    state: Mapped[str] = mapped_column(default="here", server_default="here")
    came: Mapped[str] = mapped_column(default="box", server_default="box")
    source: Mapped[str] = mapped_column(default="", server_default="")
    got_on: Mapped[date | None]
    note: Mapped[str] = mapped_column(default="", server_default="")
    purchase_id: Mapped[int | None] = mapped_column(ForeignKey("purchase.id"))
    made_at: Mapped[datetime]
    void_at: Mapped[datetime | None]


class DisposalRecord(Base):
    """How a copy left: sold, swapped, given away, lost. It stays in every count of what was pulled."""

    __tablename__ = "disposal"
    __table_args__ = (
        CheckConstraint("price_minor >= 0 AND costs_minor >= 0", name="not_negative"),
        Index("uq_disposal_copy", "copy_id", unique=True, sqlite_where=text("undone_at IS NULL")),
        Index("ix_disposal_left_on", "left_on"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    copy_id: Mapped[int] = mapped_column(ForeignKey("copy.id"))
    went: Mapped[str]
    left_on: Mapped[date]
    price_minor: Mapped[int] = mapped_column(default=0)
    costs_minor: Mapped[int] = mapped_column(default=0)
    currency: Mapped[str]
    came_in: Mapped[str] = mapped_column(default="")
    to: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]


class FlagRecord(Base):
    """Where a copy should go, as last worked out; ``chosen`` is what the user decided instead.

    Without ``copy_id`` it is the flag of all my copies of a version that differ in nothing; ``copies`` counts them.
    A copy that is graded, marked, looked at or decided by itself has a flag of its own.
    """

    __tablename__ = "flag"
    __table_args__ = (
        Index("uq_flag_version", "card_id", "parallel", unique=True, sqlite_where=text("copy_id IS NULL")),
        Index("ix_flag_go_net", "go", "net"),
        Index("ix_flag_product", "product_id"),
        Index("ix_flag_card", "card_id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"))
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"))
    parallel: Mapped[str] = mapped_column(default="")
    copy_id: Mapped[int | None] = mapped_column(ForeignKey("copy.id", ondelete="CASCADE"), unique=True)
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
    look_gain: Mapped[int] = mapped_column(default=0, server_default="0")
    reason: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]


class InspectionRecord(Base):
    """My look at a copy on a day; the latest one counts, earlier ones stay."""

    __tablename__ = "inspection"

    id: Mapped[int] = mapped_column(primary_key=True)
    copy_id: Mapped[int] = mapped_column(ForeignKey("copy.id", ondelete="CASCADE"), index=True)
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"), index=True)
    parallel: Mapped[str] = mapped_column(default="")
    values: Mapped[str] = mapped_column(default="{}")
    made_at: Mapped[datetime]


class ScanRecord(Base):
    """A scan or photo of one side of a copy, what was measured on it, and the rulers as I put them.

    ``file`` is the picture as given, ``cut`` the straightened card; both lie with the photos. ``rulers`` are borders
    in millimetres by side, empty while nobody moved them. The latest of a side counts, earlier ones stay.
    """

    __tablename__ = "scan"

    id: Mapped[int] = mapped_column(primary_key=True)
    copy_id: Mapped[int] = mapped_column(ForeignKey("copy.id", ondelete="CASCADE"), index=True)
    side: Mapped[str]
    file: Mapped[str]
    mime: Mapped[str]
    cut: Mapped[str] = mapped_column(default="")
    measured: Mapped[str] = mapped_column(default="{}")
    rulers: Mapped[str] = mapped_column(default="")
    simulated: Mapped[bool] = mapped_column(default=False)
    added_at: Mapped[datetime]


class PinRecord(Base):
    """A mark on a copy, pinned where it is: thousandths of the card's width and height, its size in micrometres."""

    __tablename__ = "pin"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    copy_id: Mapped[int] = mapped_column(ForeignKey("copy.id", ondelete="CASCADE"), index=True)
    side: Mapped[str]
    kind: Mapped[str]
    severity: Mapped[str]
    x_permille: Mapped[int]
    y_permille: Mapped[int]
    size_um: Mapped[int | None]
    pinned_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]


class ReturnedRecord(Base):
    """A grade that came back for a copy that had been looked at; what teaches bias and noise."""

    __tablename__ = "returned"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    copy_id: Mapped[int | None] = mapped_column(ForeignKey("copy.id", ondelete="CASCADE"), index=True)
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


class KeptRecord(Base):
    """Since when a flag says to keep copies that could be sold, and what selling one left then (minor units).

    ``until`` is the day on which the flag said something else; ``net_then`` what selling left on that day, when a
    copy was still there.
    """

    __tablename__ = "kept"

    id: Mapped[int] = mapped_column(primary_key=True)
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"), index=True)
    parallel: Mapped[str] = mapped_column(default="", server_default="")
    copy_id: Mapped[int | None] = mapped_column(ForeignKey("copy.id", ondelete="CASCADE"), index=True)
    go: Mapped[str]
    copies: Mapped[int] = mapped_column(default=1, server_default="1")
    net: Mapped[int]
    currency: Mapped[str]
    since: Mapped[date]
    until: Mapped[date | None]
    net_then: Mapped[int | None]
