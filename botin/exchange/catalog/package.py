"""Write a product as a Data Package (folder or .zip) or workbook; what is written can be read again."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from botin.core.catalog.product import Product
from botin.core.money import Money, exponent
from botin.exchange import tables as t
from botin.exchange.catalog.build import Reading, build
from botin.exchange.guard import guard
from botin.exchange.source import read_package
from botin.exchange.workbook import write_workbook


def load(path: Path) -> Reading:
    """Read a product package wherever it lies: folder, .zip or .xlsx."""
    return build(read_package(path))


def amount_text(money: Money | None) -> str:
    """Return an amount in major units with its decimals, as in ``prices.csv``."""
    if money is None:
        return ""
    digits = exponent(money.currency)
    sign, minor = ("-" if money.minor < 0 else ""), abs(money.minor)
    if not digits:
        return f"{sign}{minor}"
    return f"{sign}{minor // 10**digits}.{minor % 10**digits:0{digits}d}"


def _format_cells(product: Product) -> list[list[str]]:
    return [
        [
            row.key,
            row.label,
            row.packs_words,
            str(row.cards_per_pack),
            str(row.boxes_per_case or ""),
            amount_text(row.list_price),
            row.list_price.currency if row.list_price else "",
        ]
        for row in product.formats
    ]


_CELLS: dict[t.TableSpec, Callable[[Product], list[list[str]]]] = {
    t.FORMATS: _format_cells,
    t.SECTIONS: lambda p: [[s.key, s.label, s.kind.value, s.back_code, s.cue] for s in p.sections],
    t.CARDS: lambda p: [[c.section, c.number, c.name, c.team, c.rookie, c.group, c.note] for c in p.cards],
    t.PARALLELS: lambda p: [
        [r.key, r.label, r.section, r.group, r.run_text, r.back_code, r.cue, r.swatch] for r in p.parallels
    ],
    t.ODDS: lambda p: [[str(getattr(row, name)) for name in t.ODDS.names] for row in p.odds],
    t.PROMISES: lambda p: [[str(getattr(row, name)) for name in t.PROMISES.names] for row in p.promises],
    t.OVERALL: lambda p: [[str(getattr(row, name)) for name in t.OVERALL.names] for row in p.overall],
    t.TEAMS: lambda p: [[row.team, row.club] for row in p.teams],
}


def product_tables(product: Product) -> dict[str, list[list[str]]]:
    """All tables of a product as rows of cells under their header."""
    return {spec.name: [list(spec.names), *_CELLS[spec](product)] for spec in t.PRODUCT_TABLES}


def csv_bytes(rows: list[list[str]]) -> bytes:
    """Rows as RFC 4180 CSV in UTF-8; cells that a spreadsheet would run are guarded."""
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\r\n").writerows([guard(cell) for cell in row] for row in rows)
    return out.getvalue().encode()


def descriptor(product: Product) -> dict[str, Any]:
    """``datapackage.json`` of a product: a tabular data package with a table schema per resource."""
    released = product.released_on.isoformat() if product.released_on else ""
    return {
        "profile": "tabular-data-package",
        "name": product.key,
        "title": product.name,
        "botin": {
            "maker": product.maker,
            "season": product.season,
            "sport": product.sport,
            "released_on": released,
            "currency": product.currency,
        },
        "resources": [_resource(spec) for spec in t.PRODUCT_TABLES],
    }


def _resource(spec: t.TableSpec) -> dict[str, Any]:
    fields = [_field(column) for column in spec.columns]
    return {
        "profile": "tabular-data-resource",
        "name": spec.name,
        "path": f"{spec.name}.csv",
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "schema": {"fields": fields, "missingValues": [""]},
    }


def _field(column: t.Column) -> dict[str, Any]:
    made: dict[str, Any] = {"name": column.name, "type": column.type, "description": column.about}
    if column.required and column.name != "parallel":
        made["constraints"] = {"required": True}
    return made


def package_members(product: Product) -> dict[str, bytes]:
    """Return the files of the package by name."""
    about = json.dumps(descriptor(product), ensure_ascii=False, indent=1).encode()
    files = {f"{name}.csv": csv_bytes(rows) for name, rows in product_tables(product).items()}
    return {"datapackage.json": about, **files}


def write_folder(product: Product, folder: Path) -> None:
    """Write the package as a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, data in package_members(product).items():
        (folder / name).write_bytes(data)


def zip_bytes(product: Product) -> bytes:
    """Return the package as a zip; the same product gives the same bytes."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in package_members(product).items():
            archive.writestr(zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def workbook_bytes(product: Product) -> bytes:
    """Return the package as a workbook with the same tables as sheets."""
    about = descriptor(product)
    meta = [("name", product.key), ("title", product.name), *about["botin"].items()]
    return write_workbook(product_tables(product), meta)
