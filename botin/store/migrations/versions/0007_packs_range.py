"""Boxes that hold a smallest and a largest number of packs."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("format") as batch:
        batch.add_column(sa.Column("packs_range", sa.String(), nullable=False, server_default=""))


def downgrade() -> None:
    with op.batch_alter_table("format") as batch:
        batch.drop_column("packs_range")
