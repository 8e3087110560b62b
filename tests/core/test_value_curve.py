"""The value curve against textbook recursions, scipy, closed forms, and a simulation of the same model."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from botin.core.catalog.product import Format, OddsRow, PromiseRow
from botin.core.counts import CountLaw
from botin.core.odds.collation import NO_REPEATS, Repeats
from botin.core.odds.lines import box_model
from botin.core.pricing.priced import PricedBox, mean_of, priced_box, variance_of
from botin.core.pricing.prices import PriceBook, PriceRow
from botin.core.pricing.simulate import simulate
from botin.core.pricing.valuecurve import value_curve
from botin.core.pricing.worth import line_shares, worth
from tests.core.pricedboxes import BOXES, DAY, PRICES, checklist, priced, row

NO_BASE = Format("hobby", "Hobby", 24, 8, 12)
MILLION = 1_000_000


def only(*odds: OddsRow, prices: list[PriceRow], **kwargs: object) -> PricedBox:
    """A box whose base cards are worth nothing: the value is a compound of its hits."""
    product = checklist(*odds, **kwargs)  # type: ignore[arg-type]
    return priced_box(box_model(product, product.formats[0], "random"), PriceBook(prices, DAY))


def panjer(mean: float, severity: dict[int, float], most: int) -> np.ndarray:
    """Compound Poisson by Panjer's recursion, a = 0, b = λ.

    Panjer (1981), Recursive evaluation of a family of compound distributions, ASTIN Bulletin 12; also Klugman,
    Panjer, Willmot, Loss Models, chapter 9 (from memory).
    """
    g = np.zeros(most + 1)
    g[0] = math.exp(-mean * (1 - severity.get(0, 0.0)))
    for s in range(1, most + 1):
        g[s] = sum(mean * y / s * f * g[s - y] for y, f in severity.items() if 0 < y <= s)
    return g


def test_compound_poisson_by_panjers_recursion() -> None:
    """Random seeding makes a Poisson count: 2.5 signed a box at prices of 1 to 9 in whole units."""
    prices = [row("signed", float(1 + n % 9), f"S{n + 1}") for n in range(40)]
    curve = value_curve(only(OddsRow("hobby", "signed", per_box="2.5"), prices=prices), 40.0)
    severity = {v: sum(1 for n in range(40) if 1 + n % 9 == v) / 40 for v in range(1, 10)}
    expected = panjer(2.5, severity, 60)
    step = round(1 / curve.grid.step)
    assert curve.masses[: 61 * step : step] == pytest.approx(expected, abs=1e-12)
    assert curve.error_bound(40.0) < 1e-9


def test_compound_binomial_by_scipy() -> None:
    """One signed card in 6 packs, all at 10: ten times a binomial (scipy.stats.binom)."""
    curve = value_curve(only(OddsRow("hobby", "signed", packs_per_hit="6"), prices=[row("signed", 10.0)]), 40.0)
    law = stats.binom(24, 1 / 6)
    for k in (0, 10, 40, 70):
        assert curve.chance_at_least(k) == pytest.approx(law.sf(k // 10 - 1), abs=1e-12)
    assert [curve.quantile(p) for p in (0.1, 0.5, 0.9)] == pytest.approx([10 * law.ppf(p) for p in (0.1, 0.5, 0.9)])


def test_a_joint_promise_is_split_multinomially() -> None:
    """Exactly four over two lines at odds 1:10 and 1:16: the number of the first is Binomial(4, 8/13) (scipy)."""
    odds = (OddsRow("hobby", "signed", packs_per_hit="10"), OddsRow("hobby", "worn", packs_per_hit="16"))
    promise = (PromiseRow("hobby", "", "4", "box", "exact", "signed;worn"),)
    box = only(*odds, promises=promise, prices=[row("signed", 100.0)])
    law, curve = stats.binom(4, 8 / 13), value_curve(box, 100.0)
    near = [
        law.sf(k - 1) for k in range(5)
    ]  # shares of a promise come from a program that stops at a hundred-thousandth
    assert [curve.chance_at_least(100 * k) for k in range(5)] == pytest.approx(near, rel=1e-5)


def test_independent_autographs_against_four_promised() -> None:
    """The figures of the model: P10 of 24 against 48, none in 1.6 % of boxes against never; 12 a card."""
    prices = [row("signed", 12.0)]
    loose = value_curve(only(OddsRow("hobby", "signed", packs_per_hit="6"), prices=prices), 48.0)
    exact = value_curve(only(OddsRow("hobby", "signed", per_box="4", promise="exact"), prices=prices), 48.0)
    assert (loose.quantile(0.1), exact.quantile(0.1)) == (pytest.approx(24), pytest.approx(48))
    assert 1 - loose.chance_at_least(0.01) == pytest.approx((5 / 6) ** 24, abs=1e-12)
    assert exact.chance_at_least(48) == pytest.approx(1.0)


@pytest.mark.parametrize("name", BOXES)
def test_against_a_million_simulated_boxes(name: str) -> None:
    box = priced(BOXES[name])
    drawn = np.sort(simulate(box, MILLION, np.random.default_rng(20261124)))
    answer = worth(box, 60.0)
    for share in (0.1, 0.5, 0.9):
        x = answer.curve.quantile(share)
        assert x is not None
        below, upto = np.searchsorted(drawn, (x - 1e-6, x + 1e-6)) / MILLION
        assert below - 0.003 <= share <= upto + 0.003
    assert abs(drawn.mean() - answer.curve.mean) < 4 * max(drawn.std(), answer.curve.sd) / math.sqrt(MILLION)
    broke_even = 1 - np.searchsorted(drawn, 60.0 - 1e-6) / MILLION
    assert answer.chance_break_even == pytest.approx(broke_even, abs=0.002 + answer.error_bound)


@pytest.mark.parametrize("name", ["plain", "promised"])
def test_repeat_models_against_simulation(name: str) -> None:
    """No repeats: draw the base cards without putting them back."""
    box, rng = priced(BOXES[name]), np.random.default_rng(5)
    assert box.pool is not None
    values = np.zeros(4000)
    room = np.full(4000, box.slots)
    from botin.core.pricing.simulate import draw_hits

    for drawn in draw_hits(box, 4000, rng):
        values += np.bincount(drawn.box, drawn.line.values[drawn.card], 4000)
        room -= np.bincount(drawn.box, minlength=4000) if drawn.line.in_packs else 0
    order = rng.permuted(np.tile(box.pool.values, (4000, 1)), axis=1)
    values += np.array([row[:n].sum() for row, n in zip(order, room, strict=True)])
    curve = value_curve(box, 60.0, repeats=NO_REPEATS)
    for share in (0.1, 0.5, 0.9):
        assert np.mean(values <= (curve.quantile(share) or 0)) == pytest.approx(share, abs=0.03)


@pytest.mark.parametrize("name", BOXES)
@pytest.mark.parametrize(("boxes", "one_case"), [(1, False), (5, False), (12, True)])
def test_moments_of_the_grid_are_the_closed_forms(name: str, boxes: int, *, one_case: bool) -> None:
    """An independent formula: the moments of the transformed distribution, to 1e-6, where nothing lies beyond it."""
    prices = [p for p in PRICES if p.amount < 500]
    product = BOXES[name]
    box = priced_box(box_model(product, product.formats[0]), PriceBook(prices, DAY))
    curve = value_curve(box, 60.0 * boxes, boxes, one_case=one_case, points=2**18)
    mean = float(curve.masses @ curve.values)
    second = float(curve.masses @ (curve.values - mean) ** 2)
    assert mean == pytest.approx(curve.mean, rel=1e-6)
    assert math.sqrt(second) == pytest.approx(curve.sd, rel=1e-4)  # rounding to the grid adds a little
    assert curve.mean == pytest.approx(boxes * sum(share.mean for share in line_shares(box)), rel=1e-12)


def test_variance_by_enumeration() -> None:
    """Two packs of two cards, one signed in two packs, base at 1 or 3: all outcomes listed by hand."""
    prices = [row("base", 1.0, "1"), row("base", 3.0, "2"), row("signed", 10.0)]
    fmt = Format("hobby", "Hobby", 2, 2, None)
    product = checklist(OddsRow("hobby", "signed", packs_per_hit="2"), fmt=fmt, base=2)
    box = priced_box(box_model(product, fmt), PriceBook(prices, DAY))
    outcomes: dict[float, float] = {}
    for hits in (0, 1, 2):
        chance = math.comb(2, hits) / 4
        for threes in range(4 - hits + 1):
            value = 10.0 * hits + 3 * threes + (4 - hits - threes)
            part = chance * math.comb(4 - hits, threes) / 2 ** (4 - hits)
            outcomes[value] = outcomes.get(value, 0.0) + part
    mean = sum(v * p for v, p in outcomes.items())
    assert mean_of(box) == pytest.approx(mean, rel=1e-9)
    assert variance_of(box) == pytest.approx(sum(p * (v - mean) ** 2 for v, p in outcomes.items()), rel=1e-9)
    curve = value_curve(box, 10.0)
    for value, chance in outcomes.items():
        assert curve.chance_below(value + 0.001) - curve.chance_below(value) == pytest.approx(chance, abs=1e-9)


def test_a_box_full_of_hits_conditions_on_their_number() -> None:
    """Three slots, nearly all hits, base cards at 0 or 8: dividing by the base would break, conditioning does not."""
    fmt = Format("hobby", "Hobby", 3, 1, None)
    prices = [row("base", 8.0, "1"), row("base", 0.0, "2"), row("signed", 5.0)]
    product = checklist(OddsRow("hobby", "signed", packs_per_hit="1.1"), fmt=fmt, base=2)
    box = priced_box(box_model(product, fmt), PriceBook(prices, DAY))
    p = 1 / 1.1
    curve = value_curve(box, 8.0)
    none = (1 - p) ** 3 * 0.5**3
    assert curve.chance_below(0.01) == pytest.approx(none, abs=1e-9)
    assert curve.chance_below(15.01) - curve.chance_below(15) == pytest.approx(p**3, abs=1e-9)


def test_a_one_of_one_at_sixty_cases_breaks_nothing() -> None:
    box = priced(checklist(OddsRow("hobby", "base", "lone", packs_per_hit="17280"), base=1))
    curve = value_curve(box, 20.0)
    assert curve.beyond == pytest.approx(1 - (1 - 1 / 17280) ** 24, rel=1e-9)
    assert curve.mean == pytest.approx(24 / 17280 * 25_000 + (192 - 24 / 17280) * 0.71, rel=1e-9)
    assert curve.chance_at_least(curve.grid.reach - 1) == pytest.approx(curve.beyond, abs=1e-9)


def test_single_card_lines_by_series_and_one_by_one() -> None:
    """Forty lines of one card each, collected in one transform, against the exact product of polynomials."""
    odds = [OddsRow("hobby", "signed", "", f"g{n}", packs_per_hit=str(40 + n)) for n in range(40)]
    product = checklist(*odds)
    cards = tuple(
        type(card)(card.section, card.number, card.name, group=f"g{n - 200}") if card.section == "signed" else card
        for n, card in enumerate(product.cards)
    )
    product = type(product)(**{**{f: getattr(product, f) for f in product.__dataclass_fields__}, "cards": cards})
    prices = [row("signed", float(1 + n % 7), f"S{n + 1}") for n in range(40)]
    curve = value_curve(priced_box(box_model(product, product.formats[0]), PriceBook(prices, DAY)), 30.0)
    exact = np.ones(1)
    for n in range(40):
        step = np.zeros(2 + n % 7)
        p = 1 / (40 + n)
        step[0], step[-1] = 1 - p, p
        for _ in range(24):
            exact = np.convolve(exact, step)[:200]
    unit = round(1 / curve.grid.step)
    assert curve.masses[: 100 * unit : unit] == pytest.approx(exact[:100], abs=1e-11)


@pytest.mark.parametrize("name", BOXES)
def test_doubled_prices_double_all(name: str) -> None:
    product = BOXES[name]
    double = [PriceRow(p.section, p.number, p.parallel, p.grade, 2 * p.amount, p.sold_on) for p in PRICES]
    one = worth(priced(product), 60.0)
    two = worth(priced_box(box_model(product, product.formats[0]), PriceBook(double, DAY)), 120.0)
    assert two.curve.mean == pytest.approx(2 * one.curve.mean)
    assert two.curve.sd == pytest.approx(2 * one.curve.sd)
    assert two.chance_break_even == pytest.approx(one.chance_break_even, abs=0.01)
    assert two.curve.quantile(0.5) == pytest.approx(2 * (one.curve.quantile(0.5) or 0), rel=0.005)
    assert two.share_from_rare == pytest.approx(one.share_from_rare)


def test_a_certain_card_adds_exactly_its_price() -> None:
    fixed = OddsRow("hobby", "worn", per_box="1", promise="exact")
    plain = [row("signed", 12.0), row("base", 0.0)]
    odds = OddsRow("hobby", "signed", packs_per_hit="12")
    without = value_curve(only(odds, fixed, prices=plain), 30.0)
    added = value_curve(only(odds, fixed, prices=[*plain, row("worn", 7.5)]), 30.0)
    for share in (0.1, 0.35, 0.5, 0.77, 0.9, 0.99):
        assert added.quantile(share) == pytest.approx((without.quantile(share) or 0) + 7.5)


@settings(max_examples=12, deadline=None)
@given(st.lists(st.integers(2, 60), min_size=2, max_size=4, unique=True))
def test_more_packs_never_lower_a_chance(packs: list[int]) -> None:
    """Base cards count nothing: they would make way for hits."""
    found = []
    for count in sorted(packs):
        product = checklist(OddsRow("hobby", "signed", packs_per_hit="24"), fmt=Format("hobby", "H", count, 8, None))
        box = priced_box(
            box_model(product, product.formats[0]), PriceBook([p for p in PRICES if p.section == "signed"], DAY)
        )
        found.append(value_curve(box, 50.0).chance_at_least(50.0))
    assert all(a <= b + 1e-9 for a, b in pairwise(found))


def test_rare_share_by_hand() -> None:
    """Ten equally likely cards at 1:48 in 24 packs: the five dearest have a chance of 22.1 %, the dearest 4.88 %."""
    prices = [row("worn", 100.0, "W1"), row("worn", 50.0, "W2"), row("worn", 1.0), row("base", 0.0)]
    box = only(OddsRow("hobby", "worn", packs_per_hit="24"), prices=prices)
    each = 1 - (1 - 1 / 24 / 20) ** 24
    assert each < 0.05 < 1 - (1 - 2 / 24 / 20) ** 24
    found = worth(box, 10.0)
    assert found.rare_from == pytest.approx(50.0)
    assert found.share_from_rare == pytest.approx(150 / 168)


def test_expected_loss_and_quantiles_are_those_of_the_masses() -> None:
    curve = value_curve(
        only(OddsRow("hobby", "signed", per_box="1", promise="exact"), prices=[row("signed", 10.0)]), 25.0
    )
    assert curve.expected_loss(25.0) == pytest.approx(15.0)
    assert curve.expected_loss(5.0) == 0.0


def test_repeat_models_keep_the_mean() -> None:
    box = priced(BOXES["plain"])
    for repeats in (NO_REPEATS, Repeats(0.4)):
        curve = value_curve(box, 60.0, repeats=repeats)
        assert float(curve.masses @ curve.values) == pytest.approx(curve.mean, rel=2e-3)


def test_laws_times_part_and_thinned() -> None:
    law = CountLaw(2, ((24, 0.1), (1, 0.5)), 0.7)
    assert law.times(3).mean == pytest.approx(3 * law.mean)
    assert law.part(24).mean == pytest.approx(law.mean / 24)
    assert law.thinned(0.3).mean == pytest.approx(0.3 * law.mean)
    z = np.array([0.2, 0.9])
    chances = law.pmf()
    assert law.pgf(z) == pytest.approx([float(chances @ x ** np.arange(len(chances))) for x in z])
    assert np.exp(law.log_pgf(z)) == pytest.approx(law.pgf(z))
    drawn = law.draw(np.random.default_rng(0), 20_000)
    assert drawn.mean() == pytest.approx(law.mean, abs=5 * math.sqrt(law.variance / 20_000))
