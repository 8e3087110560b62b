"""Centering and wear on simulated scans with a known truth; the full count is in ``make bench``.

The aims are those of a good measurement by hand: common practice, no source. A card is 2.5 by 3.5 inches (common
practice, no source). Nothing of the pictures is shared with what measures them.
"""

from __future__ import annotations

import random

import numpy as np
import pytest

from botin.core.looking.measure import measure_picture
from tests.scans.draw import Card
from tests.scans.scan import Laid, scan
from tests.scans.score import scans, score


def test_single_cards_at_300_dots_an_inch() -> None:
    found = score(scans("one", range(7), worn=0.6))
    assert found.measured == found.bordered == 7
    assert found.p95 <= 0.6, found.line()
    assert max(found.errors) <= 2.5
    assert np.mean(found.covered) >= 0.88
    assert max(found.half_widths) <= 3.0
    assert found.found >= 0.9 * (found.found + found.missed) > 0
    assert found.false <= 0.02 * found.clean


def test_a_full_bleed_claims_no_border_and_says_so() -> None:
    made = list(scans("one", range(4), bleed=True))
    assert score(made).claimed == 0
    (card,) = measure_picture(np.ascontiguousarray(made[0].picture[:, :, ::-1]), 300)
    assert card.outlined
    assert card.left_right is None
    assert "no printed border" in card.why


@pytest.mark.parametrize(
    ("kind", "how"), [("sleeve", {}), ("touching", {}), ("photo", {}), ("one", {"dpi": 150})], ids=str
)
def test_harder_pictures(kind: str, how: dict[str, int]) -> None:
    found = score(scans(kind, range(20, 22), **how))
    assert found.outlined == found.cards
    assert found.measured >= found.bordered - 1
    assert found.p95 <= 1.5, found.line()


def test_thin_borders_are_placed_to_half_a_pixel() -> None:
    found = score(scans("one", range(3), bed_name="grey", thin=True))
    assert found.measured == 3
    assert np.percentile(found.worst_px, 75) <= 0.6, found.line()
    assert max(found.worst_px) <= 1.0, found.line()


def test_without_dots_an_inch_the_shape_of_a_card_is_enough() -> None:
    found = score(scans("one", range(3, 6), bed_name="grey"), dpi_told=False)
    assert found.measured == 3
    assert found.p95 <= 0.6


@pytest.mark.slow
def test_two_that_touch_are_two_also_without_dots_an_inch() -> None:
    """Side by side they are 1.43 times as wide as high, one alone is 1.40 times as high as wide."""
    found = score(scans("touching", range(20, 22), bed_name="grey"), dpi_told=False)
    assert found.outlined == found.cards == 4
    assert found.p95 <= 1.5


def test_a_wrong_number_of_dots_an_inch_is_not_used_and_said() -> None:
    (made,) = scans("one", range(3, 4))
    (card,) = measure_picture(np.ascontiguousarray(made.picture[:, :, ::-1]), 600)
    assert card.borders is not None
    assert "600 dots an inch do not fit" in card.notes[0]


def test_left_and_top_are_those_of_the_picture_however_the_card_lies() -> None:
    card = Card((2.5, 5.0, 3.0, 6.0), (30, 40, 180))
    made = scan(random.Random(4), [Laid(card, 62, 50, 90.0)], (124, 100), bed_name="grey")
    (found,) = measure_picture(np.ascontiguousarray(made.picture[:, :, ::-1]), 300)
    # Turned a quarter clockwise the card's left is on top and its bottom on the left.
    assert found.left_right == pytest.approx(100 * 6 / 9, abs=0.6)
    assert found.top_bottom == pytest.approx(100 * 2.5 / 7.5, abs=0.6)
    assert found.corners[0][0] < found.corners[1][0]
    assert found.corners[0][1] < found.corners[3][1]


def test_a_card_nobody_can_tell_from_the_bed_is_not_measured() -> None:
    card = Card((3.0, 3.0, 3.0, 3.0), (22, 22, 24))
    made = scan(random.Random(5), [Laid(card, 50, 62)], (100, 124), bed_name="black")
    for dpi in (300, None):
        found = measure_picture(np.ascontiguousarray(made.picture[:, :, ::-1]), dpi)
        assert all(one.borders is None for one in found)
        assert all(one.why for one in found)


def test_a_card_cut_to_its_rim_is_taken_as_the_picture() -> None:
    card = Card((3.0, 4.0, 3.5, 3.5), (30, 40, 180))
    made = scan(random.Random(6), [Laid(card, 31.75, 44.45)], (63.5, 88.9), bed_name="grey")
    (found,) = measure_picture(np.ascontiguousarray(made.picture[:, :, ::-1]), None)
    assert found.left_right == pytest.approx(100 * 3 / 7, abs=2)
    assert found.notes


def test_white_borders_show_no_whitening() -> None:
    card = Card((4.0, 4.0, 4.0, 4.0), (240, 240, 238))
    made = scan(random.Random(7), [Laid(card, 50, 62)], (100, 124), bed_name="grey")
    (found,) = measure_picture(np.ascontiguousarray(made.picture[:, :, ::-1]), 300)
    assert found.wear.corners == found.wear.edges == (None,) * 4
