"""What a reader says about each line of its source: understood, guessed (and why), or not understood."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Status(StrEnum):
    """How sure the reading of a line is."""

    UNDERSTOOD = "understood"
    GUESSED = "guessed"
    NOT = "not understood"
    PASSED = "passed over"


@dataclass(frozen=True, slots=True)
class Note:
    """One line of a source and what was made of it."""

    sheet: str
    line: int
    text: str
    status: Status
    says: str


@dataclass(frozen=True, slots=True)
class Sheet:
    """A table or text as cells with its line numbers; a line of text is a row of one cell."""

    name: str
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    is_text: bool = False


def shown(cells: tuple[str, ...] | list[str]) -> str:
    """Return a row as one line of text."""
    return "  ".join(filter(None, map(str.strip, cells)))[:300]
