"""Safe keeping: the backups there are, one more, and one put back while Botin runs."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, datetime, tzinfo
from pathlib import Path
from tempfile import NamedTemporaryFile, TemporaryFile
from typing import IO

from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError, NotFoundError, UnreadableFileError
from botin.desk.keeping.wholehome import home_is_empty, take_in_everything, write_everything
from botin.desk.settings import load_settings
from botin.desk.workbench import BACKING_UP, Workbench
from botin.home import DATABASE
from botin.store.keeping.backup import FOLDER, numbered, rolling_backup
from botin.store.keeping.restoring import restore_live


@dataclass(frozen=True, slots=True)
class Kept:
    """A backup: its file, when it was written, how large it is, and why it was taken."""

    name: str
    when: datetime
    size: int
    why: str


def backups(bench: Workbench) -> list[Kept]:
    """Return the backups of a home, the newest first."""
    if bench.home is None:
        return []
    folder = bench.home / FOLDER
    rolling = list(reversed(numbered(folder)))
    others = sorted(folder.glob("before-*.db"), key=lambda path: -path.stat().st_mtime)
    return [_kept(path, bench.zone) for path in (*rolling, *others)]


def _kept(path: Path, zone: tzinfo | None) -> Kept:
    found = path.stat()
    why = "before an upgrade" if "before-upgrade" in path.name else "before something was put back"
    return Kept(
        path.name,
        (_named_moment(path.name) or datetime.fromtimestamp(found.st_mtime, UTC)).astimezone(zone),
        found.st_size,
        "when a box was closed, or by hand" if path.name.startswith("botin-") else why,
    )


def _named_moment(name: str) -> datetime | None:
    """Return the moment a backup is named by; copying the folder elsewhere changes the times of its files."""
    found = re.search(r"(\d{8}-\d{6})(?=[.-])", name)
    try:
        return datetime.strptime(found[1], "%Y%m%d-%H%M%S").replace(tzinfo=UTC) if found else None
    except ValueError:
        return None


def home_of(bench: Workbench) -> Path:
    """Return the data directory.

    Raises
    ------
    ImportRefusedError
        When this Botin has none.
    """
    if bench.home is None:
        message = "This Botin has no data directory. Start it with: botin serve"
        raise ImportRefusedError(message)
    return bench.home


def back_up_now(bench: Workbench) -> Path:
    """Take a backup at once; one that failed before is settled by it."""
    home = home_of(bench)
    made = rolling_backup(home / DATABASE, home / FOLDER, bench.now())
    bench.troubles.settle(BACKING_UP)
    return made


def put_back(session: Session, bench: Workbench, name: str) -> Path:
    """Put a backup of the list back; what stood there is kept, and returned.

    Raises
    ------
    NotFoundError
        When there is no such backup.
    UnreadableFileError
        When it is not sound; nothing is replaced then.
    """
    home = home_of(bench)
    if name not in {kept.name for kept in backups(bench)}:
        message = "That backup is not there any more. Reload the page."
        raise NotFoundError(message)
    return _put(session, bench, home / FOLDER / name)


def put_back_upload(session: Session, bench: Workbench, data: bytes, name: str) -> Path:
    """Put an uploaded backup back; what is wrong with it is said under its own name."""
    home = home_of(bench)
    with NamedTemporaryFile(dir=home, prefix="upload-", suffix=".db", delete=False) as file:
        file.write(data)
    path = Path(file.name)
    try:
        return _put(session, bench, path)
    except UnreadableFileError as exc:
        raise UnreadableFileError(exc.message.replace(str(path), name)) from exc
    finally:
        path.unlink(missing_ok=True)


def can_take_in(bench: Workbench) -> bool:
    """Whether a whole home may be taken in: nothing was put into this one yet."""
    return bench.home is not None and home_is_empty(bench.home)


def everything(bench: Workbench) -> IO[bytes]:
    """Return all that the home holds as an open .zip, which is gone when it is closed."""
    home = home_of(bench)
    file = TemporaryFile(dir=home, prefix="everything-")  # noqa: SIM115  (closed by who sends it)
    write_everything(home, file, bench.now())
    file.seek(0)
    return file


def take_in(session: Session, bench: Workbench, file: IO[bytes], name: str) -> int:
    """Take a whole home into this empty one; returns how many rows came."""
    home = home_of(bench)
    session.rollback()
    rows = take_in_everything(home, file, name, bench.now(), live=True)
    _anew(session, bench)
    return rows


def _put(session: Session, bench: Workbench, path: Path) -> Path:
    session.rollback()
    before = restore_live(path, home_of(bench) / DATABASE, bench.now())
    _anew(session, bench)
    return before


def _anew(session: Session, bench: Workbench) -> None:
    """Forget what was worked out from the data that stood there before."""
    session.expire_all()
    bench.forget()
    bench.live_in(load_settings(session).time_zone)
