"""Laws of a count against scipy's, and against facts of the trade."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from botin.core.counts import CountLaw, average_law, per_pack_law, promised_law

PACKS = 24


@pytest.mark.parametrize(("packs", "odds"), [(24, 8), (24, 12), (7, 1.5), (288, 124), (10, 1000)])
def test_odds_are_binomial_over_packs(packs: int, odds: float) -> None:
    """Outside check: scipy.stats.binom."""
    law = per_pack_law(1 / odds, packs)
    reference = stats.binom(packs, 1 / odds)
    np.testing.assert_allclose(law.pmf(), reference.pmf(np.arange(packs + 1)), rtol=1e-10, atol=1e-300)
    assert law.mean == pytest.approx(reference.mean())
    assert law.variance == pytest.approx(reference.var())
    assert law.at_least(2) == pytest.approx(reference.sf(1))
    assert law.at_most(1) == pytest.approx(reference.cdf(1))


@pytest.mark.parametrize("mean", [0.03, 1.7, 40.0])
def test_random_averages_are_poisson(mean: float) -> None:
    """Outside check: scipy.stats.poisson."""
    law = average_law(mean, "random")
    for k in (0, 1, 2, 5, 60):
        assert law.at_least(k) == pytest.approx(stats.poisson(mean).sf(k - 1), abs=1e-12)


@pytest.mark.parametrize(
    ("odds", "at_least", "share"),
    [(12, 2, 0.606), (15, 1, 0.809), (29, 1, 0.569)],
)
def test_an_average_is_not_a_guarantee(odds: int, at_least: int, share: float) -> None:
    """common practice, no source: 1:12 in 24 packs gives two or more in 60.6 % of boxes; 1:15, 1:29."""
    assert per_pack_law(1 / odds, PACKS).at_least(at_least) == pytest.approx(share, abs=5e-4)


@pytest.mark.parametrize(("odds", "count"), [(8, 3.0), (10, 2.4), (14, 1.7)])
def test_odds_times_packs(odds: int, count: float) -> None:
    """common practice, no source: 1:8, 1:10 and 1:14 in a 24-pack box are 3, 2.4 and 1.7."""
    assert per_pack_law(1 / odds, PACKS).mean == pytest.approx(count, abs=0.05)


def test_autographs_and_relics_over_a_case() -> None:
    """common practice, no source: 1:124 and 1:78 are 1:48 together; over 288 packs 6.0 hits, 2.3 and 3.7 of each."""
    packs = 12 * PACKS
    signed, worn = per_pack_law(1 / 124, packs).mean, per_pack_law(1 / 78, packs).mean
    assert round(signed, 1) == 2.3
    assert round(worn, 1) == 3.7
    assert round(signed + worn, 1) == 6.0
    assert round(packs / (signed + worn)) == 48


def test_more_than_one_a_pack_is_sure_plus_a_chance() -> None:
    law = per_pack_law(2.25, 4)
    assert (law.fixed, law.binomials) == (8, ((4, 0.25),))
    assert law.at_least(8) == 1.0


def test_promises() -> None:
    assert promised_law(4, "exact", 9.0, "even") == CountLaw(fixed=4)
    over = promised_law(2, "at_least", 2.3, "even")
    assert over.at_least(2) == 1.0
    assert over.mean == pytest.approx(2.3)
    assert promised_law(2, "at_least", 1.1, "even").mean == 2
    even = promised_law(1.4, "average", None, "even")
    assert (even.at_least(1), even.at_least(2)) == (1.0, pytest.approx(0.4))
    assert promised_law(1.4, "average", None, "random").at_least(1) == pytest.approx(1 - np.exp(-1.4))


def test_a_sum_of_parts_is_their_convolution() -> None:
    """Outside check: the sum of independent parts, enumerated with numpy.convolve of scipy's own."""
    law = CountLaw(fixed=1, binomials=((5, 0.3), (2, 0.9)), poisson=0.4)
    poisson = stats.poisson(0.4).pmf(np.arange(20))
    parts = np.convolve(np.convolve(stats.binom(5, 0.3).pmf(range(6)), stats.binom(2, 0.9).pmf(range(3))), poisson)
    np.testing.assert_allclose(law.pmf()[1:15], parts[:14], rtol=1e-10)
