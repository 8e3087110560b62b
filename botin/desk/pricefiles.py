"""Files of prices, in and out; prices in another currency are turned into the product's."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy.orm import Session

from botin.core.compline import SEALED, WHOLE
from botin.core.findings import Finding, Severity
from botin.core.money import Money
from botin.core.prices import PriceRow
from botin.core.product import Product
from botin.desk.rates import rate_on
from botin.desk.workbench import Workbench
from botin.exchange import tables
from botin.exchange.prices import price_rows, prices_csv
from botin.exchange.source import read_table
from botin.store.models import ProductRecord
from botin.store.prices import add_prices


def rates_into(session: Session, record: ProductRecord) -> Callable[[str, date], float]:
    """Return what turns an amount of a currency into the product's, by the rates that are written down."""
    return lambda code, day: rate_on(session, code, record.currency, day)


@dataclass(frozen=True)
class Imported:
    """What came of a file of prices: how many were stored, how many were known, what is wrong with which line."""

    stored: int
    known: int
    wrong: tuple[Finding, ...]


def import_prices(session: Session, bench: Workbench, record: ProductRecord, data: bytes, name: str) -> Imported:
    """Take in ``prices.csv``, all or nothing; rows that are stored already are not stored again."""
    table = read_table(tables.PRICES, data, name)
    rows, findings = price_rows(table, name, record.currency, rates_into(session, record))
    product = bench.product(session, record)
    wrong = [*findings, *(found for row in rows if (found := _unknown(product, row, name)))]
    if wrong:
        return Imported(0, 0, tuple(wrong))
    known = Counter(_same(row, record.currency) for row in bench.price_rows(session, record))
    fresh = []
    for row in rows:
        if known[_same(row, record.currency)]:
            known[_same(row, record.currency)] -= 1
        else:
            fresh.append(row)
    if fresh:
        add_prices(session, record, fresh)
        session.commit()
    return Imported(len(fresh), len(rows) - len(fresh), ())


def _same(row: PriceRow, currency: str) -> tuple[PriceRow, int]:
    """A price as it is stored: two rows alike in this are the same sale."""
    return replace(row, amount=0.0), Money.from_major(row.amount, currency).minor


def _unknown(product: Product, row: PriceRow, name: str) -> Finding | None:
    """Say when a row names what is not on the checklist."""
    where = f"{name}:{row.line}"
    if row.section.startswith((SEALED, WHOLE)):
        return None
    if row.section not in product.section_by_key:
        return Finding("unknown-section", Severity.ERROR, where, f"there is no section “{row.section}”.")
    if row.number and (row.section, row.number) not in product.card_by_number:
        return Finding("unknown-card", Severity.ERROR, where, f"there is no {row.section} “{row.number}”.")
    return None


def export_prices(session: Session, bench: Workbench, record: ProductRecord) -> bytes:
    """Give all prices of a product as ``prices.csv``."""
    return prices_csv(list(bench.price_rows(session, record)), record.currency)
