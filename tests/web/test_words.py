"""How estimates are said: with their bounds, by them alone, or that they cannot be told."""

from __future__ import annotations

import pytest

from botin.core.odds.printrun import Interval
from botin.web.words import bounds, interval, unbroken


@pytest.mark.parametrize(
    ("found", "words"),
    [
        (None, "not known"),
        (Interval(None, None, None), "not known"),
        (Interval(120.0, 40.0, 9600.0), "between 40.00 and 9,600"),
        (Interval(0.369, 0.0, 2400.0), "cannot be told; at most 2,400"),
        (Interval(0.369, 0.0, None), "cannot be told"),
        (Interval(400.0, 400.0, None), "at least 400.0"),
    ],
)
def test_where_the_middle_means_nothing_the_bounds_are_said(found: Interval | None, words: str) -> None:
    assert bounds(found) == words


def test_an_estimate_is_said_with_its_bounds() -> None:
    assert interval(Interval(9600.0, 9594.0, 9606.0)) == "9,600 (9,594 to 9,606)"
    assert unbroken("9,600 (9,594 to 9,606)").split(" ") == ["9,600", "(9,594\u00a0to\u00a09,606)"]
