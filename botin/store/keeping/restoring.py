"""Put a backup back: it is checked, opened and brought up to date before anything is replaced."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path

from botin.core.errors import UnreadableFileError
from botin.store.engine import open_engine
from botin.store.keeping.backup import FOLDER, PHOTOS, backup_to, free_name, keep_photos, verify
from botin.store.keeping.upgrade import DataFileError, migrate
from botin.store.models import Base


def ready_copy(backup: Path, part: Path) -> Path:
    """Copy a backup, bring the copy up to date and open it; it is what may replace the data file.

    Raises
    ------
    UnreadableFileError
        When it is not sound, of a newer program, or cannot be opened.
    """
    verify(backup)
    _forget(part)  # what an earlier run that was cut off left beside it would be played back into the new copy
    try:
        backup_to(backup, part)
        engine = open_engine(part)
        try:
            migrate(engine, keep=False)
        finally:
            engine.dispose()
        _whole(part)
    except (DataFileError, sqlite3.Error, OSError, UnicodeDecodeError) as exc:
        _forget(part)
        message = f"{backup} cannot be opened: {exc}. Nothing was replaced."
        raise UnreadableFileError(message) from exc
    return part


def _whole(path: Path) -> None:
    """See that every table and column is there that the program asks for."""
    import botin.store.keeping.everytable  # noqa: F401, PLC0415  (adds all tables)

    with closing(sqlite3.connect(path)) as data:
        for table in Base.metadata.sorted_tables:
            there = {row[1] for row in data.execute(f'PRAGMA table_info("{table.name}")')}
            missing = {column.name for column in table.columns} - there
            if missing:
                message = f"its table {table.name} lacks {', '.join(sorted(missing))}"
                raise sqlite3.DatabaseError(message)
        data.execute("PRAGMA journal_mode=DELETE")


def _forget(path: Path) -> None:
    for side in ("", "-wal", "-shm", "-journal"):
        path.with_name(path.name + side).unlink(missing_ok=True)


def restore(backup: Path, target: Path, now: datetime) -> Path | None:
    """Put a backup in place of the data file; what stood there is kept beside it, and returned.

    The server must be stopped: its open file would go on being written. What stood there and can no longer be read
    is kept as it is.
    """
    part = ready_copy(backup, target.with_suffix(".restore"))
    before = None
    try:
        if target.exists():
            before = _kept_before(target, now)
            _alone(target)
        for side in ("-wal", "-shm"):
            target.with_name(target.name + side).unlink(missing_ok=True)
        part.replace(target)
    finally:
        _forget(part)
    keep_photos(backup.parent / PHOTOS, target.parent / PHOTOS)
    return before


def _kept_before(target: Path, now: datetime) -> Path:
    """Keep what stands there: a checked copy, or the bare file where it cannot be read any more."""
    name = _before(target, now)
    try:
        return backup_to(target, name)
    except (UnreadableFileError, sqlite3.DatabaseError, UnicodeDecodeError):
        damaged = name.with_suffix(".damaged")
        damaged.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        damaged.write_bytes(target.read_bytes())
        return damaged


def _before(target: Path, now: datetime) -> Path:
    """Name for what stands there, never over an earlier one: two may be put back within a second."""
    return free_name(target.parent / FOLDER, f"before-restore-{now:%Y%m%d-%H%M%S}")


def _alone(target: Path) -> None:
    """See that nobody has the data file open for writing."""
    with closing(sqlite3.connect(target, timeout=1)) as held:
        try:
            held.execute("PRAGMA locking_mode=EXCLUSIVE")
            held.execute("BEGIN EXCLUSIVE")
        except sqlite3.OperationalError as exc:
            message = "The data file is in use. Stop Botin, then restore."
            raise UnreadableFileError(message) from exc
        except sqlite3.DatabaseError:
            return  # damaged: nobody can be writing it


def restore_live(backup: Path, target: Path, now: datetime) -> Path:
    """Put a backup into a data file that is in use: as one transaction, with SQLite's online backup.

    Returns
    -------
    Path
        What was there before, kept beside the other backups.
    """
    part = ready_copy(backup, target.with_suffix(".restore"))
    try:
        before = backup_to(target, _before(target, now))
        with closing(sqlite3.connect(part)) as here, closing(sqlite3.connect(target, timeout=10)) as there:
            here.backup(there)
    finally:
        _forget(part)
    keep_photos(backup.parent / PHOTOS, target.parent / PHOTOS)
    return before
