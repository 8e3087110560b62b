"""A box whose best cards are graded first, by hand: two outcomes for each card that gains by it."""

from __future__ import annotations

from datetime import date

import pytest

from botin.core.buying.gradedbox import GemTerms, graded_box
from botin.core.catalog.product import OddsRow
from botin.core.odds.lines import box_model
from botin.core.pricing.priced import mean_of, priced_box
from botin.core.pricing.prices import PriceBook, PriceRow
from botin.core.pricing.valuecurve import value_curve
from botin.core.selling.costs import SaleCosts
from tests.core.small import product

DAY = date(2026, 11, 24)
COSTS = SaleCosts(fee=0.10, postage=1.0, bulk_below=0.5)
TERMS = GemTerms(cost=25.0, top_grade="10", gem_chance=0.4)


def price(section: str, number: str, amount: float, grade: str = "") -> PriceRow:
    return PriceRow(section, number, "", grade, amount, DAY)


def box(*prices: PriceRow) -> tuple[object, object]:
    made = product(OddsRow("hobby", "signed", per_box="1", promise="exact"))
    model = box_model(made, made.formats[0])
    book = PriceBook(prices, DAY)
    net = priced_box(model, book, COSTS.nets)
    return net, graded_box(net, book, COSTS, TERMS)


def test_a_card_that_gains_is_sent() -> None:
    """Raw 30 nets 26; graded 0.4 × (107 − 25) + 0.6 × (26 − 25) = 33.4; one signed card of four gains."""
    net, graded = box(price("signed", "", 2.0), price("signed", "S-1", 30.0), price("signed", "S-1", 120.0, "10"))
    plain = (26 + 3 * 0.8) / 4
    assert mean_of(net) == pytest.approx(plain)  # type: ignore[arg-type]
    assert mean_of(graded) == pytest.approx((0.4 * 82 + 0.6 * 1 + 3 * 0.8) / 4)  # type: ignore[arg-type]
    curve = value_curve(graded, 100.0)  # type: ignore[arg-type]
    assert curve.chance_at_least(82.0) == pytest.approx(0.4 / 4)
    assert curve.chance_at_least(0.9) == pytest.approx(1 / 4)


def test_a_card_that_loses_stays_raw() -> None:
    """Graded 0.4 × (35 − 25) + 0.6 × 1 = 4.6 is less than 26."""
    net, graded = box(price("signed", "", 2.0), price("signed", "S-1", 30.0), price("signed", "S-1", 40.0, "10"))
    assert mean_of(graded) == pytest.approx(mean_of(net))  # type: ignore[arg-type]


def test_without_a_price_in_the_top_grade_nothing_is_sent() -> None:
    net, graded = box(price("signed", "", 50.0))
    assert mean_of(graded) == pytest.approx(mean_of(net))  # type: ignore[arg-type]
