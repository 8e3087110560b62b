"""One row for each physical card, whoever owns it and wherever it came from; people."""

from __future__ import annotations

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

ME, UNSETTLED = 1, "?"
MADE = "2026-01-01 00:00:00.000000"
COPY_OF = "(CASE WHEN {0}.pull_id IS NOT NULL THEN {0}.pull_id ELSE {0}.arrival_id + {1} END)"
COPY_NAMED = (
    "(CASE WHEN {0}.copy LIKE 'pull-%' THEN CAST(substr({0}.copy, 6) AS INTEGER) "
    "ELSE CAST(substr({0}.copy, 9) AS INTEGER) + {1} END)"
)
OUT = (
    "EXISTS (SELECT 1 FROM grading_copy g JOIN grading_order o ON o.id = g.order_id "
    "WHERE g.{0} = {1}.id AND g.back_on IS NULL AND o.undone_at IS NULL)"
)
LEFT = (
    "(SELECT CASE WHEN d.went = 'sold' THEN 'sold' ELSE 'gone' END FROM departure d "
    "WHERE d.{0} = {1}.id AND d.undone_at IS NULL)"
)
GRADED = (
    "(SELECT {2} FROM grading_copy g JOIN grading_order o ON o.id = g.order_id "
    "WHERE g.{0} = {1}.id AND g.grade_halves IS NOT NULL ORDER BY g.id DESC LIMIT 1)"
)
WORDS = "rtrim(rtrim(printf('%.1f', g.grade_halves / 2.0), '0'), '.')"
DETAIL = "CASE WHEN p.details = '' THEN '' ELSE coalesce(json_extract(p.details, '$.{0}'), '') END"


def upgrade() -> None:
    """Make the tables, move every row, then drop what held them; what arrivals cost waits for the books."""
    _people()
    _copy_table()
    shift = _one("SELECT coalesce(max(id), 0) FROM pull")
    _move_pulls()
    _move_arrivals(shift)
    _move_disposals(shift)
    _move_grading(shift)
    _move_looks(shift)
    _flags()
    for column in ("owner", "place"):
        op.execute(f"ALTER TABLE pull DROP COLUMN {column}")
    for table in ("departure", "spelling"):
        op.execute(f"DROP TABLE {table}")


def _one(sql: str) -> Any:
    return op.get_bind().execute(sa.text(sql)).scalar()


def _people() -> None:
    op.create_table(
        "party",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("name_key", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_party"),
        sa.UniqueConstraint("name_key", name="uq_party_name_key"),
    )
    op.execute("CREATE TEMP TABLE spelling (owner TEXT PRIMARY KEY, party_id INTEGER)")
    bind = op.get_bind()
    own = bind.execute(sa.text("SELECT value FROM setting WHERE key = 'my_name'")).scalar()
    parties: dict[str, int | None] = {"": ME, "me": ME, UNSETTLED: None}
    parties[_key(str(json.loads(own or '""')))] = ME
    add = sa.text("INSERT INTO party (id, name, name_key, made_at) VALUES (:id, :name, :key, :now)")
    bind.execute(add, {"id": ME, "name": "me", "key": "me", "now": MADE})
    spelled = bind.execute(sa.text("SELECT owner FROM pull UNION SELECT owner FROM box_pack ORDER BY 1")).scalars()
    for owner in ["", *filter(None, spelled.all())]:
        key = _key(owner)
        if key not in parties:
            parties[key] = max(number for number in parties.values() if number) + 1
            name = " ".join(owner.split())
            bind.execute(add, {"id": parties[key], "name": name, "key": key, "now": MADE})
        bind.execute(sa.text("INSERT INTO spelling VALUES (:owner, :party)"), {"owner": owner, "party": parties[key]})


def _key(name: str) -> str:
    return " ".join(name.split()).casefold()


def _copy_table() -> None:
    op.create_table(
        "copy",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("pull_id", sa.Integer(), nullable=True),
        sa.Column("box_id", sa.Integer(), nullable=True),
        sa.Column("client_key", sa.String(), nullable=True),
        sa.Column("card_id", sa.Integer(), nullable=True),
        sa.Column("parallel", sa.String(), nullable=False, server_default=""),
        sa.Column("serial", sa.Integer(), nullable=True),
        sa.Column("run", sa.Integer(), nullable=True),
        sa.Column("owner_id", sa.Integer(), nullable=True, server_default="1"),
        sa.Column("place", sa.String(), nullable=False, server_default=""),
        sa.Column("marks", sa.String(), nullable=False, server_default=""),
        sa.Column("grade", sa.String(), nullable=False, server_default=""),
        sa.Column("house", sa.String(), nullable=False, server_default=""),
        sa.Column("certificate", sa.String(), nullable=False, server_default=""),
        sa.Column("state", sa.String(), nullable=False, server_default="here"),
        sa.Column("came", sa.String(), nullable=False, server_default="box"),
        sa.Column("source", sa.String(), nullable=False, server_default=""),
        sa.Column("got_on", sa.Date(), nullable=True),
        sa.Column("note", sa.String(), nullable=False, server_default=""),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("void_at", sa.DateTime(), nullable=True),
        sa.CheckConstraint("serial IS NULL OR serial BETWEEN 1 AND run", name="ck_copy_serial"),
        sa.CheckConstraint(
            "state IN ('coming', 'here', 'out', 'listed', 'sold', 'gone', 'void')", name="ck_copy_state"
        ),
        sa.CheckConstraint("(state = 'void') = (void_at IS NOT NULL)", name="ck_copy_void"),
        sa.ForeignKeyConstraint(["box_id"], ["box.id"], name="fk_copy_box_id_box"),
        sa.ForeignKeyConstraint(["card_id"], ["card.id"], name="fk_copy_card_id_card"),
        sa.ForeignKeyConstraint(["owner_id"], ["party.id"], name="fk_copy_owner_id_party"),
        sa.ForeignKeyConstraint(["pull_id"], ["pull.id"], name="fk_copy_pull_id_pull"),
        sa.PrimaryKeyConstraint("id", name="pk_copy"),
        sa.UniqueConstraint("client_key", name="uq_copy_client_key"),
        sa.UniqueConstraint("pull_id", name="uq_copy_pull_id"),
    )


def _move_pulls() -> None:
    """A copy of a box keeps the number of its line; the owner written beside it, else that of its pack."""
    owner = "(SELECT s.party_id FROM spelling s WHERE s.owner = coalesce(nullif(p.owner, ''), b.owner, ''))"
    op.execute(
        "INSERT INTO copy (id, pull_id, box_id, card_id, parallel, serial, run, owner_id, place, marks, grade, house, "
        "certificate, state, came, made_at, void_at) "
        f"SELECT p.id, p.id, p.box_id, p.card_id, p.parallel, p.serial, p.run, {owner}, p.place, "
        f"{DETAIL.format('marks')}, coalesce({GRADED.format('pull_id', 'p', WORDS)}, ''), "
        f"coalesce({GRADED.format('pull_id', 'p', 'o.house')}, ''), {DETAIL.format('certificate')}, "
        f"CASE WHEN p.undone_at IS NOT NULL THEN 'void' WHEN {OUT.format('pull_id', 'p')} THEN 'out' "
        f"ELSE coalesce({LEFT.format('pull_id', 'p')}, 'here') END, 'box', p.logged_at, p.undone_at "
        "FROM pull p LEFT JOIN box_pack b ON b.box_id = p.box_id AND b.number = p.pack"
    )


def _move_arrivals(shift: int) -> None:
    op.execute(
        "INSERT INTO copy (id, client_key, card_id, parallel, serial, run, owner_id, grade, house, state, came, "
        "source, got_on, note, made_at, void_at) "
        f"SELECT a.id + {shift}, a.client_key, a.card_id, a.parallel, a.serial, a.run, {ME}, "
        f"coalesce({GRADED.format('arrival_id', 'a', WORDS)}, a.grade), "
        f"coalesce({GRADED.format('arrival_id', 'a', 'o.house')}, ''), "
        f"CASE WHEN a.undone_at IS NOT NULL THEN 'void' WHEN {OUT.format('arrival_id', 'a')} THEN 'out' "
        f"ELSE coalesce({LEFT.format('arrival_id', 'a')}, 'here') END, "
        "a.came, a.source, a.got_on, a.note, a.made_at, a.undone_at FROM arrival a"
    )
    for name, columns, where in (
        ("ix_copy_card", ["card_id", "parallel"], None),
        ("ix_copy_box", ["box_id"], None),
        ("ix_copy_others", ["owner_id"], "owner_id <> 1"),
        ("ix_copy_away", ["state"], "state <> 'here'"),
        ("ix_copy_elsewhere", ["got_on"], "pull_id IS NULL"),
    ):
        op.create_index(name, "copy", columns, sqlite_where=sa.text(where) if where else None)


def _move_disposals(shift: int) -> None:
    op.create_table(
        "disposal",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=False),
        sa.Column("went", sa.String(), nullable=False),
        sa.Column("left_on", sa.Date(), nullable=False),
        sa.Column("price_minor", sa.Integer(), nullable=False),
        sa.Column("costs_minor", sa.Integer(), nullable=False),
        sa.Column("currency", sa.String(), nullable=False),
        sa.Column("came_in", sa.String(), nullable=False),
        sa.Column("to", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("undone_at", sa.DateTime(), nullable=True),
        sa.CheckConstraint("price_minor >= 0 AND costs_minor >= 0", name="ck_disposal_not_negative"),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_disposal_copy_id_copy"),
        sa.PrimaryKeyConstraint("id", name="pk_disposal"),
        sa.UniqueConstraint("client_key", name="uq_disposal_client_key"),
    )
    op.execute(
        "INSERT INTO disposal SELECT d.id, d.client_key, " + COPY_OF.format("d", shift) + ", d.went, d.left_on, "
        'd.price_minor, d.costs_minor, d.currency, d.came_in, d."to", d.made_at, d.undone_at FROM departure d'
    )
    alive = sa.text("undone_at IS NULL")
    op.create_index("uq_disposal_copy", "disposal", ["copy_id"], unique=True, sqlite_where=alive)
    op.create_index("ix_disposal_left_on", "disposal", ["left_on"])


def _move_grading(shift: int) -> None:
    op.execute("ALTER TABLE grading_copy RENAME TO old_grading_copy")
    op.create_table(
        "grading_copy",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("order_id", sa.Integer(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=False),
        sa.Column("grade_halves", sa.Integer(), nullable=True),
        sa.Column("back_on", sa.Date(), nullable=True),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_grading_copy_copy_id_copy"),
        sa.ForeignKeyConstraint(
            ["order_id"], ["grading_order.id"], name="fk_grading_copy_order_id_grading_order", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_grading_copy"),
    )
    op.execute(
        "INSERT INTO grading_copy SELECT g.id, g.order_id, g.place, "
        + COPY_OF.format("g", shift)
        + ", g.grade_halves, g.back_on FROM old_grading_copy g"
    )
    op.execute("DROP TABLE old_grading_copy")
    out = sa.text("back_on IS NULL")
    op.create_index("uq_grading_copy_out", "grading_copy", ["copy_id"], unique=True, sqlite_where=out)
    op.create_index("ix_grading_copy_copy_id", "grading_copy", ["copy_id"])
    op.create_index("ix_grading_copy_order_id", "grading_copy", ["order_id"])


def _move_looks(shift: int) -> None:
    for table in ("inspection", "returned"):
        op.execute(f"ALTER TABLE {table} RENAME TO old_{table}")
    op.create_table(
        "inspection",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=False),
        sa.Column("card_id", sa.Integer(), nullable=False),
        sa.Column("parallel", sa.String(), nullable=False),
        sa.Column("values", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["card_id"], ["card.id"], name="fk_inspection_card_id_card", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_inspection_copy_id_copy", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_inspection"),
        sa.UniqueConstraint("copy_id", name="uq_inspection_copy_id"),
    )
    named = COPY_NAMED.format("o", shift)
    op.execute(
        f'INSERT INTO inspection SELECT o.id, {named}, o.card_id, o.parallel, o."values", o.made_at '
        f"FROM old_inspection o WHERE {named} IN (SELECT id FROM copy)"
    )
    op.create_table(
        "returned",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("client_key", sa.String(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=True),
        sa.Column("card_id", sa.Integer(), nullable=False),
        sa.Column("house", sa.String(), nullable=False),
        sa.Column("score_halves", sa.Integer(), nullable=True),
        sa.Column("grade_halves", sa.Integer(), nullable=False),
        sa.Column("forecast", sa.String(), nullable=False),
        sa.Column("returned_on", sa.Date(), nullable=False),
        sa.ForeignKeyConstraint(["card_id"], ["card.id"], name="fk_returned_card_id_card", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_returned_copy_id_copy", ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name="pk_returned"),
        sa.UniqueConstraint("client_key", name="uq_returned_client_key"),
    )
    op.execute(
        f"INSERT INTO returned SELECT o.id, o.client_key, (SELECT c.id FROM copy c WHERE c.id = {named}), o.card_id, "
        "o.house, o.score_halves, o.grade_halves, o.forecast, o.returned_on FROM old_returned o"
    )
    for table in ("inspection", "returned"):
        op.execute(f"DROP TABLE old_{table}")
        op.create_index(f"ix_{table}_card_id", table, ["card_id"])
    op.create_index("ix_returned_copy_id", "returned", ["copy_id"])


def _flags() -> None:
    op.create_table(
        "flag",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("product_id", sa.Integer(), nullable=False),
        sa.Column("card_id", sa.Integer(), nullable=False),
        sa.Column("parallel", sa.String(), nullable=False),
        sa.Column("copy_id", sa.Integer(), nullable=True),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in ("copies",)),
        *(sa.Column(name, sa.String(), nullable=False) for name in ("go", "tier", "chosen")),
        *(sa.Column(name, sa.Integer(), nullable=False) for name in NUMBERS),
        sa.Column("found", sa.String(), nullable=False),
        sa.Column("flips", sa.Boolean(), nullable=False),
        sa.Column("top_only", sa.Boolean(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(["card_id"], ["card.id"], name="fk_flag_card_id_card", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["copy_id"], ["copy.id"], name="fk_flag_copy_id_copy", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(
            ["product_id"], ["product.id"], name="fk_flag_product_id_product", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_flag"),
        sa.UniqueConstraint("copy_id", name="uq_flag_copy_id"),
    )
    names = ", ".join(
        ("id", "product_id", "card_id", "parallel", "copies", "go", "tier", "chosen", *NUMBERS, *WORDS_OF_FLAGS)
    )
    op.execute(f"INSERT INTO flag ({names}) SELECT {names} FROM verdict")
    op.execute("DROP TABLE verdict")
    alone = sa.text("copy_id IS NULL")
    op.create_index("uq_flag_version", "flag", ["card_id", "parallel"], unique=True, sqlite_where=alone)
    op.create_index("ix_flag_go_net", "flag", ["go", "net"])
    op.create_index("ix_flag_product", "flag", ["product_id"])


WORDS_OF_FLAGS = ("found", "flips", "top_only", "reason", "made_at")
NUMBERS = ("net", "net_raw", "p10", "p90", "loss_permille", "margin", "price")


def downgrade() -> None:
    """Copies of other people and flags of single copies have no place in the older tables."""
    message = "There is no way back to the tables before copies; restore the backup made before the upgrade."
    raise RuntimeError(message)
