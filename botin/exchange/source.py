"""Open a package wherever it lies (folder, .zip, .xlsx) without trusting it."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from botin.core.errors import UnreadableFileError
from botin.exchange.decode import decode
from botin.exchange.guard import unguard
from botin.exchange.tables import PRODUCT_TABLES, RawPackage, RawTable, TableSpec, raw_table
from botin.exchange.zips import MAX_MEMBERS, MAX_UNPACKED, TABLES, ending_of, is_inside, is_left_behind, zip_members

MAX_CELL = 1_000_000
csv.field_size_limit(2**31 - 1)  # the module has one limit for all threads; each reader here holds its own

DESCRIPTOR = "datapackage.json"
WHOLE_HOME = "whole home"
"""What the description of the export of everything says it is."""


def csv_lines(text: str, delimiter: str = ",") -> Iterator[tuple[int, list[str]]]:
    """Rows of RFC 4180 text with the line each one starts at."""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    start = 1
    try:
        for cells in reader:
            if any(len(cell) > MAX_CELL for cell in cells):
                message = f"Line {start} has a cell of more than {MAX_CELL:,} characters. Nothing was taken in."
                raise UnreadableFileError(message)
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


def says_whole_home(descriptor: dict[str, Any]) -> bool:
    """Whether a description is that of the export of everything."""
    own = descriptor.get("botin")
    return isinstance(own, dict) and own.get("kind") == WHOLE_HOME


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
        if isinstance(name, str) and isinstance(path, str) and is_inside(path):
            found[name] = path
    return found


def folder_members(path: Path, endings: frozenset[str] = TABLES) -> dict[str, bytes]:
    """Files of a package folder that have such endings; links that lead outside are not followed."""
    found: dict[str, bytes] = {}
    for name, file in _files_in(path):
        if ending_of(name) not in endings:
            continue
        if len(found) >= MAX_MEMBERS or file.stat().st_size > MAX_UNPACKED:
            message = f"{path} is too large for a product package."
            raise UnreadableFileError(message)
        found[name] = file.read_bytes()
    return found


def folder_names(path: Path) -> list[str]:
    """Return the names of all files that somebody put into a folder."""
    return [name for name, _ in _files_in(path)]


def _files_in(path: Path) -> Iterator[tuple[str, Path]]:
    if not path.is_dir():
        message = f"{path} is not there. Give a package folder, a .zip or an .xlsx."
        raise UnreadableFileError(message)
    root = path.resolve()
    for file in sorted(path.rglob("*")):
        name = file.relative_to(path).as_posix()
        if not is_left_behind(name) and file.is_file() and file.resolve().is_relative_to(root):
            yield name, file
