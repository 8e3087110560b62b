"""The choice of tiers against exhaustive search, and against the figures of the trade (common practice, no source)."""

from __future__ import annotations

import math
from itertools import product

import numpy as np
import pytest

from botin.core.grading.tierchoice import (
    BARRED,
    BARS,
    DEAR,
    FEW,
    NOTHING,
    POOR,
    Left,
    Limits,
    TierTerms,
    Voucher,
    allowed,
    choose_tiers,
    greedy,
    off_by_vouchers,
    score,
    why_left,
)

A, B = "House A", "House B"


def test_membership_of_the_trade() -> None:
    """99 a year saving 6 a card: bought from the 17th card on; with a minimum of 20 it starts at 20."""
    for count, least, joins in ((16, 1, False), (17, 1, True), (19, 20, False), (20, 20, True)):
        gains = np.tile([75.0, 81.0], (count, 1))  # a gain of 100 less fees of 25 and 19
        terms = [TierTerms(house=A), TierTerms(least=least, member=True, house=A)]
        found = choose_tiers(gains, terms, Limits({A: 99.0}))
        assert found.member is joins
        assert found.joins == ((A,) if joins else ())
    assert 20 * 19 + 99 == 479 < 20 * 25 == 500


def test_a_membership_that_is_held_costs_nothing_and_another_houses_does() -> None:
    gains = np.tile([75.0, 81.0, 83.0], (5, 1))
    terms = [TierTerms(house=A), TierTerms(member=True, house=A), TierTerms(member=True, house=B)]
    held = choose_tiers(gains, terms, Limits({A: 0.0, B: 99.0}))
    assert held.tiers == (1,) * 5
    assert not held.member
    assert choose_tiers(gains, terms, Limits({A: 99.0, B: 0.0})).tiers == (2,) * 5


def test_a_limited_sum_of_money_sends_the_best_first() -> None:
    gains, spend = np.array([[30.0], [50.0], [20.0]]), np.full((3, 1), 25.0)
    found = choose_tiers(gains, [TierTerms(shipping=10.0)], Limits(cash=60.0), spend)
    assert found.tiers == (0, 0, None)
    assert found.spent == pytest.approx(60.0)
    assert choose_tiers(np.zeros((0, 1)), [TierTerms()]).gain == 0


def every_way(gains: np.ndarray, terms: list[TierTerms], limits: Limits, spend: np.ndarray | None = None) -> float:
    """Best gain by listing every assignment."""
    best = 0.0
    for picked in product((None, *range(gains.shape[1])), repeat=len(gains)):
        if any(tier is not None and gains[i, tier] <= BARRED / 2 for i, tier in enumerate(picked)):
            continue
        if allowed(picked, terms):
            found = score(picked, gains, terms, limits, spend)
            if limits.cash is None or found.spent <= limits.cash + 1e-9:
                best = max(best, found.gain)
    return best


def by_counts(gains: np.ndarray, terms: list[TierTerms], membership: float) -> float:
    """Best gain over every set of tiers and every way to fill their minimum: an exact recursion over the copies."""
    best = 0.0
    tiers = gains.shape[1]
    for used in product((False, True), repeat=tiers):
        open_tiers = [t for t in range(tiers) if used[t]]
        fixed = sum(terms[t].shipping for t in open_tiers) + (
            membership if any(terms[t].member for t in open_tiers) else 0.0
        )
        states = {tuple(0 for _ in open_tiers): 0.0}
        for row in gains:
            following = dict(states)
            for counts, value in states.items():
                for at, t in enumerate(open_tiers):
                    grown = tuple(
                        min(terms[t2].least, c + (at == i))
                        for i, (t2, c) in enumerate(zip(open_tiers, counts, strict=True))
                    )
                    following[grown] = max(following.get(grown, -math.inf), value + float(row[t]))
            states = following
        full = tuple(terms[t].least for t in open_tiers)
        best = max(best, states.get(full, -math.inf) - fixed)
    return best


@pytest.mark.parametrize("seed", range(6))
def test_the_choice_equals_exhaustive_search(seed: int) -> None:
    """Six copies and two tiers by listing all; twelve copies and four tiers by a recursion over all sets of tiers."""
    rng = np.random.default_rng(seed)
    terms = [
        TierTerms(1, shipping=9.0),
        TierTerms(4, shipping=12.0),
        TierTerms(6, member=True, shipping=8.0),
        TierTerms(2),
    ]
    limits, small = Limits({"": 20.0}), rng.normal(8, 15, (6, 2))
    assert choose_tiers(small, terms[:2], limits).gain == pytest.approx(every_way(small, terms[:2], limits), abs=1e-6)
    assert by_counts(small, terms[:2], 20.0) == pytest.approx(every_way(small, terms[:2], limits), abs=1e-6)
    gains = rng.normal(8, 15, (12, 4))
    found = choose_tiers(gains, terms, limits)
    assert found.gain == pytest.approx(by_counts(gains, terms, 20.0), abs=1e-6)
    assert found.gain >= greedy(gains, terms, limits).gain - 1e-9
    assert allowed(found.tiers, terms)


@pytest.mark.parametrize("seed", range(12))
def test_steps_memberships_vouchers_and_cash_against_listing_all(seed: int) -> None:
    """Two houses, shipping by steps, a membership each, vouchers of a tier and of a house, some cards barred, cash."""
    rng = np.random.default_rng(100 + seed)
    terms = [
        TierTerms(1, shipping=4.0, house=A, steps=((2, 9.0), (4, 11.0))),
        TierTerms(3, member=True, shipping=5.0, house=A),
        TierTerms(2, member=True, shipping=3.0, house=B, steps=((3, 2.0),)),
    ]
    gains = rng.normal(6, 8, (6, 3))
    gains[rng.random((6, 3)) < 0.15] = BARRED
    spend = rng.uniform(2, 8, (6, 3))
    vouchers = (Voucher(A, 3.0, 2, 0), Voucher(A, 2.0, 1), Voucher(B, 1.5, 4, 2))
    limits = Limits({A: 6.0, B: 4.0}, vouchers, None if seed % 2 else 30.0)
    found = choose_tiers(gains, terms, limits, spend)
    assert found.gain == pytest.approx(every_way(gains, terms, limits, spend), abs=1e-6)
    assert found.gain >= greedy(gains, terms, limits, spend).gain - 1e-9
    assert limits.cash is None or found.spent <= limits.cash + 1e-6


def test_vouchers_go_where_they_take_most_off() -> None:
    terms = [TierTerms(house=A), TierTerms(house=A)]
    any_tier, first = Voucher(A, 5.0, 2), Voucher(A, 3.0, 2, 0)
    assert (
        off_by_vouchers({0: 2, 1: 1}, terms, [any_tier, first]) == 13.0
    )  # two of five, and one of three on the third
    assert off_by_vouchers({1: 3}, terms, [first]) == 0.0
    assert off_by_vouchers({0: 1}, terms, [Voucher(B, 9.0, 5)]) == 0.0


def test_two_orders_for_38_and_1_pay_two_returns() -> None:
    """38 cards and one signed: the signed one goes by itself and pays its own return."""
    gains = np.full((39, 2), BARRED)
    gains[:38, 0], gains[38, 1] = 10.0, 60.0
    terms = [TierTerms(shipping=19.0, steps=((9, 43.25),)), TierTerms(shipping=19.0, steps=((9, 43.25),))]
    found = choose_tiers(gains, terms)
    assert found.gain == pytest.approx(380 + 60 - 43.25 - 19)
    gains[38, 1] = 15.0
    assert choose_tiers(gains, terms).tiers[38] is None


def test_what_stays_home_says_why() -> None:
    gains = np.array(
        [[20.0, BARRED, BARRED], [-3.0, -1.0, BARRED], [BARRED] * 3, [BARRED, 4.0, BARRED], [BARRED, BARRED, 2.0]]
    )
    terms = [TierTerms(shipping=5.0), TierTerms(3, shipping=1.0), TierTerms(shipping=9.0)]
    choice = choose_tiers(gains, terms)
    left = why_left(choice, gains, terms)
    assert left == [None, Left(NOTHING), Left(BARS), Left(FEW, 1, 2), Left(DEAR, 2)]
    two = np.array([[20.0], [18.0]])
    spend, limits = np.full((2, 1), 10.0), Limits(cash=12.0)
    poor = choose_tiers(two, [TierTerms()], limits, spend)
    assert why_left(poor, two, [TierTerms()], limits, spend) == [None, Left(POOR, 0)]
