"""``have.csv``: section, number and count of the copies one has."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from botin.core.catalog.naming import Names
from botin.core.errors import BotinError
from botin.exchange import tables as t
from botin.exchange.loosetable import read_loose_file, unused_of
from botin.exchange.unused import Unused
from botin.exchange.values import ValueUnclearError, read_count

HAVE = t.TableSpec(
    "have",
    (
        t.Column("section", "Section of the card; empty is the section asked about"),
        t.Column("number", "Number of the card, or a range like 1-50", required=True),
        t.Column("count", "Copies; empty is one"),
        t.Column("parallel", "Finish; a copy in a finish is not the plain card"),
    ),
)
MOST = 5_000


@dataclass
class Owned:
    """Plain copies of one section by number, and what of the file was not used."""

    counts: Counter[str] = field(default_factory=Counter)
    unused: list[Unused] = field(default_factory=list)


def read_have(path: Path, section: str, names: Names) -> Owned:
    """Return the copies of a section by number.

    Raises
    ------
    UnreadableFileError
        When the file cannot be opened or lacks the column number.
    BotinError
        When a count is no whole number.
    """
    table = read_loose_file(HAVE, path, "section, number, count")
    found = Owned(unused=unused_of(table, path.name))
    for row in table.rows:
        try:
            _take(row, f"{path.name}:{row.line}", section, names, found)
        except ValueUnclearError as exc:
            message = f"{path.name}:{row.line}: {exc.message}"
            raise BotinError(message) from exc
    return found


def _take(row: t.RawRow, where: str, section: str, names: Names, found: Owned) -> None:
    text = " ".join(filter(None, (row.get("section"), row.get("number"), row.get("parallel"))))
    named = names.section(row.get("section")) if row.get("section") else section
    if named is None:
        found.unused.append(Unused(where, text, "no section is called so, or more than one"))
        return
    if named != section:
        return
    if names.parallel(named, row.get("parallel")) != "":
        found.unused.append(Unused(where, text, "a copy in a finish is not the plain card of the set"))
        return
    count = read_count(row.get("count") or "1")
    numbers = numbers_of(row.get("number"), named, names)
    if not numbers:
        found.unused.append(Unused(where, text, f"{named} has no such card"))
    for number in numbers:
        if count:
            found.counts[number] += count


def numbers_of(text: str, section: str, names: Names) -> list[str]:
    """Return the numbers a cell means: one, or each of a range that is no number itself."""
    one = names.number(section, text)
    if one is not None and (section, text) in names.product.card_by_number:
        return [one]
    ends = re.fullmatch(r"#?([A-Za-z]*-?)(\d+)\s*(?:-|–|to|\.\.)\s*#?\1(\d+)", text.strip())
    if ends and int(ends[2]) < int(ends[3]) <= int(ends[2]) + MOST:
        each = (names.number(section, f"{ends[1]}{at}") for at in range(int(ends[2]), int(ends[3]) + 1))
        return [number for number in each if number is not None]
    return [one] if one is not None else []
