"""Luck, dispersion, dependence, per-box averages: against scipy, and by how often they are wrong."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from botin.core.catalog.product import OddsRow, PromiseRow
from botin.core.counts import CountLaw
from botin.core.insight.learning import Seeding, dependence, dispersion, per_box
from botin.core.insight.luck import claims, holm, line_laws, line_luck, two_sided
from botin.core.odds.lines import box_model
from tests.core.small import product


@pytest.mark.parametrize(("n", "p", "seen"), [(24, 1 / 12, 5), (24, 1 / 12, 0), (288, 1 / 48, 2)])
def test_tail_chances_of_a_binomial_by_scipy(n: int, p: float, seen: int) -> None:
    law = stats.binom(n, p)
    many, few, both = two_sided(CountLaw(binomials=((n, p),)), seen)
    assert (many, few) == (pytest.approx(law.sf(seen - 1)), pytest.approx(law.cdf(seen)))
    assert both == pytest.approx(min(1.0, 2 * min(many, few)))


def test_tail_chances_of_a_poisson_and_of_a_promise_by_scipy() -> None:
    law = stats.poisson(1.3)
    many, few, _ = two_sided(CountLaw(fixed=2, poisson=1.3), 5)
    assert (many, few) == (pytest.approx(law.sf(2)), pytest.approx(law.cdf(3)))


def test_holm_by_its_worked_steps() -> None:
    """0.01, 0.04, 0.03, 0.005 of four: 0.03, 0.06, 0.06, 0.02 (scipy has none; stepped by hand after Holm 1979)."""
    assert holm([0.01, 0.04, 0.03, 0.005]) == pytest.approx([0.03, 0.06, 0.06, 0.02])
    assert holm([]) == []


def test_a_line_tied_by_a_promise_has_its_share() -> None:
    """Exactly four over two lines at 1:10 and 1:16: each is Binomial(4, share) by scipy."""
    made = product(
        OddsRow("hobby", "signed", packs_per_hit="10"),
        OddsRow("hobby", "worn", packs_per_hit="16"),
        promises=(PromiseRow("hobby", "four hits", "4", "box", "exact", "signed;worn"),),
    )
    model = box_model(made, made.formats[0])
    law = line_laws(model)[("signed", "", "")]
    assert law.at_least(3) == pytest.approx(stats.binom(4, 8 / 13).sf(2))


def test_short_promises_are_claims_and_not_luck() -> None:
    made = product(
        OddsRow("hobby", "signed", per_box="2", promise="exact"),
        OddsRow("hobby", "base", "copper", packs_per_hit="12"),
        promises=(PromiseRow("hobby", "one relic", "1", "box", "at_least", "worn"),),
    )
    rows = {row.line.key: row for row in line_luck(box_model(made, made.formats[0]), {("signed", "", ""): 1})}
    signed, copper = rows[("signed", "", "")], rows[("base", "copper", "")]
    assert (signed.broken, signed.p) == (True, None)
    assert (copper.broken, copper.seen) == (False, 0)
    assert copper.p == pytest.approx(2 * stats.binom(24, 1 / 12).cdf(0))
    found = claims(box_model(made, made.formats[0]), {("signed", "", ""): 1})
    assert [(claim.promised, claim.seen) for claim in found] == [(2, 1), (1, 0)]  # worn has no row and is promised
    assert claims(box_model(made, made.formats[0]), {("signed", "", ""): 2, ("worn", "", ""): 1}) == ()


def test_luck_over_several_boxes_adds_up_their_packs() -> None:
    made = product(OddsRow("hobby", "signed", packs_per_hit="12"))
    row = line_luck(box_model(made, made.formats[0]), {("signed", "", ""): 9}, boxes=3)[0]
    assert row.expected == pytest.approx(6.0)
    assert row.as_many == pytest.approx(stats.binom(72, 1 / 12).sf(8))


def test_false_alarms_of_the_luck_test_stay_below_their_level() -> None:
    """A true model is called unlucky at 5 % in no more than 5 % of boxes, all lines looked at (Holm)."""
    made = product(
        OddsRow("hobby", "signed", packs_per_hit="10"),
        OddsRow("hobby", "worn", packs_per_hit="20"),
        OddsRow("hobby", "base", "copper", packs_per_hit="4"),
    )
    model, rng, alarms = box_model(made, made.formats[0]), np.random.default_rng(4), 0
    laws = line_laws(model)
    for _ in range(400):
        seen = {key: int(law.draw(rng, 1)[0]) for key, law in laws.items()}
        alarms += any((row.adjusted or 1) < 0.05 for row in line_luck(model, seen))
    assert alarms <= 400 * 0.05 + 3 * np.sqrt(400 * 0.05 * 0.95)


def test_average_is_the_gamma_posterior_by_scipy() -> None:
    """Seven in three boxes with a printed 2 worth four boxes: Gamma(15, 7)."""
    found = per_box(7, 3, 2.0)
    law = stats.gamma(15, scale=1 / 7)
    assert found.mean == pytest.approx(law.mean())
    assert (found.low, found.high) == (pytest.approx(law.ppf(0.025)), pytest.approx(law.ppf(0.975)))
    assert per_box(0, 3, None).low >= 0


def test_intervals_cover_productions_drawn_from_the_prior() -> None:
    """500 productions: true averages from the stated prior, six boxes each; the 95 % interval covers in ≥ 92.5 %."""
    rng, covered = np.random.default_rng(8), 0
    for _ in range(500):
        true = rng.gamma(2.0 * 4, 1 / 4)
        found = per_box(int(rng.poisson(true, 6).sum()), 6, 2.0)
        covered += found.low <= true <= found.high
    assert covered >= 0.925 * 500


def boxes_of(rate: float, packs: int, count: int, rng: np.random.Generator) -> list[int]:
    return [int(rng.binomial(packs, rate)) for _ in range(count)]


def test_dispersion_does_not_cry_wolf_where_the_chi_square_does() -> None:
    """1:1.5 in 6 packs: the chi-square of dispersion rejects the truth far too often, the exact test does not."""
    rng = np.random.default_rng(3)
    exact = classic = 0
    for _ in range(300):
        counts = boxes_of(1 / 1.5, 6, 10, rng)
        found = dispersion(counts, [6] * 10, rng, draws=400)
        exact += found.seeding in (Seeding.EVEN, Seeding.CLUMPED)
        mean = max(np.mean(counts), 1e-9)
        chance = stats.chi2.cdf(sum((x - mean) ** 2 for x in counts) / mean, 9)
        classic += min(chance, 1 - chance) < 0.025
    assert exact <= 300 * 0.05 + 3 * np.sqrt(300 * 0.05 * 0.95)
    assert classic > 300 * 0.12


@pytest.mark.parametrize(
    ("counts", "seeding"),
    [
        ([4] * 12, Seeding.EVEN),
        ([0, 0, 0, 12, 0, 0, 12, 0, 0, 0, 0, 12], Seeding.CLUMPED),
        ([3, 5, 4, 2, 6, 4, 3, 5, 7, 2, 4, 3], Seeding.RANDOM),
        ([1, 1], Seeding.TOO_FEW),
        ([2], Seeding.TOO_FEW),
    ],
)
def test_dispersion_tells_even_random_and_clumped(counts: list[int], seeding: Seeding) -> None:
    assert dispersion(counts, [24] * len(counts), np.random.default_rng(1)).seeding is seeding


def test_dispersion_is_the_same_for_the_same_seed() -> None:
    one, two = (dispersion([2, 3, 1, 4], [24] * 4, np.random.default_rng(9)) for _ in range(2))
    assert one == two


def test_dependence_sees_one_hit_that_shuts_out_another() -> None:
    rng = np.random.default_rng(2)
    shut = dependence([1, 0] * 12, [0, 1] * 12, [24] * 24, rng)
    assert shut.p < 0.01
    assert shut.words == "one makes the other less likely"
    rates = [
        dependence(boxes_of(0.05, 24, 12, rng), boxes_of(0.05, 24, 12, rng), [24] * 12, rng, 300).p
        for _ in range(200)
    ]
    assert np.mean(np.array(rates) < 0.05) <= 0.05 + 3 * np.sqrt(0.05 * 0.95 / 200)


def clumped(rng: np.random.Generator) -> list[int]:
    """Twelve boxes of which about a third are loaded; which ones has nothing to do with any other line."""
    return [int(rng.binomial(24, 0.25 if loaded else 0.02)) for loaded in rng.random(12) < 0.35]


def test_two_clumped_lines_that_know_nothing_of_each_other_do_not_seem_to() -> None:
    """Shuffled packs cannot make clumps, so whole boxes are dealt anew where a line is not spread at random."""
    rng, packs = np.random.default_rng(6), [24] * 12
    by_packs = by_boxes = 0
    for _ in range(200):
        one, other = clumped(rng), clumped(rng)
        by_packs += dependence(one, other, packs, rng, 300).p < 0.05
        by_boxes += dependence(one, other, packs, rng, 300, at_random=False).p < 0.05
    assert by_packs > 200 * 0.2
    assert by_boxes <= 200 * 0.05 + 3 * np.sqrt(200 * 0.05 * 0.95)


def test_clumped_lines_that_come_together_are_still_seen() -> None:
    one = [6, 0, 0, 5, 0, 7, 0, 0, 6, 0, 0, 0]
    found = dependence(one, one, [24] * 12, np.random.default_rng(6), at_random=False)
    assert found.p < 0.01
    assert found.words == "they come together"


def test_boxes_are_only_dealt_among_boxes_of_as_many_packs() -> None:
    """The only box of 12 packs keeps its count: of two boxes of 24 there are two orders, and half give the same."""
    found = dependence([3, 0, 2], [3, 0, 2], [24, 24, 12], np.random.default_rng(1), at_random=False)
    assert found.expected == pytest.approx((13 + 4) / 2, abs=0.5)


def test_the_fixed_slot_of_every_pack_comes_off_before_the_spread_is_judged() -> None:
    """1:0.8 is one in every pack and another in a quarter of them: at random, but 30 of 24 packs looks even."""
    rng = np.random.default_rng(3)
    told = {True: 0, False: 0}
    for _ in range(100):
        counts = [24 + int(rng.binomial(24, 0.25)) for _ in range(10)]
        for off in told:
            found = dispersion(counts, [24] * 10, rng, 300, slots=1 if off else 0)
            told[off] += found.seeding in (Seeding.EVEN, Seeding.CLUMPED)
    assert told[True] <= 100 * 0.05 + 3 * np.sqrt(100 * 0.05 * 0.95)
    assert told[False] > 50
