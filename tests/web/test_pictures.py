"""The pictures and the words of the new views: scales, marks, what is cut off, what the sentences say."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest

from botin.core.buying.breakeven import Way
from botin.core.copies.setbuilding import Wanted, finish_curve
from botin.core.odds.collation import NO_REPEATS
from botin.core.pricing.comps import comp_estimate
from botin.core.pricing.guess import Found, Guess
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.core.pricing.valuecurve import added, mid_percentile, value_curve
from botin.desk.buying.myboxes import MyBox
from botin.desk.copies.setboard import Cell
from botin.web.buy.picture import hundred_picture, value_picture
from botin.web.buy.typed import number_between
from botin.web.buy.words import way_words
from botin.web.prices.picture import price_picture
from botin.web.sets.picture import board_picture, finish_picture, history_line
from botin.web.words import number, percent
from tests.core.pricedboxes import BOXES, priced

TODAY = date(2026, 11, 24)


@pytest.mark.parametrize("name", BOXES)
def test_the_value_picture_holds_the_whole_curve(name: str) -> None:
    curve = value_curve(priced(BOXES[name]), 90.0)
    mine = [MyBox(1, "a", TODAY, 90.0, 60.0, 190), MyBox(2, "b", TODAY, 90.0, 9_999.0, 190)]
    picture = value_picture(curve, 90.0, mine)
    assert all(8 <= bar.x <= 632 and 0 <= bar.height <= 170 for bar in picture.bars)
    assert [bar.pays for bar in picture.bars] == sorted(bar.pays for bar in picture.bars)
    assert picture.median is not None
    assert 8 <= picture.cost <= 632
    assert len(picture.mine) == 2
    assert picture.table[0] == (0.0, pytest.approx(1.0))
    chances = [chance for _, chance in picture.table]
    assert chances == sorted(chances, reverse=True)


def test_a_hundred_boxes_add_up() -> None:
    row = hundred_picture(np.array([10.0, 50.0, 200.0]), 50.0, 7)
    assert (row.pays, row.total, row.paid, row.best, row.worst) == (2, 260.0, 150.0, 200.0, 10.0)
    assert max(box.height for box in row.boxes) <= 84


def test_sums_of_curves_are_convolutions() -> None:
    """Two boxes by adding the curve of one to itself, against the curve of two."""
    box = priced(BOXES["plain"])
    one, two = value_curve(box, 60.0), value_curve(box, 120.0, 2)
    step, masses = added([one, one])
    values = step * np.arange(len(masses))
    assert float(masses @ values) == pytest.approx(2 * one.mean, rel=1e-3)
    for share in (0.25, 0.5, 0.75):
        x = two.quantile(share) or 0.0
        assert mid_percentile([one, one], x) == pytest.approx(share, abs=0.01)
    assert mid_percentile([one], one.quantile(0.5) or 0.0) == pytest.approx(0.5, abs=0.01)


def cells(count: int) -> list[Cell]:
    return [
        Cell(n, "base", str(n + 1), 'Rider <"&> O', n % 7 == 0, n % 4, (n % 5 == 0 and 1) or 0, 0, 1.0)
        for n in range(count)
    ]


@pytest.mark.parametrize(("count", "columns"), [(50, 20), (300, 30), (792, 40), (2000, 50)])
def test_the_board_has_a_cell_for_every_number_and_escapes_names(count: int, columns: int) -> None:
    picture = board_picture(cells(count), "/cards/")
    assert picture.columns == columns
    assert picture.svg.count("<a href=") == count
    assert picture.svg.count('tabindex="-1"') == count - 1
    assert 'Rider <"' not in picture.svg
    assert "Rider &lt;&#34;&amp;&gt; O" in picture.svg


def test_the_finish_picture_marks_the_best() -> None:
    curve = finish_curve([Wanted(100, np.full(80, 1.0), None, 60.0)], 10.0, 0.0, 0.0, NO_REPEATS, 6)
    picture = finish_picture(curve)
    assert [dot.boxes for dot in picture.dots if dot.best] == [curve.best]
    assert all(dot.high <= dot.y + 0.2 and dot.low >= dot.y - 0.2 for dot in picture.dots)
    assert history_line([(TODAY, 3)], 10) == ""
    assert len(history_line([(TODAY - timedelta(9), 3), (TODAY, 8)], 10).split()) == 2


def test_the_price_picture_tells_what_counts() -> None:
    rows = [
        PriceRow("base", "1", "", "", amount, TODAY - timedelta(5 * at))
        for at, amount in enumerate((9, 10, 11, 10, 95))
    ]
    rows.append(PriceRow("base", "1", "", "", 30.0, TODAY, kind=PriceKind.ASKING))
    own = comp_estimate(rows, TODAY)
    assert own is not None
    guess = Guess(own.amount, own.low, own.high, Found.COMPS, own.error, mean=own.amount)
    picture = price_picture(rows, own.used, guess, TODAY)
    assert picture is not None
    assert sorted(dot.kind for dot in picture.dots) == ["asking", "odd", "used", "used", "used", "used"]
    assert picture.high < picture.middle < picture.low
    assert price_picture([], (), Guess(0, 0, 0, Found.NONE, 1), TODAY) is None


def test_words() -> None:
    assert (
        way_words(Way((("Signed", 2), ("Base copper", 1)), 12.5, 0.1), "EUR")
        == "2 × Signed and 1 × Base copper, each worth €12.50 or more"
    )
    assert way_words(Way((), 0.0, 0.1), "EUR").startswith("nothing special")
    assert percent(-0.258) == "−25.8 %"
    assert number(1e-9) == "about 0"
    with pytest.raises(ValueError, match="from 1 to 5"):
        number_between(1, 5)("six")
    assert number_between(1, 5)("2,5") == 2.5
