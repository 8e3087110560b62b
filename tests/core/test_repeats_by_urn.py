"""Repeats against urns drawn one by one: chances, spread, quantiles, distinct numbers, for factors from 0 to 2."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Product, Section
from botin.core.odds.collation import Repeats, expected_distinct, missed, spread_of_copies
from botin.core.odds.lines import box_model
from botin.core.odds.repeats import BoxCounts, fit_repeats
from botin.core.pricing.priced import priced_box
from botin.core.pricing.prices import PriceBook, PriceRow
from botin.core.pricing.worth import worth
from tests.naive import urn

BOXES = 12_000
SET = Product(
    "p", "P", formats=(Format("hobby", "Hobby", 24, 8, 12),),
    sections=(Section("base", "Base", Kind.BASE), Section("signed", "Signed", Kind.AUTOGRAPH)),
    cards=(*(Card("base", str(n), f"Rider {n}") for n in range(1, 101)), Card("signed", "S1", "Rider 1")),
    odds=(OddsRow("hobby", "signed", per_box="2", promise="exact"),),
)  # fmt: skip
PRICES = [PriceRow("base", "", "", "", 0.10), *(PriceRow("base", str(n), "", "", 5.0) for n in range(1, 11))]


@pytest.mark.parametrize(
    ("factor", "size", "drawn", "wanted"),
    [(0.0, 60, 8, 20), (0.5, 60, 8, 20), (0.5, 100, 40, 3), (0.2, 30, 25, 2), (0.8, 50, 60, 2), (1.5, 60, 30, 5), (2.0, 60, 20, 6)],
)  # fmt: skip
def test_the_chance_to_miss_some_cards(factor: float, size: int, drawn: int, wanted: int) -> None:
    counts = urn(factor, size, drawn, BOXES, 3)
    share = float((counts[:, :wanted].sum(axis=1) == 0).mean())
    found = float(missed(Repeats(factor), np.array([float(drawn)]), size, wanted)[0])
    assert found == pytest.approx(share, abs=0.012 + 0.02 * (factor > 1))


@pytest.mark.parametrize(
    "factor", [0.0, 0.02, *(pytest.param(f, marks=pytest.mark.slow) for f in (0.25, 0.5, 0.9, 1.3)), 1.0]
)
def test_a_box_with_more_cards_than_the_set(factor: float) -> None:
    """24 × 8 with two hits, 100 base cards of which ten are worth 5.00: mean, spread, quantiles and a chance."""
    counts = urn(factor, 100, 190, BOXES, 5)
    values = 19.0 + 4.9 * counts[:, :10].sum(axis=1)
    box = priced_box(box_model(SET, SET.formats[0]), PriceBook(PRICES, date.min))
    found = worth(box, 90.0, repeats=Repeats(factor))
    assert found.curve.mean == pytest.approx(values.mean(), abs=4 * values.std() / np.sqrt(BOXES))
    assert found.curve.sd == pytest.approx(values.std(), rel=0.04)
    for share in (0.1, 0.5, 0.9):
        x = found.curve.quantile(share)
        assert x is not None
        assert (values < x - 0.02).mean() - 0.015 <= share <= (values <= x + 0.02).mean() + 0.015
    assert found.chance_break_even == pytest.approx(float((values >= 90).mean()), abs=0.015)


@pytest.mark.parametrize("factor", [1.5, 2.0])
def test_clumps_keep_mean_and_spread(factor: float) -> None:
    counts = urn(factor, 100, 190, 6_000, 5)
    assert spread_of_copies(Repeats(factor), 190, 100) == pytest.approx(counts.var(), rel=0.1)
    box = priced_box(box_model(SET, SET.formats[0]), PriceBook(PRICES, date.min))
    values = 19.0 + 4.9 * counts[:, :10].sum(axis=1)
    found = worth(box, 90.0, repeats=Repeats(factor))
    assert found.curve.quantile(0.5) == pytest.approx(float(np.quantile(values, 0.5, method="inverted_cdf")), abs=5.0)


@pytest.mark.parametrize(
    ("cards", "distinct", "low", "high"),
    [(192, 99, 0.15, 0.5), (192, 100, 0.0, 0.05), (185, 90, 0.5, 0.95), (300, 100, 0.0, 0.05)],
)
def test_a_box_with_more_cards_than_the_set_is_fitted(cards: int, distinct: int, low: float, high: float) -> None:
    found = fit_repeats(100, [BoxCounts(cards, distinct)]).pooled
    assert low <= found.factor <= high
    assert found.low <= found.factor <= found.high
    if distinct == 100 and cards == 192:
        assert 0.3 < found.high < 0.7


def test_distinct_numbers_of_large_boxes() -> None:
    for factor in (0.0, 0.3, 0.8):
        counts = urn(factor, 50, 120, 3_000, 7)
        found = expected_distinct(Repeats(factor), 120, 50)
        assert found == pytest.approx(float((counts > 0).sum(axis=1).mean()), abs=0.25)
