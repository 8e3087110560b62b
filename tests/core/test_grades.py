"""What a forecast of grades must hold: the counts come back without a look, looks average out, better is never worse."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from botin.core.errors import DamageTableError
from botin.core.grading.forecast import chances_of, compared, house_of, quality_from, told_apart
from botin.core.grading.grades import COMMON, GRADES, NO_LIMITS, Grader, Inspection, Limit, Quality, Standard
from botin.core.pricing.damage import damage, damage_table

COUNTS = {10.0: 410, 9.0: 530, 8.0: 190, 7.0: 40, 6.0: 12}
HALVES = {10.0: 300, 9.5: 420, 9.0: 180, 8.5: 60, 8.0: 40}
GEMS = {10.0: 900, 9.0: 80, 8.0: 20}


def looks(score: float) -> Inspection:
    return Inspection(score, score, score, score)


def test_a_perfect_score_against_simulated_graders() -> None:
    """q ~ N(9.2, 0.9²), own noise 0.7, grader noise 0.45: a 10 of mine gets the top grade in 0.73 (million graders)."""
    rng = np.random.default_rng(5)
    q = rng.normal(9.2, 0.9, 1_000_000)
    mine = q + rng.normal(0, 0.7, len(q)) >= 9.75
    got = q + rng.normal(0, 0.45, len(q)) >= 9.5
    truth = float(got[mine].mean())
    assert truth == pytest.approx(0.73, abs=0.01)
    found = chances_of(Quality(9.2, 0.9), Grader(noise=0.45, own_noise=0.7), looks(10), NO_LIMITS)
    assert found[10.0] == pytest.approx(truth, abs=0.01)


@pytest.mark.parametrize("counts", [COUNTS, HALVES, GEMS])
@pytest.mark.parametrize(("bias", "noise"), [(0.0, 0.45), (0.6, 0.3), (-0.6, 0.9)])
def test_without_a_look_the_forecast_is_the_shares_of_the_counts(
    counts: dict[float, int], bias: float, noise: float
) -> None:
    total = sum(counts.values())
    found = chances_of(quality_from(counts, total), Grader(bias=bias, noise=noise))
    for grade in GRADES:
        assert found.get(grade, 0.0) == pytest.approx(counts.get(grade, 0) / total, abs=0.005)
    assert sum(found.values()) == pytest.approx(1.0)


@pytest.mark.parametrize("counts", [COUNTS, HALVES, GEMS])
@pytest.mark.parametrize("standard", [COMMON, NO_LIMITS])
def test_what_looks_can_show_averages_to_the_forecast_without_one(
    counts: dict[float, int], standard: Standard
) -> None:
    house = house_of(quality_from(counts, sum(counts.values())), Grader(bias=0.2), standard)
    ahead = compared((("", house),))[""]
    assert ahead.weights.sum() == pytest.approx(1.0)
    plain = house.forecast()
    for grade, mean in zip(ahead.grades, (ahead.weights @ ahead.chances).tolist(), strict=True):
        assert mean == pytest.approx(plain[grade], abs=0.005)


def test_better_is_never_worse() -> None:
    quality, grader = quality_from(COUNTS, 1182), Grader()
    steps = [x / 2 for x in range(2, 21)]
    for other in (7.0, 9.5):
        tops = [chances_of(quality, grader, Inspection(corners=score, edges=other))[10.0] for score in steps]
        assert all(late >= early - 1e-12 for early, late in itertools.pairwise(tops))
    fronts = [
        chances_of(quality, grader, Inspection(corners=9.5, front=front))[10.0] for front in (50, 54, 55, 56, 62)
    ]
    assert fronts == sorted(fronts, reverse=True)
    assert fronts[0] >= chances_of(quality, grader, Inspection(corners=9.5))[10.0]
    assert fronts[3] == 0.0
    four = looks(10)
    measured = Inspection(10, 10, 10, 10, front=50, back=50)
    assert chances_of(quality, grader, measured)[10.0] >= chances_of(quality, grader, four)[10.0]


def test_limits_in_any_order_cap_alike() -> None:
    rising = Standard("x", (Limit(8, 65, 90), Limit(9, 60, 90), Limit(10, 55, 75)))
    assert rising.cap(Inspection(front=50, back=50)) == 10
    assert rising.cap(Inspection(front=58)) == 9
    assert Standard("only 9", (Limit(9, 60, 90),)).cap(Inspection(front=50)) == 10


def test_half_grades_are_given_where_the_counts_have_them() -> None:
    assert 9.5 in chances_of(quality_from(HALVES, 1000), Grader())
    assert 9.5 not in chances_of(quality_from(COUNTS, 1182), Grader())


def test_houses_are_told_apart_by_their_counts() -> None:
    strict = quality_from({10.0: 250, 9.0: 500, 8.0: 200, 7.0: 50}, 1000)
    kind = quality_from({10.0: 550, 9.0: 350, 8.0: 80, 7.0: 20}, 1000)
    found = told_apart({"A": strict, "B": kind})
    assert found["A"] == pytest.approx(-found["B"])
    assert found["A"] < -0.1
    assert told_apart({"A": strict}) == {"A": 0.0}


def test_damage_lowers_the_raw_price_by_kind_and_severity() -> None:
    assert damage(()) == 1.0
    assert damage(("gum stain",)) == pytest.approx(0.55)
    assert damage(("slight gum stain",)) > damage(("gum stain",)) > damage(("heavy gum stain",))
    assert damage(("upside down",)) == 1.0
    assert damage(("gum stain",), damage_table("gum stain; 40 %")) == pytest.approx(0.4)
    for text in ("gum stain", "gum; 140", "; 5", "gum; much"):
        with pytest.raises(DamageTableError):
            damage_table(text)


def test_measured_centering_makes_the_forecast_better_on_simulated_graders() -> None:
    """Brier scores (Brier 1950: the mean squared error of a chance) of the top grade, with and without it.

    The graders are simulated apart from the forecast: quality, two borders, a grader's noise, the limit of the top
    grade; a scan measures the borders to 0.4 points (the 95 % error of the scans is under 0.6).
    """
    rng = np.random.default_rng(5)
    size, noise, own = 4_000, 0.45, 0.7
    quality = rng.normal(9.2, 0.9, size)
    border = 50 + np.abs(rng.normal(0, 4, (size, 2))).max(axis=1)
    graded = quality + rng.normal(0, noise, size)
    top = (graded >= 9.5) & (border <= 55)
    seen = np.clip(np.round(2 * (quality + rng.normal(0, own, size))) / 2, 1, 10)
    measured = np.clip(border + rng.normal(0, 0.3, size), 50, 99)
    shares = {10.0: float(top.mean())}
    below = graded.copy()
    below[(border > 55) & (below >= 9.5)] = 9.0
    for grade in (9, 8, 7, 6, 5):
        shares[float(grade)] = float(((below >= grade - 0.5) & (below < grade + 0.5) & ~top).mean())
    house = house_of(Quality(counted=size, shares=tuple(shares.items())), Grader(noise=noise, own_noise=own))
    said = {}
    for name, fronts in (("without", [None] * size), ("with", measured.tolist())):
        each = [
            house.forecast(Inspection(corners=score, edges=score, surface=score, front=front))[10.0]
            for score, front in zip(seen.tolist(), fronts, strict=True)
        ]
        said[name] = float(((np.array(each) - top) ** 2).mean())
    nothing = float(((house.forecast()[10.0] - top) ** 2).mean())
    assert said["with"] < 0.9 * said["without"] < 0.95 * nothing
