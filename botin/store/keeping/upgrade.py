"""Bring a data file up to date: looked at first, backed up, then upgraded as one transaction or not at all."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

from botin.core.errors import BotinError
from botin.store.keeping.backup import FOLDER, backup_to, free_name, newest_backup
from botin.store.keeping.revisions import MIGRATIONS, NEWEST, REVISIONS

if TYPE_CHECKING:
    from alembic.config import Config
    from sqlalchemy import Connection, Engine

_FULL = ("full", "disk i/o error")


class DataFileError(BotinError):
    """The data file cannot be opened or upgraded; the message says what to do."""

    status = 500
    exit_code = 2


class NewerDataError(DataFileError):
    """The data file was written by a newer program."""

    def __init__(self, path: Path, revision: str) -> None:
        super().__init__(
            f"{path} was written by a newer Botin (its tables are at {revision}, this program knows {NEWEST}). "
            "Nothing was changed. Install the newer Botin again, or restore a backup that this one wrote."
        )


class DamagedDataError(DataFileError):
    """The data file is damaged, or something else."""

    def __init__(self, path: Path, why: str) -> None:
        found = newest_backup(path.parent / FOLDER)
        advice = (
            f"Restore the newest backup with: botin restore {found}" if found else "There is no backup beside it."
        )
        super().__init__(f"{path} cannot be read: {why}. Nothing was changed. {advice}")


class ReadOnlyDataError(DataFileError):
    """The data file or its folder may not be written to."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            f"{path} may not be written to. Give yourself the right to write to the file and its folder "
            "(or take it off a disk that is read-only), then start again. Nothing was changed."
        )


class BusyDataError(DataFileError):
    """Another process is writing to the data file."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            f"{path} is being written by another program, perhaps another Botin. Nothing was changed. "
            "Stop the other one, then start again."
        )


class FullDiskError(DataFileError):
    """There is no room for the backup or for the upgrade."""

    def __init__(self, path: Path) -> None:
        super().__init__(
            f"The disk that holds {path.parent} is full. Nothing was changed. Make room for about twice the size "
            f"of {path.name}, then start again."
        )


def migrate(engine: Engine, *, keep: bool = True, to: str = NEWEST) -> None:
    """Bring the tables up to date; each migration is named and runs once.

    A file that holds data is copied into the folder of backups first. All steps are one transaction: a process that
    dies on the way leaves the file as it was.

    Parameters
    ----------
    keep : bool
        Whether to take that backup; not of a copy that is a backup itself.
    to : str
        Revision to go to.

    Raises
    ------
    DataFileError
        When the file is newer than the program, damaged, read-only, or the disk is full; nothing was changed then.
    """
    path = Path(engine.url.database or ":memory:")
    try:
        revision = _looked_at(path)
        if revision >= to:
            return
        if revision and keep:
            backup_to(path, free_name(path.parent / FOLDER, f"before-upgrade-from-{revision}"))
        _upgrade(engine, path, to)
    except (sqlite3.Error, OSError, UnicodeDecodeError) as exc:
        raise _said(path, exc) from exc


def _looked_at(path: Path) -> str:
    """Return the revision of a file that is there; empty for a new one."""
    if not path.is_file() or not path.stat().st_size:
        if path.parent.is_dir() and not os.access(path.parent, os.W_OK):
            raise ReadOnlyDataError(path)
        return ""
    if not (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)):
        raise ReadOnlyDataError(path)
    with closing(sqlite3.connect(path, timeout=5)) as data:
        tables = {row[0] for row in data.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if not tables:
            return ""
        if "alembic_version" not in tables:
            raise DamagedDataError(path, "it is a database of another program")
        row = data.execute("SELECT version_num FROM alembic_version").fetchone()
    revision = str(row[0]) if row else ""
    if revision and revision not in REVISIONS:
        raise NewerDataError(path, revision)
    if not revision and len(tables) > 1:
        raise DamagedDataError(path, "it does not say at which revision its tables are")
    return revision


def _upgrade(engine: Engine, path: Path, to: str) -> None:
    """Run what is missing in one transaction, and see that no row points nowhere before it counts."""
    from alembic import command  # noqa: PLC0415  (slow to import, and needed only at an upgrade)
    from sqlalchemy.exc import SQLAlchemyError  # noqa: PLC0415

    with engine.connect() as plain:
        connection = plain.execution_options(isolation_level="AUTOCOMMIT")  # BEGIN and COMMIT are said here alone
        try:
            # A table that is rebuilt is dropped and renamed: rows that point to it must not be taken for orphans.
            connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            command.upgrade(_config(connection), to)
            lost = connection.exec_driver_sql("PRAGMA foreign_key_check").first()
            if lost is not None:
                raise DamagedDataError(path, f"it has rows in {lost[0]} that point nowhere")
            connection.exec_driver_sql("COMMIT")
            connection.exec_driver_sql("PRAGMA foreign_keys=ON")
        except BaseException as exc:
            if not plain.invalidated:
                plain.invalidate()  # closed without a commit: SQLite takes everything back
            if isinstance(exc, SQLAlchemyError):
                raise _said(path, getattr(exc, "orig", None) or exc) from exc
            raise


def _config(connection: Connection) -> Config:
    from alembic.config import Config  # noqa: PLC0415  (as above)

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    config.attributes["connection"] = connection
    return config


def _said(path: Path, error: Exception) -> DataFileError:
    """Say a failure of the file in words."""
    if isinstance(error, DataFileError):
        return error
    text = str(error).casefold()
    if any(word in text for word in _FULL) or getattr(error, "errno", None) == 28:
        return FullDiskError(path)
    if "readonly" in text or "read-only" in text or isinstance(error, PermissionError):
        return ReadOnlyDataError(path)
    if "locked" in text or "busy" in text:
        return BusyDataError(path)
    return DamagedDataError(path, str(error))
