"""Repeats and finishing sets: published results on coupon collecting, facts of the trade, enumeration, simulation."""

from __future__ import annotations

import math
from itertools import combinations

import numpy as np
import pytest

from botin.core.copies.finishing import Terms, finish
from botin.core.copies.setbuilding import Wanted, distinct_law, finish_curve, transition
from botin.core.counts import CountLaw
from botin.core.errors import NotFoundError
from botin.core.odds.collation import INDEPENDENT, NO_REPEATS, Repeats, counts_at, expected_distinct, inner_time
from botin.core.odds.repeats import (
    BadCountsError,
    BoxCounts,
    box_factor,
    expected_union,
    fit_repeats,
    spread_of_distinct,
)
from tests.core.pricedboxes import PLAIN, priced


def test_the_two_boxes_of_the_trade() -> None:
    """744 of 792 with 548 and 640 distinct, together 767; independent 483 and 671 (common practice, no source)."""
    boxes = [BoxCounts(744, 548), BoxCounts(744, 640)]
    found = fit_repeats(792, boxes, 767)
    assert found.independent == (pytest.approx(483, abs=0.7), pytest.approx(483, abs=0.7))
    assert found.fitted == (pytest.approx(548, abs=0.5), pytest.approx(640, abs=0.5))
    assert found.differ
    assert found.between is not None
    assert expected_union(792, boxes, found.between) == pytest.approx(767, abs=0.5)
    assert found.pooled.low < 0.170
    assert found.pooled.high > 0.563


@pytest.mark.parametrize(
    ("distinct", "factor", "once", "twice", "thrice"), [(548, 0.563, 376, 150, 21), (640, 0.170, 538, 100, 2)]
)
def test_the_model_predicts_twice_and_thrice(
    distinct: int, factor: float, once: int, twice: int, thrice: int
) -> None:
    """Figures of the model’s first prototype."""
    found = box_factor(BoxCounts(744, distinct), 792)
    assert found.factor == pytest.approx(factor, abs=0.001)
    counts = [792 * chance for chance in counts_at(found.factor, inner_time(found.factor, 744 / 792))]
    assert counts[1:4] == pytest.approx([once, twice, thrice], abs=0.6)


def open_box(size: int, cards: int, factor: float, rng: np.random.Generator) -> np.ndarray:
    counts = np.zeros(size, int)
    for _ in range(cards):
        weights = factor**counts if factor else (counts == counts.min()).astype(float)
        counts[rng.choice(size, p=weights / weights.sum())] += 1
    return counts


@pytest.mark.parametrize("factor", [0.3, 0.7, 1.0])
def test_distinct_and_spread_against_simulated_boxes(factor: float) -> None:
    rng = np.random.default_rng(6)
    drawn = [int((open_box(120, 110, factor, rng) > 0).sum()) for _ in range(150)]
    assert np.mean(drawn) == pytest.approx(expected_distinct(Repeats(factor), 110, 120), abs=1.2)
    assert np.std(drawn) == pytest.approx(spread_of_distinct(factor, 110, 120), rel=0.25)


def test_the_interval_covers_the_true_factor() -> None:
    rng, covered = np.random.default_rng(7), 0
    for _ in range(60):
        counts = open_box(120, 110, 0.5, rng)
        found = box_factor(BoxCounts(110, int((counts > 0).sum())), 120)
        covered += found.low <= 0.5 <= found.high
    assert covered >= 52


def test_boxes_of_one_factor_are_not_rejected() -> None:
    rng, rejected = np.random.default_rng(8), 0
    for _ in range(40):
        boxes = []
        for _ in range(3):
            counts = open_box(120, 110, 0.5, rng)
            boxes.append(BoxCounts(110, int((counts > 0).sum()), int((counts == 2).sum()), int((counts == 3).sum())))
        rejected += fit_repeats(120, boxes).differ
    assert rejected <= 7


@pytest.mark.parametrize("box", [BoxCounts(10, 11), BoxCounts(10, 0), BoxCounts(100, 90), BoxCounts(20, 15, 9, 3)])
def test_counts_that_cannot_be(box: BoxCounts) -> None:
    with pytest.raises(BadCountsError):
        fit_repeats(50, [box])
    with pytest.raises(BadCountsError):
        fit_repeats(50, [BoxCounts(20, 15), BoxCounts(20, 15)], 40)


def test_group_drawings_by_stadje() -> None:
    """Chance that k groups of s distinct of n show every one of a coupons: Σ (−1)^i C(a, i) [C(n − i, s)/C(n, s)]^k.

    Stadje (1990), The collector's problem with group drawings, Advances in Applied Probability 22 (from memory).
    """
    n, s, a = 30, 12, 7
    curve = finish_curve([Wanted(n, np.ones(a), None, float(s))], 1.0, 0.0, 0.0, NO_REPEATS, 6)
    for k, step in enumerate(curve.steps):
        ways = [(math.comb(n - i, s) / math.comb(n, s)) ** k for i in range(a + 1)]
        assert step.complete == pytest.approx(
            sum((-1) ** i * math.comb(a, i) * w for i, w in enumerate(ways)), abs=1e-9
        )


def test_the_collectors_expectation_by_feller_and_knuth() -> None:
    """Σ P(not complete after k) = N·H_N draws when one card comes at a time.

    Feller, vol. 1, IX.3; Knuth, The Art of Computer Programming, vol. 2, 3.3.2, the coupon collector's test
    (both from memory).
    """
    size = 6
    law = CountLaw(fixed=1)
    curve = finish_curve([Wanted(size, np.ones(size), law)], 0.0, 0.0, 0.0, INDEPENDENT, 150)
    expected = sum(1 - step.complete for step in curve.steps)
    assert expected == pytest.approx(size * sum(1 / n for n in range(1, size + 1)), abs=1e-6)


def test_transition_by_listing_every_box() -> None:
    """Six cards, a box of three different ones, two missing: every box listed."""
    found = transition(6, 2, ((3, 1.0),))
    boxes = list(combinations(range(6), 3))
    for j in range(3):
        share = sum(1 for box in boxes if 2 - len({0, 1} & set(box)) == j) / len(boxes)
        assert found[2, j] == pytest.approx(share)
    assert found.sum(axis=1) == pytest.approx(1.0)


def test_distinct_of_few_draws_by_listing() -> None:
    """Three independent draws from four: 4, 36 and 24 of 64 ways show one, two and three different ones."""
    assert dict(distinct_law(Wanted(4, np.ones(4), CountLaw(fixed=3)), INDEPENDENT)) == pytest.approx(
        {1: 4 / 64, 2: 36 / 64, 3: 24 / 64}
    )


def test_unequal_chances_against_listing() -> None:
    """Two groups in one box, one draw each, from two and from three cards: complete after two boxes by listing."""
    groups = [Wanted(2, np.ones(2), CountLaw(fixed=1)), Wanted(3, np.ones(1), CountLaw(fixed=1))]
    curve = finish_curve(groups, 1.0, 0.0, 0.0, INDEPENDENT, 2)
    assert curve.steps[2].complete == pytest.approx(2 / 4 * 5 / 9)


def test_finish_curve_against_simulated_boxes() -> None:
    """160 cards, 50 missing, boxes of 150 at ρ = 0.4: missing after one and two boxes."""
    size, cards, rng = 160, 150, np.random.default_rng(10)
    left = []
    for _ in range(80):
        missing = set(range(50))
        row = []
        for _ in range(2):
            missing -= set(np.flatnonzero(open_box(size, cards, 0.4, rng)).tolist())
            row.append(len(missing))
        left.append(row)
    curve = finish_curve(
        [Wanted(size, np.full(50, 0.25), None, float(cards))], 18.0, 2.0, 0.5, Repeats(0.4), 2, each=0.1
    )
    means = np.mean(left, axis=0)
    assert [step.missing for step in curve.steps[1:]] == pytest.approx(means.tolist(), abs=1.0)
    assert curve.steps[1].cost == pytest.approx(16.0 + 0.35 * curve.steps[1].missing)
    assert curve.steps[1].with_rare == pytest.approx(curve.steps[1].cost - 0.5)
    assert curve.steps[1].p10 <= curve.steps[1].cost <= curve.steps[1].p90


def test_stop_when_the_rest_is_cheaper_as_singles() -> None:
    """25 missing at 6.20 together, one more box at 18.00: stop (common practice, no source)."""
    curve = finish_curve([Wanted(792, np.full(25, 0.248), None, 744.0)], 18.0, 0.0, 0.0, Repeats(0.35), 5)
    assert curve.best == 0
    assert curve.steps[0].cost == pytest.approx(6.2)
    assert 25 - curve.steps[1].missing == pytest.approx(18, abs=1.5)


def test_finish_from_a_products_lines() -> None:
    box = priced(PLAIN)
    have = {str(n): 1 for n in range(1, 181)}
    found = finish(box, box, "base", have, Terms(20.0, 3), INDEPENDENT)
    assert found.curve.missing == 20
    assert found.unpriced == ()
    assert found.beside + found.rare == pytest.approx(sum(line.expected * line.mean for line in box.lines))
    with pytest.raises(NotFoundError):
        finish(box, box, "none", {}, Terms(20.0), INDEPENDENT)
    inserts = finish(box, box, "insert", {}, Terms(20.0, 2), INDEPENDENT)
    assert inserts.curve.missing == 30
    assert inserts.curve.steps[1].missing < 30
