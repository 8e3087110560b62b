"""Copies of the data file: taken while it is in use, verified before they replace anything."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path

from botin.core.errors import UnreadableFileError

KEPT = 10
FOLDER = "backups"


def backup_to(source: Path, target: Path) -> Path:
    """Copy a data file with SQLite's online backup, check the copy, then put it in its place.

    Raises
    ------
    UnreadableFileError
        When the copy is not sound; nothing is replaced then.
    """
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_suffix(".part")
    part.unlink(missing_ok=True)
    with closing(sqlite3.connect(source)) as here, closing(sqlite3.connect(part)) as there:
        here.backup(there)
        there.execute("PRAGMA journal_mode=DELETE")
    verify(part)
    part.replace(target)
    return target


def verify(path: Path) -> None:
    """Check that a file is a sound Botin data file.

    Raises
    ------
    UnreadableFileError
        When it is not there, damaged, or something else.
    """
    if not path.is_file():
        message = f"{path} is not there. Name a backup, like backups/botin-20261124-0900.db."
        raise UnreadableFileError(message)
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as found:
            sound = found.execute("PRAGMA integrity_check").fetchone()[0]
            orphan = found.execute("PRAGMA foreign_key_check").fetchone()
            tables = {row[0] for row in found.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    except sqlite3.DatabaseError as exc:
        message = f"{path} is no data file, or damaged. Nothing was replaced."
        raise UnreadableFileError(message) from exc
    if sound != "ok" or orphan is not None or not {"alembic_version", "pull", "box"} <= tables:
        message = f"{path} is no sound Botin data file. Nothing was replaced."
        raise UnreadableFileError(message)


def rolling_backup(source: Path, folder: Path, now: datetime) -> Path:
    """Take a dated backup and keep the last ten."""
    made = backup_to(source, folder / f"botin-{now:%Y%m%d-%H%M%S}.db")
    for old in sorted(folder.glob("botin-*.db"))[:-KEPT]:
        old.unlink(missing_ok=True)
    return made


def restore(backup: Path, target: Path, now: datetime) -> Path | None:
    """Put a backup in place of the data file; what stood there is kept beside it, and returned.

    The server must be stopped: its open file would go on being written.
    """
    verify(backup)
    before = None
    if target.exists():
        before = backup_to(target, target.parent / FOLDER / f"before-restore-{now:%Y%m%d-%H%M%S}.db")
        with closing(sqlite3.connect(target, timeout=1)) as held:
            try:
                held.execute("PRAGMA locking_mode=EXCLUSIVE")
                held.execute("BEGIN EXCLUSIVE")
            except sqlite3.OperationalError as exc:
                message = "The data file is in use. Stop Botin, then restore."
                raise UnreadableFileError(message) from exc
    part = target.with_suffix(".restore")
    backup_to(backup, part)
    for side in ("-wal", "-shm"):
        target.with_name(target.name + side).unlink(missing_ok=True)
    part.replace(target)
    return before
