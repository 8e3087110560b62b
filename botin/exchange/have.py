"""``have.csv``: section, number and count of the copies one has."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

from botin.core.errors import BotinError, UnreadableFileError
from botin.exchange import tables as t
from botin.exchange.source import read_table

HAVE = t.TableSpec(
    "have",
    (
        t.Column("section", "Section of the card", required=True),
        t.Column("number", "Number of the card", required=True),
        t.Column("count", "Copies; empty is one"),
    ),
)


def read_have(path: Path, section: str) -> Counter[str]:
    """Return the copies of a section by number; an empty count is one.

    Raises
    ------
    UnreadableFileError
        When the file cannot be opened or lacks a column.
    BotinError
        When a count is no whole number.
    """
    try:
        data = path.read_bytes()
    except OSError as exc:
        message = f"{path} cannot be opened. Give a CSV file with the columns section, number, count."
        raise UnreadableFileError(message) from exc
    found: Counter[str] = Counter()
    for row in read_table(HAVE, data, path.name).rows:
        if row.get("section") != section:
            continue
        text = row.get("count") or "1"
        if not text.isdigit():
            message = f"{path.name}:{row.line}: “{text}” is no count. Write a whole number."
            raise BotinError(message)
        found[row.get("number")] += int(text)
    return found
