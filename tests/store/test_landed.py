"""A home of the version before copies and books comes over whole: checked row by row against what it held."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config

from botin.store.engine import open_engine
from botin.store.keeping.revisions import MIGRATIONS
from botin.store.keeping.upgrade import migrate

LANDED = Path(__file__).parent / "data" / "landed_0007.sql"
Rows = list[dict[str, Any]]


def rows(path: Path, table: str) -> Rows:
    with closing(sqlite3.connect(path)) as data:
        data.row_factory = sqlite3.Row
        return [dict(row) for row in data.execute(f'SELECT * FROM "{table}" ORDER BY 1')]  # noqa: S608


@pytest.fixture(scope="module")
def landed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The home as it was."""
    path = tmp_path_factory.mktemp("landed") / "before.db"
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    engine = open_engine(path)
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0007")
        connection.commit()
    engine.dispose()
    with closing(sqlite3.connect(path)) as data:
        data.executescript(LANDED.read_text(encoding="utf-8"))
    return path


@pytest.fixture(scope="module")
def moved(landed: Path) -> Iterator[Path]:
    """The same home, brought up to date."""
    path = landed.parent / "after.db"
    path.write_bytes(landed.read_bytes())
    engine = open_engine(path)
    migrate(engine, keep=False)
    yield path
    engine.dispose()


def copy_of(moved: Path) -> dict[tuple[str, int], dict[str, Any]]:
    """Copies by what they were: a line of a log, or an arrival by its key."""
    return {
        ("pull", row["pull_id"]) if row["pull_id"] else ("arrival", row["client_key"]): row
        for row in rows(moved, "copy")
    }


def test_every_line_and_every_arrival_is_one_copy(landed: Path, moved: Path) -> None:
    copies = copy_of(moved)
    pulls, arrivals = rows(landed, "pull"), rows(landed, "arrival")
    assert len(copies) == len(pulls) + len(arrivals) == 32
    same = ("card_id", "parallel", "serial", "run")
    for pull in pulls:
        copy = copies[("pull", pull["id"])]
        assert {name: copy[name] for name in same} == {name: pull[name] for name in same}
        assert (copy["box_id"], copy["place"], copy["made_at"]) == (pull["box_id"], pull["place"], pull["logged_at"])
        assert copy["void_at"] == pull["undone_at"]
    for arrival in arrivals:
        copy = copies[("arrival", arrival["client_key"])]
        more = (*same, "came", "source", "got_on", "note", "made_at", "grade")
        assert {name: copy[name] for name in more} == {name: arrival[name] for name in more}
        assert copy["void_at"] == arrival["undone_at"]
    assert [pull["id"] for pull in pulls] == [row["id"] for row in rows(moved, "pull")]


def test_where_each_copy_is(landed: Path, moved: Path) -> None:
    copies = copy_of(moved)
    left = {
        ("pull", row["pull_id"]) if row["pull_id"] else ("arrival", f"arr-{row['arrival_id']}"): row
        for row in rows(landed, "departure")
        if row["undone_at"] is None
    }
    arrived = {row["id"]: row["client_key"] for row in rows(landed, "arrival")}
    gone = {("arrival", arrived[int(key[1][4:])]) if key[0] == "arrival" else key: row for key, row in left.items()}
    undone = {row["id"] for row in rows(landed, "grading_order") if row["undone_at"]}
    out = {
        row["pull_id"] for row in rows(landed, "grading_copy") if not row["back_on"] and row["order_id"] not in undone
    }
    for key, copy in copies.items():
        expected = "void" if copy["void_at"] else "here"
        if key in gone:
            expected = "sold" if gone[key]["went"] == "sold" else "gone"
        elif key[0] == "pull" and key[1] in out:
            expected = "out"
        assert copy["state"] == expected, key
    assert Counter(copy["state"] for copy in copies.values()) == {
        "here": 24,
        "void": 3,
        "gone": 2,
        "out": 2,
        "sold": 1,
    }


def test_whose_each_copy_is(landed: Path, moved: Path) -> None:
    names = {row["id"]: row["name"] for row in rows(moved, "party")}
    packs = {(row["box_id"], row["number"]): row["owner"] for row in rows(landed, "box_pack")}
    copies = copy_of(moved)
    for pull in rows(landed, "pull"):
        written = pull["owner"] or packs.get((pull["box_id"], pull["pack"]), "")
        owner = copies[("pull", pull["id"])]["owner_id"]
        assert (names[owner] if owner else "?") == (written or "me")
    assert set(names.values()) == {"me", "Bo", "Mira", "Tobin"}


def test_grades_looks_and_flags_hang_on_their_copies(landed: Path, moved: Path) -> None:
    copies = copy_of(moved)
    for old, new in zip(rows(landed, "grading_copy"), rows(moved, "grading_copy"), strict=True):
        assert new["copy_id"] == copies[("pull", old["pull_id"])]["id"]
        assert [new[name] for name in ("id", "order_id", "place", "grade_halves", "back_on")] == [
            old[name] for name in ("id", "order_id", "place", "grade_halves", "back_on")
        ]
    graded = {key: (copy["grade"], copy["house"]) for key, copy in copies.items() if copy["grade"]}
    assert graded == {("pull", 4): ("9.5", "House B"), ("arrival", "arr-2:0"): ("9", "")}
    assert copies[("pull", 6)]["certificate"] == "A123"
    assert copies[("pull", 4)]["marks"] == "dimple"
    arrived = {f"arrival-{row['id']}": row["client_key"] for row in rows(landed, "arrival")}
    for table in ("inspection", "returned"):
        for old, new in zip(rows(landed, table), rows(moved, table), strict=True):
            key = ("arrival", arrived[old["copy"]]) if old["copy"] in arrived else ("pull", int(old["copy"][5:]))
            assert new["copy_id"] == copies[key]["id"]
            assert {**old, "copy": 0} == {**{k: v for k, v in new.items() if k != "copy_id"}, "copy": 0}
    flags = [{k: v for k, v in row.items() if k not in ("copy_id", "look_gain")} for row in rows(moved, "flag")]
    assert flags == rows(landed, "verdict")


def test_how_copies_left(landed: Path, moved: Path) -> None:
    copies, arrived = copy_of(moved), {row["id"]: row["client_key"] for row in rows(landed, "arrival")}
    for old, new in zip(rows(landed, "departure"), rows(moved, "disposal"), strict=True):
        key = ("pull", old["pull_id"]) if old["pull_id"] else ("arrival", arrived[old["arrival_id"]])
        assert new["copy_id"] == copies[key]["id"]
        shared = set(old) & set(new)
        assert {name: old[name] for name in shared} == {name: new[name] for name in shared}


def test_everything_else_is_as_it_was(landed: Path, moved: Path) -> None:
    products = [{name: value for name, value in row.items() if name != "set_aside"} for row in rows(moved, "product")]
    assert products == rows(landed, "product")
    for table in ("format", "section", "card", "parallel", "odds", "price", "step", "box_pack", "setting"):
        assert rows(landed, table) == rows(moved, table)
    more = {"purchase_id", "delivery"}
    boxes = [{name: value for name, value in row.items() if name not in more} for row in rows(moved, "box")]
    assert boxes == rows(landed, "box")


def test_the_books_say_what_was_paid_and_what_came_back(landed: Path, moved: Path) -> None:
    sums: Counter[tuple[int, str]] = Counter()
    accounts: Counter[str] = Counter()
    for row in rows(moved, "posting"):
        sums[(row["transaction_id"], row["currency"])] += row["minor"]
        accounts[row["account"]] += row["minor"]
    assert set(sums.values()) == {0}
    parts = ("price_minor", "shipping_minor", "tax_minor")
    paid = sum(row[name] for row in rows(landed, "box") for name in parts)
    singles = sum(row["cost_minor"] for row in rows(landed, "arrival") if row["undone_at"] is None)
    alive = [row for row in rows(landed, "departure") if row["undone_at"] is None]
    back = sum(row["price_minor"] - row["costs_minor"] for row in alive)
    assert accounts["cash"] == back - paid - singles == -12_830
    sealed = {row["id"]: sum(row[name] for name in parts) for row in rows(landed, "box") if row["state"] != "closed"}
    assert accounts["boxes"] == sum(sealed.values())
    assert -accounts["sales"] == 1_250
    assert accounts["fees"] == 180
    by_month = Counter[str]()
    for row in rows(moved, "month_sum"):
        by_month[row["account"]] += row["minor"]
    assert by_month == {name: minor for name, minor in accounts.items() if name in by_month}
    kinds = {row["kind"]: row["estimated"] for row in rows(moved, "transaction")}
    assert (kinds["purchase"], kinds["opening"]) == (0, 1), "what was worked out is marked as an estimate"


def test_what_a_closed_box_cost_lies_with_its_cards(landed: Path, moved: Path) -> None:
    box = next(row for row in rows(landed, "box") if row["state"] == "closed")
    cost = box["price_minor"] + box["shipping_minor"] + box["tax_minor"]
    opening = next(row["id"] for row in rows(moved, "transaction") if row["kind"] == "opening")
    shares = [row for row in rows(moved, "posting") if row["transaction_id"] == opening and row["copy_id"]]
    alive = [row for row in rows(landed, "pull") if row["box_id"] == box["id"] and row["undone_at"] is None]
    assert sum(row["minor"] for row in shares) == cost
    assert {row["copy_id"] for row in shares} == {row["id"] for row in alive}
    assert max(row["minor"] for row in shares) - min(row["minor"] for row in shares) <= 1
