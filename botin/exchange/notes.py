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
    """The place of the sheet: see `Sheet.place`."""
    line: int
    text: str
    status: Status
    says: str
    others: tuple[tuple[str, str], ...] = ()
    """Other readings, each in words and as the line would be written for it to be read so."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """A table or text as cells with its line numbers; a line of text is a row of one cell.

    Attributes
    ----------
    name : str
        What the sheet is called, without the file's ending: it may say what the sheet holds.
    source : str
        What no other sheet of the same draft is called: ``odds.csv``, ``season.xlsx#Base``.
    """

    name: str
    rows: tuple[tuple[int, tuple[str, ...]], ...]
    is_text: bool = False
    source: str = ""
    unread: str = ""
    """Why it is not read at all: a picture among the files of a zip."""
    beside: bool = False
    """Whether it lies beside a product package, which is complete without it."""

    @property
    def place(self) -> str:
        """Return what its lines are known by."""
        return self.source or self.name


def shown(cells: tuple[str, ...] | list[str]) -> str:
    """Return a row as one line of text."""
    return "  ".join(filter(None, map(str.strip, cells)))[:300]
