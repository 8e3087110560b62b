"""What sales left: net of everything per sale, against the estimate of that day; by channel, product and month."""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.desk.selling.salepage import SalePage, sale_pages
from botin.store.models_selling import SaleRecord
from botin.store.selling.sales import sales


@dataclass(frozen=True)
class SaleResult:
    """A sale with what it left (minor units), and what was expected of its price that day (None: nothing was)."""

    page: SalePage
    expected: int | None
    inside: bool | None = None
    """Whether the price lay where it was expected 8 times of 10; None where nothing was said."""

    @property
    def net(self) -> int:
        """What it left: price and shipping less fee, postage, insurance and refunds, with what a claim paid."""
        return self.page.net

    @property
    def against(self) -> int | None:
        """How much more the price was than estimated; None without an estimate."""
        return None if self.expected is None else self.page.record.price_minor - self.expected


@dataclass(frozen=True, slots=True)
class Part:
    """A channel, product or month: its sales, their prices and what they left (minor units)."""

    name: str
    count: int
    price: int
    net: int


@dataclass(frozen=True)
class SalesResults:
    """All sales of one currency."""

    rows: tuple[SaleResult, ...]
    channels: tuple[Part, ...]
    products: tuple[Part, ...]
    months: tuple[Part, ...]
    currency: str
    others: tuple[str, ...] = ()
    """Currencies of sales that are not among these."""

    @property
    def told(self) -> tuple[int, int]:
        """How many prices lay where they were expected 8 times of 10, and of how many that was said."""
        said = [row.inside for row in self.rows if row.inside is not None]
        return sum(said), len(said)

    @property
    def net(self) -> int:
        """What all of them left."""
        return sum(row.net for row in self.rows)


def sales_of(session: Session, year: int = 0) -> list[SaleRecord]:
    """Return the sales of all years or one; those that were cancelled aside."""
    return [one for one in sales(session, 5_000) if one.over != "cancelled" and year in (0, one.sold_on.year)]


def sales_results(session: Session, year: int = 0, currency: str = "") -> SalesResults:
    """Read what sales of one currency left (the commonest when none is named), of all years or one."""
    records = sales_of(session, year)
    codes = [one.currency for one in records]
    code = currency if currency in codes else max(sorted(set(codes)), key=codes.count, default="EUR")
    pages = sale_pages(session, [one for one in records if one.currency == code])
    rows = tuple(SaleResult(page, _expected(page), _inside(page)) for page in pages)
    return SalesResults(
        rows=rows,
        channels=_parts(rows, lambda page: page.record.channel or "from hand to hand"),
        products=_parts(rows, lambda page: page.product),
        months=_parts(rows, lambda page: f"{page.record.sold_on:%Y-%m}"),
        currency=code,
        others=tuple(sorted({*codes} - {code})),
    )


def _expected(page: SalePage) -> int | None:
    told = json.loads(page.record.forecast or "{}").get("price")
    return Money.from_major(float(told), page.record.currency).minor if told else None


def _inside(page: SalePage) -> bool | None:
    told = json.loads(page.record.forecast or "{}")
    if "low" not in told or "high" not in told:
        return None
    return bool(float(told["low"]) <= page.money.major <= float(told["high"]))


def _parts(rows: Sequence[SaleResult], name: Callable[[SalePage], str]) -> tuple[Part, ...]:
    by: dict[str, list[SaleResult]] = defaultdict(list)
    for row in rows:
        by[name(row.page)].append(row)
    found = [
        Part(word, len(some), sum(one.page.record.price_minor for one in some), sum(one.net for one in some))
        for word, some in by.items()
    ]
    return tuple(sorted(found, key=lambda part: -part.net))
