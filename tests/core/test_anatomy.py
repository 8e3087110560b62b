"""Pack anatomy and the order of numbers: what slots usually hold, runs of a sheet, packs that break them."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from botin.core.books.basis import CostRule, share_cost
from botin.core.catalog.numberlist import read_numbers
from botin.core.odds.anatomy import ENOUGH, runs_of, slots_of


def test_a_slot_usually_holds_what_it_held_in_most_packs() -> None:
    packs = [["Base", "Base", "Insert"]] * 10 + [["Base", "Base", "Signed"]] * 4 + [["Base", "Base"]] * 9
    first, _, third = slots_of(packs, 3)
    assert (first.usually, third.usually) == ("Base", "Insert")
    assert third.packs == 14
    assert third.shares == (("Insert", pytest.approx(10 / 14)), ("Signed", pytest.approx(4 / 14)))


def test_few_packs_say_nothing() -> None:
    packs = [["Base", "Insert"]] * (ENOUGH - 1)
    assert [slot.usually for slot in slots_of(packs, 2)] == ["", ""]
    assert [slot.usually for slot in slots_of([], 2)] == ["", ""]


def sheet(order: list[str], starts: list[int], size: int = 6) -> list[tuple[int, int, list[str]]]:
    return [(1, at + 1, order[start : start + size]) for at, start in enumerate(starts)]


def test_a_sheet_shows_as_a_repeated_order() -> None:
    order = [str(n) for n in np.random.default_rng(1).permutation(60)]
    found = runs_of(sheet(order, [0, 10, 20, 30] * 4))
    assert found.steady == 1.0
    assert all(count == 4 for _, _, count in found.sequence)
    assert set(found.sequence) <= {(a, b, 4) for a, b in pairwise(order)}
    assert found.breaks == ()


def test_a_made_up_pack_breaks_the_order() -> None:
    order = [str(n) for n in range(60)]
    packs = sheet(order, [0, 10, 20, 30] * 4)
    shuffled = ["0", "20", "2", "30", "1", "11"]
    found = runs_of([*packs, (2, 1, shuffled)])
    assert (2, 1) in found.breaks
    assert all(box == 2 for box, _ in found.breaks)


def test_random_numbers_show_no_order() -> None:
    rng = np.random.default_rng(3)
    packs = [(1, n, [str(x) for x in rng.permutation(300)[:8]]) for n in range(24)]
    found = runs_of(packs)
    assert found.steady < 0.05
    assert found.breaks == ()
    assert runs_of([]).steady == 0.0


@given(st.integers(0, 10**7), st.lists(st.floats(0, 1e4), min_size=1, max_size=60), st.sampled_from(list(CostRule)))
def test_shares_of_a_cost_always_add_up(total: int, values: list[float], rule: CostRule) -> None:
    parts = share_cost(total, values, rule)
    assert sum(parts) == total
    assert min(parts) >= 0
    if rule is CostRule.EQUAL:
        assert max(parts) - min(parts) <= 1


@given(st.lists(st.integers(1, 500), min_size=1, max_size=30, unique=True))
def test_a_list_of_numbers_comes_back(numbers: list[int]) -> None:
    assert dict(read_numbers(", ".join(str(n) for n in numbers))) == {str(n): 1 for n in numbers}
    first, last = min(numbers), max(numbers)
    assert set(read_numbers(f"{first}-{last}")) == {str(n) for n in range(first, last + 1)}
