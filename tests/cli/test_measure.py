"""``botin measure``: JSON as the contract has it; a file that cannot be read does not keep the others waiting."""

from __future__ import annotations

import json
import random
from pathlib import Path

import cv2
import pytest
from click.testing import CliRunner

from botin.exchange.catalog.package import write_folder
from botin.main import cli
from tests.scans.backs import design_of, product_of, scan_backs
from tests.scans.draw import Card, Ding
from tests.scans.scan import Laid, scan


def test_measure_says_corners_centering_interval_borders_and_wear(tmp_path: Path) -> None:
    card = Card((3.0, 4.5, 3.6, 4.2), (30, 40, 180), dings=[Ding("ur", 1.2)])
    made = scan(random.Random(3), [Laid(card, 50, 62, 1.0)], (100, 124))
    cv2.imwrite(str(tmp_path / "one.png"), made.picture)
    (tmp_path / "none.jpg").write_bytes(b"no picture")
    files = [str(tmp_path / name) for name in ("none.jpg", "one.png", "gone.png")]
    answer = CliRunner().invoke(cli, ["measure", *files, "--dpi", "300", "--json"])
    assert answer.exit_code == 0, answer.output
    none, one, gone = json.loads(answer.output)["images"]
    assert [none["file"], one["file"], gone["file"]] == files
    assert "no picture" in none["error"]
    assert "cannot be opened" in gone["error"]
    (found,) = one["cards"]
    assert found["measured"] is True
    assert found["left_right"] == pytest.approx(40.0, abs=0.6)
    assert found["top_bottom"] == pytest.approx(100 * 3.6 / 7.8, abs=0.6)
    assert found["low"][0] < 40.0 < found["high"][0]
    assert found["borders"]["right"] == pytest.approx(4.5, abs=0.1)
    assert found["wear"]["corners"][1] == pytest.approx(1.2, abs=0.4)
    assert found["wear"]["corners"][0] == found["wear"]["edges"][3] == 0.0
    assert abs(found["corners"][0][0] - made.cards[0][1][0][0]) < 1


def test_backs_are_read_against_a_package(tmp_path: Path) -> None:
    rng = random.Random(2)
    product = product_of(rng)
    made = scan_backs(rng, product, design_of(rng), count=1)
    cv2.imwrite(str(tmp_path / "back.png"), made.picture)
    write_folder(product, tmp_path / "package")
    words = [
        "backs",
        str(tmp_path / "back.png"),
        str(tmp_path / "gone.png"),
        "--package",
        str(tmp_path / "package"),
        "--dpi",
        "300",
        "--json",
    ]
    answer = CliRunner().invoke(cli, words)
    assert answer.exit_code == 0, answer.output
    one, gone = json.loads(answer.output)["images"]
    (card,) = one["cards"]
    assert (card["section"], card["number"], card["parallel"], card["sure"]) == (*made.truth[0], True)
    assert card["code"]
    assert card["candidates"] == [dict(zip(("section", "number", "parallel"), made.truth[0], strict=True))]
    assert "cannot be opened" in gone["error"]
