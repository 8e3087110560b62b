"""The tables. Money is integer minor units beside its currency; times are UTC."""

from __future__ import annotations

from datetime import date, datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, MetaData, UniqueConstraint, text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

NAMING = {
    "ix": "ix_%(column_0_label)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
    "pk": "pk_%(table_name)s",
}


ALIVE_AND_NUMBERED = "run IS NOT NULL AND undone_at IS NULL"


class Base(DeclarativeBase):
    """Base of all tables."""

    metadata = MetaData(naming_convention=NAMING)


class ProductRecord(Base):
    """A product; ``revision`` grows with each change, so that what is computed from it can be kept until then."""

    __tablename__ = "product"

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    maker: Mapped[str] = mapped_column(default="")
    season: Mapped[str] = mapped_column(default="")
    sport: Mapped[str] = mapped_column(default="")
    released_on: Mapped[date | None]
    currency: Mapped[str] = mapped_column(default="EUR")
    revision: Mapped[int] = mapped_column(default=1)
    cards: Mapped[int] = mapped_column(default=0, server_default="0")
    set_aside: Mapped[bool] = mapped_column(default=False, server_default="0")
    """Out of every list to choose from, since it is done with; what is logged of it stays."""

    formats: Mapped[list[FormatRecord]] = relationship(
        back_populates="product", cascade="all, delete-orphan", order_by="FormatRecord.id"
    )


class FormatRecord(Base):
    """A way the product is boxed."""

    __tablename__ = "format"
    __table_args__ = (UniqueConstraint("product_id", "key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"))
    key: Mapped[str]
    label: Mapped[str]
    packs_per_box: Mapped[int]
    cards_per_pack: Mapped[int]
    boxes_per_case: Mapped[int | None]
    list_price_minor: Mapped[int | None]
    list_price_currency: Mapped[str] = mapped_column(default="")
    packs_range: Mapped[str] = mapped_column(default="", server_default="")
    """Fewest and most packs like ``7-10``, where boxes differ."""

    product: Mapped[ProductRecord] = relationship(back_populates="formats")


class SectionRecord(Base):
    """A part of a checklist."""

    __tablename__ = "section"
    __table_args__ = (UniqueConstraint("product_id", "key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"))
    key: Mapped[str]
    label: Mapped[str]
    kind: Mapped[str]
    back_code: Mapped[str] = mapped_column(default="")
    cue: Mapped[str] = mapped_column(default="")


class CardRecord(Base):
    """A card of a checklist; never deleted while a copy of it is logged."""

    __tablename__ = "card"
    __table_args__ = (UniqueConstraint("section_id", "number"), Index("ix_card_number", "number"))

    id: Mapped[int] = mapped_column(primary_key=True)
    section_id: Mapped[int] = mapped_column(ForeignKey("section.id", ondelete="CASCADE"))
    number: Mapped[str]
    name: Mapped[str]
    team: Mapped[str] = mapped_column(default="")
    rookie: Mapped[str] = mapped_column(default="")
    grp: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")


class ParallelRecord(Base):
    """A finish of a section or of one group of it."""

    __tablename__ = "parallel"

    id: Mapped[int] = mapped_column(primary_key=True)
    section_id: Mapped[int] = mapped_column(ForeignKey("section.id", ondelete="CASCADE"), index=True)
    key: Mapped[str]
    label: Mapped[str]
    grp: Mapped[str] = mapped_column(default="")
    run_text: Mapped[str] = mapped_column(default="")
    back_code: Mapped[str] = mapped_column(default="")
    cue: Mapped[str] = mapped_column(default="")
    swatch: Mapped[str] = mapped_column(default="")


class OddsRecord(Base):
    """A printed rate."""

    __tablename__ = "odds"

    id: Mapped[int] = mapped_column(primary_key=True)
    format_id: Mapped[int] = mapped_column(ForeignKey("format.id", ondelete="CASCADE"), index=True)
    section_id: Mapped[int] = mapped_column(ForeignKey("section.id", ondelete="CASCADE"), index=True)
    parallel: Mapped[str] = mapped_column(default="")
    grp: Mapped[str] = mapped_column(default="")
    packs_per_hit: Mapped[str] = mapped_column(default="")
    per_box: Mapped[str] = mapped_column(default="")
    per_case: Mapped[str] = mapped_column(default="")
    per_pack: Mapped[str] = mapped_column(default="")
    promise: Mapped[str] = mapped_column(default="")


class PromiseRecord(Base):
    """A promise over several lines; an empty format means all."""

    __tablename__ = "promise"

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"), index=True)
    format: Mapped[str] = mapped_column(default="")
    label: Mapped[str] = mapped_column(default="")
    count: Mapped[str]
    per: Mapped[str]
    promise: Mapped[str] = mapped_column(default="")
    covers: Mapped[str] = mapped_column(default="")


class OverallRecord(Base):
    """A printed total."""

    __tablename__ = "overall"

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"), index=True)
    format: Mapped[str]
    label: Mapped[str] = mapped_column(default="")
    kinds: Mapped[str]
    packs_per_hit: Mapped[str]


class TeamClubRecord(Base):
    """Which club holds the rights behind a team's name."""

    __tablename__ = "team_club"

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"), index=True)
    team: Mapped[str]
    club: Mapped[str]


class PriceRecord(Base):
    """A price seen; without a number it prices a whole section and parallel."""

    __tablename__ = "price"
    __table_args__ = (
        CheckConstraint("amount_minor >= 0", name="not_negative"),
        Index("ix_price_product_kind", "product_id", "kind"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"))
    section: Mapped[str]
    number: Mapped[str] = mapped_column(default="")
    parallel: Mapped[str] = mapped_column(default="")
    grade: Mapped[str] = mapped_column(default="")
    amount_minor: Mapped[int]
    currency: Mapped[str]
    sold_on: Mapped[date | None]
    source: Mapped[str] = mapped_column(default="")
    kind: Mapped[str] = mapped_column(default="sold")


KEPT = "rest = 'kept'"
"""Boxes of which packs were kept sealed."""


class BoxRecord(Base):
    """A box bought: sealed, open or closed; sold as it was, or removed since it was never bought."""

    __tablename__ = "box"
    __table_args__ = (
        CheckConstraint("price_minor >= 0 AND shipping_minor >= 0 AND tax_minor >= 0", name="not_negative"),
        CheckConstraint("state IN ('sealed', 'open', 'closed', 'sold', 'removed')", name="state"),
        Index("ix_box_state_bought", "state", "bought_on"),
        Index("ix_box_kept", "closed_at", sqlite_where=text(KEPT)),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    format_id: Mapped[int] = mapped_column(ForeignKey("format.id"), index=True)
    label: Mapped[str] = mapped_column(default="")
    bought_on: Mapped[date]
    price_minor: Mapped[int]
    shipping_minor: Mapped[int] = mapped_column(default=0)
    tax_minor: Mapped[int] = mapped_column(default=0)
    currency: Mapped[str]
    state: Mapped[str] = mapped_column(default="sealed")
    opened_at: Mapped[datetime | None]
    closed_at: Mapped[datetime | None]
    pack: Mapped[int] = mapped_column(default=1)
    mode: Mapped[str] = mapped_column(default="all", server_default="all")
    stacked: Mapped[bool] = mapped_column(default=False, server_default="0")
    case_label: Mapped[str] = mapped_column(default="", server_default="")
    rest: Mapped[str] = mapped_column(default="", server_default="")
    sealed_check: Mapped[str] = mapped_column(default="", server_default="")
    owners: Mapped[str] = mapped_column(default="", server_default="")
    purchase_id: Mapped[int | None] = mapped_column(ForeignKey("purchase.id"), index=True)
    delivery: Mapped[str] = mapped_column(default="", server_default="")
    """Empty once it is here; pre-ordered or on the way until then."""

    format: Mapped[FormatRecord] = relationship()


class PullRecord(Base):
    """A line of a box's log. ``undone_at`` takes it out of every count without deleting it."""

    __tablename__ = "pull"
    __table_args__ = (
        UniqueConstraint("client_key"),
        CheckConstraint("serial IS NULL OR serial BETWEEN 1 AND run", name="serial"),
        CheckConstraint("pack >= 0", name="pack"),
        Index("ix_pull_box_alive", "box_id", "pack", "id", sqlite_where=text("undone_at IS NULL")),
        Index("ix_pull_card", "card_id"),
        Index("ix_pull_card_alive", "card_id", sqlite_where=text("undone_at IS NULL")),
        Index(
            "ix_pull_numbered",
            "card_id",
            "parallel",
            "run",
            sqlite_where=text("run IS NOT NULL AND undone_at IS NULL"),
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    box_id: Mapped[int] = mapped_column(ForeignKey("box.id"))
    card_id: Mapped[int | None] = mapped_column(ForeignKey("card.id"))
    client_key: Mapped[str]
    pack: Mapped[int]
    parallel: Mapped[str] = mapped_column(default="")
    serial: Mapped[int | None]
    run: Mapped[int | None]
    logged_at: Mapped[datetime]
    undone_at: Mapped[datetime | None]
    typed: Mapped[str] = mapped_column(default="", server_default="")
    details: Mapped[str] = mapped_column(default="", server_default="")
    candidates: Mapped[str] = mapped_column(default="", server_default="")


class BoxPackRecord(Base):
    """What is written down of a pack beside its cards."""

    __tablename__ = "box_pack"
    __table_args__ = (UniqueConstraint("box_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    box_id: Mapped[int] = mapped_column(ForeignKey("box.id", ondelete="CASCADE"))
    number: Mapped[int]
    product_id: Mapped[int | None] = mapped_column(ForeignKey("product.id"))
    base_count: Mapped[int | None]
    flags: Mapped[str] = mapped_column(default="")
    owner: Mapped[str] = mapped_column(default="")
    note: Mapped[str] = mapped_column(default="")


class StepRecord(Base):
    """One step at the rip desk, with what it changed: it can be undone and redone in order, also after a reload."""

    __tablename__ = "step"
    __table_args__ = (Index("ix_step_box", "box_id", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    box_id: Mapped[int] = mapped_column(ForeignKey("box.id", ondelete="CASCADE"))
    client_key: Mapped[str] = mapped_column(unique=True)
    made_at: Mapped[datetime]
    words: Mapped[str]
    changes: Mapped[str]
    state: Mapped[str] = mapped_column(default="done")
    turn_key: Mapped[str] = mapped_column(default="")
    turns: Mapped[int] = mapped_column(default=0)


class PhotoRecord(Base):
    """A photo of a sealed box; the file lies in the data directory."""

    __tablename__ = "photo"

    id: Mapped[int] = mapped_column(primary_key=True)
    box_id: Mapped[int] = mapped_column(ForeignKey("box.id", ondelete="CASCADE"), index=True)
    file: Mapped[str]
    mime: Mapped[str]
    added_at: Mapped[datetime]


class DraftRecord(Base):
    """A product in the making: what was given, until it is stored or thrown away."""

    __tablename__ = "draft"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    made_at: Mapped[datetime]
    about: Mapped[str]
    sources: Mapped[str]
    product_id: Mapped[int | None] = mapped_column(ForeignKey("product.id", ondelete="SET NULL"))
    stored_at: Mapped[datetime | None]


class KnownColumnsRecord(Base):
    """What the columns of tables of a shape are, as the user said it once: fields by place, as JSON text."""

    __tablename__ = "known_columns"

    shape: Mapped[str] = mapped_column(primary_key=True)
    fields: Mapped[str]
    told_at: Mapped[datetime]


class CorrectionRecord(Base):
    """A value of a product changed by hand: who, when, what it was and why."""

    __tablename__ = "correction"

    id: Mapped[int] = mapped_column(primary_key=True)
    client_key: Mapped[str] = mapped_column(unique=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"), index=True)
    made_at: Mapped[datetime]
    who: Mapped[str]
    table: Mapped[str]
    row_key: Mapped[str]
    field: Mapped[str]
    was: Mapped[str]
    now: Mapped[str]
    why: Mapped[str] = mapped_column(default="")


class LookAgainRecord(Base):
    """A logged copy that a list known only later says to look at again."""

    __tablename__ = "look_again"
    __table_args__ = (UniqueConstraint("pull_id", "card_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    product_id: Mapped[int] = mapped_column(ForeignKey("product.id", ondelete="CASCADE"), index=True)
    pull_id: Mapped[int] = mapped_column(ForeignKey("pull.id", ondelete="CASCADE"))
    card_id: Mapped[int] = mapped_column(ForeignKey("card.id", ondelete="CASCADE"))
    made_at: Mapped[datetime]
    done_at: Mapped[datetime | None]
    outcome: Mapped[str] = mapped_column(default="")


class SettingRecord(Base):
    """A setting of the user as JSON text."""

    __tablename__ = "setting"

    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]
