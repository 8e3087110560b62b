"""Looks keep their days, scans and pins belong to a copy, and what a look would earn stands beside its flag."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Let a copy have several looks; make the tables of scans and pins."""
    with op.batch_alter_table("inspection") as table:
        table.drop_constraint("uq_inspection_copy_id", type_="unique")
        table.create_index("ix_inspection_copy_id", ["copy_id"])
    with op.batch_alter_table("flag") as table:
        table.add_column(sa.Column("look_gain", sa.Integer(), nullable=False, server_default="0"))
    op.create_table(
        "scan",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=False),
        sa.Column("side", sa.String(), nullable=False),
        sa.Column("file", sa.String(), nullable=False),
        sa.Column("mime", sa.String(), nullable=False),
        sa.Column("cut", sa.String(), nullable=False),
        sa.Column("measured", sa.String(), nullable=False),
        sa.Column("rulers", sa.String(), nullable=False),
        sa.Column("simulated", sa.Boolean(), nullable=False),
        sa.Column("added_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_scan_copy_id_copy", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_scan"),
    )
    op.create_index("ix_scan_copy_id", "scan", ["copy_id"])
    op.create_table(
        "pin",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=False),
        sa.Column("side", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("severity", sa.String(), nullable=False),
        sa.Column("x_permille", sa.Integer(), nullable=False),
        sa.Column("y_permille", sa.Integer(), nullable=False),
        sa.Column("size_um", sa.Integer(), nullable=True),
        sa.Column("pinned_at", sa.DateTime(), nullable=False),
        sa.Column("removed_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_pin_copy_id_copy", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_pin"),
        sa.UniqueConstraint("client_key", name="uq_pin_client_key"),
    )
    op.create_index("ix_pin_copy_id", "pin", ["copy_id"])


def downgrade() -> None:
    """Keep the latest look of a copy."""
    op.drop_table("pin")
    op.drop_table("scan")
    with op.batch_alter_table("flag") as table:
        table.drop_column("look_gain")
    op.execute("DELETE FROM inspection WHERE id NOT IN (SELECT max(id) FROM inspection GROUP BY copy_id)")
    with op.batch_alter_table("inspection") as table:
        table.drop_index("ix_inspection_copy_id")
        table.create_unique_constraint("uq_inspection_copy_id", ["copy_id"])
