"""Prices: typed in by the line, fetched from the feed, looked at card by card, and what moved since I looked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.errors import BotinError
from botin.core.flags.paths import RoutePath, route_paths
from botin.core.flags.ways import RouteVerdict
from botin.core.grading.grades import Inspection
from botin.core.money import exponent
from botin.core.pricing.compline import SEALED, UnknownCardError, read_comp_line
from botin.core.pricing.comps import CompEstimate, comp_estimate
from botin.core.pricing.guess import Found, Guess
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.desk.copies.cardpage import find_card
from botin.desk.flags.judging import Judging, facts_of, inspections, judged, kept_judging, verdict_of
from botin.desk.pricing.files import rates_into
from botin.desk.workbench import Workbench
from botin.standins.soldfeed import SoldFeed, usable
from botin.store.copies.copies import mine_present
from botin.store.models import CardRecord, PriceRecord, ProductRecord, SectionRecord
from botin.store.models_copies import CopyRecord, FlagRecord, LookRecord
from botin.store.pricing import add_prices

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
        session.commit()
    return Typed(tuple(stored), tuple(wrong))


def _elsewhere(session: Session, record: ProductRecord, number: str) -> str:
    """Name the products that have such a card, since the line may have been typed under another one."""
    query = (
        select(ProductRecord.name)
        .join(SectionRecord, SectionRecord.product_id == ProductRecord.id)
        .join(CardRecord, CardRecord.section_id == SectionRecord.id)
        .where(func.lower(CardRecord.number) == number.lower(), ProductRecord.id != record.id)
        .order_by(ProductRecord.released_on.desc())
        .distinct()
        .limit(NAMED)
    )
    names = session.scalars(query).all()
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
        PriceRow(card.section, card.number, parallel, "", row.price or 0.0, row.sold_on, feed.name) for row in good
    ]
    if rows:
        add_prices(session, record, rows)
        session.commit()
    return Fetched(len(rows), len(listings) - len(usable(listings)))


def made_up(session: Session, source: str) -> int:
    """Count the sales a simulated feed made up."""
    return session.scalar(select(func.count()).where(PriceRecord.source == source)) or 0


def forget(session: Session, source: str) -> int:
    """Remove every sale a simulated feed made up; returns how many there were."""
    products = session.scalars(select(PriceRecord.product_id).where(PriceRecord.source == source).distinct()).all()
    count = made_up(session, source)
    session.execute(delete(PriceRecord).where(PriceRecord.source == source))
    for record in session.scalars(select(ProductRecord).where(ProductRecord.id.in_(products))):
        record.revision += 1
    session.commit()
    return count


@dataclass(frozen=True)
class GradePrice:
    """What the version sells for in one grade; the ratio to raw where both are known."""

    grade: str
    guess: Guess
    estimate: CompEstimate | None
    ratio: float | None


@dataclass(frozen=True)
class CopyRoutes:
    """A copy that differs (graded, marked, looked at; 0 for the version as such) with its verdict."""

    copy_id: int
    inspection: Inspection | None
    verdict: RouteVerdict


@dataclass(frozen=True)
class PricePage:
    """Prices and routes of one version of a card (major units)."""

    parallel: str
    guess: Guess
    grades: tuple[GradePrice, ...]
    rows: tuple[PriceRow, ...]
    used: frozenset[PriceRow]
    asking: CompEstimate | None
    guide: CompEstimate | None
    suggested: float | None
    gem: Mapping[str, Mapping[float, float]]
    version: CopyRoutes
    copies: tuple[CopyRoutes, ...]
    paths: tuple[RoutePath, ...]
    judged: Judging


def price_page(session: Session, bench: Workbench, card_id: int, parallel: str) -> PricePage:
    """Read prices and routes of a version, and note that it was looked at."""
    record, _, card = find_card(session, bench, card_id)
    j = kept_judging(session, bench, record)
    guess = j.model.estimate(card, parallel)
    everything = tuple(row for grade in _grades(j, card, parallel) for row in j.model.rows(card, parallel, grade))
    used = frozenset(row for grade in _grades(j, card, parallel) for row in _used(j, card, parallel, grade))
    facts, _ = facts_of(j, card, parallel, None)
    verdict = judged(j, facts)
    raw = j.model.rows(card, parallel)
    _note_look(session, bench, record, card_id, parallel, guess)
    return PricePage(
        parallel,
        guess,
        tuple(_grade_price(j, card, parallel, grade, guess) for grade in _grades(j, card, parallel)),
        everything,
        used,
        comp_estimate(raw, bench.today(), PriceKind.ASKING),
        comp_estimate(raw, bench.today(), PriceKind.GUIDE),
        round(guess.high, 2) if guess.found is not Found.NONE else None,
        j.chances(card, None),
        CopyRoutes(0, None, verdict),
        tuple(_copy_routes(session, j, card, card_id)),
        route_paths(facts, j.costs, j.terms.costs),
        j,
    )


def _copy_routes(session: Session, j: Judging, card: Card, card_id: int) -> list[CopyRoutes]:
    """Judge each copy of mine that differs from the others of its version."""
    c, looks = CopyRecord, inspections(session, card_id)
    rows = session.execute(
        select(c.id, c.parallel, c.grade)
        .where(c.card_id == card_id, mine_present(), (c.grade != "") | c.id.in_(looks))
        .order_by(c.id)
    )
    return [
        CopyRoutes(copy, looks.get(copy), verdict_of(j, card, finish, looks.get(copy), grade)[0])
        for copy, finish, grade in rows
    ]


def _grades(j: Judging, card: Card, parallel: str) -> list[str]:
    return ["", *(grade for grade in j.model.grades(card, parallel) if grade)]


def _used(j: Judging, card: Card, parallel: str, grade: str) -> tuple[PriceRow, ...]:
    own = j.model.own((card.section, card.number, parallel, grade))
    return own.used if own else ()


def _grade_price(j: Judging, card: Card, parallel: str, grade: str, raw: Guess) -> GradePrice:
    guess = j.model.estimate(card, parallel, grade)
    ratio = guess.mean / raw.mean if grade and raw.mean else None
    return GradePrice(grade, guess, j.model.own((card.section, card.number, parallel, grade)), ratio)


def _note_look(
    session: Session, bench: Workbench, record: ProductRecord, card_id: int, parallel: str, guess: Guess
) -> None:
    unit = 10 ** exponent(record.currency)
    row = session.scalar(select(LookRecord).where(LookRecord.card_id == card_id, LookRecord.parallel == parallel))
    if row is None:
        row = LookRecord(card_id=card_id, parallel=parallel, amount=0, low=0, high=0, looked_at=bench.now())
        session.add(row)
    row.amount, row.low, row.high = (round(value * unit) for value in (guess.mean, guess.low, guess.high))
    row.looked_at = bench.now()
    session.commit()


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
    v, k = FlagRecord, LookRecord
    rows = session.execute(
        select(k, v.price, CardRecord, ProductRecord)
        .join(v, (v.card_id == k.card_id) & (v.parallel == k.parallel) & v.copy_id.is_(None))
        .join(CardRecord, CardRecord.id == k.card_id)
        .join(ProductRecord, ProductRecord.id == v.product_id)
        .where((v.price < k.low) | (v.price > k.high))
        .limit(500)
    )
    found = []
    for look, price, card, product in rows:
        unit = 10 ** exponent(product.currency)
        found.append(
            Moved(
                card.id, card.number, card.name, look.parallel, product.name, product.currency,
                look.amount / unit, price / unit,
            )
        )  # fmt: skip
    return sorted(found, key=lambda row: -abs(row.now - row.was))[:limit]


def sealed_values(session: Session, bench: Workbench) -> dict[tuple[int, str], CompEstimate]:
    """Return what sealed boxes sell for, by product and format key; kept until a price changes."""
    p = PriceRecord
    stamp = session.scalar(select(func.sum(ProductRecord.revision)))

    def make() -> dict[tuple[int, str], CompEstimate]:
        found = session.scalars(select(p.product_id).where(p.section.like(f"{SEALED}%")).distinct()).all()
        values = {}
        for product_id in found:
            for row in sealed_prices(session, bench, bench.record(session, product_id)):
                if row.what == "box":
                    values[(product_id, row.format)] = row.estimate
        return values

    return bench.keep(("sealed values", stamp, bench.today()), make)


@dataclass(frozen=True, slots=True)
class SealedPrice:
    """What a sealed box, pack or empty box of a format sells for."""

    format: str
    what: str
    estimate: CompEstimate


def sealed_prices(session: Session, bench: Workbench, record: ProductRecord) -> tuple[SealedPrice, ...]:
    """Return the sealed prices of a product."""
    rows: dict[tuple[str, str], list[PriceRow]] = {}
    for row in bench.price_rows(session, record):
        if row.section.startswith(SEALED):
            rows.setdefault((row.section.removeprefix(SEALED), row.parallel), []).append(row)
    found = ((key, comp_estimate(group, bench.today())) for key, group in rows.items())
    return tuple(SealedPrice(fmt, what or "box", estimate) for (fmt, what), estimate in found if estimate)
