"""A box as the logs show it: printed averages moved, promises kept, the base giving way."""

from __future__ import annotations

import numpy as np
import pytest

from botin.core.catalog.product import OddsRow
from botin.core.insight.learning import Seeding, per_box
from botin.core.insight.luck import line_luck
from botin.core.insight.measured import Measured, measured_model
from botin.core.odds.lines import BoxModel, box_model
from tests.core.small import product

SIGNED, COPPER, SLATE = ("signed", "", ""), ("base", "copper", ""), ("base", "slate", "")


def model(*rows: OddsRow) -> BoxModel:
    made = product(*rows)
    return box_model(made, made.formats[0])


PRINTED = model(OddsRow("hobby", "signed", packs_per_hit="12"), OddsRow("hobby", "base", "copper", per_box="3"))


def seen(
    count: int, boxes: int, printed: float | None, seeding: Seeding = Seeding.TOO_FEW, surprise: float = 0.001
) -> Measured:
    return Measured(per_box(count, boxes, printed), seeding, surprise)


def test_contradicted_averages_are_moved_by_their_weight() -> None:
    """Gamma(2·4 + 30, 4 + 6): 38 ÷ 10 = 3.8 signed a box where 2 are printed, in 24 packs as before."""
    found = measured_model(PRINTED, {SIGNED: seen(30, 6, 2.0)})
    line = next(line for line in found.lines if line.key == SIGNED)
    assert line.expected == pytest.approx(3.8)
    assert line.law is not None
    assert line.law.binomials == ((24, pytest.approx(3.8 / 24)),)
    rest = sum(line.expected or 0 for line in found.lines if line.is_rest)
    before = sum(line.expected or 0 for line in PRINTED.lines if line.is_rest)
    assert before - rest == pytest.approx(1.8)
    assert "6 logged boxes moved Signed" in " ".join(found.assumptions)
    assert sum("base fills" in note for note in found.assumptions) == 1


def test_a_rare_line_that_did_not_come_keeps_its_odds() -> None:
    """None of a line of 0.3 a box in five boxes is nothing unusual (e^−1.5 = 22 %): the print stands."""
    found = measured_model(PRINTED, {SIGNED: seen(0, 5, 0.3, surprise=0.45), COPPER: seen(15, 5, 3.0, surprise=1.0)})
    assert [line.law for line in found.lines] == [line.law for line in PRINTED.lines]
    assert "5 logged boxes agree with the print" in found.assumptions


def test_an_even_spread_is_taken_over() -> None:
    """Measured 2.5 a box and spread evenly: two for certain, and a third in half of the boxes."""
    found = measured_model(PRINTED, {SIGNED: seen(12, 4, 2.0, Seeding.EVEN)})
    law = next(line.law for line in found.lines if line.key == SIGNED)
    assert law is not None
    assert (law.fixed, law.binomials) == (2, ((1, pytest.approx(0.5)),))
    same = measured_model(PRINTED, {SIGNED: seen(8, 4, 2.0, Seeding.EVEN, 1.0)})
    even = next(line.law for line in same.lines if line.key == SIGNED)
    assert even is not None
    assert (even.fixed, even.binomials) == (2, ())
    assert "1 lines spread as the boxes had them" in same.assumptions


def test_clumped_lines_are_at_random() -> None:
    found = measured_model(PRINTED, {SIGNED: seen(12, 4, 2.0, Seeding.CLUMPED)})
    law = next(line.law for line in found.lines if line.key == SIGNED)
    assert law is not None
    assert law.poisson == pytest.approx(2.5)


def test_lines_without_printed_odds_are_learned() -> None:
    """Jeffreys: (6 + ½) ÷ 4 a box where nothing is printed."""
    blank = model(OddsRow("hobby", "signed"), OddsRow("hobby", "base", "copper", per_box="3"))
    assert any("odds not printed" in note for note in blank.assumptions)
    found = measured_model(blank, {SIGNED: seen(6, 4, None, surprise=1.0)})
    assert next(line.expected for line in found.lines if line.key == SIGNED) == pytest.approx(6.5 / 4)
    assert not any("odds not printed" in note for note in found.assumptions)


def test_promises_stay_as_stated() -> None:
    promised = model(OddsRow("hobby", "signed", per_box="2", promise="exact"))
    found = measured_model(promised, {SIGNED: seen(1, 8, 2.0)})
    assert [line.law for line in found.lines] == [line.law for line in promised.lines]


def test_nothing_measured_changes_nothing() -> None:
    assert measured_model(PRINTED, {}) is PRINTED


def test_with_many_boxes_the_truth_is_found() -> None:
    """400 boxes drawn at 1.1 a box where 2 are printed: the measured mean is within three standard errors of 1.1."""
    rng = np.random.default_rng(5)
    total = int(rng.binomial(24, 1.1 / 24, 400).sum())
    luck = {row.line.key: row.adjusted for row in line_luck(PRINTED, {SIGNED: total, COPPER: 1_200}, 400)}
    assert luck[SIGNED] is not None
    found = measured_model(PRINTED, {SIGNED: seen(total, 400, 2.0, Seeding.RANDOM, luck[SIGNED] or 0.0)})
    mean = next(line.expected for line in found.lines if line.key == SIGNED)
    assert mean == pytest.approx(1.1, abs=3 * np.sqrt(1.1 / 400) + 0.01)


def test_true_odds_are_hardly_ever_called_wrong() -> None:
    """Eight boxes drawn from the print 400 times: the corrected test moves an average in fewer than one of twelve."""
    rng, wrong = np.random.default_rng(8), 0
    laws = {line.key: line.law for line in PRINTED.lines if line.law is not None}
    for _ in range(400):
        counts = {key: int(law.draw(rng, 8).sum()) for key, law in laws.items()}
        wrong += any(
            (row.adjusted or 1.0) < 0.05 for row in line_luck(PRINTED, counts, 8) if row.adjusted is not None
        )
    assert wrong < 400 / 12
