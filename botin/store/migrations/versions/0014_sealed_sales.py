"""Sealed boxes and packs are sold by a channel; what was paid out stays as it was; since when a copy is kept."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the columns and the table."""
    with op.batch_alter_table("sale") as sale:
        sale.add_column(sa.Column("box_id", sa.Integer(), nullable=True))
        sale.add_column(sa.Column("packs", sa.Integer(), nullable=False, server_default="0"))
        sale.add_column(sa.Column("payout_minor", sa.Integer(), nullable=True))
        sale.create_foreign_key("fk_sale_box_id_box", "box", ["box_id"], ["id"])
        sale.create_index("ix_sale_box_id", ["box_id"])
    with op.batch_alter_table("listing") as listing:
        listing.add_column(sa.Column("packs", sa.Integer(), nullable=False, server_default="0"))
    op.create_index("ix_flag_card", "flag", ["card_id"])
    _kept()


def _kept() -> None:
    op.create_table(
        "kept",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("card_id", sa.Integer(), nullable=False),
        sa.Column("parallel", sa.String(), nullable=False, server_default=""),
        sa.Column("copy_id", sa.Integer(), nullable=True),
        sa.Column("go", sa.String(), nullable=False),
        sa.Column("copies", sa.Integer(), nullable=False, server_default="1"),
        sa.Column("net", sa.Integer(), nullable=False),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("since", sa.Date(), nullable=False),
        sa.Column("until", sa.Date(), nullable=True),
        sa.Column("net_then", sa.Integer(), nullable=True),
        sa.ForeignKeyConstraint(["card_id"], ["card.id"], name="fk_kept_card_id_card", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_kept_copy_id_copy", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_kept"),
    )
    op.create_index("ix_kept_card_id", "kept", ["card_id"])
    op.create_index("ix_kept_copy_id", "kept", ["copy_id"])


def downgrade() -> None:
    """Take them away again."""
    op.drop_table("kept")
    op.drop_index("ix_flag_card", "flag")
    with op.batch_alter_table("listing") as listing:
        listing.drop_column("packs")
    with op.batch_alter_table("sale") as sale:
        sale.drop_index("ix_sale_box_id")
        sale.drop_constraint("fk_sale_box_id_box", type_="foreignkey")
        sale.drop_column("payout_minor")
        sale.drop_column("packs")
        sale.drop_column("box_id")
