"""Everything out and in: the whole home as one file, and such a file into an empty home."""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO

from botin import __version__
from botin.core.errors import ImportRefusedError, UnreadableFileError
from botin.exchange.keeping.wholezip import PHOTOS, WholeReader, WholeWriter
from botin.exchange.source import WHOLE_HOME, says_whole_home
from botin.home import DATABASE
from botin.store.keeping.restoring import restore, restore_live
from botin.store.keeping.wholehome import fill, is_empty, revision_of, rows_of, shapes, snapshot

COMING = "coming-"
NAMED_PHOTOS = "SELECT file FROM photo UNION SELECT file FROM scan UNION SELECT cut FROM scan WHERE cut <> ''"


@dataclass(frozen=True, slots=True)
class Written:
    """What was written, and the photos that are named in the data but lie nowhere."""

    rows: int
    photos: int
    missing: tuple[str, ...] = ()

    def words(self) -> str:
        """Return what was written as a sentence."""
        lost = f" {len(self.missing)} photos are named in the data but not there: {', '.join(self.missing[:5])}."
        return f"{self.rows:,} rows and {self.photos:,} photos." + (lost if self.missing else "")


def write_everything(home: Path, target: IO[bytes], now: datetime) -> Written:
    """Write all that a home holds, as it is at this moment."""
    writer, rows = WholeWriter(target), 0
    with snapshot(home / DATABASE) as data:
        for shape in shapes():
            writer.table(shape, rows_of(data, shape))
            rows += _rows_in(data, shape.name)
        named = {name for (name,) in data.execute(NAMED_PHOTOS)}
        revision = revision_of(data)
    folder = home / PHOTOS
    lying = folder.iterdir() if folder.is_dir() else ()
    photos = sorted(
        path for path in lying if path.is_file() and path.suffix != ".part"
    )  # one that was cut off is none
    for path in photos:
        with path.open("rb") as source:
            writer.photo(path.name, source)
    own = {"kind": WHOLE_HOME, "revision": revision, "written_by": __version__}
    title, moment = "All that this Botin holds", f"{now:%Y-%m-%dT%H:%M:%SZ}"
    writer.close({"name": "botin-home", "title": title, "created": moment, "botin": own})
    return Written(rows, len(photos), tuple(sorted(named - {path.name for path in photos})))


def is_whole(path: Path) -> bool:
    """Whether a file is the export of a whole home."""
    if path.suffix.casefold() != ".zip" or not path.is_file():
        return False
    try:
        reader = WholeReader(path, path.name)
    except UnreadableFileError:
        return False
    reader.close()
    return says_whole_home(reader.about)


def _own(reader: WholeReader) -> dict[str, object]:
    found = reader.about.get("botin")
    return found if isinstance(found, dict) else {}


def home_is_empty(home: Path) -> bool:
    """Whether nothing was put into a home yet."""
    if not (home / DATABASE).is_file():
        return True
    with snapshot(home / DATABASE) as data:
        return is_empty(data)


def take_in_everything(home: Path, source: Path | IO[bytes], name: str, now: datetime, *, live: bool) -> int:
    """Take the export of a whole home into an empty one; all or nothing. Returns how many rows came.

    Parameters
    ----------
    live : bool
        Whether Botin is running on this home.

    Raises
    ------
    ImportRefusedError
        When the home is not empty, or what comes does not fit.
    UnreadableFileError
        When the file is not whole.
    """
    _only_empty(home)
    reader = WholeReader(source, name)
    try:
        if not says_whole_home(reader.about):
            message = (
                f"{name} is not the export of a whole home. Products, prices and logs come in at their own desks."
            )
            raise ImportRefusedError(message)
        for left in home.glob(f"{COMING}*"):
            shutil.rmtree(left, ignore_errors=True)  # of a run that was cut off
        with TemporaryDirectory(dir=home, prefix=COMING) as folder:
            made = Path(folder) / DATABASE
            fill(made, str(_own(reader).get("revision")), reader.tables())
            _photos(reader, Path(folder) / PHOTOS)
            _only_empty(home)
            _put_photos(Path(folder) / PHOTOS, home / PHOTOS)
            put: Callable[[Path, Path, datetime], object] = restore_live if live else restore
            put(made, home / DATABASE, now)
            return _count(home / DATABASE)
    finally:
        reader.close()


def _only_empty(home: Path) -> None:
    if not home_is_empty(home):
        message = (
            "This home holds something already. A whole home goes into an empty one only: start Botin with another "
            "data directory (botin serve --home FOLDER). Nothing was taken in."
        )
        raise ImportRefusedError(message)


def _photos(reader: WholeReader, folder: Path) -> None:
    """Lay the photos aside until all of them are known to be whole."""
    folder.mkdir(mode=0o700)
    for name, pieces in reader.photos():
        if "/" in name or name in ("", ".", ".."):
            message = f"{name[:60]} is no name of a photo. Nothing was taken in."
            raise ImportRefusedError(message)
        with (folder / name).open("wb") as file:
            for piece in pieces:
                file.write(piece)


def _put_photos(source: Path, target: Path) -> None:
    for path in sorted(source.iterdir()):
        target.mkdir(exist_ok=True, mode=0o700)
        shutil.move(path, target / path.name)


def _count(path: Path) -> int:
    with snapshot(path) as data:
        return sum(_rows_in(data, shape.name) for shape in shapes())


def _rows_in(data: sqlite3.Connection, table: str) -> int:
    return int(data.execute(f'SELECT count(*) FROM "{table}"').fetchone()[0])  # noqa: S608  (a name of the models)
