"""Where Botin keeps its data: ``BOTIN_HOME``, or the user data directory of the system."""

from __future__ import annotations

import os
import secrets
from datetime import UTC, datetime
from pathlib import Path

import platformdirs

DATABASE = "botin.db"
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


def secret_key(folder: Path) -> str:
    """Return the key that signs cookies, made at the first start and readable by its owner only."""
    path = folder / SECRET
    try:
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        return path.read_text("ascii")
    with os.fdopen(handle, "w", encoding="ascii") as file:
        key = secrets.token_hex(32)
        file.write(key)
    return key
