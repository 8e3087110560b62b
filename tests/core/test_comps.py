"""The price estimate: against scipy and statsmodels-like references, its robustness, and fall-backs on held-out sales."""

from __future__ import annotations

import math
from datetime import date, timedelta

import numpy as np
import pytest
from scipy import stats

from botin.core.catalog.product import Card, Kind, Product, Section
from botin.core.pricing.comps import comp_estimate, shrink
from botin.core.pricing.guess import Found
from botin.core.pricing.modelbook import ModelBook
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import Basis, PriceKind, PriceRow

DAY = date(2026, 11, 24)


def sale(
    amount: float,
    age: int = 0,
    number: str = "1",
    parallel: str = "",
    grade: str = "",
    kind: PriceKind = PriceKind.SOLD,
) -> PriceRow:
    return PriceRow("base", number, parallel, grade, amount, DAY - timedelta(age), kind=kind)


def test_equal_weights_give_scipys_median_and_spread() -> None:
    """Without outliers and at one age: the median, and scipy’s normal-consistent median absolute deviation of the logs."""
    amounts = np.exp(np.random.default_rng(4).normal(2, 0.2, 31))
    found = comp_estimate([sale(float(a)) for a in amounts], DAY)
    assert found is not None
    assert not found.outliers
    assert found.amount == pytest.approx(float(np.median(amounts)))
    assert found.spread == pytest.approx(stats.median_abs_deviation(np.log(amounts), scale="normal"), rel=0.02)


def test_trend_is_the_theil_sen_slope_of_scipy() -> None:
    rng = np.random.default_rng(2)
    ages = np.arange(0, 120, 7)
    rows = [sale(float(10 * math.exp(-0.01 * age + rng.normal(0, 0.05))), int(age)) for age in ages]
    found = comp_estimate(rows, DAY)
    assert found is not None
    logs = np.log([row.amount for row in found.used])
    weeks = [row.sold_on.toordinal() / 7 for row in found.used if row.sold_on]
    assert math.log1p(found.trend or 0) == pytest.approx(stats.theilslopes(logs, weeks).slope, rel=0.02)


def test_wild_prices_are_marked_and_kept_but_do_not_count() -> None:
    found = comp_estimate([sale(10), sale(11), sale(9.5), sale(10.5), sale(95), sale(0.5)], DAY)
    assert found is not None
    assert sorted(row.amount for row in found.outliers) == [0.5, 95]
    assert found.amount == pytest.approx(10.2, abs=0.4)


def test_asking_prices_and_guides_are_never_mixed_in() -> None:
    rows = [sale(10), sale(99, kind=PriceKind.ASKING), sale(30, kind=PriceKind.GUIDE)]
    assert comp_estimate(rows, DAY).amount == pytest.approx(10)  # type: ignore[union-attr]
    assert comp_estimate(rows, DAY, PriceKind.GUIDE).amount == pytest.approx(30)  # type: ignore[union-attr]
    assert comp_estimate([], DAY) is None


def test_a_third_of_the_weight_gone_wild_moves_little() -> None:
    """30 % of the weight at five times and more, at random; 200 seeds: median shift below 10 %."""
    shifts = []
    for seed in range(200):
        rng = np.random.default_rng(seed)
        count = int(rng.integers(20, 40))
        logs = rng.normal(3, 0.15, count)
        ages = rng.integers(0, 90, count)
        clean = [sale(float(np.exp(x)), int(age)) for x, age in zip(logs, ages, strict=True)]
        weights = 0.5 ** (ages / 45)
        order = rng.permutation(count)
        wild = set(order[np.cumsum(weights[order]) <= 0.3 * weights.sum()].tolist())
        dirty = [
            sale(row.amount * (5 + rng.exponential(3)), (DAY - row.sold_on).days) if at in wild else row
            for at, row in enumerate(clean)
        ]  # type: ignore[operator]
        found = comp_estimate(dirty, DAY)
        assert found is not None
        shifts.append(abs(found.amount / math.exp(3) - 1))
    assert np.median(shifts) < 0.10


def test_shrinking_by_hand() -> None:
    """One recent sale at 20 with spread 0.35 against a tier of 5 with spread 0.8."""
    own = comp_estimate([sale(20)], DAY)
    assert own is not None
    mine, prior = 1 / 0.35**2, 1 / 0.8**2
    expected = math.exp((mine * math.log(20) + prior * math.log(5)) / (mine + prior))
    assert shrink(own, 5, 0.8) == pytest.approx(expected)
    assert shrink(own, 0, 0.8) == own.amount


PEOPLE = [f"Rider {n}" for n in range(60)]
PRODUCT = Product(
    "p", "P", sections=(Section("base", "Base", Kind.BASE),),
    cards=tuple(Card("base", str(n + 1), name) for n, name in enumerate(PEOPLE)),
)  # fmt: skip
FINISHES = ("", "copper", "slate", "cinder", "halo")


def additive(rng: np.random.Generator) -> dict[tuple[int, str], float]:
    who, level = rng.normal(0, 0.9, 60), dict(zip(FINISHES, (0.0, 1.0, 2.0, 3.0, 4.2), strict=True))
    return {(n, f): who[n] + level[f] for n in range(60) for f in FINISHES}


def heavy(rng: np.random.Generator) -> dict[tuple[int, str], float]:
    who, level = 0.6 * rng.standard_t(3, 60), dict(zip(FINISHES, rng.uniform(0, 4, 5), strict=True))
    return {(n, f): who[n] + level[f] for n in range(60) for f in FINISHES}


def interacting(rng: np.random.Generator) -> dict[tuple[int, str], float]:
    """Stars gain more in scarce finishes: not what the model assumes."""
    who, level = rng.normal(0, 0.9, 60), dict(zip(FINISHES, (0.0, 0.8, 1.6, 2.6, 4.0), strict=True))
    return {
        (n, f): who[n] * (0.7 + 0.2 * level[f]) + level[f] + rng.normal(0, 0.15) for n in range(60) for f in FINISHES
    }


@pytest.mark.parametrize(("world", "gain"), [(additive, 0.6), (heavy, 0.45), (interacting, 0.35)])
def test_fall_backs_beat_the_section_average_on_held_out_sales(world: object, gain: float) -> None:
    """Half of the versions have sales, the others are foretold; by how much the median absolute log error falls."""
    errors, plain = [], []
    for seed in range(6):
        rng = np.random.default_rng(seed)
        true = world(rng)  # type: ignore[operator]
        held = {key for key in true if rng.random() < 0.5}
        rows = [
            PriceRow("base", str(n + 1), f, "", float(np.exp(true[(n, f)] + rng.normal(0, 0.25))), DAY)
            for n, f in true if (n, f) not in held for _ in range(3)
        ]  # fmt: skip
        model = PriceModel(PRODUCT, rows, DAY)
        average = {f: np.mean([math.log(r.amount) for r in rows if r.parallel == f]) for f in FINISHES}
        for n, f in held:
            found = model.estimate(PRODUCT.cards[n], f)
            assert found.found in (Found.MODEL, Found.TIER)  # a player of whom nothing sold has only the tier
            errors.append(abs(math.log(found.amount) - true[(n, f)]))
            plain.append(abs(average[f] - true[(n, f)]))
    assert np.median(errors) < (1 - gain) * np.median(plain)


def test_fall_backs_come_in_their_order() -> None:
    rows = [
        sale(10), sale(30, grade="10"), sale(12, number="2"), sale(33, number="2", grade="10"), sale(5, number="3"),
        sale(50, number="1", parallel="copper"), sale(60, number="2", parallel="copper"), sale(4, number="", parallel="slate"),
        sale(7, number="9", parallel="teal", kind=PriceKind.GUIDE),
    ]  # fmt: skip
    model, cards = PriceModel(PRODUCT, rows, DAY), PRODUCT.cards
    assert model.estimate(cards[0]).found is Found.COMPS
    graded = model.estimate(cards[2], "", "10")
    assert graded.found is Found.GRADE
    raw = model.estimate(cards[2])
    assert graded.amount == pytest.approx(raw.amount * math.exp(model.grade_ratio("base", 10.0)[0]), rel=1e-6)
    assert model.estimate(cards[2], "copper").found is Found.MODEL
    assert model.estimate(cards[40], "slate").found is Found.TIER
    assert model.estimate(cards[8], "teal").found is Found.GUIDE
    assert model.estimate(cards[40], "none").found is Found.NONE
    assert all(g.low <= g.amount <= g.high for g in (graded, model.estimate(cards[2], "copper")))


def test_own_sales_are_drawn_towards_player_and_finish_by_their_weight() -> None:
    """A lonely sale moves a little towards what the others say, twenty hardly do; neither is left by its own noise."""
    rng = np.random.default_rng(3)
    others = [sale(float(10 * np.exp(rng.normal(0, 0.3))), number=str(n)) for n in range(2, 42) for _ in range(3)]
    for count, share in ((1, 0.01), (20, 0.0)):
        model = PriceModel(PRODUCT, [*others, *(sale(40.0 + 0.1 * at) for at in range(count))], DAY)
        found = model.estimate(PRODUCT.cards[0])
        own = found.own
        assert own is not None
        assert found.found is Found.COMPS
        assert found.amount <= own.amount
        assert math.log(own.amount / found.amount) >= share * math.log(own.amount / 10)
        assert found.low < found.amount < found.high
        if count == 20:
            assert found.amount == pytest.approx(own.amount, rel=0.02)


def test_the_usual_price_keeps_the_level_of_commons_down() -> None:
    """Only the cards above a price are watched, as in life: by their sales alone commons come out many times too dear."""
    ratios = {}
    for tier in (False, True):
        errors = []
        for seed in range(5):
            rng = np.random.default_rng(seed)
            fame = rng.normal(0, 0.8, 60)
            true = {
                (n, f): level + fame[n]
                for n in range(60)
                for f, level in (("", -3.0), ("copper", 0.5), ("slate", 2.0))
            }
            rows = [
                PriceRow("base", str(n + 1), f, "", float(np.exp(value + rng.normal(0, 0.2))), DAY)
                for (n, f), value in true.items() if value > -1.2 for _ in range(3)
            ]  # fmt: skip
            rows += [PriceRow("base", "", "", "", 0.05, DAY)] if tier else []
            model = PriceModel(PRODUCT, rows, DAY)
            errors += [
                math.log(guess.amount) - true[(n, "")]
                for n in range(60)
                if (guess := model.estimate(PRODUCT.cards[n], "")).amount > 0
            ]
        ratios[tier] = float(np.median(errors)) if errors else math.inf
    assert abs(ratios[True]) < 0.25
    assert abs(ratios[False]) < 0.35  # what was never sold tells of it, without anyone's usual price


def test_the_book_of_a_model_says_what_the_model_says() -> None:
    rows = [
        sale(10), sale(12, number="2"), sale(5, number="3"), sale(50, number="1", parallel="copper"),
        sale(0.2, number=""), sale(33, number="2", grade="10"), sale(9, number="7", kind=PriceKind.ASKING),
    ]  # fmt: skip
    model = PriceModel(PRODUCT, rows, DAY)
    book = ModelBook(model, rows)
    for card in PRODUCT.cards:
        for finish in ("", "copper", "none"):
            for grade in ("", "10"):
                guess, found = model.estimate(card, finish, grade), book.estimate(card, finish, grade)
                assert found.amount == (round(guess.mean, 2) if guess.known else 0)
                assert (found.basis is Basis.COMPS) == (guess.found is Found.COMPS)
                own = book.own_prices("base", finish, grade).get(card.number, book.tier("base", finish, grade))
                assert own.amount == found.amount
    assert book.tier("base", "").amount == 0.2
    assert book.tier("base", "none").basis is Basis.NONE
    assert book.estimate(PRODUCT.cards[0]).count == 1


@pytest.mark.parametrize("scatter", [0.15, 0.25, 0.4])
def test_eight_of_ten_intervals_hold_the_true_price(scatter: float) -> None:
    """Simulated sales of 1 to 20, up to four months old: 80 % is held on average over the sizes, two thirds at the worst."""
    held = []
    for count in (1, 2, 3, 4, 5, 8, 12, 20):
        rng, inside = np.random.default_rng(count), 0
        for _ in range(400):
            rows = [sale(float(np.exp(rng.normal(2, scatter))), int(rng.integers(0, 120))) for _ in range(count)]
            found = comp_estimate(rows, DAY)
            assert found is not None
            inside += found.low <= math.exp(2) <= found.high
        held.append(inside / 400)
    assert np.mean(held) > 0.75
    assert min(held) > 0.64
