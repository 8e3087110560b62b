"""One server for a data directory: the second one is told where the first one is."""

from __future__ import annotations

import os
from pathlib import Path
from typing import IO

from botin.core.errors import BotinError

LOCK = "serving"


class AlreadyServedError(BotinError):
    """Another process serves this data directory."""

    def __init__(self, home: Path, where: str) -> None:
        told = f" at {where}" if where else ""
        super().__init__(f"Another Botin serves {home} already{told}. Use that one, or stop it first.")


class Serving:
    """Holds a data directory as long as this process serves it; the system lets go when the process ends."""

    def __init__(self, home: Path) -> None:
        self._home = home
        self._file: IO[str] | None = None

    def hold(self) -> None:
        """Take hold of the directory.

        Raises
        ------
        AlreadyServedError
            When another process has it.
        """
        path = self._home / LOCK
        file = os.fdopen(os.open(path, os.O_RDWR | os.O_CREAT, 0o600), "r+", encoding="utf-8")
        if not _lock(file):
            where = file.read(200).strip()
            file.close()
            raise AlreadyServedError(self._home, where)
        self._file = file

    def tell(self, address: str) -> None:
        """Write down where it is served, for the next one who asks."""
        if self._file is not None:
            self._file.seek(0)
            self._file.truncate()
            self._file.write(address)
            self._file.flush()

    def let_go(self) -> None:
        """Let go of the directory."""
        if self._file is not None:
            self._file.close()
            self._file = None


def _lock(file: IO[str]) -> bool:
    try:
        import fcntl  # noqa: PLC0415  (there is none on Windows)
    except ImportError:
        return True
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    return True
