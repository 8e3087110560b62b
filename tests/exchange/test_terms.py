"""Tables of fees as they are typed: what is read, and what is refused with the line it stands on."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path

import pytest

from botin.core.errors import UnreadableFileError
from botin.core.flags.ways import Tier
from botin.core.grading.grades import Inspection
from botin.core.selling.costs import Channel, PostageStep
from botin.exchange.selling.fees import read_fees
from botin.exchange.selling.feestext import (
    TermsError,
    read_channels,
    read_postage,
    read_rates,
    read_standards,
    read_tiers,
)

TODAY = date(2026, 11, 24)


def test_tiers_of_houses() -> None:
    found = read_tiers("plain; 30\n\nHouse A:\neconomy; 16,50; 200; 12; 65; 20; member\nHouse B:\nvalue; 14")
    assert found == (
        Tier("plain", 30.0),
        Tier("economy", 16.5, 200.0, 12.0, 65.0, 20, member=True, house="House A"),
        Tier("value", 14.0, house="House B"),
    )
    assert found[1].label == "House A economy"


def test_channels_and_postage() -> None:
    assert read_channels("listing; 12 %; 0.3; 0.4; 6\ntable; 0; 1.5; ; 4; 2; 60; by hand") == (
        Channel("listing", 0.12, 0.3, 0.4, 6.0),
        Channel("table", 0.0, 1.5, 0.0, 4.0, 2.0, 60.0, sent=False),
    )
    assert read_postage("20; 1.20\n; 9.50; 0.8") == (PostageStep(20.0, 1.2), PostageStep(None, 9.5, 0.008))


@pytest.mark.parametrize(
    ("cell", "value"), [("1,500", 1500.0), ("1 500", 1500.0), ("16,50", 16.5), ("1,234.50", 1234.5), ("0.125", 0.125)]
)
def test_an_amount_in_the_forms_people_write(cell: str, value: float) -> None:
    assert read_tiers(f"plain; {cell}")[0].fee == value


@pytest.mark.parametrize("word", ["member", "yes", "x", "1"])
def test_membership_said_in_other_words(word: str) -> None:
    assert read_tiers(f"plain; 20; ; ; 30; 1; {word}")[0].member
    assert not read_tiers("plain; 20; ; ; 30; 1; no")[0].member


@pytest.mark.parametrize(
    ("line", "says"),
    [("listing; 0.12", "write 12 if you mean 12 %"), ("listing; 12; 1.500", "“1.500” can be read in two ways")],
)
def test_what_can_be_read_in_two_ways_is_asked_about(line: str, says: str) -> None:
    with pytest.raises(TermsError, match=says):
        read_channels(line)


def test_half_a_percent_is_one_when_it_is_said() -> None:
    assert read_channels("listing; 0.5 %")[0].fee == 0.005


def test_limits_cap_by_house() -> None:
    """Houses differ: 57/43 in front misses the top grade at one and gets it at the other (invented limits)."""
    found = read_standards("House A:\n9; 60; 90\n10; 55; 75\nHouse B:\n10; 58; 80")
    look = Inspection(front=57, back=70)
    assert (found["House A"].cap(look), found["House B"].cap(look)) == (9, 10)


@pytest.mark.parametrize(
    ("read", "text", "words"),
    [
        (read_tiers, "economy", "Line 1: a number is missing"),
        (read_tiers, "ok; 3\n; 5", "Line 2 begins without a name"),
        (read_tiers, "20; 30", "begins without a name"),
        (read_tiers, "a; 1; much", "“much” is no number"),
        (read_tiers, "a; -1", "“-1” is no number"),
        (read_tiers, "a; 1; ; ; ; ; ; ; ; 2026-05-02; 2026-05-01", "its last day lies before its first"),
        (read_channels, "a; 120", "“120” is no number"),
        (read_channels, "a; 12; x", "“x” is no number"),
        (read_postage, "50; 2\n20; 3", "must rise"),
        (read_postage, "; 2\n; 3", "must rise"),
        (read_postage, "20", "a number is missing"),
        (read_standards, "10; 45; 75", "the larger border has 50 % or more"),
        (read_standards, "10; 55", "a number is missing"),
        (read_standards, "11; 55; 75", "“11” is no number"),
    ],
)
def test_lines_that_are_refused(read: object, text: str, words: str) -> None:
    with pytest.raises(TermsError) as caught:
        read(text)  # type: ignore[operator]
    assert words in caught.value.message


def test_rates_by_semicolon_tab_and_blank() -> None:
    found = read_rates("day;currency;in;rate\n2026-03-02; usd; EUR; 0.92\n2026-03-03\tJPY\tEUR\t0.0061\n\n", TODAY)
    assert [(row.day.day, row.base, row.quote, row.rate) for row in found] == [
        (2, "USD", "EUR", "0.92"),
        (3, "JPY", "EUR", "0.0061"),
    ]


@pytest.mark.parametrize(
    "line",
    [
        "2026-03-02; USD; 0.92",
        "2030-01-01; USD; EUR; 0.92",
        "soon; USD; EUR; 0.92",
        "2026-03-02; EURO; USD; 1",
        "2026-03-02; EUR; EUR; 1",
        "2026-03-02; USD; EUR; 0",
        "2026-03-02; USD; EUR; nan",
    ],
)
def test_rates_that_are_refused(line: str) -> None:
    with pytest.raises(TermsError):
        read_rates(line, TODAY)


def test_channels_of_fees_json(tmp_path: Path) -> None:
    body = {
        "selling": {
            "hourly": 10,
            "channels": [
                {"name": "listing", "fee": 0.12},
                {"name": "table", "fixed": 1.5, "most": 60, "by_hand": True},
            ],
            "postage_steps": [{"up_to": 20, "postage": 1.2}, {"postage": 9.5, "insured": 0.01}],
        }
    }
    path = tmp_path / "fees.json"
    path.write_text(json.dumps(body), "utf-8")
    costs = read_fees(path).selling
    assert costs.channels == (Channel("listing", 0.12), Channel("table", fixed=1.5, most=60.0, sent=False))
    assert costs.net(100.0) == pytest.approx(88 - 9.5 - 1)


@pytest.mark.parametrize(
    "part",
    [
        {"channels": [{"fee": 0.1}]},
        {"channels": [{"name": "x", "fee": 12}]},
        {"channels": "listing"},
        {"channels": [{"name": "x", "most": "all"}]},
        {"postage_steps": [{"up_to": 50, "postage": 1}, {"up_to": 20, "postage": 2}]},
        {"postage_steps": [{"postage": -1}]},
        {"fee": 12},
    ],
)
def test_fees_json_that_is_refused(tmp_path: Path, part: dict[str, object]) -> None:
    path = tmp_path / "fees.json"
    path.write_text(json.dumps({"selling": part}), "utf-8")
    with pytest.raises(UnreadableFileError):
        read_fees(path)
