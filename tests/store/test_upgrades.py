"""An upgrade of the data file is whole or not at all; what cannot be opened says what is wrong and what to do."""

from __future__ import annotations

import gc
import itertools
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from click.testing import CliRunner
from sqlalchemy import Engine, event

from botin import main as main  # noqa: PLC0414  (registers its commands)
from botin.cli import cli
from botin.home import secret_key
from botin.store.engine import open_engine
from botin.store.keeping.backup import rolling_backup
from botin.store.keeping.revisions import MIGRATIONS, REVISIONS
from botin.store.keeping.upgrade import (
    BusyDataError,
    DamagedDataError,
    DataFileError,
    FullDiskError,
    NewerDataError,
    migrate,
)

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)


class CutOffError(BaseException):
    """The process died here."""


@contextmanager
def cut_off_after(engine: Engine, statements: int) -> Iterator[list[str]]:
    """Die once so many statements were run; lists them."""
    seen: list[str] = []

    def count(_connection: Any, _cursor: Any, statement: str, *_rest: object) -> None:
        seen.append(statement)
        if len(seen) == statements:
            raise CutOffError

    event.listen(engine, "after_cursor_execute", count)
    try:
        yield seen
    finally:
        event.remove(engine, "after_cursor_execute", count)


def store_at(path: Path, revision: str) -> None:
    """Make a data file as an earlier version left it, with a product, a box and a logged card."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    engine = open_engine(path)
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
        connection.commit()
    engine.dispose()
    with closing(sqlite3.connect(path)) as data, data:
        data.execute("PRAGMA synchronous=OFF")
        fill(data)


def fill(data: sqlite3.Connection) -> None:
    """One row in each of the tables that every revision has; columns are given what they ask for."""
    values = {
        "text": "x",
        "varchar": "x",
        "integer": 1,
        "boolean": 0,
        "date": "2026-11-01",
        "datetime": "2026-11-01 09:00:00",
    }
    for table in ("product", "format", "section", "card", "box", "pull"):
        columns = data.execute(f"PRAGMA table_info({table})").fetchall()
        needed = [row for row in columns if row[3] and row[4] is None]
        row = {name: values[kind.partition("(")[0].lower()] for _, name, kind, *_ in needed}
        row |= {"box": {"state": "open"}, "pull": {"card_id": 1}}.get(table, {})
        names = ", ".join(row)
        values_of = ", ".join("?" * len(row))
        data.execute(f"INSERT INTO {table} ({names}) VALUES ({values_of})", tuple(row.values()))  # noqa: S608


def revision_of(path: Path) -> str:
    with closing(sqlite3.connect(path)) as data:
        return str(data.execute("SELECT version_num FROM alembic_version").fetchone()[0])


def statements_of(path: Path, to: str) -> int:
    """How many statements bring a file up to date."""
    engine = open_engine(path)
    with cut_off_after(engine, 0) as seen:
        migrate(engine, keep=False, to=to)
    engine.dispose()
    return len(seen)


@pytest.mark.parametrize("every", [120, pytest.param(1, marks=pytest.mark.slow)])
@pytest.mark.parametrize(("before", "after"), list(itertools.pairwise(REVISIONS)))
def test_an_upgrade_cut_off_after_any_statement_starts_again_and_loses_nothing(
    before: str, after: str, every: int, tmp_path: Path
) -> None:
    """The process dies after one statement or the other; the next start finds the file as it was, and upgrades it."""
    kept = tmp_path / "kept.db"
    store_at(kept, before)
    whole = tmp_path / "whole.db"
    whole.write_bytes(kept.read_bytes())
    for place in range(1, statements_of(whole, after) + 1, every):
        path = tmp_path / f"cut{place}.db"
        path.write_bytes(kept.read_bytes())
        engine = open_engine(path)
        with pytest.raises((CutOffError, DataFileError)), cut_off_after(engine, place) as run:
            migrate(engine, keep=False, to=after)
        engine.dispose()
        gc.collect()  # a cursor that the failure still holds would keep its connection open; a dead process holds none
        assert revision_of(path) == (after if "COMMIT" in run else before)
        again = open_engine(path)
        migrate(again, keep=False, to=after)
        again.dispose()
        assert revision_of(path) == after
        with closing(sqlite3.connect(path)) as data:
            assert data.execute("SELECT count(*) FROM pull JOIN card ON card.id = pull.card_id").fetchone() == (1,)
            assert data.execute("PRAGMA integrity_check").fetchone() == ("ok",)
            assert data.execute("PRAGMA foreign_key_check").fetchall() == []
        path.unlink()


def test_data_is_copied_before_the_first_step_and_the_copy_opens(tmp_path: Path) -> None:
    path = tmp_path / "botin.db"
    store_at(path, "0005")
    for number in (1, 2):
        before = tmp_path / "backups" / f"before-upgrade-from-0005-{number}.db"
        engine = open_engine(path)
        migrate(engine)
        engine.dispose()
        assert revision_of(before) == "0005"
        assert revision_of(path) == REVISIONS[-1]
        path.unlink()
        path.write_bytes(before.read_bytes())


def test_a_new_file_needs_no_backup(tmp_path: Path) -> None:
    migrate(open_engine(tmp_path / "botin.db"))
    assert not (tmp_path / "backups").exists()


def test_nothing_is_upgraded_when_the_backup_cannot_be_made(tmp_path: Path) -> None:
    path = tmp_path / "botin.db"
    store_at(path, "0005")
    (tmp_path / "backups").write_text("a file stands where the folder should be")
    with pytest.raises(DataFileError):
        migrate(open_engine(path))
    assert revision_of(path) == "0005"


def test_a_file_of_a_newer_program_is_refused_in_words(tmp_path: Path) -> None:
    path = tmp_path / "botin.db"
    migrate(open_engine(path))
    with closing(sqlite3.connect(path)) as data, data:
        data.execute("UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(NewerDataError, match="newer Botin"):
        migrate(open_engine(path))
    assert revision_of(path) == "9999"


@pytest.mark.parametrize(
    "content", [b"no database at all, but long enough to be read as one" * 20, b"SQLite format 3\0broken"]
)
def test_a_damaged_file_names_the_backup_to_restore(content: bytes, tmp_path: Path) -> None:
    path = tmp_path / "botin.db"
    migrate(open_engine(path))
    made = rolling_backup(path, tmp_path / "backups", NOW)
    path.write_bytes(content)
    for side in ("-wal", "-shm"):
        path.with_name(path.name + side).unlink(missing_ok=True)
    with pytest.raises(DamagedDataError, match=f"botin restore .*{made.name}"):
        migrate(open_engine(path))
    assert path.read_bytes() == content


def test_a_database_of_another_program_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "botin.db"
    with closing(sqlite3.connect(path)) as data, data:
        data.execute("CREATE TABLE notes (text TEXT)")
    with pytest.raises(DamagedDataError, match="another program"):
        migrate(open_engine(path))


def test_a_full_disk_leaves_the_file_as_it_was(tmp_path: Path) -> None:
    """SQLite's own limit stands in for the disk: the file may not grow by a page."""
    path = tmp_path / "botin.db"
    store_at(path, "0001")
    engine = open_engine(path)

    def full(connection: sqlite3.Connection, _record: object) -> None:
        pages = connection.execute("PRAGMA page_count").fetchone()[0]
        connection.execute(f"PRAGMA max_page_count={pages}")

    event.listen(engine, "connect", full)
    with pytest.raises(FullDiskError, match="Make room"):
        migrate(engine, keep=False)
    engine.dispose()
    assert revision_of(path) == "0001"


@pytest.mark.parametrize("command", ["serve", "export"])
def test_the_command_says_it_in_one_line(command: str, tmp_path: Path) -> None:
    (tmp_path / "botin.db").write_bytes(b"nothing that a database would be" * 40)
    arguments = ["serve", "--port", "0"] if command == "serve" else ["export", "x", "--to", str(tmp_path / "x")]
    found = CliRunner().invoke(cli, [*arguments, "--home", str(tmp_path)])
    assert found.exit_code == 2
    assert "cannot be read" in found.stderr
    assert "Traceback" not in found.stderr


@pytest.mark.parametrize("content", ["", "too short", "x" * 64])
def test_an_empty_or_broken_key_is_made_anew(content: str, tmp_path: Path) -> None:
    """With an empty key no cookie could be signed and every form would fail for good."""
    (tmp_path / "secret-key").write_text(content)
    key = secret_key(tmp_path)
    assert len(key) == 64
    assert key != content
    assert secret_key(tmp_path) == key


def test_a_file_that_another_program_writes_is_not_called_damaged(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("botin.store.engine.BUSY_MS", 50)
    path = tmp_path / "botin.db"
    store_at(path, "0006")
    with closing(sqlite3.connect(path)) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(BusyDataError, match="another Botin"):
            migrate(open_engine(path), keep=False)
    assert revision_of(path) == "0006"
