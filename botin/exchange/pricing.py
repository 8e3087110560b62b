"""``prices.csv``: sold prices in and out, named as people name them; what matches nothing is named."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from pathlib import Path

from botin.core.catalog.naming import Namer, Names
from botin.core.errors import BotinError
from botin.core.money import Money
from botin.core.odds.findings import Finding, Severity
from botin.core.pricing.compline import SEALED, WHOLE, Rates
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.exchange import tables as t
from botin.exchange.catalog.package import amount_text, csv_bytes
from botin.exchange.loosetable import Told, read_loose, read_loose_file, unused_of
from botin.exchange.unused import Unused
from botin.exchange.values import Days, ValueUnclearError, read_amount, read_grade

LATEST = timedelta(days=7)
"""A sale further ahead than that is a mistyped day; a week lets time zones and late lists pass."""
MOST = 1e9
"""Major units; more than any card brought, so digits that ran together."""
KINDS = {
    "": PriceKind.SOLD,
    **dict.fromkeys(("sold", "sale", "comp", "auction"), PriceKind.SOLD),
    **dict.fromkeys(("guide", "book", "price guide", "catalogue"), PriceKind.GUIDE),
    **dict.fromkeys(("asking", "ask", "listing", "listed", "offer"), PriceKind.ASKING),
}
WITH_NAME = t.TableSpec(
    "prices", (*t.PRICES.columns, t.Column("name", "Who is on the card, where there is no number"))
)


@dataclass(frozen=True)
class PriceFile:
    """A price file as understood.

    Attributes
    ----------
    rows : tuple of PriceRow
        Prices by the keys of the checklist.
    findings : tuple of Finding
        Rows whose values cannot be read.
    unused : tuple of Unused
        Rows that match nothing, and columns that mean nothing.
    """

    rows: tuple[PriceRow, ...]
    findings: tuple[Finding, ...]
    unused: tuple[Unused, ...]


def read_prices(path: Path, currency: str, namer: Namer, today: date) -> PriceFile:
    """Read a price file.

    Raises
    ------
    UnreadableFileError
        When it cannot be opened or lacks the column price.
    """
    table = read_loose_file(WITH_NAME, path, "section and price")
    return understand_prices(table, path.name, currency, namer, today)


def currency_of(path: Path, otherwise: str) -> str:
    """Return the currency of the first price that names one, by its code or its symbol."""
    table = read_loose_file(WITH_NAME, path, "section and price")
    for raw in table.rows:
        try:
            code = raw.get("currency").upper() or read_amount(raw.get("price"), "")[1]
        except BotinError:
            continue
        if code:
            return code
    return otherwise


def parse_prices(
    data: bytes,
    name: str,
    currency: str,
    namer: Namer,
    today: date,
    rates: Rates | None = None,
    told: Told | None = None,
) -> PriceFile:
    """Read the bytes of a price file; prices in another currency at the rate of their day, when rates are at hand."""
    table = read_loose(WITH_NAME, data, name, told)
    return understand_prices(table, name, currency, namer, today, rates)


def understand_prices(
    table: t.RawTable, name: str, currency: str, namer: Namer, today: date, rates: Rates | None = None
) -> PriceFile:
    """Turn a table of text into prices by the keys of the checklist."""
    days = Days(raw.get("sold_on") for raw in table.rows)
    rows: list[PriceRow] = []
    findings: list[Finding] = []
    unused = unused_of(table, name)
    for raw in table.rows:
        where = f"{name}:{raw.line}"
        try:
            row = _row(raw, currency, rates, days, today)
        except (BotinError, ValueError) as exc:
            message = exc.message if isinstance(exc, BotinError) else str(exc)
            findings.append(Finding("bad-price", Severity.ERROR, where, message))
            continue
        found = _matched(row, raw, namer)
        if isinstance(found, PriceRow):
            rows.append(found)
        else:
            text = " ".join(
                filter(None, (raw.get("section"), raw.get("number"), raw.get("parallel"), raw.get("grade")))
            )
            unused.append(Unused(where, f"{text} {raw.get('price')}".strip(), found, severe=True))
    return PriceFile(tuple(rows), tuple(findings), tuple(unused))


def _row(raw: t.RawRow, currency: str, rates: Rates | None, days: Days, today: date) -> PriceRow:
    own = raw.get("currency").upper() or currency
    day = days.read(raw.get("sold_on"))
    if day is not None and day > today + LATEST:
        message = f"{day.isoformat()} lies ahead: a sale has happened already. Check the year."
        raise ValueUnclearError(message)
    amount, code = read_amount(raw.get("price"), own)
    if code != currency and (rates is None or day is None):
        message = f"the price is in {code}, the product in {currency}: convert it first."
        raise ValueUnclearError(message)
    if amount > MOST:
        message = f"the price is {raw.get('price')}: no card sells for that. Check its digits."
        raise ValueUnclearError(message)
    if amount < 0:
        message = f"the price is {raw.get('price')}: a price is not negative."
        raise ValueUnclearError(message)
    if code != currency and rates is not None and day is not None:
        amount = Money.from_major(amount * rates(code, day), currency).major
    kind = KINDS.get(raw.get("kind").casefold())
    if kind is None:
        message = f"“{raw.get('kind')}” is no kind of price: write sold, asking or guide."
        raise ValueUnclearError(message)
    return PriceRow(
        section=raw.get("section"),
        number=raw.get("number"),
        parallel=raw.get("parallel"),
        grade=read_grade(raw.get("grade")),
        amount=amount,
        sold_on=day,
        source=raw.get("source"),
        kind=kind,
        line=raw.line,
    )


def _matched(row: PriceRow, raw: t.RawRow, namer: Namer) -> PriceRow | str:
    """Return the row by the keys of the checklist, or what it does not match."""
    if row.section.startswith((SEALED, WHOLE)):
        return row
    section = namer.section(row.section)
    if section is None:
        return f"no section is called “{row.section}”{_choice(namer, row.section)}"
    number = namer.number(section, row.number) if row.number else _named(raw.get("name"), section, namer)
    if number is None:
        return f"{section} has no card “{row.number or raw.get('name')}”"
    parallel = namer.parallel(section, row.parallel)
    if parallel is None:
        return f"{section} has no finish that is called “{row.parallel}”, or more than one"
    return PriceRow(
        section=section, number=number, parallel=parallel, grade=row.grade, amount=row.amount, sold_on=row.sold_on,
        source=row.source, kind=row.kind, line=row.line,
    )  # fmt: skip


def _choice(namer: Namer, text: str) -> str:
    found = namer.sections(text) if isinstance(namer, Names) else []
    return f", or {' and '.join(found)} both are" if len(found) > 1 else ""


def _named(name: str, section: str, namer: Namer) -> str | None:
    """Return the number of the one card that shows someone; empty when no name is given either."""
    if not name or not isinstance(namer, Names):
        return ""
    found = namer.by_name(name, section)
    return found[0].number if len(found) == 1 else None


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
