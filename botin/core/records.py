"""A table of plain rows and what its columns hold: how all that a home keeps goes from one floor to another."""

from __future__ import annotations

from dataclasses import dataclass

Cell = int | float | str | None


@dataclass(frozen=True, slots=True)
class Field:
    """A column; ``kind`` is a Table Schema type, ``required`` that it is never without a value."""

    name: str
    kind: str
    required: bool


@dataclass(frozen=True, slots=True)
class Link:
    """A column whose values are keys of another table."""

    field: str
    table: str
    key: str


@dataclass(frozen=True)
class RecordTable:
    """A table with its columns in order.

    Attributes
    ----------
    key : tuple of str
        Columns that tell its rows apart; rows are handed over in their order.
    """

    name: str
    about: str
    fields: tuple[Field, ...]
    key: tuple[str, ...]
    links: tuple[Link, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the columns."""
        return tuple(field.name for field in self.fields)
