"""A grading order has a way from draft to done; memberships, vouchers and steps get tables of their own."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

STATES = "('draft', 'closed', 'packed', 'sent', 'there', 'graded', 'returning', 'back', 'done')"
WORDS = ("service", "phone", "parcel", "checks", "tracking", "tracking_back", "number")
AMOUNTS = (
    "fee_minor", "upcharge_minor", "postage_minor", "insurance_minor", "return_minor", "surcharge_minor",
    "membership_minor", "voucher_cards", "voucher_minor",
)  # fmt: skip


def _copy_columns() -> tuple[sa.Column[object], ...]:
    return (
        sa.Column("declared_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("upcharge_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("packed_at", sa.DateTime(), nullable=True),
        sa.Column("outcome", sa.String(), nullable=False, server_default=""),
        sa.Column("forecast", sa.String(), nullable=False, server_default="{}"),
        sa.Column("told_halves", sa.Integer(), nullable=True),
        sa.Column("handed_on", sa.Date(), nullable=True),
    )  # fmt: skip


def upgrade() -> None:
    """Widen the orders and their copies; say of the orders there are where on their way they stand."""
    _vouchers()
    _orders()
    with op.batch_alter_table("grading_copy") as table:
        for column in _copy_columns():
            table.add_column(column)
    _steps()
    _memberships()
    _say_where_they_are()


def _vouchers() -> None:
    op.create_table(
        "voucher",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("house", sa.String(), nullable=False),
        sa.Column("tier", sa.String(), nullable=False, server_default=""),
        sa.Column("off_minor", sa.Integer(), nullable=False),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("cards", sa.Integer(), nullable=False, server_default="1"),
        sa.Column("until_on", sa.Date(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("undone_at", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_voucher"),
        sa.UniqueConstraint("client_key", name="uq_voucher_client_key"),
    )


def _orders() -> None:
    with op.batch_alter_table("grading_order") as table:
        table.alter_column("sent_on", existing_type=sa.Date(), nullable=True)
        table.add_column(sa.Column("state", sa.String(), nullable=False, server_default="draft"))
        table.add_column(sa.Column("item", sa.String(), nullable=False, server_default="card"))
        table.add_column(sa.Column("currency", sa.String(), nullable=False, server_default="EUR"))
        table.add_column(sa.Column("share_by", sa.String(), nullable=False, server_default="card"))
        table.add_column(sa.Column("ceiling_minor", sa.Integer(), nullable=True))
        table.add_column(sa.Column("days", sa.Integer(), nullable=False, server_default="30"))
        table.add_column(sa.Column("least", sa.Integer(), nullable=False, server_default="1"))
        for name in WORDS:
            table.add_column(sa.Column(name, sa.String(), nullable=False, server_default=""))
        for name in AMOUNTS:
            table.add_column(sa.Column(name, sa.Integer(), nullable=False, server_default="0"))
        for name in ("member", "agreed", "simulated"):
            table.add_column(sa.Column(name, sa.Boolean(), nullable=False, server_default="0"))
        table.add_column(sa.Column("weight_g", sa.Integer(), nullable=True))
        table.add_column(sa.Column("pay_on", sa.Date(), nullable=True))
        table.add_column(sa.Column("paid_on", sa.Date(), nullable=True))
        table.add_column(sa.Column("voucher_id", sa.Integer(), nullable=True))
        table.create_foreign_key("fk_grading_order_voucher_id_voucher", "voucher", ["voucher_id"], ["id"])
        table.create_check_constraint("state", f"state IN {STATES}")
        table.create_check_constraint("share_by", "share_by IN ('card', 'person')")


def _steps() -> None:
    op.create_table(
        "grading_step",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("order_id", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("undone_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(
            ["order_id"], ["grading_order.id"], name="fk_grading_step_order_id_grading_order", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_grading_step"),
        sa.UniqueConstraint("client_key", name="uq_grading_step_client_key"),
    )
    op.create_index("ix_grading_step_order_id", "grading_step", ["order_id"])


def _memberships() -> None:
    op.create_table(
        "membership",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("house", sa.String(), nullable=False),
        sa.Column("from_on", sa.Date(), nullable=False),
        sa.Column("until_on", sa.Date(), nullable=False),
        sa.Column("cost_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("order_id", sa.Integer(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("undone_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(["order_id"], ["grading_order.id"], name="fk_membership_order_id_grading_order"),
        sa.PrimaryKeyConstraint("id", name="pk_membership"),
        sa.UniqueConstraint("client_key", name="uq_membership_client_key"),
    )


def _say_where_they_are() -> None:
    """Orders of before were paid on the day they were sent; those of which every copy is back are done."""
    op.execute(
        "UPDATE grading_order SET paid_on = sent_on, pay_on = sent_on, state = CASE WHEN EXISTS (SELECT 1 FROM "
        "grading_copy g WHERE g.order_id = grading_order.id AND g.back_on IS NULL) THEN 'sent' ELSE 'done' END, "
        "days = CASE WHEN due_on IS NULL THEN 30 ELSE CAST(julianday(due_on) - julianday(sent_on) AS INTEGER) END"
    )
    op.execute("UPDATE grading_copy SET outcome = CASE WHEN grade_halves IS NULL THEN 'refused' ELSE 'graded' END "
               "WHERE back_on IS NOT NULL")  # fmt: skip
    prepaid = (
        'SELECT p.{} FROM posting p JOIN "transaction" t ON t.id = p.transaction_id WHERE p.order_id = '
        "grading_order.id AND p.account = 'grading fees prepaid' AND p.minor > 0 AND t.client_key = "
        "'order-' || grading_order.id ORDER BY p.minor DESC LIMIT 1"
    )
    count = "max(1, (SELECT count(*) FROM grading_copy g WHERE g.order_id = grading_order.id))"
    op.execute(
        f"UPDATE grading_order SET currency = coalesce(({prepaid.format('currency')}), 'EUR'), "
        f"fee_minor = coalesce(({prepaid.format('minor')}) / {count}, 0)"
    )
    op.execute(
        "INSERT INTO grading_step (client_key, order_id, state, day, made_at) SELECT 'sent-' || id, id, 'sent', "
        "sent_on, made_at FROM grading_order WHERE undone_at IS NULL"
    )
    op.execute(
        "INSERT INTO grading_step (client_key, order_id, state, day, made_at) SELECT 'done-' || o.id, o.id, 'done', "
        "(SELECT max(g.back_on) FROM grading_copy g WHERE g.order_id = o.id), o.made_at FROM grading_order o "
        "WHERE o.undone_at IS NULL AND o.state = 'done' AND EXISTS (SELECT 1 FROM grading_copy g "
        "WHERE g.order_id = o.id)"
    )


def downgrade() -> None:
    """Go back to orders that were sent; drafts are lost."""
    op.execute("DELETE FROM grading_copy WHERE order_id IN (SELECT id FROM grading_order WHERE sent_on IS NULL)")
    op.drop_table("membership")
    op.drop_table("grading_step")
    op.execute("DELETE FROM grading_order WHERE sent_on IS NULL")
    with op.batch_alter_table("grading_copy") as table:
        for column in _copy_columns():
            table.drop_column(column.name)
    with op.batch_alter_table("grading_order") as table:
        table.drop_constraint("ck_grading_order_state", type_="check")
        table.drop_constraint("ck_grading_order_share_by", type_="check")
        table.drop_constraint("fk_grading_order_voucher_id_voucher", type_="foreignkey")
        for name in (
            *WORDS,
            *AMOUNTS,
            "member",
            "agreed",
            "simulated",
            "weight_g",
            "pay_on",
            "paid_on",
            "voucher_id",
        ):
            table.drop_column(name)
        for name in ("state", "item", "currency", "share_by", "ceiling_minor", "days", "least"):
            table.drop_column(name)
        table.alter_column("sent_on", existing_type=sa.Date(), nullable=False)
    op.drop_table("voucher")
