"""What the commands that take prices have in common: the file, its day, and what of it was not used."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path
from typing import Any

import click

from botin.core.catalog.naming import Namer
from botin.core.errors import BotinError
from botin.core.money import exponent
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.exchange.pricing import PriceFile, currency_of, read_prices
from botin.exchange.unused import Unused
from botin.home import utc_now


class AsOf(click.ParamType[date]):
    """A day."""

    name = "DAY"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> date:
        """Read a day."""
        if isinstance(value, datetime):
            return value.date()
        if isinstance(value, date):
            return value
        try:
            return date.fromisoformat(value)
        except ValueError:
            return self.fail(f"{value!r} is no day. Write it like 2026-03-02", param, ctx)


AS_OF = click.option("--as-of", type=AsOf(), help="Day ages are counted from; the newest price without it.")
LENIENT = click.option("--lenient", is_flag=True, help="Go on where a price matches nothing; it is still listed.")


class UnusedPricesError(BotinError):
    """Prices that match nothing: the answer would be another one with them."""

    def __init__(self, unused: Sequence[Unused]) -> None:
        severe = [one for one in unused if one.severe]
        first = severe[0]
        more = f", and {len(severe) - 1} more" if len(severe) > 1 else ""
        super().__init__(
            f"{first.where}: “{first.text}” was not used: {first.why}{more}."
            " Mend it, or go on without it with --lenient."
        )
        self.document = {"unused": [one.document() for one in unused]}


def used_or_refused(unused: Sequence[Unused], *, lenient: bool) -> None:
    """Refuse an answer when a price matches nothing.

    Raises
    ------
    UnusedPricesError
        Unless one goes on without it.
    """
    if not lenient and any(one.severe for one in unused):
        raise UnusedPricesError(unused)


@dataclass(frozen=True)
class Prices:
    """Prices of a file in one currency, and what of it was not used."""

    rows: tuple[PriceRow, ...]
    unused: tuple[Unused, ...]
    currency: str

    @property
    def places(self) -> int:
        """Decimals of the currency."""
        return exponent(self.currency)


def today() -> date:
    """Return the day it is for the user of this machine."""
    return utc_now().astimezone().date()


def newest(rows: Sequence[PriceRow]) -> date:
    """Return the day of the newest price, today when none has one."""
    return max((row.sold_on for row in rows if row.sold_on), default=today())


def load_prices_for(path: Path, currency: str | None, namer: Namer) -> Prices:
    """Read a price file by the names of a checklist; without a product the currency is that of its first row.

    Raises
    ------
    BotinError
        When a row cannot be read: a price left out would change the answer unseen.
    """
    code = currency or currency_of(path, "EUR")
    file: PriceFile = read_prices(path, code, namer, today())
    if file.findings:
        message = f"{file.findings[0].where}: {file.findings[0].message}"
        raise BotinError(message)
    return Prices(file.rows, file.unused, code)


def no_sales(rows: Sequence[PriceRow], path: Path) -> list[Unused]:
    """Name the prices that teach an estimate nothing: what is asked or guessed, and what went for nothing."""
    kinds = {PriceKind.ASKING: "an asking price is no sale", PriceKind.GUIDE: "a guide's price is no sale"}
    found = ((row, kinds.get(row.kind) or ("" if row.amount > 0 else "it went for nothing")) for row in rows)
    return [
        Unused(f"{path.name}:{row.line}", " ".join(filter(None, (row.section, row.number, row.parallel))), why)
        for row, why in found
        if why
    ]
