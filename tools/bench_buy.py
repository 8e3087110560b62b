"""Speeds before a purchase: the value curve against its simulation, and the buy desk."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import date
from functools import partial

import numpy as np
from crowd import fill
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Product, Section
from botin.core.copies.setbuilding import Wanted, finish_curve
from botin.core.grading.tierchoice import Limits, TierTerms, Voucher, choose_tiers
from botin.core.odds.collation import Repeats
from botin.core.odds.lines import box_model
from botin.core.odds.repeats import BoxCounts, fit_repeats
from botin.core.pricing.priced import PricedBox, priced_box
from botin.core.pricing.prices import PriceBook, PriceRow
from botin.core.pricing.simulate import simulate
from botin.core.pricing.valuecurve import value_curve
from botin.desk.flags.everything import judge_all
from botin.desk.workbench import Workbench
from botin.store.catalog.products import save_product

DAY = date(2026, 11, 24)
FORMAT = Format("hobby", "Hobby", 24, 8, 12)
BOXES, NEEDED = 100_000, 0.25 / 1e-4**2
Show = Callable[..., None]


def large_box(lines: int, cards: int, *, base_comps: bool = False) -> PricedBox:
    """Make so many lines of so many cards, all with prices of their own, in odds from 1:20 to rare."""
    rng = np.random.default_rng(3)
    keys = [(f"g{n}", f"{20 + 30 * n if cards > 1 else 500 + n % 997}") for n in range(lines)]
    base = [Card("base", str(n), "R") for n in range(300)]
    chase = [Card("chase", f"{group}-{n}", "R", group=group) for group, _ in keys for n in range(cards)]
    prices = [PriceRow("base", "", "", "", 0.05, DAY)]
    prices += [PriceRow("base", str(n), "", "", round(0.3 + n / 9, 2), DAY) for n in range(60 if base_comps else 0)]
    prices += [
        PriceRow("chase", card.number, "", "", round(float(np.exp(rng.normal(1.5, 1.2))), 2), DAY) for card in chase
    ]
    product = Product(
        "bench", "Bench", formats=(FORMAT,), sections=(Section("base", "Base", Kind.BASE), Section("chase", "Chase", Kind.INSERT)),
        cards=(*base, *chase), odds=tuple(OddsRow("hobby", "chase", "", group, packs_per_hit=odds) for group, odds in keys),
    )  # fmt: skip
    return priced_box(box_model(product, FORMAT), PriceBook(prices, DAY))


def best(action: Callable[[], object], rounds: int = 7) -> float:
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        action()
        times.append(1000 * (time.perf_counter() - start))
    return float(np.median(times))


def curves(show: Show) -> None:
    """Time the curves, and how many times faster one is than the boxes that a simulation as exact would need."""
    for name, box in (
        ("5,000 priced cards in 60 lines", large_box(60, 83)),
        ("  the same, base with prices of its own", large_box(60, 83, base_comps=True)),
        ("5,000 lines of one card", large_box(5_000, 1)),
    ):
        value_curve(box, 100.0)
        took = best(partial(value_curve, box, 100.0))
        show(f"curve, {name}", "2^16", took, 60.0)
        sampled = best(partial(simulate, box, BOXES, np.random.default_rng(1)), 1 if len(box.lines) > 100 else 3)
        show("  simulation of as many boxes", f"{BOXES:,}", sampled)
        show("  times faster for a rank within 1e-4", f"{NEEDED:,.0f}", sampled * NEEDED / BOXES / took, unit="×")


def desk(client: FlaskClient, show: Show, size: str) -> None:
    """Time the whole buy desk: the first answer for a product, then as the price is changed."""
    paths = [f"/buy/1?format=hobby&price={90 + n}&chase=1%0A2" for n in range(25)]
    show("buy desk, first", size, best(partial(client.get, paths[0]), 1), 150.0)
    times = []
    for path in paths[1:]:
        start = time.perf_counter()
        client.get(path, headers={"HX-Request": "true"})
        times.append(1000 * (time.perf_counter() - start))
    show("buy desk, p95", size, float(np.percentile(times, 95)), 150.0)


def sets(client: FlaskClient, session: Session, show: Show) -> None:
    """Time a set board of 2,000 cells, and a finishing curve of 800 cards and twenty boxes."""
    cards = tuple(Card("base", str(n + 1), f"Rider {n + 1}") for n in range(2_000))
    format_ = Format("wax", "Wax", 36, 15, 20)
    made = Product(
        "large", "Large set", formats=(format_,), sections=(Section("base", "Base", Kind.BASE),), cards=cards
    )
    record = save_product(session, made)
    session.commit()
    path = f"/sets/board?part={record.id}:base"
    client.get(path)
    show(
        "set board, p95",
        "2,000",
        float(np.percentile([best(partial(client.get, path), 1) for _ in range(12)], 95)),
        150.0,
    )
    wanted = [Wanted(800, np.full(800, 0.3), None, 540.0)]
    show(
        "finish curve, 20 boxes",
        "800",
        best(partial(finish_curve, wanted, 64.0, 0.0, 0.0, Repeats(0.4), 20), 5),
        300.0,
    )
    boxes = [BoxCounts(744, 548, 150, 21), BoxCounts(744, 640, 100, 2)]
    show("repeat factor of two boxes", "792", best(partial(fit_repeats, 792, boxes, 767), 3))


def routes(client: FlaskClient, bench: Workbench, show: Show) -> None:
    """Time all verdicts of 10,000 copies, a page of the route board, and the choice of tiers for 500 candidates."""
    with bench.sessions() as session:
        fill(session, 10_000)
        start = time.perf_counter()
        versions = judge_all(session, bench)
        show("all verdicts anew", f"{versions:,} v.", 1000 * (time.perf_counter() - start), 5_000.0)
    pages = [
        best(partial(client.get, f"/flags/?sort={sort}&page={page}"), 1)
        for sort in ("net", "margin")
        for page in range(1, 11)
    ]
    show("route board, p95", "10,000", float(np.percentile(pages[2:], 95)), 150.0)
    rng = np.random.default_rng(2)
    gains = rng.normal(2, 15, (500, 1)) + rng.normal(0, 4, (500, 6))
    terms = [
        TierTerms(1, shipping=19),
        TierTerms(5, shipping=25),
        TierTerms(20, member=True, shipping=43),
        TierTerms(1, shipping=30),
        TierTerms(1, shipping=22, house="B", steps=((9, 43.0),)),
        TierTerms(10, member=True, shipping=22, house="B"),
    ]
    limits = Limits({"": 99.0, "B": 60.0}, (Voucher("", 5.0, 10, 0), Voucher("B", 3.0, 5)))
    show("choice of tiers, 500 × 6", "500", best(partial(choose_tiers, gains, terms, limits), 3), 2_000.0)
