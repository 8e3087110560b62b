"""Speed of the price model: a product of 5,000 versions with 20,000 sales, and one more sale of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from datetime import date, timedelta

import numpy as np

from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceRow

DAY = date(2026, 11, 24)
CARDS, FINISHES, SALES = 500, 9, 20_000
AIM_FIT, AIM_MORE = 1_500.0, 150.0
Show = Callable[..., None]


def large_product() -> Product:
    """500 cards of 250 players in two sections, plain and in nine finishes: 5,000 versions."""
    kinds = {"base": Kind.BASE, "signed": Kind.AUTOGRAPH}
    cards = tuple(Card("base" if n < CARDS - 100 else "signed", f"{n}", f"Rider {n % 250}") for n in range(CARDS))
    finishes = tuple(
        Parallel(f"p{n}", f"P {n}", section, run_text=str(500 // (n + 1)))
        for section in kinds
        for n in range(FINISHES)
    )
    return Product(
        "prices", "Prices", sections=tuple(Section(key, key, kind) for key, kind in kinds.items()), cards=cards,
        parallels=finishes,
    )  # fmt: skip


def sales_of(product: Product, count: int) -> list[PriceRow]:
    """So many sales, a seventh of them in grades; the dear are sold oftener."""
    rng, versions = np.random.default_rng(5), []
    fame = dict(zip({card.name for card in product.cards}, rng.normal(0, 0.9, 250), strict=True))
    finishes = ["", *(f"p{n}" for n in range(FINISHES))]
    for card in product.cards:
        for step, finish in enumerate(finishes):
            versions.append((card, finish, 0.3 * step + fame[card.name] + float(rng.standard_t(5)) * 0.4))
    levels = np.array([level for _, _, level in versions])
    weights = np.exp(0.5 * levels)
    rows = []
    for at in rng.choice(len(versions), count, p=weights / weights.sum()).tolist():
        card, finish, level = versions[at]
        grade = str(rng.integers(8, 11)) if rng.random() < 1 / 7 else ""
        price = round(float(np.exp(level + 1 + 0.3 * rng.normal() + (0.4 if grade else 0.0))), 2) or 0.01
        rows.append(
            PriceRow(card.section, card.number, finish, grade, price, DAY - timedelta(int(rng.integers(200))))
        )
    return rows


def asked(model: PriceModel) -> None:
    """Ask for every raw price, as a screen of the product does."""
    finishes = ["", *(f"p{n}" for n in range(FINISHES))]
    model.prepare_all([(card.section, card.number, finish) for card in model.product.cards for finish in finishes])


def one_more(product: Product, rows: list[PriceRow], model: PriceModel) -> PriceModel:
    """Take one more sale into account and say what its card is worth now."""
    card = product.cards[7]
    found = PriceModel(product, [*rows, PriceRow(card.section, card.number, "p3", "", 12.5, DAY)], DAY, like=model)
    found.estimate(card, "p3")
    return found


def prices(show: Show) -> None:
    """Time the fit, all estimates of it, and one more sale."""
    product = large_product()
    rows = sales_of(product, SALES)
    PriceModel(product, rows[:500], DAY).estimate(product.cards[0])
    size = f"{len(rows):,}"
    start = time.perf_counter()
    model = PriceModel(product, rows, DAY)
    show("price model, 5,000 versions, fitted", size, 1000 * (time.perf_counter() - start), AIM_FIT)
    asked(model)
    show("  and every version of it asked for", size, 1000 * (time.perf_counter() - start), AIM_FIT)
    times = []
    for _ in range(9):
        start = time.perf_counter()
        one_more(product, rows, model)
        times.append(1000 * (time.perf_counter() - start))
    show("  one more sale, p95", size, float(np.percentile(times, 95)), AIM_MORE)
