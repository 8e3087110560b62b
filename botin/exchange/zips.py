"""Zips that are not trusted: what leaves them, or grows beyond reason, is refused before it is unpacked."""

from __future__ import annotations

import io
import re
import struct
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath

from botin.core.errors import UnreadableFileError

MAX_UNPACKED = 256 * 1024 * 1024
"""Bytes a package may unpack to."""
MAX_RATIO = 200
"""How much a member of a zip may grow; prose and CSV shrink by far less."""
MAX_MEMBERS = 200
BROKEN_ZIP = (
    OSError, EOFError, ValueError, IndexError, RuntimeError, zipfile.BadZipFile, zlib.error, struct.error,
)  # fmt: skip
"""What the standard reader of zips raises on files that are none, or are damaged, encrypted, or packed otherwise."""


TABLES = frozenset((".csv", ".json"))
"""Endings of the files of a package."""
_LEFT_BEHIND = re.compile(r"(?:^|/)(?:__MACOSX/|\.|Thumbs\.db$|desktop\.ini$)", re.IGNORECASE)
"""What systems leave in folders: nobody put it there."""


def ending_of(name: str) -> str:
    """Return the ending of a file's name in small letters."""
    return PurePosixPath(name).suffix.casefold()


def is_left_behind(name: str) -> bool:
    """Whether a system put a file there, and nobody else."""
    return _LEFT_BEHIND.search(name) is not None


def zip_names(path: Path | io.BytesIO) -> list[str]:
    """Return the names of all files that somebody put into a zip.

    Raises
    ------
    UnreadableFileError
        When it is no zip.
    """
    with _opened(path) as archive:
        return [info.filename for info in archive.infolist() if not (info.is_dir() or is_left_behind(info.filename))]


def zip_members(path: Path | io.BytesIO, endings: frozenset[str] = TABLES) -> dict[str, bytes]:
    """Files of a zipped package that have such endings; a folder around them all is taken off.

    Raises
    ------
    UnreadableFileError
        When it is no zip, unpacks to more than it should, or a name leaves the package.
    """
    with _opened(path) as archive:
        return _unpack(archive, endings)


@contextmanager
def _opened(path: Path | io.BytesIO) -> Iterator[zipfile.ZipFile]:
    try:
        with zipfile.ZipFile(path) as archive:
            yield archive
    except BROKEN_ZIP as exc:
        message = (
            f"{path if isinstance(path, Path) else 'The file'} cannot be opened as a zip. Zip the package again."
        )
        raise UnreadableFileError(message) from exc


def _unpack(archive: zipfile.ZipFile, endings: frozenset[str]) -> dict[str, bytes]:
    infos = [info for info in archive.infolist() if not info.is_dir()]
    check_zip(infos)
    infos = [info for info in infos if ending_of(info.filename) in endings and not is_left_behind(info.filename)]
    found: dict[str, bytes] = {}
    for info in infos:
        if info.filename in found:
            message = f"{info.filename} stands twice in the zip. Zip it again with each file once."
            raise UnreadableFileError(message)
        with archive.open(info) as member:
            data = member.read(info.file_size + 1)
        if len(data) > info.file_size:
            message = f"{info.filename} is larger than the zip says. It is not taken in."
            raise UnreadableFileError(message)
        found[info.filename] = data
    return _without_folder(found)


def check_zip(infos: list[zipfile.ZipInfo]) -> None:
    """Refuse names that leave the package and archives that grow beyond reason."""
    bad = next((info.filename for info in infos if not is_inside(info.filename)), None)
    if bad is not None:
        message = f"The zip names a file outside itself ({bad[:80]}). It is not taken in."
        raise UnreadableFileError(message)
    total = sum(info.file_size for info in infos)
    steep = any(info.file_size > MAX_RATIO * max(info.compress_size, 1) + 100_000 for info in infos)
    if len(infos) > MAX_MEMBERS:
        message = f"The zip holds {len(infos):,} files; the most is {MAX_MEMBERS}. Zip only those that say something."
        raise UnreadableFileError(message)
    if total > MAX_UNPACKED or steep:
        message = f"The zip would unpack to {total:,} bytes, more than a product package holds. It is not taken in."
        raise UnreadableFileError(message)


def is_inside(name: str) -> bool:
    """Whether a name stays within the package it stands in."""
    path = PurePosixPath(name)
    return not (path.is_absolute() or ".." in path.parts or "\\" in name or ":" in name or "\0" in name)


def _without_folder(members: dict[str, bytes]) -> dict[str, bytes]:
    tops = {name.partition("/")[0] for name in members}
    if len(tops) == 1 and all("/" in name for name in members):
        top = next(iter(tops))
        return {name.removeprefix(f"{top}/"): data for name, data in members.items()}
    return members
