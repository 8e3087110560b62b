"""Zips that are not trusted: what leaves them, or grows beyond reason, is refused before it is unpacked."""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
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


def zip_members(path: Path | io.BytesIO, *, every: bool = False) -> dict[str, bytes]:
    """Files of a zipped package; a folder around them all is taken off. ``every``: not only tables and JSON.

    Raises
    ------
    UnreadableFileError
        When it is no zip, unpacks to more than it should, or a name leaves the package.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _unpack(archive, every=every)
    except BROKEN_ZIP as exc:
        message = (
            f"{path if isinstance(path, Path) else 'The file'} cannot be opened as a zip. Zip the package again."
        )
        raise UnreadableFileError(message) from exc


def _unpack(archive: zipfile.ZipFile, *, every: bool) -> dict[str, bytes]:
    infos = [info for info in archive.infolist() if not info.is_dir()]
    check_zip(infos)
    found: dict[str, bytes] = {}
    for info in infos:
        if not every and PurePosixPath(info.filename).suffix not in (".csv", ".json"):
            continue
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
    if total > MAX_UNPACKED or steep or len(infos) > MAX_MEMBERS:
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
