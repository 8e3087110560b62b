"""Where Botin keeps its data: ``BOTIN_HOME``, or the user data directory of the system."""

from __future__ import annotations

import os
import re
import secrets
from datetime import UTC, datetime
from pathlib import Path

import platformdirs

DATABASE = "botin.db"
HOME_ID = "home-id"
_ID = re.compile(r"[0-9a-f]{16}")
_KEY = re.compile(r"[0-9a-f]{64}")
SECRET = "secret-key"  # noqa: S105  (a file name)


def utc_now() -> datetime:
    """Return the time now; the one place the clock is read."""
    return datetime.now(UTC)


def home_folder(override: Path | None = None) -> Path:
    """Return the data directory, made when it is not there."""
    named = override or os.environ.get("BOTIN_HOME") or platformdirs.user_data_dir("botin", appauthor=False)
    folder = Path(named).expanduser().absolute()
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return folder


def home_id_of(folder: Path) -> str:
    """Return the id of a data directory, made when it is first asked for."""
    path = folder / HOME_ID
    try:
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        found = path.read_text("ascii", errors="replace").strip()
        return found if _ID.fullmatch(found) else f"unreadable-{path.stat().st_ino}"
    with os.fdopen(handle, "w", encoding="ascii") as file:
        made = secrets.token_hex(8)
        file.write(made)
    return made


def secret_key(folder: Path) -> str:
    """Return the key that signs cookies, made at the first start and readable by its owner only.

    A key file that is empty or cut off is replaced: with it every form would be refused. Pages that were open have
    to be loaded again.
    """
    path = folder / SECRET
    try:
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        key = path.read_text("ascii", errors="replace").strip()
        if _KEY.fullmatch(key):
            return key
        part = path.with_suffix(".part")
        handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        key = _write_key(handle)
        part.replace(path)
        return key
    return _write_key(handle)


def _write_key(handle: int) -> str:
    key = secrets.token_hex(32)
    with os.fdopen(handle, "w", encoding="ascii") as file:
        file.write(key)
        file.flush()
        os.fsync(handle)
    return key
