"""Prices: typed in by the line, fetched from the feed, looked at card by card, and what moved since I looked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy.orm import Session

from botin.core.errors import BotinError
from botin.core.money import exponent
from botin.core.pricing.compline import UnknownCardError, read_comp_line
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceRow
from botin.desk.catalog.cards import find_card
from botin.desk.pricing.files import rates_into
from botin.desk.workbench import Workbench
from botin.standins.soldfeed import SoldFeed, usable
from botin.store.catalog.lists import products_with_number
from botin.store.models import ProductRecord
from botin.store.pricing.prices import add_prices, out_of_interval
from botin.store.unit import finish

FETCH_DAYS = 120

NAMED = 3
"""So many other products are named where a card is not of the one chosen."""


@dataclass(frozen=True)
class Typed:
    """What came of typed lines: the words of each that was stored, and what is wrong with the others."""

    stored: tuple[str, ...]
    wrong: tuple[tuple[str, str], ...]


def type_comps(session: Session, bench: Workbench, record: ProductRecord, text: str) -> Typed:
    """Store lines of sold prices; a line that cannot be read is handed back, the others are kept."""
    product, stored, wrong = bench.product(session, record), [], []
    rows: list[PriceRow] = []
    for line in filter(None, (part.strip() for part in text.splitlines())):
        try:
            found = read_comp_line(product, line, bench.today(), rates=rates_into(session, record))
        except UnknownCardError as exc:
            wrong.append((line, f"{exc.message}{_elsewhere(session, record, exc.word)}"))
        except BotinError as exc:
            wrong.append((line, exc.message))
        else:
            rows += found.rows
            stored.append(f"{found.words}: {len(found.rows)}")
    if rows:
        add_prices(session, record, rows)
        finish(session)
    return Typed(tuple(stored), tuple(wrong))


def _elsewhere(session: Session, record: ProductRecord, number: str) -> str:
    """Name the products that have such a card, since the line may have been typed under another one."""
    names = products_with_number(session, number, record.id, NAMED)
    return f" There is one in {', '.join(names)}: choose the product first." if names else ""


@dataclass(frozen=True)
class Fetched:
    """What a feed gave: how many sales were taken, and how many listings were left out."""

    taken: int
    left_out: int


def fetch(session: Session, bench: Workbench, card_id: int, parallel: str, feed: SoldFeed) -> Fetched:
    """Fetch sold prices of a version from a feed; what is no sale of one copy of it is left out."""
    record, _, card = find_card(session, bench, card_id)
    others = [row for row in bench.price_rows(session, record) if row.source != feed.name]
    guess = PriceModel(bench.product(session, record), others, bench.today()).estimate(card, parallel)
    until = bench.today()
    title, since = f"{record.key} {card.section} {card.number} {parallel}", until - timedelta(FETCH_DAYS)
    listings = feed.sales(title, guess.mean or 1.0, since, until, record.released_on)
    known = {
        (row.amount, row.sold_on)
        for row in bench.price_rows(session, record)
        if row.source == feed.name
        and (row.section, row.number, row.parallel) == (card.section, card.number, parallel)
    }
    good = [row for row in usable(listings) if (row.price, row.sold_on) not in known]
    rows = [
        PriceRow(
            section=card.section,
            number=card.number,
            parallel=parallel,
            grade="",
            amount=row.price or 0.0,
            sold_on=row.sold_on,
            source=feed.name,
        )
        for row in good
    ]
    if rows:
        add_prices(session, record, rows)
        finish(session)
    return Fetched(len(rows), len(listings) - len(usable(listings)))


@dataclass(frozen=True, slots=True)
class Moved:
    """A version whose price left the interval it had when I looked."""

    card_id: int
    number: str
    name: str
    parallel: str
    product: str
    currency: str
    was: float
    now: float


def moved_since(session: Session, limit: int = 40) -> Sequence[Moved]:
    """List versions that are here whose price moved beyond its interval since I looked, the largest moves first."""
    found = []
    for look, price, card, product in out_of_interval(session, 500):
        unit = 10 ** exponent(product.currency)
        found.append(
            Moved(
                card_id=card.id,
                number=card.number,
                name=card.name,
                parallel=look.parallel,
                product=product.name,
                currency=product.currency,
                was=look.amount / unit,
                now=price / unit,
            )
        )
    return sorted(found, key=lambda row: -abs(row.now - row.was))[:limit]
