"""What a second import of a product would change: new, changed, gone."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, fields
from typing import Any, Literal

from botin.core.catalog.product import Product

What = Literal["new", "changed", "gone"]


@dataclass(frozen=True, slots=True)
class Change:
    """One row that differs; ``cells`` are (column, was, will be) of a changed row."""

    table: str
    what: What
    key: tuple[str, ...]
    cells: tuple[tuple[str, str, str], ...] = ()


_Key = Callable[[Any], tuple[str, ...]]
_TABLES: tuple[tuple[str, _Key], ...] = (
    ("formats", lambda row: (row.key,)),
    ("sections", lambda row: (row.key,)),
    ("cards", lambda row: (row.section, row.number)),
    ("parallels", lambda row: (row.section, row.key, row.group)),
    ("odds", lambda row: (row.format, row.section, row.parallel, row.group)),
    ("promises", lambda row: (row.format, row.label)),
    ("overall", lambda row: (row.format, row.label)),
    ("teams", lambda row: (row.team,)),
)
_ABOUT = ("name", "maker", "season", "sport", "released_on", "currency")


def changes(old: Product, new: Product) -> tuple[Change, ...]:
    """Compare two states of a product.

    Returns
    -------
    tuple of Change
        In the order of the package's tables; the product's own facts are the table ``product``.
    """
    about = _cells(old, new, _ABOUT)
    found = [Change("product", "changed", (new.key,), about)] if about else []
    for table, key in _TABLES:
        found += _table(table, key, getattr(old, table), getattr(new, table))
    return tuple(found)


def _table(table: str, key: _Key, old: Sequence[Any], new: Sequence[Any]) -> Iterable[Change]:
    before, after = _first(key, old), _first(key, new)
    for place, row in after.items():
        if place not in before:
            yield Change(table, "new", place)
        elif cells := _cells(before[place], row, [field.name for field in fields(row) if field.compare]):
            yield Change(table, "changed", place, cells)
    yield from (Change(table, "gone", place) for place in before if place not in after)


def _first(key: _Key, rows: Sequence[Any]) -> dict[tuple[str, ...], Any]:
    found: dict[tuple[str, ...], Any] = {}
    for row in rows:
        found.setdefault(key(row), row)
    return found


def _cells(old: Any, new: Any, names: Sequence[str]) -> tuple[tuple[str, str, str], ...]:
    pairs = ((name, _text(getattr(old, name)), _text(getattr(new, name))) for name in names)
    return tuple((name, was, now) for name, was, now in pairs if was != now)


def _text(value: Any) -> str:
    if value is None:
        return ""
    major = getattr(value, "major", None)
    return str(value) if major is None else f"{major:.2f} {value.currency}"
