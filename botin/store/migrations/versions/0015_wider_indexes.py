"""What is counted of the copies of a card, and which packs were kept, is answered by an index alone."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Widen the one and add the other."""
    op.drop_index("ix_copy_card", "copy")
    op.create_index(
        "ix_copy_card", "copy", ["card_id", "parallel", "owner_id", "state", "place", "got_on", "made_at"]
    )
    op.create_index("ix_box_kept", "box", ["closed_at"], sqlite_where=sa.text("rest = 'kept'"))


def downgrade() -> None:
    """Make them as they were."""
    op.drop_index("ix_box_kept", "box")
    op.drop_index("ix_copy_card", "copy")
    op.create_index("ix_copy_card", "copy", ["card_id", "parallel"])
