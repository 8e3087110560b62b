"""``prices.csv``: sold prices in and out."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from botin.core.compline import Rates
from botin.core.errors import BotinError, UnreadableFileError
from botin.core.findings import Finding, Severity
from botin.core.money import Money, parse_money
from botin.core.prices import PriceKind, PriceRow
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


def price_rows(
    table: t.RawTable, name: str, currency: str, rates: Rates | None = None
) -> tuple[list[PriceRow], list[Finding]]:
    """Turn rows of text into prices; those in another currency at the rate of their day, when rates are at hand."""
    rows: list[PriceRow] = []
    findings: list[Finding] = []
    for raw in table.rows:
        try:
            rows.append(_row(raw, currency, rates))
        except (BotinError, ValueError) as exc:
            message = exc.message if isinstance(exc, BotinError) else str(exc)
            findings.append(Finding("bad-price", Severity.ERROR, f"{name}:{raw.line}", message))
    return rows, findings


def _row(raw: t.RawRow, currency: str, rates: Rates | None) -> PriceRow:
    own = raw.get("currency").upper() or currency
    day = date.fromisoformat(raw.get("sold_on")) if raw.get("sold_on") else None
    if own != currency and (rates is None or day is None):
        message = f"the price is in {own}, the product in {currency}: convert it first."
        raise ValueError(message)
    money = parse_money(raw.get("price"), own)
    if money.minor < 0:
        message = f"the price is {raw.get('price')}: a price is not negative."
        raise ValueError(message)
    if own != currency and rates is not None and day is not None:
        money = Money.from_major(money.major * rates(own, day), currency)
    kind = raw.get("kind").casefold() or PriceKind.SOLD.value
    if kind not in set(PriceKind):
        message = f"“{raw.get('kind')}” is no kind of price: write sold, asking or guide."
        raise ValueError(message)
    return PriceRow(
        section=raw.get("section"),
        number=raw.get("number"),
        parallel=raw.get("parallel"),
        grade=raw.get("grade"),
        amount=money.major,
        sold_on=day,
        source=raw.get("source"),
        kind=PriceKind(kind),
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
            row.kind.value,
        ]
        for row in rows
    ]
    return csv_bytes([list(t.PRICES.names), *cells])
