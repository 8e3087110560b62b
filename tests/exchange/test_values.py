"""Grades, days, amounts and ticks in the forms people write; files whose rows, columns or keys are not used say so."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path

import pytest

from botin.core.catalog.naming import LooseNames, Names
from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.errors import BadAmountError, BotinError, UnreadableFileError
from botin.exchange.copies.copieslist import read_copies
from botin.exchange.copies.have import read_have
from botin.exchange.grading import read_grades
from botin.exchange.pricing import parse_prices
from botin.exchange.selling.fees import read_fees
from botin.exchange.values import Days, ValueUnclearError, read_amount, read_count, read_grade, read_tick

TODAY = date(2026, 11, 24)
PRODUCT = Product(
    "p", "P",
    sections=(Section("base", "Base Set", Kind.BASE), Section("signed", "Signed Plates", Kind.AUTOGRAPH)),
    cards=(*(Card("base", str(n), f"Rider {n}") for n in range(1, 60)), Card("signed", "S-7", "Zoë Ångström")),
    parallels=(Parallel("copper", "Copper", "base", run_text="25"),),
)  # fmt: skip
NAMES = Names(PRODUCT)


@pytest.mark.parametrize(
    ("text", "amount"),
    [("19", 19), ("€19", 19), ("€ 19", 19), ("19 €", 19), ("EUR 19", 19), ("12.-", 12), ("12,50", 12.5), ("1,250", 1250),
     ("1.250,50", 1250.5), ("1,250.50", 1250.5), ("1 250", 1250), ("12.3456", 12.3456), ("0.125", 0.125)],
)  # fmt: skip
def test_amounts(text: str, amount: float) -> None:
    assert read_amount(text, "EUR") == (pytest.approx(amount), "EUR")


@pytest.mark.parametrize("text", ["1.250", "free", "", "12 13 x", "EUR 5 USD"])
def test_amounts_that_are_none_or_two(text: str) -> None:
    with pytest.raises(BadAmountError):
        read_amount(text, "EUR")


def test_a_symbol_names_its_currency() -> None:
    assert read_amount("$5", "EUR") == (5.0, "USD")
    assert read_amount("$5", "CAD") == (5.0, "CAD")
    assert read_amount("5 usd", "EUR") == (5.0, "USD")


@pytest.mark.parametrize(
    ("text", "grade"),
    [("", ""), ("Raw", ""), ("NM", ""), ("-", ""), ("0", ""), ("ungraded", ""), ("10", "10"), ("10.0", "10"), ("g10", "10"),
     ("Gem 10", "10"), ("gem-mint 10", "10"), ("9.5", "9.5"), ("9,5", "9.5")],
)  # fmt: skip
def test_grades(text: str, grade: str) -> None:
    assert read_grade(text) == grade


@pytest.mark.parametrize("text", ["11", "9.3", "authentic", "0.5"])
def test_grades_that_are_none(text: str) -> None:
    with pytest.raises(ValueUnclearError):
        read_grade(text)


def test_days() -> None:
    days = Days([])
    for text in ("2026-11-10", "10.11.2026", "10 Nov 2026", "Nov 10, 2026", "2026/11/10", "2026-11-10 14:02"):
        assert days.read(text) == date(2026, 11, 10)
    assert days.read("") is None
    assert days.read("25/11/2026") == date(2026, 11, 25)
    with pytest.raises(ValueUnclearError, match="day or month first"):
        days.read("11/10/2026")
    assert Days(["25/11/2026", "11/10/2026"]).read("11/10/2026") == date(2026, 10, 11)
    assert Days(["11/25/2026"]).read("11/10/2026") == date(2026, 11, 10)
    with pytest.raises(ValueUnclearError):
        days.read("2026-13-01")


def test_ticks_and_counts() -> None:
    assert all(read_tick(text) for text in ("x", "ja", "PC", "✓", "yes", "1"))
    assert not any(read_tick(text) for text in ("", "no", "nein", "0", "✗"))
    with pytest.raises(ValueUnclearError):
        read_tick("perhaps")
    assert [read_count(text) for text in ("3", "3.0", "x3", "2x")] == [3, 3, 3, 2]
    with pytest.raises(ValueUnclearError):
        read_count("many")


def prices(text: str) -> object:
    return parse_prices(text.encode(), "prices.csv", "EUR", NAMES, TODAY)


def test_prices_as_people_name_things() -> None:
    file = prices(
        "Set;No.;Finish;Graded;Sold price;Date\nBASE SET;#7;plain;Raw;12,50;10.11.2026\n"
        "signed;7;;g10;€19;2026-11-01\nBase;007;Copper /25;;1.250,50;2026-11-02\n"
    )
    assert [(r.section, r.number, r.parallel, r.grade, r.amount) for r in file.rows] == [  # type: ignore[attr-defined]
        ("base", "7", "", "", 12.5),
        ("signed", "S-7", "", "10", 19.0),
        ("base", "7", "copper", "", 1250.5),
    ]
    assert file.unused == () == file.findings  # type: ignore[attr-defined]


def test_prices_that_match_nothing_are_named() -> None:
    file = prices("section,number,parallel,price,colour of the moon\nbase,99,,3,\nposter,1,,3,\nbase,7,teal,3,\n")
    assert not file.rows  # type: ignore[attr-defined]
    severe = [one for one in file.unused if one.severe]  # type: ignore[attr-defined]
    assert [one.where for one in severe] == ["prices.csv:2", "prices.csv:3", "prices.csv:4"]
    assert any("colour of the moon" in one.text for one in file.unused)  # type: ignore[attr-defined]


def test_a_decimal_comma_without_quotes_is_put_back_together() -> None:
    file = prices(
        "section,number,parallel,grade,price,currency\nbase,7,,,12,50,EUR\nbase,8,,,1,250,EUR\nbase,9,,,1,2,3,EUR\n"
    )
    assert [row.amount for row in file.rows] == [12.5, 1250.0]  # type: ignore[attr-defined]
    assert [one.where for one in file.unused if one.severe] == ["prices.csv:4"]  # type: ignore[attr-defined]


def test_a_mistyped_year_is_an_error_and_not_a_weight() -> None:
    file = prices("section,number,price,sold_on\nbase,7,30,2206-11-01\nbase,7,30,2026-11-30\n")
    assert [found.where for found in file.findings] == ["prices.csv:2"]  # type: ignore[attr-defined]
    assert len(file.rows) == 1  # type: ignore[attr-defined]


def test_have_lists(tmp_path: Path) -> None:
    path = tmp_path / "have.csv"
    path.write_text(
        "Set,Card No,Qty,Finish\nBase,1-5,,\nbase set,#7,2,\nbase,008,0,\nbase,9,1,copper\nbase,404,1,\nposter,1,1,\n",
        "utf-8",
    )
    found = read_have(path, "base", NAMES)
    assert dict(found.counts) == {"1": 1, "2": 1, "3": 1, "4": 1, "5": 1, "7": 2}
    assert {one.where for one in found.unused} == {"have.csv:5", "have.csv:6", "have.csv:7"}
    path.write_text("section,number,count\nbase,1,lots\n", "utf-8")
    with pytest.raises(BotinError):
        read_have(path, "base", NAMES)


def test_copies_lists(tmp_path: Path) -> None:
    path = tmp_path / "copies.csv"
    path.write_text(
        "ID,Set,No,PC,Centering,Marks,mood\na,Base Set,#7,ja,45/55,gum stain; dreamy,fine\nb,base,404,,,,\n", "utf-8"
    )
    file = read_copies(path, NAMES)
    first = file.rows[0]
    assert (first.section, first.number, first.wanted, first.marks) == ("base", "7", True, ("gum stain",))
    assert first.inspection is not None
    assert first.inspection.front == 55
    assert file.rows[1].number is None
    assert {(one.where, one.text) for one in file.unused} == {
        ("copies.csv:1", "mood"), ("copies.csv:2", "dreamy"), ("copies.csv:3", "base 404"),
    }  # fmt: skip


def test_keys_of_fees_that_mean_nothing_are_named(tmp_path: Path) -> None:
    path = tmp_path / "fees.json"
    path.write_text(json.dumps({
        "selling": {"fee": 0.1, "postge": 2, "channels": [{"name": "x", "fees": 1}]}, "looking": {"minutes": 5}, "notes": 1,
        "grading": {"tiers": [{"name": "a", "fee": 3, "cieling": 5}]},
    }), "utf-8")  # fmt: skip
    found = read_fees(path)
    assert {one.text for one in found.unused} == {"postge", "fees", "notes", "cieling"}
    assert any("“postage”" in one.why for one in found.unused)
    assert found.looking.minutes == 5
    path.write_text('{"grading": {"tiers": [{"name": "a", "fees": 3}]}}', "utf-8")
    with pytest.raises(UnreadableFileError, match="has no fee"):
        read_fees(path)


GRADES = {
    "counts": {"10": 400, "9.5": 300, "9": 300},
    "sections": {"Signed": {"chances": {"10": 0.6, "9": 0.4}}, "poster": {"counts": {"10": 5}}},
    "houses": {
        "North": {"counts": {"10": 200, "9": 800}, "grader": {"noise": 0.3}},
        "South": {"counts": {"10": 600, "9": 400}, "limits": [{"grade": 9, "front": 60, "back": 90}, {"grade": 10, "front": 55, "back": 75}]},
    },
    "colour": 3,
}  # fmt: skip


def test_grades_by_house_and_section(tmp_path: Path) -> None:
    path = tmp_path / "grades.json"
    path.write_text(json.dumps(GRADES), "utf-8")
    book = read_grades(path, NAMES.section)
    assert book.of("base", None)[9.5] == pytest.approx(0.3, abs=0.005)
    assert book.of("base", None, "north")[10.0] == pytest.approx(0.2, abs=0.005)
    assert book.of("base", None, "South")[10.0] == pytest.approx(0.6, abs=0.005)
    for house in ("", "North", "South"):
        assert book.of("signed", None, house)[10.0] == pytest.approx(0.6, abs=0.005)
    assert book.houses["north"].grader.bias < 0 < book.houses["south"].grader.bias
    assert {one.text for one in book.unused} == {"poster", "colour"}


@pytest.mark.parametrize(
    "body",
    [{"chances": {"10": 0.5, "9": 0.2}}, {"counts": {"ten": 5}}, {"counts": {"10": 0}}, {"counts": {"10": 5}, "grader": {"noise": "low"}},
     {"counts": {"10": 5}, "grader": {"bias": 9}}, {"limits": {"10": 55}}, {"houses": {"A": 3}}, {"sections": [1]}, []],
)  # fmt: skip
def test_grades_that_are_refused(tmp_path: Path, body: object) -> None:
    path = tmp_path / "grades.json"
    path.write_text(json.dumps(body), "utf-8")
    with pytest.raises(UnreadableFileError):
        read_grades(path)


def test_shares_and_counts_are_both_understood(tmp_path: Path) -> None:
    path = tmp_path / "grades.json"
    for body in (
        {"counts": {"10": 0.4, "9": 0.6}},
        {"chances": {"10": 40, "9": 60}},
        {"counts": {"10.0": 400, "9": 600}},
    ):
        path.write_text(json.dumps(body), "utf-8")
        assert read_grades(path).of("x", None)[10.0] == pytest.approx(0.4, abs=0.005)
    assert LooseNames().number("x", "1") == "1"
