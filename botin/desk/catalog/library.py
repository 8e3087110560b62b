"""Products into the store and out of it, from files."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError, NotFoundError
from botin.desk.catalog.drafts import Stored, look_through, store_view
from botin.desk.workbench import Workbench
from botin.exchange.catalog.interpret import About, interpret
from botin.exchange.catalog.package import workbook_bytes, write_folder, zip_bytes
from botin.exchange.catalog.sheets import read_paths
from botin.exchange.tables import PRICES
from botin.store.catalog.products import load_product
from botin.store.models import ProductRecord
from botin.store.unit import finish


def import_files(session: Session, bench: Workbench, paths: Sequence[Path], name: str = "") -> Stored:
    """Read files and store the product in them, all or nothing, with the ``prices.csv`` that lies beside it.

    Raises
    ------
    UnreadableFileError
        When a file cannot be opened.
    ImportRefusedError
        When a line is not understood or a row could not be kept; nothing is stored.
    """
    sources = read_paths(paths)
    prices = [sheet for sheet in sources.sheets if sheet.name.casefold() == PRICES.name]
    sources.sheets = [sheet for sheet in sources.sheets if sheet not in prices]
    if not sources.sheets:
        message = "There is no table in it. Give a package (folder or .zip), a workbook, CSV files or text."
        raise ImportRefusedError(message)
    about = About(name=name)
    view = look_through(session, interpret(sources, about), about, bench.today(), prices)
    stored = store_view(session, bench, view)
    finish(session)
    return stored


def find_product(session: Session, key: str) -> ProductRecord:
    """Return a product by its key, name or number.

    Raises
    ------
    NotFoundError
        When there is none, naming those there are.
    """
    p = ProductRecord
    wanted = or_(p.key == key, p.name == key, p.id == (int(key) if key.isdecimal() and len(key) < 10 else -1))
    found = session.scalar(select(p).where(wanted))
    if found is None:
        have = ", ".join(session.scalars(select(p.key).order_by(p.key).limit(8))) or "none"
        message = f"There is no product “{key}”. The library has: {have}."
        raise NotFoundError(message)
    return found


def export_product(session: Session, key: str, target: Path) -> None:
    """Write a product as a folder, or by the target's ending as .zip or .xlsx."""
    product = load_product(session, find_product(session, key))
    suffix = target.suffix.casefold()
    if suffix in (".zip", ".xlsx"):
        data = zip_bytes(product) if suffix == ".zip" else workbook_bytes(product)
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_bytes(data)
    else:
        write_folder(product, target)


def export_bytes(session: Session, record: ProductRecord, kind: str) -> io.BytesIO:
    """Return a product as the bytes of a .zip or .xlsx."""
    product = load_product(session, record)
    return io.BytesIO(zip_bytes(product) if kind == "zip" else workbook_bytes(product))
