"""What a person means: sections by label or part, numbers as written, finishes with or without their run."""

from __future__ import annotations

import pytest

from botin.core.catalog.naming import LooseNames, Names, fold, number_key
from botin.core.catalog.product import Card, Kind, Parallel, Product, Section

PRODUCT = Product(
    "p", "P",
    sections=(Section("base-set", "Base Set", Kind.BASE), Section("signed", "Signed Plates", Kind.AUTOGRAPH),
              Section("worn", "Worn Plates", Kind.RELIC)),
    cards=(Card("base-set", "7", "Zoë Ångström"), Card("base-set", "12", "Orla Thorsby"), Card("signed", "S-7", "Zoë Ångström"),
           Card("signed", "S-8", "Ib Ruud"), Card("worn", "W1", "Ib Ruud")),
    parallels=(Parallel("gold", "Gold Leaf", "base-set", run_text="25"), Parallel("black", "Black Leaf", "base-set", run_text="5"),
               Parallel("gold", "Gold", "signed", run_text="10")),
)  # fmt: skip
NAMES = Names(PRODUCT)


@pytest.mark.parametrize(
    ("text", "key"),
    [("base-set", "base-set"), ("Base Set", "base-set"), ("BASE", "base-set"), ("base cards", "base-set"), ("signed", "signed"),
     ("Signed plates", "signed"), ("plates", None), ("poster", None), ("worn", "worn"), ("", None)],
)  # fmt: skip
def test_sections(text: str, key: str | None) -> None:
    assert NAMES.section(text) == key


@pytest.mark.parametrize(
    ("section", "text", "number"),
    [("signed", "S-7", "S-7"), ("signed", "7", "S-7"), ("signed", "#S-7", "S-7"), ("signed", "S7", "S-7"), ("signed", "s-7", "S-7"),
     ("signed", "S-07", "S-7"), ("signed", "9", None), ("base-set", "7.0", "7"), ("base-set", "007", "7"), ("base-set", "#12", "12")],
)  # fmt: skip
def test_numbers(section: str, text: str, number: str | None) -> None:
    assert NAMES.number(section, text) == number


@pytest.mark.parametrize(
    ("section", "text", "key"),
    [("base-set", "", ""), ("base-set", "plain", ""), ("base-set", "Base", ""), ("base-set", "-", ""), ("base-set", "Gold Leaf /25", "gold"),
     ("base-set", "gold", "gold"), ("base-set", "/5", "black"), ("base-set", "leaf", None), ("base-set", "leaf /25", "gold"),
     ("base-set", "teal", None), ("signed", "GOLD", "gold"), ("worn", "gold", None)],
)  # fmt: skip
def test_finishes(section: str, text: str, key: str | None) -> None:
    assert NAMES.parallel(section, text) == key


def test_names_without_accents() -> None:
    assert [card.number for card in NAMES.by_name("zoe angstrom")] == ["7", "S-7"]
    assert [card.number for card in NAMES.by_name("Zoë Ångström", "signed")] == ["S-7"]
    assert fold("Łódź-Straße") == "lodz strasse"
    assert number_key("no. 07") == number_key("#7")


def test_without_a_checklist_the_first_spelling_gives_the_key() -> None:
    names = LooseNames()
    assert names.section("Signed Plates") == "Signed Plates"
    assert names.section("signed plates") == "Signed Plates"
    assert names.section("Signed Plates Relics") == "Signed Plates Relics"
    names.settle()
    assert names.section("relics") == "Signed Plates Relics"
    assert names.number("Signed Plates", "S-7") == "S-7"
    assert names.number("Signed Plates", "#s7") == "S-7"
    assert names.parallel("Signed Plates", "Gold /25") == names.parallel("Signed Plates", "gold")
    assert names.parallel("Signed Plates", "plain") == ""
