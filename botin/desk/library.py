"""Products into the store."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError
from botin.core.findings import Finding, Severity
from botin.core.prices import PriceRow
from botin.exchange.package import load
from botin.exchange.prices import read_prices
from botin.store.catalog import save_product
from botin.store.models import ProductRecord
from botin.store.prices import add_prices


def refuse_errors(findings: Sequence[Finding]) -> None:
    """Refuse an import whose rows cannot all be read.

    Raises
    ------
    ImportRefusedError
        With the first error and how many there are; nothing is stored.
    """
    errors = [finding for finding in findings if finding.severity is Severity.ERROR]
    if errors:
        more = f" ({len(errors) - 1} more like it.)" if len(errors) > 1 else ""
        message = f"Nothing was stored. {errors[0].where}: {errors[0].message}{more}"
        raise ImportRefusedError(message)


def import_package(session: Session, path: Path) -> ProductRecord:
    """Read a product package and store it, all or nothing, with the ``prices.csv`` that lies beside it."""
    reading = load(path)
    refuse_errors(reading.findings)
    prices: list[PriceRow] = []
    beside = path / "prices.csv"
    if path.is_dir() and beside.exists():
        prices, findings = read_prices(beside, reading.product.currency)
        refuse_errors(findings)
    record = save_product(session, reading.product)
    add_prices(session, record, prices)
    session.commit()
    return record
