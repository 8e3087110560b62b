"""``copies.csv`` as the command for flags reads it: which copies there are, and what a look at them showed."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from botin.core.catalog.naming import Namer
from botin.core.errors import BotinError
from botin.core.grading.grades import Inspection
from botin.core.marks import severity_of
from botin.core.pricing.damage import USUAL
from botin.exchange.loosetable import read_loose_file, unused_of
from botin.exchange.tables import Column, RawRow, TableSpec
from botin.exchange.unused import Unused, meant
from botin.exchange.values import ValueUnclearError, read_grade, read_tick

COPIES = TableSpec(
    "copies",
    (
        Column("id", "Any word that tells copies apart", required=True),
        Column("section", "Section of the card", required=True),
        Column("number", "Number of the card", required=True),
        Column("parallel", "Finish, empty for the plain card"),
        Column("wanted", "yes for the personal collection"),
        Column("centering", "1 to 10 in halves, or larger border in front like 60/40"),
        Column("corners", "1 to 10 in halves"),
        Column("edges", "1 to 10 in halves"),
        Column("surface", "1 to 10 in halves"),
        Column("front", "larger border in percent, front: 55, or 55/45"),
        Column("back", "larger border in percent, back"),
        Column("marks", "damage, separated by ;: gum stain, heavy crease"),
        Column("grade", "grade it has already; empty for a raw copy"),
    ),
)
PARTS = ("centering", "corners", "edges", "surface")


@dataclass(frozen=True, slots=True)
class CopyRow:
    """A copy as listed, by the keys of the checklist.

    Attributes
    ----------
    number : str or None
        None when no card of the checklist is meant.
    grade : str
        What it was graded already; empty for a raw copy.
    """

    id: str
    section: str
    number: str | None
    parallel: str
    wanted: bool
    inspection: Inspection | None
    marks: tuple[str, ...] = ()
    grade: str = ""
    line: int = 0


@dataclass
class CopyFile:
    """The copies, and what was not used."""

    rows: list[CopyRow] = field(default_factory=list)
    unused: list[Unused] = field(default_factory=list)


def read_copies(path: Path, namer: Namer) -> CopyFile:
    """Read a list of copies.

    Raises
    ------
    UnreadableFileError
        When the file cannot be opened or lacks a column.
    BotinError
        When a value is no number of its scale.
    """
    table = read_loose_file(COPIES, path, "id, section, number; see docs/fees.md")
    found = CopyFile(unused=unused_of(table, path.name))
    seen: dict[str, int] = {}
    for raw in table.rows:
        where = f"{path.name}:{raw.line}"
        if not raw.get("id") or raw.get("id") in seen:
            why = f"line {seen[raw.get('id')]} has this id too" if raw.get("id") else "it has no id"
            found.unused.append(Unused(where, raw.get("id"), f"{why}: the answers cannot be told apart"))
        seen.setdefault(raw.get("id"), raw.line)
        try:
            row = _copy(raw, namer, found.unused, where)
        except ValueUnclearError as exc:
            message = f"{where}: {exc.message}"
            raise BotinError(message) from exc
        found.rows.append(row)
    return found


def _copy(raw: RawRow, namer: Namer, unused: list[Unused], where: str) -> CopyRow:
    section = namer.section(raw.get("section"))
    number = namer.number(section, raw.get("number")) if section and raw.get("number") else None
    parallel = namer.parallel(section, raw.get("parallel")) if section else None
    if section is None or number is None or parallel is None:
        text = " ".join(filter(None, (raw.get("section"), raw.get("number"), raw.get("parallel"))))
        unused.append(Unused(where, text, "no such card or finish on the checklist: there is nothing to judge"))
    marks, unknown = _marks(raw.get("marks"))
    unused += [Unused(where, mark, f"no kind of damage{meant(mark, USUAL)}") for mark in unknown]
    return CopyRow(
        id=raw.get("id"),
        section=section or raw.get("section"),
        number=None if section is None or parallel is None else number,
        parallel=parallel or "",
        wanted=read_tick(raw.get("wanted")),
        inspection=_inspection(raw, marks, where),
        marks=marks,
        grade=read_grade(raw.get("grade")),
        line=raw.line,
    )


def _inspection(raw: RawRow, marks: tuple[str, ...], where: str) -> Inspection | None:
    parts: dict[str, float | None] = dict.fromkeys(PARTS)
    sides: dict[str, float | None] = {name: _border(raw.get(name), where) for name in ("front", "back")}
    for name in PARTS:
        text = raw.get(name)
        if name == "centering" and "/" in text and sides["front"] is None:
            sides["front"] = _border(text, where)
        else:
            parts[name] = _value(text, 1, 10, where)
    if all(value is None for value in (*parts.values(), *sides.values())):
        return None
    return Inspection(**parts, **sides, marks=marks)


def _border(text: str, where: str) -> float | None:
    """Return the larger border in percent: ``55``, ``55/45`` and ``45/55`` are the same."""
    pair = re.fullmatch(r"(\d{1,2}(?:[.,]\d+)?)\s*/\s*(\d{1,2}(?:[.,]\d+)?)", text)
    if pair:
        one, other = (float(part.replace(",", ".")) for part in pair.groups())
        if abs(one + other - 100) > 1:
            message = f"{where}: “{text}” does not add up to 100."
            raise BotinError(message)
        return max(one, other)
    return _value(text.removesuffix("%"), 50, 100, where)


def _marks(text: str) -> tuple[tuple[str, ...], list[str]]:
    """Split the marks into those the table of damage knows, and others."""
    words = [" ".join(part.split()).casefold() for part in re.split(r"[;,|]", text) if part.strip()]
    known = [word for word in words if severity_of(word)[0] in USUAL]
    return tuple(known), [word for word in words if word not in known]


def _value(text: str, low: float, high: float, where: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = -1.0
    if not low <= value <= high:
        message = f"{where}: “{text}” is not between {low:g} and {high:g}."
        raise BotinError(message)
    return value


def unknown_copies(file: CopyFile) -> Iterator[CopyRow]:
    """Yield the copies whose card is on no checklist here."""
    return (row for row in file.rows if row.number is None)
