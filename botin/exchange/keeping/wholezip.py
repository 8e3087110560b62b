"""Everything a home holds as one .zip: a Data Package with a CSV for each table, and the photos."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any

from botin.core.errors import UnreadableFileError
from botin.core.records import Cell, Link, RecordTable
from botin.exchange.guard import guard, unguard
from botin.exchange.source import DESCRIPTOR, parse_descriptor
from botin.exchange.zips import BROKEN_ZIP, MAX_RATIO, is_inside

PHOTOS = "photos"
MOST_BYTES = 8 * 1024**3
"""Bytes that a whole home may unpack to; it is read in a stream, never held."""
MOST_ABOUT = 16 * 1024 * 1024
_EPOCH = (1980, 1, 1, 0, 0, 0)
_WHEN = "%Y-%m-%d %H:%M:%S.%f"


@dataclass
class _Counting(io.RawIOBase):
    """Writes through, and knows how much and what hash."""

    to: IO[bytes]
    size: int = 0
    hash: Any = field(default_factory=hashlib.sha256)

    def writable(self) -> bool:
        """Return True."""
        return True

    def write(self, data: Any) -> int:
        """Write on."""
        self.hash.update(data)
        self.size += len(data)
        self.to.write(data)
        return len(data)


class WholeWriter:
    """Writes tables and photos one after another, their description last."""

    def __init__(self, target: IO[bytes]) -> None:
        self._zip = zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=6)
        self._resources: list[dict[str, Any]] = []

    def table(self, shape: RecordTable, rows: Iterable[Sequence[Cell]]) -> None:
        """Write a table as RFC 4180 CSV; text that a spreadsheet would run is guarded."""
        path = f"{shape.name}.csv"
        with self._zip.open(_info(path), "w", force_zip64=True) as member:
            counting = _Counting(member)
            text = io.TextIOWrapper(io.BufferedWriter(counting, 1 << 16), "utf-8", newline="")
            sheet = csv.writer(text, lineterminator="\r\n")
            sheet.writerow(shape.names)
            sheet.writerows([_text(cell) for cell in row] for row in rows)
            text.flush()
            made = _resource(shape.name, path, counting)
        self._resources.append({**made, "profile": "tabular-data-resource", **_table(shape)})

    def photo(self, name: str, source: IO[bytes]) -> None:
        """Write a photo as it is."""
        path = f"{PHOTOS}/{name}"
        with self._zip.open(_info(path, zipfile.ZIP_STORED), "w", force_zip64=True) as member:
            counting = _Counting(member)
            while block := source.read(1 << 16):
                counting.write(block)
        self._resources.append(_resource(f"photo-{len(self._resources)}", path, counting))

    def close(self, about: dict[str, Any]) -> None:
        """Write the description; it names every file with its size and hash."""
        made = {"profile": "data-package", **about, "resources": self._resources}
        self._zip.writestr(_info(DESCRIPTOR), json.dumps(made, ensure_ascii=False, indent=1))
        self._zip.close()


def _info(name: str, how: int = zipfile.ZIP_DEFLATED) -> zipfile.ZipInfo:
    """A member without a time of its own: the same data gives the same file."""
    info = zipfile.ZipInfo(name, _EPOCH)
    info.compress_type = how
    info.external_attr = 0o600 << 16
    return info


def _text(cell: Cell) -> str:
    return guard(cell) if isinstance(cell, str) else "" if cell is None else str(cell)


def _resource(name: str, path: str, counted: _Counting) -> dict[str, Any]:
    return {"name": name, "path": path, "bytes": counted.size, "hash": f"sha256:{counted.hash.hexdigest()}"}


def _table(shape: RecordTable) -> dict[str, Any]:
    fields = []
    for column in shape.fields:
        made: dict[str, Any] = {"name": column.name, "type": column.kind}
        if column.kind == "datetime":
            made["format"] = _WHEN
        if column.kind == "boolean":
            made |= {"trueValues": ["1"], "falseValues": ["0"]}
        if column.required and column.kind != "string":
            made["constraints"] = {"required": True}
        fields.append(made)
    links = [
        {"fields": link.field, "reference": {"resource": _other(shape, link), "fields": link.key}}
        for link in shape.links
    ]
    schema = {"fields": fields, "missingValues": [""], "primaryKey": list(shape.key), "foreignKeys": links}
    about = {"description": shape.about, "format": "csv", "mediatype": "text/csv", "encoding": "utf-8"}
    return {**about, "schema": schema}


def _other(shape: RecordTable, link: Link) -> str:
    """Resource a column points to; the standard names the table itself by nothing."""
    return "" if link.table == shape.name else link.table


class WholeReader:
    """Reads such a file in a stream; every byte is held against the size and hash it should have.

    Raises
    ------
    UnreadableFileError
        When it is no zip, not whole, or grows beyond reason.
    """

    def __init__(self, source: Path | IO[bytes], name: str) -> None:
        self.name = name
        try:
            self._zip = zipfile.ZipFile(source)
            self._infos = {info.filename: info for info in self._zip.infolist()}
            self._check()
            with self._zip.open(self._infos[DESCRIPTOR]) as member:
                self.about = parse_descriptor(member.read(MOST_ABOUT))
        except BROKEN_ZIP as exc:
            how = "Make one under Safe keeping, or with: botin export --all --to home.zip"
            message = f"{name} is no zip of a whole home. {how}. Nothing was taken in."
            raise UnreadableFileError(message) from exc
        found = self.about.get("resources")
        if not isinstance(found, list) or not all(_is_resource(one) for one in found):
            message = f"{name} does not say what it holds. Nothing was taken in."
            raise UnreadableFileError(message)
        self.resources: list[dict[str, Any]] = found

    def _check(self) -> None:
        infos = self._infos.values()
        steep = any(info.file_size > MAX_RATIO * max(info.compress_size, 1) + 100_000 for info in infos)
        if DESCRIPTOR not in self._infos or steep or sum(info.file_size for info in infos) > MOST_BYTES:
            raise zipfile.BadZipFile
        if not all(is_inside(info.filename) for info in infos) or self._infos[DESCRIPTOR].file_size >= MOST_ABOUT:
            raise zipfile.BadZipFile

    def tables(self) -> Iterator[tuple[str, list[str], Iterator[tuple[int, list[str]]]]]:
        """Yield name, columns and rows of each table; read one to its end before the next."""
        for one in self.resources:
            if one["path"].endswith(".csv"):
                rows = self._rows(one)
                _, names = next(rows, (0, []))
                yield str(one["name"]), names, rows

    def _rows(self, one: dict[str, Any]) -> Iterator[tuple[int, list[str]]]:
        try:
            with self._open(one) as member:
                checked = _Checked(member, one, self.name)
                sheet = csv.reader(io.TextIOWrapper(io.BufferedReader(checked, 1 << 16), "utf-8", newline=""))
                line = 1
                for cells in sheet:
                    yield line, [unguard(cell) for cell in cells]
                    line = sheet.line_num + 1
                checked.ended()
        except (*BROKEN_ZIP, csv.Error) as exc:
            message = f"{one['path']} in {self.name} cannot be read. Nothing was taken in."
            raise UnreadableFileError(message) from exc

    def photos(self) -> Iterator[tuple[str, Iterator[bytes]]]:
        """Yield each photo's name and its bytes in pieces."""
        for one in self.resources:
            if one["path"].startswith(f"{PHOTOS}/"):
                yield one["path"].removeprefix(f"{PHOTOS}/"), self._pieces(one)

    def _pieces(self, one: dict[str, Any]) -> Iterator[bytes]:
        try:
            with self._open(one) as member:
                checked = _Checked(member, one, self.name)
                while piece := checked.read(1 << 16):
                    yield piece
                checked.ended()
        except BROKEN_ZIP as exc:
            message = f"{one['path']} in {self.name} cannot be read. Nothing was taken in."
            raise UnreadableFileError(message) from exc

    def _open(self, one: dict[str, Any]) -> IO[bytes]:
        if one["path"] not in self._infos:
            message = f"{one['path']} is missing in {self.name}. Nothing was taken in."
            raise UnreadableFileError(message)
        return self._zip.open(self._infos[one["path"]])

    def close(self) -> None:
        """Close the file."""
        self._zip.close()


@dataclass
class _Checked(io.RawIOBase):
    """Reads through, and says whether all of it was what the description says."""

    of: IO[bytes]
    one: dict[str, Any]
    name: str
    size: int = 0
    hash: Any = field(default_factory=hashlib.sha256)

    def readable(self) -> bool:
        """Return True."""
        return True

    def readinto(self, buffer: Any) -> int:
        """Read on."""
        data = self.of.read(len(buffer))
        buffer[: len(data)] = data
        self.hash.update(data)
        self.size += len(data)
        return len(data)

    def ended(self) -> None:
        """See that it was whole."""
        if self.size != self.one["bytes"] or f"sha256:{self.hash.hexdigest()}" != self.one["hash"]:
            message = (
                f"{self.one['path']} in {self.name} is not what was written there: it was changed or cut. "
                "Nothing was taken in."
            )
            raise UnreadableFileError(message)


def _is_resource(one: object) -> bool:
    kinds = {"name": str, "path": str, "bytes": int, "hash": str}
    return isinstance(one, dict) and all(isinstance(one.get(name), kind) for name, kind in kinds.items())
