"""Filters of the library's templates."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from flask import Flask

from botin.core.catalog.product import OddsRow, Product
from botin.core.odds import rowrates
from botin.core.odds.lines import rate_line
from botin.desk.catalog.productpage import ProductPage
from botin.exchange.catalog.columns import FIELD_WORDS, Column
from botin.exchange.catalog.sheets import Sources
from botin.exchange.notes import Sheet


def line_words(key: tuple[str, str, str], product: Product) -> str:
    """Return a line in words, with the labels of its section and finish."""
    return rowrates.line_words(product, key)


def rate_words(row: OddsRow) -> str:
    """Return a row of odds as printed."""
    return rate_line(row)


def lines_of(page: ProductPage) -> list[tuple[str, str, str]]:
    """Return every line of the odds once, in their order."""
    return list(dict.fromkeys((row.section, row.parallel, row.group) for row in page.product.odds))


def as_dict(value: Any) -> dict[str, Any]:
    """Return a dataclass as a dictionary, for a form that shows what was typed."""
    return asdict(value)


def fields_for(column: Column) -> list[tuple[str, str]]:
    """Return what a column can be, with what it was taken for among it."""
    fields = sorted(FIELD_WORDS.items(), key=lambda item: (item[0] == "own", item[1]))
    kind, _, of = column.field.partition(":")
    spread = {
        "rate": "odds in",
        "run": "runs of",
        "finish": "ticks for the finish",
        "kind": "ticks for the kind",
        "more": "more of",
    }
    return [(column.field, f"{spread.get(kind, kind)} {of}")] * bool(of) + fields


def as_sources(sheet: Sheet) -> str:
    """Return a sheet as the text a form carries on to its next step."""
    return Sources([sheet]).to_json()


def install(app: Flask) -> None:
    """Register the filters."""
    for function in (line_words, rate_words, lines_of, as_dict, as_sources, fields_for):
        app.jinja_env.filters[function.__name__] = function
