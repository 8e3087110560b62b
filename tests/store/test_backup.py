"""Backups: taken while in use, verified, ten kept; a restore that checks first and keeps what was there."""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from click.testing import CliRunner
from sqlalchemy.orm import Session

from botin.cli import cli
from botin.cli import keep as keep  # noqa: PLC0414  (registers its commands)
from botin.core.errors import UnreadableFileError
from botin.desk.opening.rip import close_box, open_box
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.keeping.backup import FOLDER, KEPT, backup_to, rolling_backup, verify
from botin.store.keeping.restoring import restore
from botin.store.models import BoxRecord

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)


def boxes(path: Path) -> int:
    with closing(sqlite3.connect(path)) as data, data:
        return int(data.execute("SELECT count(*) FROM box").fetchone()[0])


def test_a_backup_is_taken_while_the_file_is_in_use(session: Session, home: Path, tmp_path: Path) -> None:
    session.get_one(BoxRecord, 1).label = "not committed"
    session.flush()
    made = backup_to(home / DATABASE, tmp_path / "copy.db")
    verify(made)
    assert boxes(made) == 21
    assert not made.with_suffix(".part").exists()


def test_the_last_ten_are_kept(home: Path, tmp_path: Path) -> None:
    for minute in range(KEPT + 3):
        rolling_backup(home / DATABASE, tmp_path / FOLDER, NOW + timedelta(minutes=minute))
    names = sorted(path.name for path in (tmp_path / FOLDER).iterdir())
    assert len(names) == KEPT
    assert names[-1] == "botin-000013-20261124-091200.db"


def test_closing_an_opening_takes_a_backup(session: Session, bench: Workbench, home: Path) -> None:
    bench.home = home
    box = open_box(session, bench, 4)
    close_box(session, bench, box, 0)
    job = bench.jobs.get(f"backup-{bench.now():%Y%m%d%H%M%S%f}")
    assert job.wait(60)
    assert job.future.exception() is None
    assert boxes(next((home / FOLDER).glob("botin-*.db"))) == 21


def test_restore_checks_first_and_keeps_what_was_there(home: Path, tmp_path: Path) -> None:
    good = backup_to(home / DATABASE, tmp_path / "good.db")
    with closing(sqlite3.connect(home / DATABASE)) as data, data:
        data.execute("UPDATE box SET label = 'later'")
    before = restore(good, home / DATABASE, NOW)
    assert before is not None
    with closing(sqlite3.connect(home / DATABASE)) as data:
        assert data.execute("SELECT count(*) FROM box WHERE label = 'later'").fetchone() == (0,)
    with closing(sqlite3.connect(before)) as data:
        assert data.execute("SELECT count(*) FROM box WHERE label = 'later'").fetchone() == (21,)


@pytest.mark.parametrize("broken", ["not there", "no database", "cut off", "another database"])
def test_what_is_no_sound_backup_replaces_nothing(home: Path, tmp_path: Path, broken: str) -> None:
    path = tmp_path / "bad.db"
    whole = backup_to(home / DATABASE, tmp_path / "whole.db").read_bytes()
    if broken == "no database":
        path.write_bytes(b"hello" * 1000)
    elif broken == "cut off":
        path.write_bytes(whole[: len(whole) // 2])
    elif broken == "another database":
        with closing(sqlite3.connect(path)) as data, data:
            data.execute("CREATE TABLE x (y)")
    before = (home / DATABASE).read_bytes()
    with pytest.raises(UnreadableFileError):
        restore(path, home / DATABASE, NOW)
    assert (home / DATABASE).read_bytes() == before


def test_restoring_while_in_use_is_refused(home: Path, tmp_path: Path) -> None:
    good = backup_to(home / DATABASE, tmp_path / "good.db")
    held = sqlite3.connect(home / DATABASE)
    held.execute("BEGIN IMMEDIATE")
    held.execute("UPDATE box SET label = 'being written'")
    with pytest.raises(UnreadableFileError, match="Stop Botin"):
        restore(good, home / DATABASE, NOW)
    held.rollback()
    held.close()


def test_the_commands(home: Path, tmp_path: Path) -> None:
    at = ["--home", str(home)]
    made = CliRunner().invoke(cli, ["backup", "--to", str(tmp_path / "c.db"), *at])
    assert made.exit_code == 0
    assert CliRunner().invoke(cli, ["restore", str(tmp_path / "c.db"), *at]).exit_code == 0
    refused = CliRunner().invoke(cli, ["restore", str(tmp_path / "lost.db"), *at])
    assert refused.exit_code == 2
    assert "is not there" in refused.stderr
    assert CliRunner().invoke(cli, ["backup", "--home", str(tmp_path / "empty")]).exit_code == 1


def test_what_a_restore_that_was_cut_off_left_is_not_played_back(home: Path, tmp_path: Path) -> None:
    """A write-ahead log beside a new copy would be taken for its own: the copy gets rows of the old one."""
    good = backup_to(home / DATABASE, tmp_path / "good.db")
    left = home / "botin.restore"
    shutil.copy(good, left)
    cut_off = sqlite3.connect(left)
    cut_off.execute("PRAGMA journal_mode=WAL")
    cut_off.execute("UPDATE box SET label = 'of the old copy'")
    cut_off.commit()
    wal = left.with_name("botin.restore-wal").read_bytes()
    cut_off.close()
    left.with_name("botin.restore-wal").write_bytes(wal)
    restore(good, home / DATABASE, NOW)
    with closing(sqlite3.connect(home / DATABASE)) as data:
        assert data.execute("SELECT count(*) FROM box WHERE label = 'of the old copy'").fetchone() == (0,)
    verify(home / DATABASE)
    assert list(home.glob("botin.restore*")) == []
