"""``prices.csv``: sold prices in and out."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from botin.core.errors import BadAmountError, UnreadableFileError
from botin.core.findings import Finding, Severity
from botin.core.money import Money, parse_money
from botin.core.prices import PriceRow
from botin.exchange import tables as t
from botin.exchange.package import amount_text, csv_bytes
from botin.exchange.source import read_table


def read_prices(path: Path, currency: str) -> tuple[list[PriceRow], list[Finding]]:
    """Read a price file: rows in the product's currency, and a finding for each row that cannot be read."""
    try:
        data = path.read_bytes()
    except OSError as exc:
        message = f"{path} cannot be opened. Give a CSV file with the columns section and price."
        raise UnreadableFileError(message) from exc
    return parse_prices(data, path.name, currency)


def parse_prices(data: bytes, name: str, currency: str) -> tuple[list[PriceRow], list[Finding]]:
    """Read the bytes of a price file."""
    return price_rows(read_table(t.PRICES, data, name), name, currency)


def price_rows(table: t.RawTable, name: str, currency: str) -> tuple[list[PriceRow], list[Finding]]:
    """Turn rows of text into prices."""
    rows: list[PriceRow] = []
    findings: list[Finding] = []
    for raw in table.rows:
        try:
            rows.append(_row(raw, currency))
        except (BadAmountError, ValueError) as exc:
            message = exc.message if isinstance(exc, BadAmountError) else str(exc)
            findings.append(Finding("bad-price", Severity.ERROR, f"{name}:{raw.line}", message))
    return rows, findings


def _row(raw: t.RawRow, currency: str) -> PriceRow:
    own = raw.get("currency").upper() or currency
    if own != currency:
        message = f"the price is in {own}, the product in {currency}: convert it first."
        raise ValueError(message)
    money = parse_money(raw.get("price"), currency)
    if money.minor < 0:
        message = f"the price is {raw.get('price')}: a price is not negative."
        raise ValueError(message)
    day = raw.get("sold_on")
    return PriceRow(
        section=raw.get("section"),
        number=raw.get("number"),
        parallel=raw.get("parallel"),
        grade=raw.get("grade"),
        amount=money.major,
        sold_on=date.fromisoformat(day) if day else None,
        source=raw.get("source"),
        line=raw.line,
    )


def prices_csv(rows: list[PriceRow], currency: str) -> bytes:
    """Prices as CSV, as `read_prices` reads them."""
    cells = [
        [
            row.section,
            row.number,
            row.parallel,
            row.grade,
            amount_text(Money.from_major(row.amount, currency)),
            currency,
            row.sold_on.isoformat() if row.sold_on else "",
            row.source,
        ]
        for row in rows
    ]
    return csv_bytes([list(t.PRICES.names), *cells])
