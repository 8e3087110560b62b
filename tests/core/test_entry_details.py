"""The entry line's words beside number, finish and serial."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from botin.core.catalog.holders import holder, millimetres
from botin.core.catalog.product import Card, Kind, Parallel, Section
from botin.core.opening.entry import EntryReader
from botin.core.opening.entrywords import MARKS, Details, mark_named
from tests.core.test_entry import PRODUCT

MADE = replace(
    PRODUCT,
    sections=(
        Section("base", "Base", Kind.BASE, back_code="301"),
        *PRODUCT.sections[1:],
        Section("dusk", "Dusk photo", Kind.VARIATION, back_code="308", cue="no name on the front"),
    ),
    cards=(
        *PRODUCT.cards,
        Card("dusk", "12", "Rider 12"),
        Card("base", "777", "Orla Thorsby"),
        Card("kings", "SK-9", "Orla Thorsby"),
    ),
    parallels=(*PRODUCT.parallels, Parallel("etch", "Etched", "base", back_code="355")),
)
READER = EntryReader(MADE)
BLANK = ' ,;\t\n\r\x0b\x0c\x1c\x1d\x1e\x1f\x85\xa0"“”'


def details(line: str) -> Details:
    entry = READER.read(line)
    assert entry.problems == ()
    return entry.items[-1].details


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("12 oc", Details(marks=("off-centre",))),
        ("12 corner gum", Details(marks=("soft corner", "gum stain"))),
        ("12 corner corner", Details(marks=("soft corner",))),
        ("12 off-centre upside", Details(marks=("off-centre", "upside down"))),
        ("12 finge", Details(marks=("fingerprint",))),
        ("signed 12 sticker cert:A771", Details(signature="sticker", certificate="A771")),
        ("12 worn", Details(relic="only worn")),
        ("12 @mira_k", Details(owner="mira k")),
        ('12 "look again"', Details(note="look again")),
        ("12 “soft top”", Details(note="soft top")),
        ("12 code:AB-1 by:2027-05-31", Details(claim_code="AB-1", claim_by="2027-05-31")),
        (
            "12 code:A claimed:2027-01-09 received:2027-02-20",
            Details(claim_code="A", claimed_on="2027-01-09", received_on="2027-02-20"),
        ),
        ("12 …301", Details(back_code="301")),
        ("12 ..301", Details(back_code="301")),
        ("12 *301", Details(back_code="301")),
    ],
)
def test_details(line: str, expected: Details) -> None:
    assert details(line) == expected


def test_a_count_is_so_many_copies() -> None:
    entry = READER.read("12 x3 45 cop 2x")
    assert [(item.known.number, item.parallel) for item in entry.items] == [("12", "")] * 3 + [("45", "copper")] * 2


def test_the_back_code_decides_section_and_finish() -> None:
    assert READER.read("12 …308").items[0].known.section == "dusk"
    assert READER.read("12 …355").items[0].parallel == "etch"
    assert READER.read("12 …301").items[0].known.section == "base"
    assert "…999" in READER.read("12 …999").problems[0].message


def test_not_sure_lists_what_it_could_be() -> None:
    for line in ("12 ?", "12?", "12 copper ?"):
        found = READER.read(line).items[0].candidates
        assert {("base", "12", ""), ("base", "12", "copper"), ("dusk", "12", "")} <= set(found), line


def test_part_of_a_name() -> None:
    several = READER.read("thorsby").problems[0]
    assert set(several.suggestions) == {"777", "SK-9"}
    one = EntryReader(replace(MADE, cards=MADE.cards[:-1])).read("thorsby cop")
    assert [(item.known.number, item.parallel) for item in one.items] == [("777", "copper")]


@pytest.mark.parametrize(("line", "typed", "serial"), [("+ gold rider 3/9", "gold rider 3/9", 3), ("+x", "x", None)])
def test_not_on_the_checklist(line: str, typed: str, serial: int | None) -> None:
    (item,) = READER.read(line).items
    assert (item.card, item.typed, item.serial) == (None, typed, serial)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("x3", "behind a card"),
        ("@mira", "behind a card"),
        ("?", "behind a card"),
        ("12 by:soon", "is no date"),
        ("12 x0", "from 1 to 99"),
        ("+", "what the card is"),
        ("kings", "type a number behind it"),
        ('"only a note"', "belongs behind a card"),
    ],
)
def test_what_is_wrong_is_said(line: str, says: str) -> None:
    assert says in READER.read(line).problems[0].message


def test_every_mark_has_a_word_of_its_own() -> None:
    for mark, words in MARKS.items():
        assert mark_named(mark) == mark
        for word in words.split():
            assert mark_named(word) == mark
    assert mark_named("co") is None


def test_details_come_back_as_they_were_kept() -> None:
    full = details('12 corner gum sticker worn cert:A7 code:B-2 by:2027-01-02 …301 @mira "n"')
    assert Details.from_dict(full.to_dict()) == full
    assert full.words().startswith("soft corner, gum stain, sticker")


@settings(max_examples=300, deadline=None)
@given(st.text(max_size=60))
def test_any_line_is_understood_or_answered(line: str) -> None:
    entry = READER.read(line)
    assert entry.items or entry.problems or not line.strip(BLANK)
    assert all(problem.message for problem in entry.problems)


def test_thickness_in_points() -> None:
    """common practice, no source: stock is told in points, 1 pt = 0.001 inch; an inch is 25.4 mm (ISO 80000-3)."""
    assert millimetres(1) == pytest.approx(25.4 / 1000)
    assert [holder(points) for points in (20, 35, 36, 130, 131, 361)] == [35, 35, 55, 130, 180, None]
