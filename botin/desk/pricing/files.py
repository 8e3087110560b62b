"""Files of prices, in and out; prices in another currency are turned into the product's."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy.orm import Session

from botin.core.catalog.naming import Names
from botin.core.money import Money
from botin.core.odds.findings import Finding
from botin.core.pricing.prices import PriceRow
from botin.desk.catalog.drafts import left_out
from botin.desk.pricing.rates import rate_on
from botin.desk.workbench import Workbench
from botin.exchange.pricing import parse_prices, prices_csv
from botin.store.catalog.known import known_columns
from botin.store.models import ProductRecord
from botin.store.pricing.prices import add_prices
from botin.store.unit import finish


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
    names, rates = Names(bench.product(session, record)), rates_into(session, record)
    told = known_columns(session)
    file = parse_prices(data, name, record.currency, names, bench.today(), rates=rates, told=told)
    rows = file.rows
    wrong = [*file.findings, *(left_out(one) for one in file.unused if one.severe)]
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
        finish(session)
    return Imported(len(fresh), len(rows) - len(fresh), tuple(left_out(one) for one in file.unused))


def _same(row: PriceRow, currency: str) -> tuple[PriceRow, int]:
    """A price as it is stored: two rows alike in this are the same sale."""
    return replace(row, amount=0.0), Money.from_major(row.amount, currency).minor


def export_prices(session: Session, bench: Workbench, record: ProductRecord) -> bytes:
    """Give all prices of a product as ``prices.csv``."""
    return prices_csv(list(bench.price_rows(session, record)), record.currency)
