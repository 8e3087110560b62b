"""Prices, the mean of a box, and the recap, reckoned by hand."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from botin.core.buying.boxvalue import line_values, mean_value
from botin.core.buying.cost import Cost
from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Format, Kind, OddsRow
from botin.core.insight.recap import Pulled, recap
from botin.core.money import Money
from botin.core.odds.lines import box_model
from botin.core.pricing.prices import Basis, PriceBook, PriceKind, PriceRow, weighted_median
from tests.core.small import BASE, SIGNED, product

TODAY = date(2026, 11, 24)


def price(section: str, number: str, amount: float, parallel: str = "", grade: str = "", age: int = 0) -> PriceRow:
    return PriceRow(section, number, parallel, grade, amount, TODAY - timedelta(age))


@pytest.mark.parametrize(
    ("values", "weights", "middle"),
    [([3], [1], 3), ([1, 9], [1, 1], 5), ([1, 2, 9], [1, 1, 1], 2), ([1, 2, 9], [5, 1, 1], 1), ([9, 1], [1, 3], 1)],
)
def test_weighted_median(values: list[float], weights: list[float], middle: float) -> None:
    assert weighted_median(values, weights) == middle


def test_recent_prices_count_more_and_fall_back_to_the_kind() -> None:
    rows = [price("base", "1", 10, age=200), price("base", "1", 4), price("base", "", 0.5)]
    book = PriceBook([*rows, PriceRow("base", "2", "", "", 99, TODAY, kind=PriceKind.ASKING)], TODAY)
    assert book.estimate(BASE[0]).amount == 4
    assert book.estimate(BASE[0]).count == 2
    assert (book.estimate(BASE[1]).amount, book.estimate(BASE[1]).basis) == (0.5, Basis.TIER)
    assert book.estimate(SIGNED[0]).basis is Basis.NONE
    assert book.estimate(BASE[0], grade="10").basis is Basis.NONE


def test_mean_of_a_box_by_hand() -> None:
    """24 packs × 8: two signed (one priced 30 of four, the others 6), 190 base at 0.10."""
    made = product(OddsRow("hobby", "signed", packs_per_hit="12"))
    book = PriceBook([price("base", "", 0.10), price("signed", "", 6), price("signed", "S-1", 30)], TODAY)
    values = line_values(box_model(made, made.formats[0]), book)
    assert mean_value(values).value == pytest.approx(2 * (30 + 3 * 6) / 4 + 190 * 0.10)
    assert [row.line.section.key for row in values] == ["signed", "base"]


def test_doubled_prices_double_the_mean() -> None:
    made = product(OddsRow("hobby", "signed", packs_per_hit="12"), OddsRow("hobby", "base", "copper", per_box="3"))
    model = box_model(made, made.formats[0])
    rows = [price("base", "", 0.1), price("signed", "S-2", 7), price("base", "", 3, "copper")]
    double = [PriceRow(r.section, r.number, r.parallel, r.grade, 2 * r.amount, r.sold_on) for r in rows]
    once, twice = (mean_value(line_values(model, PriceBook(found, TODAY))).value or 0 for found in (rows, double))
    assert twice == pytest.approx(2 * once)


def test_recap_counts_by_line() -> None:
    made = product(
        OddsRow("hobby", "signed", packs_per_hit="12"), OddsRow("hobby", "base", "copper", packs_per_hit="8")
    )
    book = PriceBook([price("base", "", 0.10), price("signed", "", 6), price("base", "", 2, "copper")], TODAY)
    pulled = [
        Pulled(1, BASE[0], Kind.BASE, "", None, 1),
        Pulled(2, BASE[0], Kind.BASE, "", None, 2),
        Pulled(3, BASE[1], Kind.BASE, "copper", 25, 2),
        Pulled(4, SIGNED[0], Kind.AUTOGRAPH, "", None, 3),
        Pulled(5, BASE[2], Kind.BASE, "slate", None, 3),
    ]
    cost = Cost(Money(9000, "EUR"), Money(600, "EUR"), Money(0, "EUR"))
    found = recap(box_model(made, made.formats[0]), pulled, book, cost, HitRule())
    assert {row.line.key: row.seen for row in found.lines} == {
        ("signed", "", ""): 1,
        ("base", "copper", ""): 1,
        ("base", "", ""): 2,
    }
    assert (found.cards, found.hits, found.duplicates, found.unplaced) == (5, 2, 1, 1)
    assert found.value.value == pytest.approx(6 + 2 + 0.2)
    assert [figure.value for figure in found.costs] == [96.0, 96 / 5, 4.0, 48.0]
    assert found.best[0].pulled.id == 4
    signed = next(row for row in found.lines if row.line.section.key == "signed")
    assert signed.chance_as_many == pytest.approx(1 - (11 / 12) ** 24)


def test_what_counts_as_a_hit_is_a_setting() -> None:
    strict = HitRule(frozenset(), 25)
    assert [strict.is_hit(Kind.BASE, run) for run in (None, 25, 26)] == [False, True, False]
    assert not strict.is_hit(Kind.AUTOGRAPH, None)
    assert HitRule(numbered_to=None).is_hit(Kind.RELIC, None)


@pytest.mark.parametrize(("opened", "held"), [(9, 9), (7, 7), (10, 10), (3, 8), (0, 8)])
def test_a_box_of_seven_to_ten_packs_costs_by_what_it_held(opened: int, held: int) -> None:
    """2,000 for nine packs is 222 a pack (common practice, no source); a half-opened box costs by the usual number."""
    fmt = Format("hobby", "Hobby", 8, 10, packs_range=(7, 10))
    assert fmt.packs_held(opened) == held
    assert Format("hobby", "Hobby", 7, 10).packs_held(2) == 7
