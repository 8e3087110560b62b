"""Copies of the data file: taken while it is in use, checked, numbered so that no clock decides which are kept."""

from __future__ import annotations

import re
import shutil
import sqlite3
from contextlib import closing
from datetime import datetime
from pathlib import Path

from botin.core.errors import UnreadableFileError
from botin.store.keeping.revisions import NEWEST, REVISIONS

KEPT = 10
FOLDER = "backups"
PHOTOS = "photos"
_NUMBERED = re.compile(r"botin-(\d{6})-\d{8}-\d{6}\.db")


def backup_to(source: Path, target: Path) -> Path:
    """Copy a data file with SQLite's online backup, check the copy, then put it in its place.

    Raises
    ------
    UnreadableFileError
        When the copy is not sound; nothing is replaced then.
    """
    target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = target.with_suffix(".part")
    for side in ("", "-journal", "-wal", "-shm"):
        part.with_name(part.name + side).unlink(missing_ok=True)  # of a run that was cut off
    try:
        with closing(sqlite3.connect(source)) as here, closing(sqlite3.connect(part)) as there:
            part.chmod(0o600)
            here.backup(there)
            there.execute("PRAGMA journal_mode=DELETE")
        verify(part)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
    return target


def verify(path: Path) -> str:
    """Check that a file is a sound Botin data file that this program can open; return its revision.

    Raises
    ------
    UnreadableFileError
        When it is not there, damaged, of a newer program, or something else.
    """
    if not path.is_file():
        message = f"{path} is not there. Name a backup, like backups/botin-000012-20261124-090000.db."
        raise UnreadableFileError(message)
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro{_at_rest(path)}", uri=True)) as found:
            sound = found.execute("PRAGMA integrity_check").fetchone()[0]
            orphan = found.execute("PRAGMA foreign_key_check").fetchone()
            tables = {row[0] for row in found.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            marked = found.execute("SELECT version_num FROM alembic_version").fetchone() if tables else None
    except (sqlite3.DatabaseError, UnicodeDecodeError) as exc:
        message = f"{path} is no data file of Botin, or damaged. Nothing was replaced."
        raise UnreadableFileError(message) from exc
    if sound != "ok" or orphan is not None or not {"pull", "box", "product"} <= tables or marked is None:
        message = f"{path} is no sound Botin data file. Nothing was replaced."
        raise UnreadableFileError(message)
    if marked[0] not in REVISIONS:
        message = (
            f"{path} was written by a newer Botin (tables at {marked[0]}, this program knows {NEWEST}). "
            "Nothing was replaced. Install the newer Botin, then restore."
        )
        raise UnreadableFileError(message)
    return str(marked[0])


def _at_rest(path: Path) -> str:
    """A file that nobody is writing is read as it lies: nothing is made beside it."""
    return "" if path.with_name(path.name + "-wal").exists() else "&immutable=1"


def numbered(folder: Path) -> list[Path]:
    """Return the rolling backups, the oldest first: by their number, never by a clock."""
    return sorted(folder.glob("botin-*.db"), key=lambda path: (_number(path), path.name))


def _number(path: Path) -> int:
    """Number of a rolling backup; 0 for those of versions that named them by the clock alone."""
    found = _NUMBERED.fullmatch(path.name)
    return int(found[1]) if found else 0


def free_name(folder: Path, stem: str, suffix: str = ".db") -> Path:
    """Return a name that nothing has yet: the stem with the next number."""
    number = 1
    while (found := folder / f"{stem}-{number}{suffix}").exists():
        number += 1
    return found


def newest_backup(folder: Path) -> Path | None:
    """Return the newest backup there is: a rolling one, else what was kept before an upgrade or a restore."""
    rolling = numbered(folder)
    others = sorted(folder.glob("before-*.db"), key=lambda path: path.stat().st_mtime)
    return (rolling or others or [None])[-1]  # type: ignore[list-item]


def rolling_backup(source: Path, folder: Path, now: datetime) -> Path:
    """Take a numbered backup and keep the last ten; photos beside the data file are copied once."""
    number = max((_number(path) for path in numbered(folder)), default=0) + 1
    made = backup_to(source, folder / f"botin-{number:06}-{now:%Y%m%d-%H%M%S}.db")
    keep_photos(source.parent / PHOTOS, folder / PHOTOS)
    for old in numbered(folder)[:-KEPT]:
        old.unlink(missing_ok=True)
    return made


def keep_photos(source: Path, target: Path) -> int:
    """Copy the photos that are not there yet; a photo never changes under its name. Returns how many were copied."""
    copied = 0
    for path in sorted(source.glob("*")) if source.is_dir() else ():
        kept = target / path.name
        if path.is_file() and not (kept.is_file() and kept.stat().st_size == path.stat().st_size):
            target.mkdir(parents=True, exist_ok=True, mode=0o700)
            part = kept.with_suffix(kept.suffix + ".part")
            shutil.copyfile(path, part)
            part.chmod(0o600)
            part.replace(kept)
            copied += 1
    return copied
