"""Sold prices of the demo: noise, wrong listings, and the fade after the release week."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

from botin.core.catalog.product import Card, Kind
from botin.core.pricing.prices import PriceRow
from botin.demo.plans import FinishPlan
from botin.demo.products import Made

SOURCE = "demo market (simulated)"
TOP_GRADE = "10"


def demo_prices(made: Made, today: date, rng: np.random.Generator) -> list[PriceRow]:
    """Prices of a product: a usual price for every finish, comps for the cards people look for."""
    product = made.product
    price_of = {section.key: section.price for section in made.plan.sections}
    rows: list[PriceRow] = []
    plain = {finish.section for finish in made.plan.finishes if not finish.key}
    finishes = [FinishPlan(key) for key in price_of if key not in plain] + list(made.plan.finishes)
    for finish in finishes:
        usual = price_of[finish.section] * finish.times
        rows.append(
            PriceRow(
                section=finish.section,
                number="",
                parallel=finish.key,
                grade="",
                amount=round(usual * 0.8, 2),
                sold_on=today,
                source=SOURCE,
            )
        )
        cards = product.cards_by_section[finish.section]
        watched = [card for card in cards if _is_watched(made, card, usual, rng)]
        for card in watched:
            rows += _comps(made, card, finish, usual, today, rng)
    return rows


def _is_watched(made: Made, card: Card, usual: float, rng: np.random.Generator) -> bool:
    """Dear cards and famous riders have comps, the others now and then."""
    worth = usual * made.fame[(card.section, card.number)]
    return worth > 0.5 and (worth > 4 or rng.random() < 0.3) and usual < 800


def _comps(
    made: Made, card: Card, finish: FinishPlan, usual: float, today: date, rng: np.random.Generator
) -> list[PriceRow]:
    released = made.product.released_on or today
    level = usual * made.fame[(card.section, card.number)] ** 0.9
    rows = []
    for _ in range(int(rng.integers(2, 8))):
        age = int(rng.integers(0, max(1, min(240, (today - released).days))))
        since = (today - released).days - age
        fade = 1 + 0.8 * 0.5 ** (since / 14)
        odd = float(rng.choice([1.0, 0.2, 4.0], p=[0.95, 0.03, 0.02]))
        amount = max(0.05, round(level * fade * odd * float(np.exp(rng.normal(0, 0.2))), 2))
        rows.append(
            PriceRow(
                section=card.section,
                number=card.number,
                parallel=finish.key,
                grade="",
                amount=amount,
                sold_on=today - timedelta(age),
                source=SOURCE,
            )
        )
    if level > 8 and made.product.section_by_key[card.section].kind is not Kind.BOX_TOPPER:
        top = max(0.05, round(level * float(rng.uniform(3.0, 7.5)), 2))
        rows.append(
            PriceRow(
                section=card.section,
                number=card.number,
                parallel=finish.key,
                grade=TOP_GRADE,
                amount=top,
                sold_on=today - timedelta(9),
                source=SOURCE,
            )
        )
    return rows
