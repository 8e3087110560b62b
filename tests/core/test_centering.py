"""Centering as it is written, and what limits make of it."""

from __future__ import annotations

import pytest

from botin.core.grading.centering import Borders, allowed, larger_of
from botin.core.grading.grades import COMMON, noted_look


@pytest.mark.parametrize(
    ("text", "larger"),
    [("55/45", 55.0), ("30/70", 70.0), ("70-30", 70.0), ("52,5/47,5", 52.5), ("55", 55.0), ("45", 55.0), ("50", 50.0),
     ("30/60", None), ("", None), ("x", None), ("0", None), ("100", None), ("120/-20", None)],
)  # fmt: skip
def test_a_centering_is_read_as_people_write_it(text: str, larger: float | None) -> None:
    assert larger_of(text) == larger


def test_the_worse_axis_counts() -> None:
    found = Borders(left=2.0, right=2.0, top=3.0, bottom=1.0)
    assert (found.left_right, found.top_bottom, found.larger) == (50.0, 75.0, 75.0)
    assert Borders(0, 0, 0, 0).larger == 50.0


def test_limits_of_the_trade_rule_grades_out() -> None:
    # 55/45 front and 75/25 back for the top grade, 60/40 for the next; 30/70 rules the top grade out: from memory.
    for front, back, grade in ((55, 75, 10), (56, 75, 9), (60, 90, 9), (55, 76, 9), (70, 50, 7)):
        assert allowed({"": COMMON}, front, back) == {"": grade}
    assert allowed({"": COMMON}, None, None) == {"": 10.0}


def test_how_bad_a_mark_is_counts() -> None:
    scores = [noted_look([f"{how} crease".strip()]) for how in ("slight", "", "heavy")]
    found = [look.surface for look in scores if look and look.surface]
    assert found == sorted(found, reverse=True)
    assert len(set(found)) == 3
    assert noted_look(["centering 38/62"]) is not None
    assert noted_look(["nothing known"]) is None
