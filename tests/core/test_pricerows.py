"""Prices laid out in columns: the same whether they came at once or one after the other."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest

from botin.core.pricing.market import age_weights, cells_of
from botin.core.pricing.prices import PriceKind, PriceRow, age_weight
from botin.core.pricing.rows import Given, given

DAY = date(2026, 11, 24)


def some_rows(count: int) -> list[PriceRow]:
    rng = np.random.default_rng(4)
    kinds = (PriceKind.SOLD, PriceKind.SOLD, PriceKind.ASKING, PriceKind.GUIDE)
    return [
        PriceRow(
            "base", str(rng.integers(1, 9)), str(rng.choice(["", "amber"])), str(rng.choice(["", "9"])),
            float(rng.integers(0, 50)), None if rng.random() < 0.1 else DAY - timedelta(int(rng.integers(0, 300))),
            "", kinds[int(rng.integers(0, 4))],
        )
        for _ in range(count)
    ]  # fmt: skip


def same(one: Given, other: Given) -> bool:
    columns = (
        np.array_equal(getattr(one, c), getattr(other, c), equal_nan=c == "day") for c in ("of", "sale", "day")
    )
    return one.number == other.number and one.rows == other.rows and all(columns)


@pytest.mark.parametrize("first", [0, 1, 59, 60])
def test_what_comes_later_is_laid_beside_what_stands_there(first: int) -> None:
    rows = some_rows(60)
    assert same(given(rows, given(rows[:first])), given(rows))


def test_rows_that_changed_are_read_anew() -> None:
    """Nothing is kept of a layout whose rows are not the beginning of the new ones: longer, shorter, or mended."""
    rows = some_rows(20)
    for other in (rows[:10], rows[5:], [rows[1], rows[0], *rows[2:]]):
        assert same(given(other, given(rows)), given(other))


def test_prices_of_a_key_stand_in_the_order_given() -> None:
    rows = some_rows(60)
    laid = given(rows)
    for key in laid.number:
        assert laid.under(key) == [r for r in rows if (r.section, r.number, r.parallel, r.grade) == key]
    assert laid.under(("base", "99", "", "")) == []


def test_cells_hold_the_sales_alone_and_weigh_them_by_age() -> None:
    """Kish's effective number of sales, reckoned one by one: (Σw)² ÷ Σw²."""
    rows = some_rows(200)
    cells = cells_of(given(rows), DAY)
    for at, key in enumerate(cells.keys):
        mine = [
            r for r in rows
            if (r.section, r.number, r.parallel, r.grade) == key and r.kind is PriceKind.SOLD and r.amount > 0
        ]  # fmt: skip
        here = cells.cell == at
        assert np.exp(cells.logs[here]) == pytest.approx([r.amount for r in mine])
        each = np.array([age_weight(r.sold_on, DAY) for r in mine])
        assert cells.weights[here].sum() == pytest.approx(each.sum() ** 2 / (each**2).sum())


def test_weights_of_many_days_are_those_of_each() -> None:
    days = [None, DAY, DAY - timedelta(90), DAY + timedelta(3), DAY - timedelta(9000)]
    ordinals = np.array([np.nan if day is None else day.toordinal() for day in days])
    assert age_weights(ordinals, DAY) == pytest.approx([age_weight(day, DAY) for day in days])
