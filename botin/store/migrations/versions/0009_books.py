"""The books: purchases, transactions and postings, with what happened before written into them."""

from __future__ import annotations

import json
import re
from collections import defaultdict
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

MONTHS = (
    "INSERT INTO month_sum (month, kind, product_id, account, currency, minor) "
    "SELECT substr(t.day, 1, 7), t.kind, coalesce(p.product_id, 0), p.account, p.currency, sum(p.minor) "
    'FROM posting p JOIN "transaction" t ON t.id = p.transaction_id GROUP BY 1, 2, 3, 4, 5'
)
POSTING = "INSERT INTO posting (transaction_id, account, minor, currency, box_id, copy_id, order_id, party_id, product_id, purchase_id) "
TRANSACTION = 'INSERT INTO "transaction" (client_key, day, kind, party_id, words, estimated, made_at) '


def upgrade() -> None:
    """Make the tables; write purchases, closings, sales and grading orders of before into them."""
    _purchase_table()
    _transaction_tables()
    _columns()
    _purchases()
    _acquisitions()
    _closings()
    op.execute("CREATE INDEX ix_posting_copy_now ON posting (copy_id)")
    _disposals()
    op.execute("DROP INDEX ix_posting_copy_now")
    for order in _rows("SELECT id, house, tier, sent_on, made_at FROM grading_order WHERE undone_at IS NULL"):
        _order(order)
    _indexes()
    op.execute(MONTHS)
    op.execute("DROP TABLE arrival")


def _rows(sql: str, **values: object) -> list[Any]:
    return list(op.get_bind().execute(sa.text(sql), values).all())


def _run(sql: str, **values: object) -> None:
    op.get_bind().execute(sa.text(sql), values)


def _purchase_table() -> None:
    op.create_table(
        "purchase",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("bought_on", sa.Date(), nullable=False),
        sa.Column("seller_id", sa.Integer(), nullable=True),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("rate", sa.String(), nullable=False, server_default=""),
        sa.Column("shipping_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("tax_minor", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("state", sa.String(), nullable=False, server_default="arrived"),
        sa.Column("due_on", sa.Date(), nullable=True),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.Column("to_pay", sa.String(), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("undone_at", sa.DateTime(), nullable=True),
        sa.CheckConstraint("shipping_minor >= 0 AND tax_minor >= 0", name="ck_purchase_not_negative"),
        sa.CheckConstraint(
            "state IN ('pre-ordered', 'paid', 'on the way', 'in part', 'arrived')", name="ck_purchase_state"
        ),
        sa.ForeignKeyConstraint(["seller_id"], ["party.id"], name="fk_purchase_seller_id_party"),
        sa.PrimaryKeyConstraint("id", name="pk_purchase"),
        sa.UniqueConstraint("client_key", name="uq_purchase_client_key"),
    )
    op.create_index("ix_purchase_bought_on", "purchase", ["bought_on"])
    op.create_index("ix_purchase_open", "purchase", ["state"], sqlite_where=sa.text("state <> 'arrived'"))


def _transaction_tables() -> None:
    op.create_table(
        "transaction",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("party_id", sa.Integer(), nullable=True),
        sa.Column("words", sa.String(), nullable=False, server_default=""),
        sa.Column("estimated", sa.Boolean(), nullable=False, server_default="0"),
        sa.Column("voids_id", sa.Integer(), nullable=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["party_id"], ["party.id"], name="fk_transaction_party_id_party"),
        sa.ForeignKeyConstraint(["voids_id"], ["transaction.id"], name="fk_transaction_voids_id_transaction"),
        sa.PrimaryKeyConstraint("id", name="pk_transaction"),
        sa.UniqueConstraint("client_key", name="uq_transaction_client_key"),
        sa.UniqueConstraint("voids_id", name="uq_transaction_voids_id"),
    )
    op.create_index("ix_transaction_day", "transaction", ["day", "id"])
    links = ("box", "copy", "grading_order", "party", "product", "purchase")
    names = {table: "order_id" if table == "grading_order" else f"{table}_id" for table in links}
    op.create_table(
        "posting",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("transaction_id", sa.Integer(), nullable=False),
        sa.Column("account", sa.String(), nullable=False),
        sa.Column("minor", sa.Integer(), nullable=False),
        sa.Column("currency", sa.String(), nullable=False),
        *(sa.Column(name, sa.Integer(), nullable=True) for name in names.values()),
        sa.ForeignKeyConstraint(["transaction_id"], ["transaction.id"], name="fk_posting_transaction_id_transaction"),
        *(
            sa.ForeignKeyConstraint([name], [f"{table}.id"], name=f"fk_posting_{name}_{table}")
            for table, name in names.items()
        ),
        sa.PrimaryKeyConstraint("id", name="pk_posting"),
    )
    op.create_table(
        "history",
        sa.Column("id", sa.Integer(), nullable=False),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("client_key", "subject")),
        sa.Column("row_id", sa.Integer(), nullable=False),
        sa.Column("field", sa.String(), nullable=False),
        *(sa.Column(name, sa.String(), nullable=False, server_default="") for name in ("was", "now")),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_history"),
        sa.UniqueConstraint("client_key", name="uq_history_client_key"),
    )
    op.create_index("ix_history_subject", "history", ["subject", "row_id"])
    op.create_table(
        "month_sum",
        *(sa.Column(name, sa.String(), nullable=False) for name in ("month", "kind")),
        sa.Column("product_id", sa.Integer(), nullable=False),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("account", "currency")),
        sa.Column("minor", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("month", "kind", "product_id", "account", "currency", name="pk_month_sum"),
    )


def _indexes() -> None:
    """Made once the rows are in."""
    op.create_index("ix_posting_transaction_id", "posting", ["transaction_id"])
    for name, columns in (
        ("box", ["box_id", "account", "minor"]), ("copy", ["copy_id"]), ("party", ["party_id"]),
        ("order", ["order_id"]), ("purchase", ["purchase_id"]),
    ):  # fmt: skip
        where = sa.text(f"{columns[0]} IS NOT NULL")
        op.create_index(f"ix_posting_{name}", "posting", columns, sqlite_where=where)


def _columns() -> None:
    with op.batch_alter_table("box", recreate="always") as batch:
        batch.add_column(sa.Column("purchase_id", sa.Integer(), nullable=True))
        batch.add_column(sa.Column("delivery", sa.String(), nullable=False, server_default=""))
        batch.create_foreign_key("fk_box_purchase_id_purchase", "purchase", ["purchase_id"], ["id"])
        batch.drop_constraint(op.f("ck_box_state"), type_="check")
        batch.create_check_constraint(
            op.f("ck_box_state"), "state IN ('sealed', 'open', 'closed', 'sold', 'removed')"
        )
    op.execute("ALTER TABLE product ADD COLUMN set_aside BOOLEAN NOT NULL DEFAULT 0")
    op.execute("ALTER TABLE copy ADD COLUMN purchase_id INTEGER REFERENCES purchase (id)")
    op.create_index("ix_box_purchase_id", "box", ["purchase_id"])
    op.create_index("ix_copy_purchase_id", "copy", ["purchase_id"], sqlite_where=sa.text("purchase_id IS NOT NULL"))


def _purchases() -> None:
    """Each box is a purchase of its own: which of them came in one parcel was never written down."""
    day = "b.bought_on || ' 00:00:00.000000'"
    op.execute(
        "INSERT INTO purchase (client_key, bought_on, currency, shipping_minor, tax_minor, made_at) "
        f"SELECT 'box-' || b.id, b.bought_on, b.currency, b.shipping_minor, b.tax_minor, {day} FROM box b ORDER BY b.id"
    )
    op.execute("UPDATE box SET purchase_id = (SELECT p.id FROM purchase p WHERE p.client_key = 'box-' || box.id)")
    op.execute(
        TRANSACTION
        + f"SELECT 'buy-box-' || b.id, b.bought_on, 'purchase', NULL, coalesce(nullif(b.label, ''), 'box ' || b.id), 0, {day} "
        "FROM box b WHERE b.price_minor + b.shipping_minor + b.tax_minor > 0 ORDER BY b.id"
    )
    for account, sign in (("boxes", ""), ("cash", "-")):
        op.execute(
            POSTING
            + f"SELECT t.id, '{account}', {sign}(b.price_minor + b.shipping_minor + b.tax_minor), b.currency, "
            "b.id, NULL, NULL, NULL, f.product_id, b.purchase_id FROM box b JOIN format f ON f.id = b.format_id "
            "JOIN \"transaction\" t ON t.client_key = 'buy-box-' || b.id"
        )


def _acquisitions() -> None:
    """What copies from elsewhere cost; those taken out again cost nothing."""
    op.execute(
        TRANSACTION + "SELECT 'acquire-' || c.id, c.got_on, 'purchase', NULL, c.came || "
        "CASE WHEN c.source <> '' THEN ' · ' || c.source ELSE '' END, 0, c.made_at FROM copy c "
        "JOIN arrival a ON a.client_key = c.client_key WHERE a.cost_minor > 0 AND c.state <> 'void' ORDER BY c.id"
    )
    for account, sign in (("cards", ""), ("cash", "-")):
        op.execute(
            POSTING + f"SELECT t.id, '{account}', {sign}a.cost_minor, a.currency, NULL, c.id, NULL, NULL, "
            "s.product_id, NULL FROM copy c JOIN arrival a ON a.client_key = c.client_key "
            "JOIN card k ON k.id = c.card_id JOIN section s ON s.id = k.section_id "
            "JOIN \"transaction\" t ON t.client_key = 'acquire-' || c.id"
        )


def _closings() -> None:
    """Share what each closed box cost equally over its copies and its counted base: estimates, marked as such."""
    op.execute(
        "CREATE TEMP TABLE closing AS SELECT b.id AS box_id, b.currency, f.product_id, "
        "b.price_minor + b.shipping_minor + b.tax_minor AS cost, b.rest, b.closed_at, "
        "f.packs_per_box AS packs, "
        "(SELECT count(*) FROM copy c WHERE c.box_id = b.id AND c.state <> 'void') AS copies, "
        "coalesce((SELECT sum(base_count) FROM box_pack k WHERE k.box_id = b.id), 0) AS counted, "
        "(SELECT count(*) FROM (SELECT pack FROM pull u WHERE u.box_id = b.id AND u.undone_at IS NULL AND u.pack > 0 "
        "UNION SELECT number FROM box_pack k WHERE k.box_id = b.id AND k.base_count IS NOT NULL)) AS opened "
        "FROM box b JOIN format f ON f.id = b.format_id WHERE b.state = 'closed'"
    )
    op.execute("DELETE FROM closing WHERE cost = 0")
    op.execute("ALTER TABLE closing ADD COLUMN kept INTEGER NOT NULL DEFAULT 0")
    op.execute("UPDATE closing SET kept = cost * max(0, packs - opened) / max(1, packs) WHERE rest <> ''")
    op.execute(
        TRANSACTION + "SELECT 'close-' || box_id, substr(closed_at, 1, 10), 'opening', NULL, "
        "'box ' || box_id || ' opened; shared equally over its cards', 1, closed_at FROM closing ORDER BY box_id"
    )
    of = "FROM closing g JOIN \"transaction\" t ON t.client_key = 'close-' || g.box_id"
    box = "g.currency, g.box_id, NULL, NULL, NULL, g.product_id, NULL"
    op.execute(
        POSTING + f"SELECT t.id, 'boxes', -(g.cost - CASE WHEN g.rest = 'kept' THEN g.kept ELSE 0 END), {box} {of}"
    )
    op.execute(
        POSTING + f"SELECT t.id, 'the fun', g.kept, {box} {of} WHERE g.rest NOT IN ('', 'kept') AND g.kept > 0"
    )
    op.execute(
        POSTING
        + f"SELECT t.id, 'the fun', g.cost - g.kept, {box} {of} WHERE g.copies + g.counted = 0 AND g.cost > g.kept"
    )
    each = "(g.cost - g.kept) / (g.copies + g.counted)"
    over = "(g.cost - g.kept) % (g.copies + g.counted)"
    op.execute(
        "CREATE TEMP TABLE share AS SELECT c.id AS copy_id, g.box_id, "
        f"{each} + (row_number() OVER (PARTITION BY g.box_id ORDER BY c.id) <= {over}) AS minor "
        "FROM closing g JOIN copy c ON c.box_id = g.box_id AND c.state <> 'void'"
    )
    op.execute("DELETE FROM share WHERE minor = 0")
    op.execute("CREATE INDEX temp.ix_share ON share (copy_id)")
    op.execute(
        POSTING + "SELECT t.id, CASE WHEN c.owner_id IS 1 THEN CASE WHEN c.state = 'out' OR c.grade <> '' "
        "THEN 'graded and out' ELSE 'cards' END ELSE 'people' END, h.minor, g.currency, g.box_id, c.id, NULL, "
        "CASE WHEN c.owner_id IS 1 THEN NULL ELSE c.owner_id END, g.product_id, NULL "
        "FROM share h JOIN copy c ON c.id = h.copy_id JOIN closing g ON g.box_id = h.box_id "
        "JOIN \"transaction\" t ON t.client_key = 'close-' || g.box_id"
    )
    lump = "(g.cost - g.kept - coalesce((SELECT sum(minor) FROM share h WHERE h.box_id = g.box_id), 0))"
    op.execute(POSTING + f"SELECT t.id, 'cards', {lump}, {box} {of} WHERE g.counted > 0 AND {lump} > 0")
    op.execute("DROP TABLE share")
    op.execute("DROP TABLE closing")


def _disposals() -> None:
    """What left: net proceeds, costs, and what the copy had cost by then (its equal part while its box is open)."""
    op.execute(
        "CREATE TEMP TABLE gone AS SELECT d.id, d.copy_id, d.went, d.left_on, d.price_minor, d.costs_minor, d.currency, "
        "d.made_at, c.box_id, c.owner_id, coalesce(f.product_id, s.product_id) AS product_id, "
        "coalesce((SELECT sum(p.minor) FROM posting p WHERE p.copy_id = c.id AND p.account IN ('cards', 'graded and out')), "
        "0) AS held, CASE WHEN b.state = 'open' THEN (b.price_minor + b.shipping_minor + b.tax_minor) / "
        "max(1, f.packs_per_box * f.cards_per_pack) ELSE 0 END AS provisional, "
        "coalesce((SELECT p.account FROM posting p WHERE p.copy_id = c.id AND p.account IN ('cards', 'graded and out')), "
        "'cards') AS lies "
        "FROM disposal d JOIN copy c ON c.id = d.copy_id LEFT JOIN box b ON b.id = c.box_id "
        "LEFT JOIN format f ON f.id = b.format_id LEFT JOIN card k ON k.id = c.card_id "
        "LEFT JOIN section s ON s.id = k.section_id WHERE d.undone_at IS NULL"
    )
    op.execute("UPDATE gone SET held = provisional WHERE provisional > 0 AND held = 0 AND owner_id IS 1")
    kind = "CASE g.went WHEN 'sold' THEN 'sale' WHEN 'swapped' THEN 'swap' ELSE 'write-off' END"
    op.execute(
        TRANSACTION
        + f"SELECT 'leave-' || g.id, g.left_on, {kind}, NULL, g.went, g.provisional > 0, g.made_at FROM gone g "
        "WHERE g.held <> 0 OR g.price_minor <> 0 OR g.costs_minor <> 0 ORDER BY g.id"
    )
    of = "FROM gone g JOIN \"transaction\" t ON t.client_key = 'leave-' || g.id"
    about = "g.currency, g.box_id, g.copy_id, NULL, {}, g.product_id, NULL"
    mine, net = "g.owner_id IS 1", "g.price_minor - g.costs_minor"
    party = f"CASE WHEN {mine} THEN NULL ELSE g.owner_id END"
    op.execute(POSTING + f"SELECT t.id, 'cash', {net}, {about.format('NULL')} {of} WHERE {net} <> 0")
    op.execute(
        POSTING + f"SELECT t.id, 'people', -({net}), {about.format(party)} {of} WHERE {net} <> 0 AND NOT ({mine})"
    )
    for account, amount in (("fees", "g.costs_minor"), ("sales", "-g.price_minor")):
        op.execute(
            POSTING
            + f"SELECT t.id, '{account}', {amount}, {about.format('NULL')} {of} WHERE {amount} <> 0 AND {mine}"
        )
    target = "CASE WHEN g.went = 'sold' THEN 'cost of what was sold' ELSE 'the fun' END"
    for account, sign in ((target, ""), ("g.lies", "-")):
        op.execute(
            POSTING
            + f"SELECT t.id, {account}, {sign}g.held, {about.format('NULL')} {of} WHERE g.held <> 0 AND {mine}"
        )
    op.execute("DROP TABLE gone")


def _fee(house: str, tier: str) -> float:
    """What a tier costs by the fees that were written down; 0 when it is not among them."""
    bodies = _rows("SELECT body FROM terms WHERE kind = 'grading' ORDER BY valid_from DESC LIMIT 1")
    own = ""
    for line in str(json.loads(bodies[0][0]).get("tiers", "")).splitlines() if bodies else ():
        if line.strip().endswith(":"):
            own = line.strip()[:-1].strip()
            continue
        cells = [cell.strip() for cell in line.split(";")]
        if (own, cells[0]) == (house, tier) and len(cells) > 1 and re.fullmatch(r"\d+(?:\.\d+)?", cells[1]):
            return float(cells[1])
    return 0.0


def _order(order: Any) -> None:
    """The fees of an order by its tier, as an estimate: what was paid was never written down."""
    fee = round(100 * _fee(order.house, order.tier))
    copies = _rows(
        "SELECT g.id, g.copy_id, g.grade_halves, g.back_on, c.box_id, c.owner_id, s.product_id, p.currency "
        "FROM grading_copy g JOIN copy c ON c.id = g.copy_id JOIN card k ON k.id = c.card_id "
        "JOIN section s ON s.id = k.section_id JOIN product p ON p.id = s.product_id WHERE g.order_id = :order",
        order=order.id,
    )
    if not fee or not copies:
        return
    totals: dict[str, int] = defaultdict(int)
    for copy in copies:
        totals[copy.currency] += fee
        if copy.owner_id == 1 and (copy.back_on is None or copy.grade_halves is not None):
            _run(
                "UPDATE posting SET account = 'graded and out' WHERE copy_id = :copy AND account = 'cards'",
                copy=copy.copy_id,
            )
    sent = _transaction(f"order-{order.id}", order.sent_on, f"{order.house} {order.tier}".strip(), order.made_at)
    for currency, total in totals.items():
        for account, minor in (("grading fees prepaid", total), ("cash", -total)):
            _post(sent, account, minor, currency, order_id=order.id)
    for copy in copies:
        if copy.back_on is None:
            continue
        back = _transaction(f"back-{copy.id}", copy.back_on, "back from grading", order.made_at)
        links = {"order_id": order.id, "copy_id": copy.copy_id, "box_id": copy.box_id, "product_id": copy.product_id}
        mine = copy.owner_id == 1
        held = "graded and out" if copy.grade_halves is not None else "cards"
        own = {} if mine else {"party_id": copy.owner_id}
        left = _rows("SELECT went FROM disposal WHERE copy_id = :copy AND undone_at IS NULL", copy=copy.copy_id)
        if mine and left:
            held = "cost of what was sold" if left[0][0] == "sold" else "the fun"
        _post(back, held if mine else "people", fee, copy.currency, **links, **own)
        _post(back, "grading fees prepaid", -fee, copy.currency, **links)


def _transaction(key: str, day: str, words: str, made_at: str) -> int:
    _run(
        TRANSACTION + "VALUES (:key, :day, 'grading', NULL, :words, 1, :made)",
        key=key, day=day, words=words, made=made_at,
    )  # fmt: skip
    return int(_rows('SELECT max(id) FROM "transaction"')[0][0])


def _post(transaction: int, account: str, minor: int, currency: str, **links: int | None) -> None:
    names = ("box_id", "copy_id", "order_id", "party_id", "product_id", "purchase_id")
    values = {name: links.get(name) for name in names}
    _run(
        POSTING + "VALUES (:t, :account, :minor, :currency, :box_id, :copy_id, :order_id, :party_id, :product_id, "
        ":purchase_id)",
        t=transaction, account=account, minor=minor, currency=currency, **values,
    )  # fmt: skip


def downgrade() -> None:
    """What the books say has no place in the older tables."""
    message = "There is no way back to the tables before the books; restore the backup made before the upgrade."
    raise RuntimeError(message)
