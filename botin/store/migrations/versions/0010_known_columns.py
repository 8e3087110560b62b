"""What the columns of tables of a shape are, as the user said it once."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.create_table(
        "known_columns",
        sa.Column("shape", sa.String(), nullable=False),
        sa.Column("fields", sa.String(), nullable=False),
        sa.Column("told_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("shape", name="pk_known_columns"),
    )


def downgrade() -> None:
    """Forget what was said."""
    op.drop_table("known_columns")
