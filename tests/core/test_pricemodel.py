"""What a price model must hold, over seeded worlds of its own: own sales are kept, intervals cover, silence tells."""

from __future__ import annotations

import math
from collections import defaultdict
from datetime import date, timedelta

import numpy as np
import pytest

from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.pricing.guess import Found
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceKind, PriceRow

DAY = date(2026, 11, 24)
FINISHES = ("", "frost", "amber", "night", "one")
RUNS = {"frost": "199", "amber": "50", "night": "", "one": "5"}
Version = tuple[str, str, str]


def checklist(players: int) -> Product:
    """Two sections in five finishes: all players, and every third one signed."""
    base = tuple(Card("base", str(n + 1), f"Rider {n}") for n in range(players))
    signed = tuple(Card("signed", f"S{n}", f"Rider {n}") for n in range(0, players, 3))
    return Product(
        key="p", name="P", cards=(*base, *signed),
        sections=(Section("base", "Base", Kind.BASE), Section("signed", "Signed", Kind.AUTOGRAPH)),
        parallels=tuple(Parallel(f, f, s, run_text=RUNS[f]) for s in ("base", "signed") for f in FINISHES if f),
    )  # fmt: skip


SMALL = checklist(100)


def sale(amount: float, number: int | str, parallel: str = "", grade: str = "", age: int = 0) -> PriceRow:
    return PriceRow("base", str(number), parallel, grade, amount, DAY - timedelta(age))


def found(rows: list[PriceRow], number: int, parallel: str = "", grade: str = "") -> float:
    return PriceModel(SMALL, rows, DAY).estimate(SMALL.cards[number - 1], parallel, grade).amount


COMMONS = [sale(0.1, 1), sale(0.11, 2)]


@pytest.mark.parametrize(
    ("others", "sales", "low", "high"),
    [
        ([], 1, 260, 380),
        (COMMONS, 1, 260, 380),
        (COMMONS, 2, 290, 350),
        ([sale(0.1, n) for n in range(10, 60)], 1, 260, 380),
        ([sale(0.1, n) for n in range(10, 60)], 2, 290, 350),
        ([PriceRow("base", "", "", "", 0.1, DAY), PriceRow("base", "", "one", "", 0.2, DAY)], 2, 290, 350),
    ],
)
def test_own_sales_are_not_overruled(others: list[PriceRow], sales: int, low: float, high: float) -> None:
    """One or two sales at 320 among commons at 0.10, in a finish of its own and in none."""
    for parallel in ("", "one"):
        assert low < found([*others, *[sale(320, 5, parallel)] * sales], 5, parallel) < high


def test_a_usual_price_of_five_does_not_halve_three_sales_at_200() -> None:
    usual = PriceRow("base", "", "", "", 5.0, DAY)
    for count in (1, 2, 3):
        assert 150 < found([usual, *[sale(200, 5)] * count], 5) < 215


@pytest.mark.parametrize("factor", [0.3, 0.6, 1.8, 4.0])
def test_a_new_sale_moves_the_estimate_towards_it(factor: float) -> None:
    rng = np.random.default_rng(8)
    rows = [sale(float(np.exp(rng.normal(1, 0.6))), n) for n in range(1, 60) for _ in range(2)]
    for number in (3, 70):
        before = found(rows, number)
        after = found([*rows, sale(before * factor, number)], number)
        assert (after - before) * (factor - 1) > 0
        assert abs(math.log(after / before)) < abs(math.log(factor)) * 1.05


def test_sales_of_other_cards_never_push_an_estimate_out_of_its_own_interval() -> None:
    own = [sale(40, 5), sale(44, 5), sale(37, 5)]
    model = PriceModel(SMALL, own, DAY)
    guess = model.estimate(SMALL.cards[4])
    for level in (0.05, 2000.0):
        others = [sale(level, n) for n in range(10, 90) for _ in range(3)]
        assert guess.low < found([*own, *others], 5) < guess.high


def test_a_third_of_the_sales_gone_wild_moves_little() -> None:
    shifts = []
    for seed in range(40):
        rng = np.random.default_rng(seed)
        amounts = np.exp(rng.normal(3, 0.25, 24))
        amounts[:7] *= 5 + rng.exponential(3, 7)
        shifts.append(abs(found([sale(float(a), 5) for a in amounts], 5) / math.exp(3) - 1))
    assert np.median(shifts) < 0.10


def test_the_day_of_a_price_says_how_much_it_counts_and_never_underflows() -> None:
    rows = [
        sale(30, 5, age=0),
        sale(30, 5, age=3),
        sale(90, 5, age=700),
        sale(20, 6, age=3650),
        sale(20, 6, age=3655),
    ]
    assert found(rows, 5) < 45
    assert found(rows, 6) == pytest.approx(20, rel=0.15)


def test_asking_prices_and_guides_stand_apart() -> None:
    rows = [sale(10, 5), PriceRow("base", "5", "", "", 99.0, DAY, kind=PriceKind.ASKING)]
    assert found(rows, 5) < 11
    alone = PriceModel(SMALL, [PriceRow("base", "5", "", "", 7.0, DAY, kind=PriceKind.GUIDE)], DAY)
    assert alone.estimate(SMALL.cards[4]).found is Found.GUIDE


def world(
    seed: int, how: str, noise: float = 0.3
) -> tuple[Product, list[PriceRow], dict[Version, float], dict[Version, int]]:
    """Player and finish add up, what is the version's own is Student's t; ``how`` says which versions are sold."""
    rng = np.random.default_rng(seed)
    product = checklist(90)
    fame = {f"Rider {n}": x for n, x in enumerate(rng.normal(0, 0.8, 90))}
    base = np.cumsum(np.r_[-1.0, rng.uniform(0.2, 1.2, 4)])
    level = {("base", f): x for f, x in zip(FINISHES, base, strict=True)}
    level |= {("signed", f): x + 2.5 for f, x in zip(FINISHES, base + rng.normal(0, 0.2, 5), strict=True)}
    truth: dict[Version, float] = {}
    sold: dict[Version, int] = {}
    rows = []
    for card in product.cards:
        for finish in FINISHES:
            key = (card.section, card.number, finish)
            middle = level[(card.section, finish)]
            truth[key] = middle + fame[card.name] + 0.5 * float(rng.standard_t(4))
            above = truth[key] - middle
            sold[key] = min(40, {
                "as it comes": int(rng.choice([0, 1, 2, 3, 5, 10])),
                "oftener when dear": int(rng.poisson(0.8 * math.exp(0.7 * above) * rng.gamma(2, 0.5))),
                "only the dear half": int(rng.integers(1, 6)) if above > 0 else 0,
            }[how])  # fmt: skip
            for _ in range(sold[key]):
                price = math.exp(truth[key] + float(rng.normal(0, noise)))
                rows.append(PriceRow(*key, "", price, DAY - timedelta(int(rng.integers(0, 120)))))
    return product, rows, truth, sold


def coverage(how: str, seeds: int) -> tuple[dict[int, float], float, float]:
    """Share of true prices inside the 80 % interval by number of sales, among the dearest tenth, and the bias unsold."""
    inside: dict[int, list[bool]] = defaultdict(list)
    dearest: list[bool] = []
    bias: list[float] = []
    for seed in range(seeds):
        product, rows, truth, sold = world(seed, how)
        model = PriceModel(product, rows, DAY)
        held = []
        for card in product.cards:
            for finish in FINISHES:
                guess, true = model.estimate(card, finish), truth[(card.section, card.number, finish)]
                count = sold[(card.section, card.number, finish)]
                ok = math.log(guess.low) <= true <= math.log(guess.high)
                inside[count if count <= 3 else 5 if count < 8 else 10].append(ok)
                held.append((guess.mean, ok))
                if not count:
                    bias.append(math.log(guess.amount) - true)
        held.sort(reverse=True)
        dearest += [ok for _, ok in held[: len(held) // 10]]
    return (
        {n: float(np.mean(v)) for n, v in inside.items() if len(v) > 150},
        float(np.mean(dearest)),
        float(np.mean(bias)),
    )


@pytest.mark.parametrize(
    "how", [pytest.param("as it comes", marks=pytest.mark.slow), "oftener when dear", "only the dear half"]
)
def test_eight_of_ten_intervals_hold_the_truth(how: str) -> None:
    """Three laws of being sold, none of them the model's own; the binomial error of a cell is about 2 in 100."""
    by_count, dearest, bias = coverage(how, 4)
    for share in by_count.values():
        assert 0.71 < share < 0.89
    assert 0.72 < dearest < 0.89
    assert abs(bias) < 0.5  # by the sold alone the unsold come out 3.2 times too dear (1.17) in the last law


def test_one_more_sale_on_a_kept_model_gives_what_a_fresh_one_gives() -> None:
    product, rows, _, _ = world(3, "as it comes")
    before = PriceModel(product, rows, DAY)
    more = [*rows, PriceRow("base", "7", "", "", 12.0, DAY)]
    kept, fresh = PriceModel(product, more, DAY, like=before), PriceModel(product, more, DAY)
    assert kept.steepness == fresh.steepness
    assert all(kept.estimate(card) == fresh.estimate(card) for card in product.cards[:20])
    one_by_one = PriceModel(product, more, DAY)
    one_by_one.prepare(product.cards, "amber")
    assert all(one_by_one.estimate(card, "amber") == fresh.estimate(card, "amber") for card in product.cards[:20])


def test_a_grade_nobody_sold_lies_on_the_curve_of_its_neighbours() -> None:
    """Six raw sales at 287, sales of grades 4 to 7, none above: a 9 is dearer than a 7 and is not sold as if raw."""
    rows = [sale(287, 5)] * 6 + [
        sale(287 * ratio, number, "", grade)
        for number in (5, 6, 7)
        for grade, ratio in (("4", 0.5), ("5", 0.7), ("6", 1.0), ("7", 1.4))
    ]
    rows += [sale(287, number) for number in (6, 7)]
    by_grade = [found(rows, 5, "", f"{grade}") for grade in (4, 5, 6, 7, 8, 9, 10)]
    assert by_grade == sorted(by_grade)
    assert by_grade[5] > 1.4 * 287


def test_a_sections_graded_price_is_a_ratio_and_not_an_amount() -> None:
    """Usual raw 5 and usual 10 at 80 are sixteen times raw: a 0.80 common is not worth 80 in a 10, a card at 100 more."""
    usual = [PriceRow("base", "", "", "", 5.0, DAY), PriceRow("base", "", "", "10", 80.0, DAY)]
    rows = [*usual, *[sale(0.8, 5)] * 4, *[sale(100.0, 6)] * 4]
    assert 4 < found(rows, 5, "", "10") < 30
    assert found(rows, 6, "", "10") > 400


def test_an_unrelated_row_does_not_take_a_price_away() -> None:
    rows = [sale(20, 5), sale(60, 5, "", "10"), sale(20, 6)]
    assert found([*rows, sale(3, 40, "", "word")], 5, "", "10") == pytest.approx(found(rows, 5, "", "10"), rel=0.05)


def test_a_finish_without_any_price_is_wide_and_said_so() -> None:
    rows = [sale(5, n) for n in range(1, 40)] + [sale(20, n, "frost") for n in range(1, 40)]
    guess = PriceModel(SMALL, rows, DAY).estimate(SMALL.cards[3], "one")
    assert guess.found is Found.WIDE
    assert not guess.known
    assert guess.high / guess.low > 5
    assert PriceModel(SMALL, [], DAY).estimate(SMALL.cards[3]).found is Found.NONE
