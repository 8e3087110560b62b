"""What a reader asks once: a column whose meaning it guessed, with its first values."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from botin.exchange.catalog.columns import FIELD_WORDS, Column
from botin.exchange.catalog.columnwords import bare


@dataclass(frozen=True, slots=True)
class Question:
    """A column that was guessed.

    Attributes
    ----------
    sheet : str
        The place of its sheet.
    shape : str
        What tables with the same columns share: the answer holds for all of them.
    """

    sheet: str
    shape: str
    column: Column
    lines: int

    def document(self) -> dict[str, object]:
        """Shape it as the contract has it."""
        return {
            "source": self.sheet,
            "column": self.column.place + 1,
            "heading": self.column.heading,
            "values": list(self.column.values),
            "taken_for": self.column.field,
            "why": self.column.why,
            "choices": list(FIELD_WORDS),
        }


@dataclass(frozen=True, slots=True)
class Seen:
    """A table that was found, with its columns: the user may say what each is."""

    sheet: str
    shape: str
    columns: tuple[Column, ...]
    lines: int

    @property
    def unsure(self) -> bool:
        """Whether any of its columns was guessed."""
        return any(column.field and not column.sure for column in self.columns)


def shape_of(heads: Sequence[str], width: int) -> str:
    """Return what tables with the same columns share: their headings, or how many columns there are."""
    words = [bare(head) or "-" for head in heads]
    while words and words[-1] == "-":
        words.pop()
    return "|".join(words) if words else f"{width} columns"
