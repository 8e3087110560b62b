"""What else the money would do: the chase bought outright, graded, waited for; the box kept sealed; nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.buying.alternatives import growth_needed, singles_outright, wait_saves
from botin.core.buying.chance import Versions
from botin.core.catalog.product import Product
from botin.core.figure import Figure
from botin.core.pricing.fade import Fade
from botin.core.pricing.prices import Basis, Estimate, PriceBook
from botin.desk.pricing.fading import product_fade, weeks_since
from botin.desk.settings import Settings
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord


@dataclass(frozen=True)
class Single:
    """The cheapest priced version of a wish, bought outright."""

    wish: str
    card: str
    parallel: str
    estimate: Estimate
    copies: Figure
    waiting: Figure
    graded: Figure | None


@dataclass(frozen=True)
class OtherWays:
    """All alternatives.

    Attributes
    ----------
    together : float or None
        All wishes bought outright with postage; None when one has no price.
    """

    singles: tuple[Single, ...]
    together: float | None
    hold: Figure
    fade: Fade
    age_weeks: float


def other_ways(
    session: Session,
    bench: Workbench,
    record: ProductRecord,
    wishes: Sequence[tuple[str, Versions | None, str]],
    money: tuple[float, float],
    settings: Settings,
    wait: float,
) -> OtherWays:
    """Work out the alternatives.

    Parameters
    ----------
    wishes : sequence
        Each line of the chase list with its versions.
    money : (float, float)
        Cost of the box, and what ripping it leaves (the median).
    wait : float
        Weeks to wait for singles.
    """
    fade = product_fade(session, bench, record, settings)
    age = weeks_since(record.released_on, bench.today())
    product, book = bench.product(session, record), bench.prices(session, record)
    singles = [
        single
        for wish, found, _ in wishes
        if found and (single := _single(product, book, wish, found, (money[0], settings, fade, age, wait)))
    ]
    complete = wishes and len(singles) == len(wishes)
    together = sum(one.estimate.amount + settings.single_postage for one in singles) if complete else None
    return OtherWays(tuple(singles), together, growth_needed(*money, settings.holding()), fade, age)


def _single(
    product: Product,
    book: PriceBook,
    wish: str,
    found: Versions,
    terms: tuple[float, Settings, Fade, float, float],
) -> Single | None:
    """The cheapest version with a price; None when none has one."""
    cost, settings, fade, age, wait = terms
    priced = []
    for section, number, parallel in sorted(found):
        card = product.card_by_number[(section, number)]
        estimate = book.estimate(card, parallel)
        if estimate.basis is not Basis.NONE and estimate.amount > 0:
            priced.append((estimate.amount, card, parallel, estimate))
    if not priced:
        return None
    _, card, parallel, estimate = min(priced, key=lambda row: row[0])
    top = book.estimate(card, parallel, settings.top_grade)
    graded = None if top.basis is Basis.NONE else singles_outright(top.amount, settings.single_postage, cost)
    return Single(
        wish=wish,
        card=f"{card.number} {card.name}",
        parallel=parallel,
        estimate=estimate,
        copies=singles_outright(estimate.amount, settings.single_postage, cost),
        waiting=wait_saves(estimate.amount, fade, age, wait),
        graded=graded,
    )
