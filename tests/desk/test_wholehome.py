"""Everything out and in: the same rows, the same photos, the same file again; or nothing at all."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import shutil
import sqlite3
import zipfile
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from click.testing import CliRunner
from frictionless import Package
from hypothesis import given, settings
from hypothesis import strategies as st

from botin.cli import cli
from botin.cli import library as library  # noqa: PLC0414  (registers its commands)
from botin.core.errors import BotinError
from botin.desk.keeping.wholehome import home_is_empty, is_whole, take_in_everything, write_everything
from botin.exchange.catalog.sheets import Sources, add_file
from botin.exchange.guard import guard, unguard
from botin.home import DATABASE
from botin.store.engine import open_engine
from botin.store.keeping.upgrade import migrate
from botin.store.keeping.wholehome import shapes

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)
QUOTED = '"{}"'.format
NASTY = (
    "=1+1",
    " =1",
    "\n=1",
    "'=1",
    "''x",
    "'",
    "\u200b=1",
    "\uff1d1",
    "a\r\nb",
    "a\rb",
    "\t",
    '"',
    ",",
    "\x00",
    " ",
    "NULL",
    "é\u0301",
)


def everything(home: Path, now: datetime = NOW) -> bytes:
    out = io.BytesIO()
    write_everything(home, out, now)
    return out.getvalue()


def all_rows(home: Path) -> dict[str, list[tuple[object, ...]]]:
    """Every row of every table with the type each value is stored as."""
    with closing(sqlite3.connect(home / DATABASE)) as data:
        return {
            shape.name: [
                (*row, *(type(value).__name__ for value in row))
                for row in data.execute(
                    f'SELECT {", ".join(map(QUOTED, shape.names))} FROM "{shape.name}" ORDER BY 1'  # noqa: S608
                )
            ]
            for shape in shapes()
        }


def filled(home: Path) -> Path:
    """Give the demo photos, and words that files like to break on."""
    (home / "photos").mkdir()
    (home / "photos" / "box-1-1.jpg").write_bytes(b"\xff\xd8\xff picture")
    with closing(sqlite3.connect(home / DATABASE)) as data, data:
        data.execute(
            "INSERT INTO photo (box_id, file, mime, added_at) VALUES (1, 'box-1-1.jpg', 'image/jpeg', '2026-11-24 09:00:00.000000')"
        )
        for place, word in enumerate(NASTY):
            data.execute(
                "UPDATE pull SET typed = ?, details = ? WHERE id = ?", (word, f"{word} and {word}", place + 1)
            )
        data.execute("UPDATE pull SET undone_at = '2026-11-24 09:00:00.000001' WHERE id = 3")
    return home


@pytest.fixture
def full(home: Path) -> Path:
    return filled(home)


@pytest.fixture(scope="module")
def whole(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> bytes:
    """The whole of such a home, written once for all that is done to it."""
    home = tmp_path_factory.mktemp("whole")
    for file in demo_file.parent.glob(f"{DATABASE}*"):
        shutil.copy(file, home / file.name)
    return everything(filled(home))


def test_the_demo_goes_into_an_empty_home_row_for_row_and_comes_out_the_same(full: Path, tmp_path: Path) -> None:
    first = everything(full)
    other = tmp_path / "other"
    other.mkdir()
    rows = take_in_everything(other, io.BytesIO(first), "home.zip", NOW, live=False)
    before, after = all_rows(full), all_rows(other)
    assert after == before
    assert rows == sum(map(len, before.values())) > 10_000
    assert sum(bool(found) for found in before.values()) > 20, "the demo fills most tables"
    assert (other / "photos" / "box-1-1.jpg").read_bytes() == b"\xff\xd8\xff picture"
    assert everything(other) == first
    later = everything(other, NOW + timedelta(days=3))
    with zipfile.ZipFile(io.BytesIO(first)) as one, zipfile.ZipFile(io.BytesIO(later)) as two:
        assert one.namelist() == two.namelist()
        differ = [name for name in one.namelist() if one.read(name) != two.read(name)]
        assert differ == ["datapackage.json"]
        assert {
            k
            for k, v in json.loads(one.read("datapackage.json")).items()
            if json.loads(two.read("datapackage.json"))[k] != v
        } == {"created"}
    with closing(sqlite3.connect(other / DATABASE)) as data:
        found = data.execute("SELECT count(*) FROM card_search WHERE card_search MATCH 'thorsby OR orla'").fetchone()[
            0
        ]
        with closing(sqlite3.connect(full / DATABASE)) as old:
            assert (
                found
                == old.execute(
                    "SELECT count(*) FROM card_search WHERE card_search MATCH 'thorsby OR orla'"
                ).fetchone()[0]
            )


def test_another_reader_of_the_standard_accepts_it(full: Path, tmp_path: Path) -> None:
    """Frictionless holds every cell against its type, the sizes and hashes, the keys and what they point to."""
    with closing(sqlite3.connect(full / DATABASE)) as data, data:
        data.execute("UPDATE pull SET typed = '', details = ''")  # a NUL is no text to other readers
    with zipfile.ZipFile(io.BytesIO(everything(full))) as archive:
        archive.extractall(tmp_path / "out")
    report = Package(str(tmp_path / "out" / "datapackage.json")).validate()
    assert report.valid, report.flatten(["place", "title", "message"])[:5]


def changed(data: bytes, change: Callable[[dict[str, bytes]], None]) -> io.BytesIO:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    change(members)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in members.items():
            archive.writestr(name, content)
    return out


def described(members: dict[str, bytes], name: str, content: bytes | None = None) -> None:
    """Change a file and its description along, as somebody would who knows the format."""
    about = json.loads(members["datapackage.json"])
    one = next(one for one in about["resources"] if one["path"] == name)
    if content is None:
        about["resources"].remove(one)
        del members[name]
    else:
        members[name] = content
        one["bytes"], one["hash"] = len(content), f"sha256:{hashlib.sha256(content).hexdigest()}"
    members["datapackage.json"] = json.dumps(about).encode()


def revised(members: dict[str, bytes], revision: str, kind: str = "whole home") -> None:
    about = json.loads(members["datapackage.json"])
    about["botin"] |= {"revision": revision, "kind": kind}
    members["datapackage.json"] = json.dumps(about).encode()


def recell(table: bytes, column: str, value: str) -> bytes:
    """Change a cell of the first row."""
    rows = list(csv.DictReader(io.StringIO(table.decode())))
    rows[0][column] = value
    return written(rows)


def without_last(table: bytes, column: str) -> bytes:
    """Leave the last row out that has something in a column and that nothing points to."""
    rows = list(csv.DictReader(io.StringIO(table.decode())))
    rows.remove([row for row in rows if row[column]][-1])
    return written(rows)


def written(rows: list[dict[str, str]]) -> bytes:
    out = io.StringIO()
    writer = csv.DictWriter(out, rows[0].keys())
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode()


BAD: dict[str, Callable[[dict[str, bytes]], None]] = {
    "a file that was changed": lambda m: m.update({"box.csv": m["box.csv"].replace(b"sealed", b"opened", 1)}),
    "a file that is missing": lambda m: m.pop("pull.csv") and None,
    "a photo that was changed": lambda m: m.update({"photos/box-1-1.jpg": b"other"}),
    "a newer program": lambda m: revised(m, "9999"),
    "another kind of package": lambda m: revised(m, "0001", "product"),
    "no description": lambda m: m.pop("datapackage.json") and None,
    "a broken description": lambda m: m.update({"datapackage.json": b"{" * 100_000}),
    "a value that does not fit": lambda m: described(m, "box.csv", m["box.csv"].replace(b"2026-", b"MMXXVI-", 1)),
    "a number that is too large": lambda m: described(m, "setting.csv", m["setting.csv"]) or described(m, "card.csv", m["card.csv"].replace(b"\r\n1,", b"\r\n99999999999999999999,", 1)),
    "a row that points nowhere": lambda m: described(m, "box.csv", m["box.csv"][: m["box.csv"].index(b"\r\n") + 2]),
    "a row twice": lambda m: described(m, "card.csv", m["card.csv"] + m["card.csv"].splitlines(keepends=True)[1]),
    "a table that is not there": lambda m: described(m, "disposal.csv"),
    "a short row": lambda m: described(m, "card.csv", m["card.csv"] + b"1,2\r\n"),
    "a column too many": lambda m: described(m, "setting.csv", b"key,value,more\r\n"),
    "no columns": lambda m: described(m, "setting.csv", b""),
    "a state that there is not": lambda m: described(m, "box.csv", m["box.csv"].replace(b",sealed,", b",burnt,", 1)),
    "postings that do not add up": lambda m: described(m, "posting.csv", recell(m["posting.csv"], "minor", "1")),
    "a month that says something else": lambda m: described(m, "month_sum.csv", recell(m["month_sum.csv"], "minor", "1")),
    "a month too many": lambda m: described(m, "month_sum.csv", m["month_sum.csv"] + b"1999-01,sale,0,cash,EUR,5\r\n"),
    "a line without its card": lambda m: described(m, "copy.csv", without_last(m["copy.csv"], "pull_id")),
    "letters of another alphabet": lambda m: described(m, "box.csv", m["box.csv"] + b"\xff\xfe"),
}  # fmt: skip


@pytest.mark.parametrize("what", BAD)
def test_what_is_not_whole_is_refused_in_words_and_leaves_an_empty_home(
    whole: bytes, tmp_path: Path, what: str
) -> None:
    other = tmp_path / "other"
    other.mkdir()
    bad = changed(whole, BAD[what])
    with pytest.raises(
        BotinError, match=r"othing was taken in|no zip of a whole home|no export|come in at their own|not valid JSON"
    ):
        take_in_everything(other, bad, "home.zip", NOW, live=False)
    assert list(other.iterdir()) == []


@pytest.mark.parametrize("cut", [0, 100, 0.5, 0.999])
def test_a_file_that_was_cut_off_is_refused(whole: bytes, tmp_path: Path, cut: float) -> None:
    other = tmp_path / "other"
    other.mkdir()
    size = int(cut) if cut >= 1 or not cut else int(len(whole) * cut)
    with pytest.raises(BotinError, match="no zip of a whole home"):
        take_in_everything(other, io.BytesIO(whole[:size]), "home.zip", NOW, live=False)
    assert list(other.iterdir()) == []


def test_a_home_that_holds_something_takes_nothing_in(full: Path, tmp_path: Path) -> None:
    whole, before = everything(full), all_rows(full)
    with pytest.raises(BotinError, match="into an empty one only"):
        take_in_everything(full, io.BytesIO(whole), "home.zip", NOW, live=False)
    assert all_rows(full) == before


@pytest.mark.parametrize("revision", ["0003", "0006"])
def test_an_older_export_is_brought_up_to_date(tmp_path: Path, revision: str) -> None:
    """What an earlier version wrote had fewer columns; its rows go through the same migrations as its data file."""
    old = tmp_path / "old"
    old.mkdir()
    engine = open_engine(old / DATABASE)
    migrate(engine, to=revision)
    engine.dispose()
    with closing(sqlite3.connect(old / DATABASE)) as data, data:
        data.execute(
            "INSERT INTO product (key, name, maker, season, sport, currency, revision, cards) VALUES ('a', 'A', '', '', '', 'EUR', 1, 0)"
        )
        tables = [
            name
            for (name,) in data.execute(
                "SELECT name FROM sqlite_master WHERE type='table' AND sql NOT LIKE '%VIRTUAL%' AND name NOT LIKE 'card_search%' AND name <> 'alembic_version'"
            )
        ]
        files = {}
        for table in tables:
            found = data.execute(f'SELECT * FROM "{table}"')  # noqa: S608
            lines = [",".join(column[0] for column in found.description)]
            lines += [",".join("" if cell is None else str(cell) for cell in row) for row in found]
            files[table] = "".join(f"{line}\r\n" for line in lines).encode()

    def as_old(members: dict[str, bytes]) -> None:
        members.clear()
        resources = [
            {
                "name": name,
                "path": f"{name}.csv",
                "bytes": len(data),
                "hash": f"sha256:{hashlib.sha256(data).hexdigest()}",
            }
            for name, data in files.items()
        ]
        members["datapackage.json"] = json.dumps(
            {"botin": {"kind": "whole home", "revision": revision}, "resources": resources}
        ).encode()
        members |= {f"{name}.csv": data for name, data in files.items()}

    empty = io.BytesIO()
    with zipfile.ZipFile(empty, "w") as archive:
        archive.writestr("x", "")
    new = tmp_path / "new"
    new.mkdir()
    take_in_everything(new, changed(empty.getvalue(), as_old), "home.zip", NOW, live=False)
    with closing(sqlite3.connect(new / DATABASE)) as data:
        assert data.execute("SELECT key, name FROM product").fetchall() == [("a", "A")]


def test_by_the_command_line_and_photos_that_are_missing_are_named(full: Path, tmp_path: Path) -> None:
    (full / "photos" / "box-1-1.jpg").unlink()
    run = CliRunner()
    made = run.invoke(cli, ["export", "--all", "--to", str(tmp_path / "home.zip"), "--home", str(full)])
    assert made.exit_code == 0, made.output
    assert "box-1-1.jpg" in made.output
    assert is_whole(tmp_path / "home.zip")
    assert not (tmp_path / "home.zip.part").exists()
    taken = run.invoke(cli, ["import", str(tmp_path / "home.zip"), "--home", str(tmp_path / "new")])
    assert taken.exit_code == 0, taken.output
    assert all_rows(tmp_path / "new") == all_rows(full)
    again = run.invoke(cli, ["import", str(tmp_path / "home.zip"), "--home", str(tmp_path / "new")])
    assert again.exit_code == 1
    assert "into an empty one only" in again.output
    assert run.invoke(cli, ["export", "--to", "x.zip"]).exit_code == 2
    assert run.invoke(cli, ["export", "some", "--all", "--to", "x.zip"]).exit_code == 2


def test_a_whole_home_is_no_product(whole: bytes, tmp_path: Path) -> None:
    """Its tables would be read as a checklist: it is said where it goes instead."""
    with pytest.raises(BotinError, match="a whole home"):
        add_file(Sources(), "home.zip", whole)
    (tmp_path / "home.zip").write_bytes(whole)
    (tmp_path / "more.csv").write_text("number,name\n1,A\n")
    files = [str(tmp_path / name) for name in ("home.zip", "more.csv")]
    both = CliRunner().invoke(cli, ["import", *files, "--home", str(tmp_path / "new")])
    assert both.exit_code == 2
    assert "a whole home" in both.output


def test_a_home_with_settings_alone_is_empty(tmp_path: Path) -> None:
    assert home_is_empty(tmp_path)
    engine = open_engine(tmp_path / DATABASE)
    migrate(engine)
    engine.dispose()
    with closing(sqlite3.connect(tmp_path / DATABASE)) as data, data:
        data.execute("INSERT INTO setting (key, value) VALUES ('my_name', '\"me\"')")
    assert home_is_empty(tmp_path)
    shutil.rmtree(tmp_path)


@settings(max_examples=300, deadline=None)
@given(st.text(alphabet=st.sampled_from("'=+-@\t\r\n \u200b\uff1d\ufeffa1,\""), max_size=6))
def test_the_guard_comes_off_again_and_hides_no_sign(cell: str) -> None:
    guarded = guard(cell)
    assert unguard(guarded) == cell
    seen = guarded.strip(" \t\r\n\u200b\ufeff")
    assert not seen or seen[0] not in "=+-@\uff1d", guarded


@pytest.mark.parametrize(
    ("what", "words"),
    [
        ("postings that do not add up", "do not add up"),
        ("a month that says something else", "than the postings do"),
        ("a month too many", "than the postings do"),
        ("a line without its card", "has no card in copy.csv"),
    ],
)
def test_what_must_agree_beyond_links_is_named(whole: bytes, tmp_path: Path, what: str, words: str) -> None:
    other = tmp_path / "other"
    other.mkdir()
    with pytest.raises(BotinError, match=words):
        take_in_everything(other, changed(whole, BAD[what]), "home.zip", NOW, live=False)
