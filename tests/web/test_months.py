"""The chart of what each route nets month by month."""

from __future__ import annotations

from itertools import pairwise

import pytest

from botin.core.flags.paths import RoutePath
from botin.core.flags.ways import Go, Route
from botin.web.prices.months import BASE, GAP, LEFT, RIGHT, TOP, months_picture


def path(label: str, *means: float, first: int = 0, spread: float = 1.0) -> RoutePath:
    steps = tuple(Route(Go.LATER, "", mean, mean - spread, mean + spread, 0.0) for mean in means)
    return RoutePath(label, first, steps)


def test_nothing_to_draw_without_a_price() -> None:
    assert months_picture(()) is None


def test_lines_lie_on_the_paper_and_the_best_is_marked() -> None:
    made = months_picture([path("sell raw", 10, 9, 8), path("grade (A)", 11, 12, first=1)])
    assert made is not None
    for line in made.paths:
        points = [tuple(map(float, point.split(","))) for point in line.line.split()]
        assert all(LEFT <= x <= RIGHT and TOP - 0.1 <= y <= BASE + 0.1 for x, y in points)
    assert [line.label for line in made.paths if line.best] == ["grade (A)"]
    best = next(line for line in made.paths if line.best)
    assert best.words == "nets 12.00 in month 2"
    assert len(made.band.split()) == 4
    assert made.marks[0][1] == "now"


def test_names_do_not_cover_each_other() -> None:
    made = months_picture([path(f"route {n}", 10 + n / 100, 10 + n / 100) for n in range(4)])
    assert made is not None
    heights = sorted(line.label_y for line in made.paths)
    assert all(below - above >= GAP - 0.2 for above, below in pairwise(heights))
    assert heights[-1] <= BASE + 5


def test_routes_far_behind_are_named_and_not_drawn() -> None:
    made = months_picture([path("sell raw", 10, 10), path("grade (A)", -90, -95)])
    assert made is not None
    assert [line.label for line in made.paths] == ["sell raw"]
    assert made.left_out == "grade (A) (−90.00)"


@pytest.mark.parametrize("means", [(0.0, 0.0), (-5.0, -6.0), (0.03, 0.02), (12_000.0, 9_000.0)])
def test_any_size_of_money_is_drawn(means: tuple[float, float]) -> None:
    made = months_picture([path("sell raw", *means)])
    assert made is not None
    assert made.ticks
    assert (made.zero is not None) == (min(means) - 1.0 < 0)
