"""How sure a flag says it is, held against worlds whose true prices are hidden from it."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from botin.core.flags.nets import left_after
from botin.core.flags.sureness import MOVES, chance_best, now_beats_later
from botin.core.flags.verdict import best_route, judge_copy
from botin.core.flags.ways import CopyFacts, Go, GradingCosts, Priced, Tier
from botin.core.pricing.fade import Fade
from botin.core.selling.costs import SaleCosts
from tests.yearworld import COSTS, FEES, LOOKING, WORLDS, make_world, sight_of

NOTHING = GradingCosts()
LINE = SaleCosts(fee=0.1, bulk_below=1.0, bulk_each=0.05)


@cache
def told(seeds: tuple[int, ...]) -> tuple[tuple[Go, float, bool], ...]:
    """Every flag of a kind of way with how sure it says it is, and whether one who knows the prices says the same."""
    found = []
    for kind in WORLDS.values():
        for seed in seeds:
            world = make_world(kind, seed)
            sees, knows = sight_of(world, world.rows), sight_of(world, (), prices_true=True, houses_true=True)
            for copy in world.copies:
                facts = sees.facts(copy, None)
                if facts.guessed or facts.raw.amount <= 0:
                    continue
                go, true = (
                    best_route(judge_copy(one, COSTS, FEES, looking=LOOKING).routes, COSTS).go
                    for one in (facts, knows.facts(copy, None))
                )
                found.append((go, chance_best(facts, COSTS, FEES, go), go is true))
    return tuple(found)


def said_and_right(seeds: tuple[int, ...], go: Go, least: float = 0.0) -> tuple[float, float, int]:
    rows = [(sure, right) for kind, sure, right in told(seeds) if kind is go and sure >= least]
    said, right = np.mean(rows, axis=0)
    return float(said), float(right), len(rows)


def as_often_as_it_says(go: Go, seeds: tuple[int, ...]) -> None:
    """Of those that are sure by half and more; two standard errors and what the prices’ own intervals are off by."""
    said, right, count = said_and_right(seeds, go, 0.5)
    assert count > 60 * len(seeds)
    assert right == pytest.approx(said, abs=2 * (right * (1 - right) / count) ** 0.5 + 0.04)


@pytest.mark.parametrize("go", [Go.SELL, Go.GRADE, Go.BULK])
def test_a_flag_is_right_as_often_as_it_says(go: Go) -> None:
    as_often_as_it_says(go, (0,))


@pytest.mark.slow
@pytest.mark.parametrize("go", [Go.SELL, Go.GRADE, Go.BULK])
def test_a_flag_is_right_as_often_as_it_says_in_many_worlds(go: Go) -> None:
    as_often_as_it_says(go, tuple(range(10, 18)))


def test_sell_now_is_never_less_often_right_than_it_says() -> None:
    """Below a half it is too careful: a mean above the line with most levels below it is sold rightly oftener."""
    said, right, _ = said_and_right((0,), Go.SELL)
    assert right >= said - 0.05


def test_surer_flags_are_right_oftener() -> None:
    rows = sorted((sure, right) for _, sure, right in told((0,)))
    thirds = [np.mean([right for _, right in part]) for part in np.array_split(np.array(rows), 3)]
    assert thirds == sorted(thirds)
    assert thirds[2] > 0.95


def test_without_anything_unknown_a_flag_is_certain() -> None:
    copy = CopyFacts(raw=Priced(20.0, 0.0, 0.3))
    assert chance_best(copy, LINE, NOTHING, Go.SELL) == 1.0
    assert chance_best(copy, LINE, NOTHING, Go.BULK) == 0.0
    assert chance_best(copy, LINE, NOTHING, Go.GRADE) == 0.0


def test_the_chance_to_be_above_the_line_is_that_of_the_level() -> None:
    """A log-normal level: P(0.9·level ≥ 1.00) by the normal law (textbook), to a fifteenth of its nodes."""
    copy = CopyFacts(raw=Priced(2.0, 0.8, 0.0))
    line, middle = np.log(1 / 0.9), np.log(2.0) - 0.8**2 / 2
    from scipy.stats import norm

    expected = float(norm.sf((line - middle) / 0.8))
    assert chance_best(copy, LINE, NOTHING, Go.SELL) == pytest.approx(expected, abs=0.5 / 15)


def test_what_fades_is_surely_sold_now_and_what_hardly_fades_is_a_toss_up() -> None:
    """Half of it lost in a quarter of a year is certain; one part of a hundred is less than prices move anyway."""
    copy = CopyFacts(raw=Priced(20.0, 0.4, 0.2), fade=Fade(4.0, 0.5), age_weeks=1.0)
    assert chance_best(copy, LINE, NOTHING, Go.SELL) > 0.99
    assert chance_best(copy, LINE, NOTHING, Go.LATER) < 0.01
    old = replace(copy, fade=Fade(13.0, 0.5), age_weeks=60.0)
    assert 0.5 < chance_best(old, LINE, NOTHING, Go.SELL) < 0.7
    assert chance_best(old, LINE, NOTHING, Go.SELL) + chance_best(old, LINE, NOTHING, Go.LATER) == pytest.approx(1.0)


@pytest.mark.parametrize("age", [1.0, 20.0, 60.0])
def test_now_or_later_is_right_as_often_as_it_says_on_a_market_that_moves(age: float) -> None:
    """Prices that fade and wander: 4,000 cards of unknown level are sold at once and after a quarter of a year."""
    copy = CopyFacts(raw=Priced(20.0, 0.4, 0.0), fade=Fade(9.0, 0.6), age_weeks=age)
    dice = np.random.default_rng(11)
    level = 20.0 * np.exp(0.4 * dice.standard_normal(4_000) - 0.4**2 / 2)
    wander = np.exp(np.cumsum(dice.normal(-(MOVES**2) / 2, MOVES, (4_000, 13)), axis=1)[:, -1])
    later = level * left_after(copy, 13.0) * wander
    now_left, later_left = (LINE.single(prices) for prices in (level, later))
    said = now_beats_later(copy, NOTHING)
    assert float((now_left >= later_left).mean()) == pytest.approx(said, abs=0.02)


def test_a_graded_price_that_rests_on_the_raw_one_moves_with_it() -> None:
    """Twice the raw level in the only grade there is: whatever the level, above the fee grading is better."""
    tier = GradingCosts((Tier("slow", 5.0, house="Ash"),))
    copy = CopyFacts(raw=Priced(100.0, 0.5, 0.0), graded={9.0: Priced(200.0, 0.5, 0.0)}, chances={9.0: 1.0})
    together = chance_best(copy, LINE, tier, Go.GRADE)
    apart = chance_best(replace(copy, graded={9.0: Priced(200.0, 1.5, 0.0)}), LINE, tier, Go.GRADE)
    assert together > 0.95 > apart
