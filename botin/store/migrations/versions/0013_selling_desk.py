"""Listings, sales with their road, and parcels."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None
TABLES = (
    "sale_change", "sale_step", "sale_line", "sale", "parcel", "offer", "listing_copy", "listing",
)  # fmt: skip


def upgrade() -> None:
    """Make the tables."""
    _listing()
    _listing_copy()
    _offer()
    _parcel()
    _sale()
    _sale_line()
    _sale_step()
    _sale_change()


def _listing() -> None:
    op.create_table(
        "listing",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("channel", sa.String(), nullable=False, server_default=""),
        sa.Column("ask_minor", sa.Integer(), nullable=False),
        sa.Column("floor_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("lower_permille", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("every_days", sa.Integer(), nullable=False, server_default="7"),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("listed_on", sa.Date(), nullable=False),
        sa.Column("ended_on", sa.Date(), nullable=True),
        sa.Column("title", sa.String(), nullable=False, server_default=""),
        sa.Column("words", sa.String(), nullable=False, server_default=""),
        sa.Column("box_id", sa.Integer(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.CheckConstraint("ask_minor > 0 AND floor_minor >= 0", name="ck_listing_asks"),
        sa.ForeignKeyConstraint(["box_id"], ["box.id"], name="fk_listing_box_id_box"),
        sa.PrimaryKeyConstraint("id", name="pk_listing"),
        sa.UniqueConstraint("client_key", name="uq_listing_client_key"),
    )


def _listing_copy() -> None:
    op.create_table(
        "listing_copy",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("listing_id", sa.Integer(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=False),
        sa.Column("ended", sa.Boolean(), nullable=False, server_default="0"),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_listing_copy_copy_id_copy"),
        sa.ForeignKeyConstraint(
            ["listing_id"], ["listing.id"], name="fk_listing_copy_listing_id_listing", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_listing_copy"),
    )
    op.create_index("ix_listing_copy_copy_id", "listing_copy", ["copy_id"])
    op.create_index("ix_listing_copy_listing_id", "listing_copy", ["listing_id"])
    op.create_index(
        "uq_listing_copy_live", "listing_copy", ["copy_id"], unique=True, sqlite_where=sa.text("ended = 0")
    )


def _offer() -> None:
    op.create_table(
        "offer",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("listing_id", sa.Integer(), nullable=False),
        sa.Column("amount_minor", sa.Integer(), nullable=False),
        sa.Column("by", sa.String(), nullable=False, server_default=""),
        sa.Column("made_on", sa.Date(), nullable=False),
        sa.Column("state", sa.String(), nullable=False, server_default="open"),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["listing_id"], ["listing.id"], name="fk_offer_listing_id_listing", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_offer"),
        sa.UniqueConstraint("client_key", name="uq_offer_client_key"),
    )
    op.create_index("ix_offer_listing_id", "offer", ["listing_id"])


def _parcel() -> None:
    op.create_table(
        "parcel",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("address", sa.String(), nullable=False, server_default=""),
        sa.Column("checks", sa.String(), nullable=False, server_default=""),
        sa.Column("grams", sa.Integer(), nullable=True),
        sa.Column("service", sa.String(), nullable=False, server_default=""),
        sa.Column("tracking", sa.String(), nullable=False, server_default=""),
        sa.Column("postage_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("insurance_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("insured", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("sent_on", sa.Date(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_parcel"),
        sa.UniqueConstraint("client_key", name="uq_parcel_client_key"),
    )


def _sale() -> None:
    op.create_table(
        "sale",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("channel", sa.String(), nullable=False, server_default=""),
        sa.Column("buyer_id", sa.Integer(), nullable=True),
        sa.Column("address", sa.String(), nullable=False, server_default=""),
        sa.Column("sold_on", sa.Date(), nullable=False),
        sa.Column("price_minor", sa.Integer(), nullable=False),
        sa.Column("shipping_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("fee_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("materials_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False, server_default="sold"),
        sa.Column("over", sa.String(), nullable=False, server_default=""),
        sa.Column("checked", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("by_hand", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("payout_on", sa.Date(), nullable=True),
        sa.Column("parcel_id", sa.Integer(), nullable=True),
        sa.Column("listing_id", sa.Integer(), nullable=True),
        sa.Column("feedback_given", sa.Date(), nullable=True),
        sa.Column("feedback_got", sa.String(), nullable=False, server_default=""),
        sa.Column("forecast", sa.String(), nullable=False, server_default="{}"),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.Column("simulated", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.CheckConstraint(
            "state IN ('sold', 'paid', 'packed', 'sent', 'checking', 'passed', 'there', 'done')", name="ck_sale_state"
        ),
        sa.CheckConstraint("over IN ('', 'cancelled', 'returned', 'lost')", name="ck_sale_over"),
        sa.ForeignKeyConstraint(["buyer_id"], ["party.id"], name="fk_sale_buyer_id_party"),
        sa.ForeignKeyConstraint(["listing_id"], ["listing.id"], name="fk_sale_listing_id_listing"),
        sa.ForeignKeyConstraint(["parcel_id"], ["parcel.id"], name="fk_sale_parcel_id_parcel"),
        sa.PrimaryKeyConstraint("id", name="pk_sale"),
        sa.UniqueConstraint("client_key", name="uq_sale_client_key"),
    )
    op.create_index("ix_sale_listing_id", "sale", ["listing_id"])
    op.create_index("ix_sale_parcel_id", "sale", ["parcel_id"])
    op.create_index("ix_sale_sold_on", "sale", ["sold_on"])


def _sale_line() -> None:
    op.create_table(
        "sale_line",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sale_id", sa.Integer(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=False),
        sa.Column("disposal_id", sa.Integer(), nullable=True),
        sa.Column("price_minor", sa.Integer(), nullable=False),
        sa.Column("fee_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_sale_line_copy_id_copy"),
        sa.ForeignKeyConstraint(["disposal_id"], ["disposal.id"], name="fk_sale_line_disposal_id_disposal"),
        sa.ForeignKeyConstraint(["sale_id"], ["sale.id"], name="fk_sale_line_sale_id_sale", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_sale_line"),
    )
    op.create_index("ix_sale_line_copy_id", "sale_line", ["copy_id"])
    op.create_index("ix_sale_line_sale_id", "sale_line", ["sale_id"])


def _sale_step() -> None:
    op.create_table(
        "sale_step",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("sale_id", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("undone_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["sale_id"], ["sale.id"], name="fk_sale_step_sale_id_sale", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_sale_step"),
        sa.UniqueConstraint("client_key", name="uq_sale_step_client_key"),
    )
    op.create_index("ix_sale_step_sale_id", "sale_step", ["sale_id"])


def _sale_change() -> None:
    op.create_table(
        "sale_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("sale_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("amount_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("undone_at", sa.DateTime(), nullable=True),
        sa.CheckConstraint("kind IN ('refund', 'return', 'lost', 'claim')", name="ck_sale_change_kind"),
        sa.ForeignKeyConstraint(["sale_id"], ["sale.id"], name="fk_sale_change_sale_id_sale", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_sale_change"),
        sa.UniqueConstraint("client_key", name="uq_sale_change_client_key"),
    )
    op.create_index("ix_sale_change_sale_id", "sale_change", ["sale_id"])


def downgrade() -> None:
    """Forget listings and sales; how copies left stays."""
    for table in TABLES:
        op.drop_table(table)
