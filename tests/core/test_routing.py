"""Routes by hand, the trade's checks on grading, the grade model on simulated graders, and the choice of tiers."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import stats

from botin.core.flags.nets import routes_of
from botin.core.flags.verdict import judge_copy
from botin.core.flags.ways import CopyFacts, Go, GradingCosts, Looking, Priced, Tier
from botin.core.grading.forecast import chances_of, compared, fit_quality, house_of
from botin.core.grading.grades import (
    GRADES,
    NO_LIMITS,
    NOTED,
    Grader,
    Inspection,
    Quality,
    Standard,
    grade_chances,
    noted_look,
)
from botin.core.grading.learning import Returned, brier, learn_grader, reliability
from botin.core.opening.entrywords import MARKS
from botin.core.pricing.fade import Fade
from botin.core.selling.costs import SaleCosts

COSTS = SaleCosts(fee=0.10, fixed=0.5, postage=1.5, bulk_below=0.5, bulk_each=0.02)
PLAIN = Tier("value", 20.0, ceiling=500.0, upcharge=30.0)
GRADING = GradingCosts((PLAIN,), shipping=40.0, together=10)


def routes(copy: CopyFacts, grading: GradingCosts = GRADING) -> dict[Go, float]:
    return {route.go: route.mean for route in routes_of(copy, COSTS, grading)}


def test_each_route_by_hand() -> None:
    """Raw 50: 45 − 2 = 43 now; fading by a fifth: 36 − 2 = 34 later; graded at even chances of 150 and 40."""
    copy = CopyFacts(
        Priced(50.0),
        {10.0: Priced(150.0), 9.0: Priced(40.0)},
        {10.0: 0.5, 9.0: 0.5},
        fade=Fade(13.0, 0.6),
        age_weeks=0.0,
    )
    found = routes(copy)
    assert found[Go.BULK] == 0.02
    assert found[Go.SELL] == pytest.approx(43.0)
    assert found[Go.LATER] == pytest.approx(50 * 0.8 * 0.9 - 2)
    left = 0.6 + 0.4 * 0.5 ** (30 / 7 / 13)  # the price goes on fading for the thirty days the card is away
    high, low = 150 * left * 0.9 - 2, 40 * left * 0.9 - 2
    assert found[Go.GRADE] == pytest.approx(0.5 * high + 0.5 * low - 20 - 4)
    verdict = judge_copy(copy, COSTS, GRADING)
    assert verdict.go in (Go.GRADE, Go.LOOK)
    assert verdict.gem_needed == pytest.approx((43 - (34 - 24)) / ((133 - 24) - (34 - 24)))
    assert verdict.top_only


def test_verdicts() -> None:
    none = CopyFacts(Priced(0.0))
    assert judge_copy(none, COSTS, GRADING).go is Go.PRICE
    assert judge_copy(CopyFacts(Priced(50.0), guessed=True), COSTS, GRADING).go is Go.PRICE
    assert judge_copy(CopyFacts(Priced(1.0)), COSTS, GRADING).go is Go.BULK
    assert judge_copy(CopyFacts(Priced(50.0)), COSTS, GRADING).go is Go.SELL
    assert judge_copy(CopyFacts(Priced(50.0), wanted=True), COSTS, GRADING).go is Go.KEEP
    rising = CopyFacts(Priced(50.0), fade=Fade(5.0, 1.4), age_weeks=0.0)
    assert judge_copy(rising, COSTS, GRADING).go is Go.LATER
    sure = CopyFacts(Priced(20.0), {10.0: Priced(400.0)}, {10.0: 0.8, 9.0: 0.2}, inspected=True)
    assert judge_copy(sure, COSTS, GRADING).go is Go.GRADE
    house = house_of(Quality(9.4, 0.7), Grader(), NO_LIMITS)
    hangs = CopyFacts(
        Priced(20.0), {10.0: Priced(130.0), 9.0: Priced(20.0)}, house.forecast(), looks=compared((("", house),))
    )
    verdict = judge_copy(hangs, COSTS, GRADING)
    assert verdict.go is Go.LOOK
    assert verdict.look_gain > 1
    dear = judge_copy(hangs, COSTS, GRADING, looking=Looking(minutes=60, hourly=100.0))
    assert (dear.go, dear.look_gain) == (Go.GRADE, 0.0)


COPIES = 400_000


@pytest.mark.parametrize("top", [90.0, 130.0, 260.0])
@pytest.mark.parametrize("middle", [8.9, 9.4])
def test_what_a_look_adds_is_what_looking_at_copies_adds(top: float, middle: float) -> None:
    """Copies drawn one by one: true quality, my score in halves, the grade given; then each is sent or sold.

    Without a look all go the better way; with it, those of a score that pays are sent. Nothing of the forecast is used.
    """
    rng = np.random.default_rng(12)
    quality = rng.normal(middle, 0.7, COPIES)
    score = np.clip(np.round((quality + rng.normal(0, 0.7, COPIES)) * 2) / 2, 1, 10)
    given = np.clip(np.round(quality + rng.normal(0, 0.45, COPIES)), 1, 10)
    price = np.select([given == 10, given == 9], [top, 30.0], 12.0)
    sent, sold = 0.9 * price - 2 - 20 - 4, 0.9 * 20 - 2
    by_score = [sent[score == one].mean() if (score == one).any() else 0.0 for one in np.unique(score)]
    share = [(score == one).mean() for one in np.unique(score)]
    gain = float(np.maximum(by_score, sold) @ share) - max(float(sent.mean()), sold)

    house = house_of(Quality(middle, 0.7), Grader(noise=0.45, own_noise=0.7), NO_LIMITS)
    prices = {grade: Priced({10.0: top, 9.0: 30.0}.get(grade, 12.0)) for grade in GRADES}
    copy = CopyFacts(Priced(20.0), prices, house.forecast(), looks=compared((("", house),)))
    assert gain > 0.3
    assert judge_copy(copy, COSTS, GRADING).look_gain == pytest.approx(gain, abs=0.15)


def test_a_verdict_that_flips_inside_the_interval_says_so() -> None:
    shaky = CopyFacts(Priced(2.6, 0.5))
    assert judge_copy(shaky, COSTS, GRADING).flips
    assert not judge_copy(CopyFacts(Priced(200.0, 0.1)), COSTS, GRADING).flips


def test_declared_value_is_the_value_after_grading() -> None:
    """Raw 60, 700 in the top grade: the ceiling of 500 is passed after grading, not before (common practice, no source)."""
    copy = CopyFacts(Priced(60.0), {10.0: Priced(700.0)}, {10.0: 1.0})
    assert routes(copy)[Go.GRADE] == pytest.approx(700 * 0.9 - 2 - 50 - 4)


def test_shipping_is_shared_by_an_order() -> None:
    """One card for 25 + 19 = 44; 38 cards share 43.25, 1.14 each (common practice, no source)."""
    one = GradingCosts((Tier("value", 25.0),), shipping=19.0, together=1)
    assert one.tiers[0].fee + one.each() == pytest.approx(44.0)
    assert GradingCosts((), shipping=43.25, together=38).each() == pytest.approx(1.14, abs=0.005)


def test_risk_of_a_graded_copy_by_scipy() -> None:
    """One grade for certain: the net is a shifted log-normal, its ten and ninety per cent points those of scipy."""
    copy = CopyFacts(Priced(20.0, 0.3), {10.0: Priced(100.0, 0.4)}, {10.0: 1.0})
    found = next(route for route in routes_of(copy, COSTS, GRADING) if route.go is Go.GRADE)
    law = stats.lognorm(0.4, scale=100 * math.exp(-0.5 * 0.4**2))  # its mean is 100
    assert found.p10 == pytest.approx(0.9 * law.ppf(0.1) - 2 - 24, abs=3)
    assert found.p90 == pytest.approx(0.9 * law.ppf(0.9) - 2 - 24, abs=5)
    assert found.loss == pytest.approx(law.cdf(26 / 0.9), abs=0.03)


def test_grade_chances_by_scipy_and_their_cap() -> None:
    law = stats.norm(9.1, 0.8)
    found = grade_chances(9.1, 0.8)
    assert found[10.0] == pytest.approx(law.sf(9.5))
    assert found[9.0] == pytest.approx(law.cdf(9.5) - law.cdf(8.5))
    assert sum(found.values()) == pytest.approx(1.0)
    capped = grade_chances(9.1, 0.8, cap=9.0)
    assert (capped[10.0], capped[9.0]) == (0.0, pytest.approx(law.sf(8.5)))


@pytest.mark.parametrize(("front", "back", "cap"), [(55, 75, 10), (56, 75, 9), (50, 80, 9), (62, 60, 8), (95, 50, 5)])
def test_centering_caps_the_grade(front: float, back: float, cap: float) -> None:
    """55/45 front and 75/25 back for the top grade, 60/40 for the next (from memory; houses differ and change them)."""
    assert Standard("common").cap(Inspection(front=front, back=back)) == cap


def test_quality_is_fitted_from_counts_by_likelihood() -> None:
    rng = np.random.default_rng(1)
    true = rng.normal(8.8, 0.7, 4000) + rng.normal(0, 0.45, 4000)
    grades = np.clip(np.floor(true + 0.5), 1, 10)
    counts = {grade: int((grades == grade).sum()) for grade in GRADES}
    found = fit_quality(counts)
    assert found.mean == pytest.approx(8.8, abs=0.06)
    assert found.spread == pytest.approx(0.7, abs=0.08)
    assert fit_quality({10.0: 2}).counted == 2


def simulated(count: int, bias: float, seed: int) -> list[Returned]:
    rng = np.random.default_rng(seed)
    quality = Quality(9.0, 0.9)
    q = rng.normal(9.0, 0.9, count)
    scores = q + rng.normal(0, 0.55, count)
    grades = np.clip(np.floor(q + bias + rng.normal(0, 0.45, count) + 0.5), 1, 10)
    return [Returned(float(s), float(g), quality) for s, g in zip(scores, grades, strict=True)]


@pytest.mark.parametrize("bias", [-0.6, 0.5])
def test_the_bias_of_a_house_is_learned(bias: float) -> None:
    """120 returns: the interval covers the true bias and excludes 0, in at least nine of ten simulated houses."""
    covered = excluded = 0
    for seed in range(20):
        found = learn_grader(simulated(120, bias, seed))
        covered += found.low <= bias <= found.high
        excluded += found.low > 0 or found.high < 0
    assert covered >= 18
    assert excluded >= 18


def test_forecasts_beat_the_prior_and_are_reliable() -> None:
    """Learned on 150 returns, judged on 400 others: a smaller Brier score than the prior, and bins within their error."""
    bias = -0.4
    grader = learn_grader(simulated(150, bias, 1))
    others = simulated(400, bias, 2)
    quality = Quality(9.0, 0.9)
    prior = chances_of(quality, Grader(), standard=NO_LIMITS)
    looked = [chances_of(quality, grader, Inspection(*4 * (r.score,)), NO_LIMITS) for r in others]
    grades = [r.grade for r in others]
    assert brier(looked, grades) < brier([prior] * len(others), grades) - 0.05
    for step in reliability([f[10.0] for f in looked], [g == 10.0 for g in grades]):
        error = math.sqrt(max(step.forecast * (1 - step.forecast), 0.01) / step.count)
        assert abs(step.share - step.forecast) < 3.5 * error


def test_no_returns_leave_the_prior() -> None:
    assert learn_grader([]) == Grader()
    assert Inspection().score is None


def test_marks_from_the_opening_stand_in_for_a_look() -> None:
    """The worst mark of each part counts; what says nothing of the grade is no look."""
    found = noted_look(("soft corner", "fingerprint", "gum stain", "upside down"))
    assert found == Inspection(corners=7.5, surface=6.0, marks=("soft corner", "fingerprint", "gum stain"))
    assert noted_look(("upside down",)) is None
    assert noted_look(()) is None
    fresh = chances_of(Quality(), Grader())
    assert chances_of(Quality(), Grader(), found)[10.0] < 0.3 * fresh[10.0]
    assert set(NOTED) <= set(MARKS)
