"""Looks, scans, rulers and pins of a copy, and what its flag becomes."""

from __future__ import annotations

import io
import json
from datetime import timedelta
from pathlib import Path

import pytest
from PIL import Image
from sqlalchemy import func, select

from botin.core.errors import ImportRefusedError, NotFoundError, UnreadableFileError
from botin.core.grading.centering import Borders
from botin.core.grading.grades import Inspection
from botin.core.looking.measure import measure_picture
from botin.core.pricing.prices import PriceRow
from botin.desk.flags.everything import is_stale, judge_all
from botin.desk.grading.counts import save_counts
from botin.desk.grading.inspections import looks_at
from botin.desk.looking.glass import Pin, glass, keep_look, put_pin, take_pin
from botin.desk.looking.queue import piles
from botin.desk.looking.scans import add_scan, faces_of, put_rulers
from botin.desk.looking.sheets import keep_sheet, read_sheet
from botin.exchange.looking.pixels import read_pixels
from botin.standins.scanner import SimulatedScanner, Subject, hidden_truth
from botin.store.flags.to_look import to_look
from botin.store.models_copies import FlagRecord, InspectionRecord, PinRecord, ScanRecord
from botin.store.pricing.prices import add_prices
from tests.builders import DAY, Home, make_home


@pytest.fixture
def home(tmp_path: Path) -> Home:
    """A signed card that sells for 60 raw, 240 as a 10 and 80 as a 9; houses give a third tens."""
    made = make_home(tmp_path)
    made.bench.home = tmp_path
    rows = [
        PriceRow("signed", "S-1", "", grade, price * factor, DAY - timedelta(weeks))
        for grade, price in (("", 60.0), ("10", 240.0), ("9", 80.0))
        for weeks, factor in enumerate((0.95, 1.0, 1.05, 1.0))
    ]
    add_prices(made.session, made.record, rows)
    save_counts(made.session, made.bench, made.record, "10; 330\n9; 450\n8; 220")
    made.opened("s-1", "1")
    judge_all(made.session, made.bench)
    return made


def signed(home: Home) -> int:
    (one,) = piles(home.session).first
    return one.copy_id


def test_the_list_begins_with_what_a_look_earns_most_on(home: Home) -> None:
    found = piles(home.session)
    assert [(one.number, one.gain > 0) for one in found.first] == [("S-1", True)]
    assert to_look(home.session) == 1
    assert found.never >= 1


def test_a_kept_look_turns_the_flag_at_once_and_leaves_no_other_undone(home: Home) -> None:
    copy = signed(home)
    before, after = keep_look(home.session, home.bench, copy, Inspection(front=72, corners=10, edges=10, surface=10))
    assert before.go == "look closer"
    assert after.go == "sell now"
    flag = home.session.scalars(select(FlagRecord).where(FlagRecord.copy_id == copy)).one()
    assert flag.go == "sell now"
    alike = select(func.count()).where(FlagRecord.card_id == flag.card_id, FlagRecord.copy_id.is_(None))
    assert home.session.scalar(alike) == 0
    assert to_look(home.session) == 0
    judge_all(home.session, home.bench)
    assert home.session.scalars(select(FlagRecord.go).where(FlagRecord.copy_id == copy)).one() == "sell now"
    assert not is_stale(home.session)


def test_a_clean_look_sends_it_to_be_graded(home: Home) -> None:
    clean = Inspection(front=50, back=50, corners=10, edges=10, surface=10)
    _, after = keep_look(home.session, home.bench, signed(home), clean)
    assert after.go == "grade"


def test_a_look_has_a_day_and_stays_when_a_later_one_is_made(home: Home) -> None:
    copy = signed(home)
    for corners in (9.0, 9.5, 9.5):
        keep_look(home.session, home.bench, copy, Inspection(corners=corners))
    rows = home.session.scalars(select(InspectionRecord).where(InspectionRecord.copy_id == copy)).all()
    assert [json.loads(row.values)["corners"] for row in rows] == [9.0, 9.5]  # the same look again is no other one
    assert looks_at(home.session, [copy])[copy].corners == 9.5
    assert [one.corners for _, one in glass(home.session, home.bench, copy).earlier] == [9.5, 9.0]


def test_a_scan_is_measured_and_kept_with_the_copy(home: Home, tmp_path: Path) -> None:
    copy, subject = signed(home), Subject(7, "Small", "S-1", "Orla Thorsby")
    truth = hidden_truth(subject, "front")
    add_scan(home.session, home.bench, copy, "front", SimulatedScanner().scan(subject, "front"), simulated=True)
    face = faces_of(home.session, copy)["front"]
    assert face.borders is not None
    assert face.borders.left_right == pytest.approx(100 * truth.left / (truth.left + truth.right), abs=0.8)
    assert (tmp_path / "photos" / face.scan.file).is_file()
    assert (tmp_path / "photos" / face.scan.cut).is_file()
    found = glass(home.session, home.bench, copy)
    measured = next(iter(found.chances.values()))
    assert measured != next(iter(found.unseen.values()))  # the forecast uses what was measured

    put_rulers(home.session, face.scan, Borders(1.0, 3.0, 2.0, 2.0))
    moved = faces_of(home.session, copy)["front"]
    assert (moved.moved, moved.borders and moved.borders.larger) == (True, 75.0)
    put_rulers(home.session, face.scan, None)
    assert faces_of(home.session, copy)["front"].borders == face.borders


@pytest.mark.parametrize("data", [b"", b"no picture"])
def test_what_is_no_scan_leaves_nothing(home: Home, data: bytes) -> None:
    with pytest.raises((ImportRefusedError, UnreadableFileError)):
        add_scan(home.session, home.bench, signed(home), "front", data)
    with pytest.raises(NotFoundError):
        add_scan(home.session, home.bench, signed(home), "inside", b"x")
    assert home.session.scalar(select(func.count(ScanRecord.id))) == 0


def test_a_pin_lowers_the_forecast_and_the_raw_price_until_it_is_taken_off(home: Home) -> None:
    copy = signed(home)
    plain = glass(home.session, home.bench, copy)
    pin = Pin("front", "crease", "heavy", 500, 500)
    _, after = put_pin(home.session, home.bench, copy, "once", pin)
    put_pin(home.session, home.bench, copy, "once", pin)
    assert home.session.scalar(select(func.count(PinRecord.id))) == 1
    marked = glass(home.session, home.bench, copy)
    assert marked.look
    assert marked.look.marks == ("heavy crease",)
    for house, chances in marked.chances.items():
        assert chances[10.0] < plain.chances[house][10.0]
    assert after.net < 0.5 * 60
    (row,) = marked.pins
    _, back = take_pin(home.session, home.bench, copy, row.id)
    assert back.go == "look closer"
    assert glass(home.session, home.bench, copy).pins == []


@pytest.mark.parametrize(
    "pin", [Pin("front", "love", "", 1, 1), Pin("edge", "nick", "", 1, 1), Pin("back", "nick", "huge", 1, 1)]
)
def test_only_marks_that_there_are_can_be_pinned(home: Home, pin: Pin) -> None:
    with pytest.raises(NotFoundError, match="is no mark"):
        put_pin(home.session, home.bench, signed(home), "k", pin)


def test_a_centering_typed_while_opening_is_a_look(home: Home) -> None:
    box = home.box()
    copies = home.log(box, "s-2 30/70")
    assert copies[0].marks == "off-centre;centering 30/70"
    look = looks_at(home.session, [copies[0].id])[copies[0].id]
    assert (look.front, look.centering) == (70.0, 7.5)


def test_several_cards_on_one_scan_are_told_apart_and_kept_with_their_copies(home: Home, tmp_path: Path) -> None:
    others = home.opened("s-2", "2")
    copies = [signed(home), *(copy.id for copy in home.copies(others))]
    subjects = [Subject(at, "Small", f"S-{at}", "Orla Thorsby") for at in range(3)]
    cards = read_sheet(SimulatedScanner().sheet(subjects, "front"))
    assert len(cards) == 3
    for refused, words in (({}, "No copy was chosen"), ({0: copies[0], 1: copies[0]}, "chosen for two cards")):
        with pytest.raises(ImportRefusedError, match=words):
            keep_sheet(home.session, home.bench, "front", cards, refused)
    with pytest.raises(NotFoundError):
        keep_sheet(home.session, home.bench, "front", cards, {0: copies[0], 1: 999})
    home.session.rollback()
    assert home.session.scalar(select(func.count(ScanRecord.id))) == 0

    assert keep_sheet(home.session, home.bench, "front", cards, {0: copies[1], 2: copies[0]}) == 2
    for at, copy in ((0, copies[1]), (2, copies[0])):
        truth, face = hidden_truth(subjects[at], "front"), faces_of(home.session, copy)["front"]
        assert face.borders is not None
        assert face.borders.left_right == pytest.approx(100 * truth.left / (truth.left + truth.right), abs=0.8)
        assert (tmp_path / "photos" / face.scan.file).is_file()
        # The part of the scan that is kept measures the same by itself.
        again = read_pixels((tmp_path / "photos" / face.scan.file).read_bytes())
        (alone,) = measure_picture(again.rgb, again.dpi)
        assert alone.left_right == pytest.approx(face.borders.left_right, abs=0.5)
        assert alone.corners[0] == pytest.approx(tuple(face.measured["corners"][0]), abs=1.0)


def test_a_scan_in_a_format_of_scanners_is_kept_as_a_photo(home: Home) -> None:
    copy, out = signed(home), io.BytesIO()
    scan = Image.open(io.BytesIO(SimulatedScanner().scan(Subject(7, "Small", "S-1", "Orla Thorsby"), "front")))
    scan.save(out, "TIFF", dpi=(300, 300))
    made = add_scan(home.session, home.bench, copy, "front", out.getvalue())
    assert made.mime == "image/jpeg"
    assert faces_of(home.session, copy)["front"].borders is not None


def test_a_sheet_without_a_card_is_refused(home: Home) -> None:
    with pytest.raises(UnreadableFileError):
        read_sheet(b"no picture")
    out = io.BytesIO()
    Image.new("RGB", (400, 300), "grey").save(out, "PNG")
    with pytest.raises(ImportRefusedError, match="No card was found"):
        read_sheet(out.getvalue())
