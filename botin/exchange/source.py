"""Open a package wherever it lies (folder, .zip, .xlsx) without trusting it."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Iterator
from pathlib import Path, PurePosixPath
from typing import Any

from botin.core.errors import UnreadableFileError
from botin.exchange.decode import decode
from botin.exchange.guard import unguard
from botin.exchange.tables import PRODUCT_TABLES, RawPackage, RawTable, TableSpec, raw_table

MAX_UNPACKED = 256 * 1024 * 1024
"""Bytes a package may unpack to."""
MAX_RATIO = 200
"""How much a member of a zip may grow; prose and CSV shrink by far less."""
MAX_MEMBERS = 200
MAX_CELL = 1_000_000

DESCRIPTOR = "datapackage.json"


def csv_lines(text: str, delimiter: str = ",") -> Iterator[tuple[int, list[str]]]:
    """Rows of RFC 4180 text with the line each one starts at."""
    csv.field_size_limit(MAX_CELL)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    start = 1
    try:
        for cells in reader:
            yield start, cells
            start = reader.line_num + 1
    except csv.Error as exc:
        message = f"Line {start} cannot be read as CSV ({exc}). Save the file again as CSV in UTF-8."
        raise UnreadableFileError(message) from exc


def read_package(path: Path) -> RawPackage:
    """Read a package as text.

    Parameters
    ----------
    path : Path
        A folder, a .zip or an .xlsx.

    Raises
    ------
    UnreadableFileError
        When it cannot be opened, is not safe to unpack, or lacks a table or column that is required.
    """
    if path.suffix.casefold() == ".xlsx":
        from botin.exchange.workbook import read_workbook  # noqa: PLC0415  (openpyxl is slow to import)

        return read_workbook(path)
    members = folder_members(path) if path.is_dir() else zip_members(path)
    return package_from(members)


def package_from(members: dict[str, bytes]) -> RawPackage:
    """Read a package from its files by name."""
    package = RawPackage(_descriptor(members))
    files = _paths(package.descriptor)
    for spec in PRODUCT_TABLES:
        name = files.get(spec.name, f"{spec.name}.csv")
        if name in members:
            package.tables[spec.name] = read_table(spec, members[name], name)
        elif spec.required:
            message = f"{name} is missing. A product package needs formats.csv, sections.csv and cards.csv."
            raise UnreadableFileError(message)
    return package


def read_table(spec: TableSpec, data: bytes, name: str) -> RawTable:
    """Read one CSV file of a package."""
    lines = ((number, [unguard(cell) for cell in cells]) for number, cells in csv_lines(decode(data)))
    return raw_table(spec, lines, name)


def parse_descriptor(data: bytes) -> dict[str, Any]:
    """Read ``datapackage.json``.

    Raises
    ------
    UnreadableFileError
        When it is no JSON object.
    """
    try:
        found = json.loads(decode(data))
    except (ValueError, RecursionError) as exc:
        message = f"{DESCRIPTOR} is not valid JSON. Check its commas and brackets."
        raise UnreadableFileError(message) from exc
    if not isinstance(found, dict):
        message = f"{DESCRIPTOR} must hold one object in braces."
        raise UnreadableFileError(message)
    return found


def _descriptor(members: dict[str, bytes]) -> dict[str, Any]:
    return parse_descriptor(members[DESCRIPTOR]) if DESCRIPTOR in members else {}


def _paths(descriptor: dict[str, Any]) -> dict[str, str]:
    """File of each resource, as the descriptor names it; a path that leaves the package is ignored."""
    found: dict[str, str] = {}
    resources = descriptor.get("resources")
    for resource in resources if isinstance(resources, list) else ():
        if not isinstance(resource, dict):
            continue
        name, path = resource.get("name"), resource.get("path")
        if isinstance(name, str) and isinstance(path, str) and _safe(path):
            found[name] = path
    return found


def folder_members(path: Path) -> dict[str, bytes]:
    """Files of a package folder; links that lead outside are not followed."""
    if not path.is_dir():
        message = f"{path} is not there. Give a package folder, a .zip or an .xlsx."
        raise UnreadableFileError(message)
    root = path.resolve()
    found: dict[str, bytes] = {}
    for file in sorted(path.rglob("*")):
        wanted = file.suffix in (".csv", ".json") and file.is_file() and file.resolve().is_relative_to(root)
        if not wanted:
            continue
        if len(found) >= MAX_MEMBERS or file.stat().st_size > MAX_UNPACKED:
            message = f"{path} is too large for a product package."
            raise UnreadableFileError(message)
        found[file.relative_to(path).as_posix()] = file.read_bytes()
    return found


def zip_members(path: Path | io.BytesIO) -> dict[str, bytes]:
    """Files of a zipped package; a folder around them all is taken off.

    Raises
    ------
    UnreadableFileError
        When it is no zip, unpacks to more than it should, or a name leaves the package.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _unpack(archive)
    except (OSError, zipfile.BadZipFile, RuntimeError, EOFError, ValueError) as exc:
        message = (
            f"{path if isinstance(path, Path) else 'The file'} cannot be opened as a zip. Zip the package again."
        )
        raise UnreadableFileError(message) from exc


def _unpack(archive: zipfile.ZipFile) -> dict[str, bytes]:
    infos = [info for info in archive.infolist() if not info.is_dir()]
    check_zip(infos)
    found: dict[str, bytes] = {}
    for info in infos:
        if PurePosixPath(info.filename).suffix not in (".csv", ".json"):
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
    bad = next((info.filename for info in infos if not _safe(info.filename)), None)
    if bad is not None:
        message = f"The zip names a file outside itself ({bad[:80]}). It is not taken in."
        raise UnreadableFileError(message)
    total = sum(info.file_size for info in infos)
    steep = any(info.file_size > MAX_RATIO * max(info.compress_size, 1) + 100_000 for info in infos)
    if total > MAX_UNPACKED or steep or len(infos) > MAX_MEMBERS:
        message = f"The zip would unpack to {total:,} bytes, more than a product package holds. It is not taken in."
        raise UnreadableFileError(message)


def _safe(name: str) -> bool:
    path = PurePosixPath(name)
    return not (path.is_absolute() or ".." in path.parts or "\\" in name or ":" in name or "\0" in name)


def _without_folder(members: dict[str, bytes]) -> dict[str, bytes]:
    tops = {name.partition("/")[0] for name in members}
    if len(tops) == 1 and all("/" in name for name in members):
        top = next(iter(tops))
        return {name.removeprefix(f"{top}/"): data for name, data in members.items()}
    return members
