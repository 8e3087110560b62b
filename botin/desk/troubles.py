"""What failed in the background: said on every screen until someone has dealt with it, also after a restart."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from threading import Lock

from botin.core.errors import StoredValueError
from botin.desk.stored import as_json, from_json

log = logging.getLogger(__name__)
FILE = "troubles.json"
MOST = 20


@dataclass(frozen=True, slots=True)
class Trouble:
    """One thing that failed; the same kind again only counts up."""

    kind: str
    words: str
    since: str
    times: int = 1


class Troubles:
    """The list, kept in the data directory; in memory alone where that cannot be written."""

    def __init__(self, home: Path | None) -> None:
        self._path = home / FILE if home else None
        self._lock = Lock()
        self._rows = {row.kind: row for row in self._read()}

    def _read(self) -> list[Trouble]:
        if self._path is None or not self._path.is_file():
            return []
        try:
            return from_json(self._path.read_text("utf-8"), list[Trouble])
        except (OSError, ValueError, StoredValueError):
            log.exception("what had failed before could not be read")
            return []

    def all(self) -> tuple[Trouble, ...]:
        """Return everything that nobody has dealt with."""
        return tuple(self._rows.values())

    def note(self, kind: str, words: str, now: datetime) -> None:
        """Note a failure."""
        with self._lock:
            before = self._rows.get(kind)
            since, times = (before.since, before.times + 1) if before else (now.isoformat(timespec="minutes"), 1)
            self._rows[kind] = Trouble(kind, words, since, times)
            while len(self._rows) > MOST:
                self._rows.pop(next(iter(self._rows)))
            self._write()

    def settle(self, kind: str) -> None:
        """Take a failure off the list: it was dealt with, or went well since."""
        with self._lock:
            if self._rows.pop(kind, None) is not None:
                self._write()

    def _write(self) -> None:
        if self._path is None:
            return
        part = self._path.with_suffix(".part")
        try:
            part.write_text(as_json(list(self._rows.values())), "utf-8")
            part.chmod(0o600)
            part.replace(self._path)
        except OSError:
            log.exception("what failed is known to this process only")
