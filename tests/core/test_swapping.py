"""A fair swap against listing all choices, and where a sum cannot be met."""

from __future__ import annotations

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from botin.core.copies.swapping import balanced


@settings(max_examples=60, deadline=None)
@given(st.lists(st.integers(0, 400), max_size=9), st.integers(0, 1_500))
def test_no_choice_comes_nearer(cents: list[int], aim: int) -> None:
    """Held against every subset."""
    prices = [one / 100 for one in cents]
    found = balanced(prices, aim / 100)
    sums = {sum(some) for size in range(len(cents) + 1) for some in combinations(cents, size)}
    nearest = min(abs(one - aim) for one in sums)
    assert abs(sum(cents[at] for at in found.given) - aim) == nearest
    assert found.cash == pytest.approx((aim - sum(cents[at] for at in found.given)) / 100)
    assert len(set(found.given)) == len(found.given)


def test_nothing_to_give_is_evened_by_cash() -> None:
    assert balanced([], 12.5).given == ()
    assert balanced([], 12.5).cash == 12.5


def test_dear_cards_are_gone_through_in_coarser_steps() -> None:
    """Two hundred cards up to 9,000.00: still within a step of the best there is."""
    prices = [45.0 * at for at in range(1, 201)]
    assert abs(balanced(prices, 123_456.0).cash) <= 25.0
