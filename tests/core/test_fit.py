"""The mixed model of prices against published data, against the same model by covariances, and against leaving out."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import stats

from botin.core.pricing.fit import RUN_WORTH, USUAL, Design, Evidence, Spreads, _learned, design_of, learn, solve

DYESTUFF = {
    "A": (1545, 1440, 1440, 1520, 1580),
    "B": (1540, 1555, 1490, 1560, 1495),
    "C": (1595, 1550, 1605, 1510, 1560),
    "D": (1445, 1440, 1595, 1465, 1545),
    "E": (1595, 1630, 1515, 1635, 1625),
    "F": (1520, 1455, 1450, 1480, 1445),
}
"""Yield of dyestuff from six batches of an intermediate product, five samples each: Davies (1947), Statistical Methods
in Research and Production, table 6.1; Box and Tiao (1973), Bayesian Inference in Statistical Analysis, table 5.1.2."""
BETWEEN, WITHIN = 1764.05, 2451.25
"""Variance between batches and within them: table 5.1.3 of Box and Tiao; the same by restricted likelihood."""
MEAN = 1527.5


def one_level() -> Design:
    """One section and finish, without a run: all that differs is the batch."""
    return design_of(np.zeros(1, np.int64), np.zeros(1, np.int64), np.zeros(1), len(DYESTUFF))


def batches(unit: float) -> tuple[Evidence, np.ndarray]:
    """The samples as prices, in units that one may choose: a batch is a player, what lies within is noise."""
    values = np.array([value for batch in DYESTUFF.values() for value in batch]) * unit
    size = len(values)
    rows = Evidence(
        person=np.repeat(np.arange(6), 5), level=np.zeros(size, np.int64), value=values,
        precision=np.full(size, 1 / (WITHIN * unit**2)), own=np.zeros(size), copies=np.ones(size),
    )  # fmt: skip
    return rows, rows.precision


UNIT = USUAL["person"] / math.sqrt(BETWEEN)
"""So that what spreads are drawn to lies on the published answer: there it must neither pull nor push."""


def test_the_published_spread_between_batches_is_where_learning_stands_still() -> None:
    rows, weight = batches(UNIT)
    fit = solve(one_level(), rows, weight, Spreads(person=math.sqrt(BETWEEN) * UNIT))
    assert _learned(fit, rows).person / UNIT == pytest.approx(math.sqrt(BETWEEN), rel=1e-4)


@pytest.mark.parametrize("start", [0.3, 2.0])
def test_learning_finds_the_published_spread_from_either_side(start: float) -> None:
    rows, _ = batches(UNIT)
    found = learn(one_level(), rows, Spreads(person=start), rounds=200)
    assert found.spreads.person / UNIT == pytest.approx(math.sqrt(BETWEEN), rel=1e-3)


def test_effects_of_the_batches_are_those_of_the_published_analysis() -> None:
    """Each mean is drawn to the overall mean by 5·1764.05 ÷ (5·1764.05 + 2451.25) (Henderson 1950; Robinson 1991)."""
    rows, weight = batches(UNIT)
    fit = solve(one_level(), rows, weight, Spreads(person=math.sqrt(BETWEEN) * UNIT))
    kept = 5 * BETWEEN / (5 * BETWEEN + WITHIN)
    means = np.array([np.mean(batch) for batch in DYESTUFF.values()])
    level = float(fit.mean(np.array([-1]), np.array([0]))[0]) / UNIT
    assert level == pytest.approx(MEAN, rel=1e-3)
    assert fit.people / UNIT == pytest.approx(kept * (means - MEAN), abs=0.5)


def crossed(seed: int, rows: int = 160) -> tuple[Design, Evidence, np.ndarray]:
    """Players and six levels (three sections in two finishes, one of them with runs), met unevenly."""
    rng = np.random.default_rng(seed)
    sections, finishes = np.repeat(np.arange(3), 2), np.tile(np.arange(2), 3)
    design = design_of(sections, finishes, np.where(finishes > 0, [0, 99, 0, 25, 0, 10], 0).astype(float), 30)
    found = Evidence(
        person=rng.integers(-1, 30, rows), level=rng.integers(0, 6, rows), value=rng.normal(1.5, 1.2, rows),
        precision=rng.uniform(1, 30, rows), own=np.ones(rows), copies=np.ones(rows),
    )  # fmt: skip
    return design, found, 1 / (USUAL["own"] ** 2 + 1 / found.precision)


def by_covariances(design: Design, rows: Evidence, weight: np.ndarray, who: tuple[int, int]) -> tuple[float, float]:
    """Mean and variance of a version given the rows: a joint normal, conditioned; nothing is eliminated."""
    spreads = Spreads()
    columns = np.hstack((design.rows[rows.level], np.eye(30)[rows.person] * (rows.person >= 0)[:, None]))
    asked = np.append(design.rows[who[1]], np.eye(30)[who[0]])
    spread = np.append(1 / spreads.precisions()[design.kind], np.full(30, spreads.person**2))
    prior = np.where(design.kind == 1, RUN_WORTH, 0.0)
    start = np.append(prior, np.zeros(30))
    centre = float(weight @ rows.value / weight.sum())
    mixed = (columns * spread) @ columns.T + np.diag(1 / weight)
    pull = np.linalg.solve(mixed, (columns * spread) @ asked)
    mean = centre + start @ asked + pull @ (rows.value - centre - columns @ start)
    return float(mean), float((asked * spread) @ asked - pull @ ((columns * spread) @ asked))


@pytest.mark.parametrize("seed", range(3))
def test_the_model_is_the_conditional_normal(seed: int) -> None:
    design, rows, weight = crossed(seed)
    fit = solve(design, rows, weight, Spreads())
    for who, level in ((0, 0), (7, 3), (29, 5)):
        mean, variance = by_covariances(design, rows, weight, (who, level))
        assert fit.mean(np.array([who]), np.array([level]))[0] == pytest.approx(mean, abs=1e-6)
        assert fit.variance(np.array([who]), np.array([level]))[0] == pytest.approx(variance, rel=1e-5)


def test_left_out_is_what_a_fit_without_the_row_says() -> None:
    design, rows, weight = crossed(9)
    mean, variance = solve(design, rows, weight, Spreads()).without(rows)
    for out in (0, 31, 77, 159):
        kept = np.arange(len(rows.value)) != out
        less = Evidence(
            *(getattr(rows, name)[kept] for name in ("person", "level", "value", "precision", "own", "copies"))
        )
        fit = solve(design, less, weight[kept], Spreads())
        who, level = rows.person[out : out + 1], rows.level[out : out + 1]
        assert mean[out] == pytest.approx(fit.mean(who, level)[0], abs=2e-3)
        assert variance[out] == pytest.approx(fit.variance(who, level)[0], rel=2e-3)


def test_the_most_likely_scale_of_what_is_a_versions_own_is_scipys() -> None:
    """Residuals drawn from Student's t of four degrees: the scale that is found is that of the likelihood's top."""
    left = stats.t(4, scale=0.5).rvs(1200, random_state=5)
    from botin.core.pricing.fit import SPREADS, _own_spread

    _, _, scale = stats.t.fit(left, f0=4, floc=0)
    step = float(SPREADS[1] / SPREADS[0])
    assert _own_spread(left, np.zeros(len(left))) == pytest.approx(scale, rel=step - 1 + 0.01)
