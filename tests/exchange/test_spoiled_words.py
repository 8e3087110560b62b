"""Words that mean one thing in most sources and another in a name: neither is taken for the other."""

from __future__ import annotations

import pytest

from botin.core.catalog.product import Kind
from botin.exchange.notes import Status
from tests.exchange.test_messy import HOBBY, book, read, status

BASE = "Base Set\n1 Orla Thorsby - Tarn\n2 Dov Quill - Tarn\n"


def labels(text: str, **more: str) -> list[str]:
    return [section.label for section in read(checklist=text, **more).reading.product.sections]


@pytest.mark.parametrize("code", ["SK Sky Kings", "SK - Sky Kings", "SK: Sky Kings", "Sky Kings (SK)"])
def test_a_code_before_the_name_of_a_set_is_no_card(code: str) -> None:
    draft = read(checklist=f"{BASE}{code}\nSK1 Orla Thorsby - Tarn\nSK2 Dov Quill - Tarn\n")
    cards = {(card.section, card.number) for card in draft.reading.product.cards}
    assert all(number != "SK" for _, number in cards)
    assert len({section for section, number in cards if number.startswith("SK")} - {"base-set"}) == 1


def test_initials_number_the_signed_cards_of_a_set() -> None:
    draft = read(checklist=f"{BASE}Signatures\nOT Orla Thorsby - Tarn\nDQ: Dov Quill - Tarn\n")
    signed = [card for card in draft.reading.product.cards if card.section == "signatures"]
    assert [(card.number, card.name) for card in signed] == [("OT", "Orla Thorsby"), ("DQ", "Dov Quill")]


@pytest.mark.parametrize("label", ["Top 100 Athletes", "The 50 Names", "Five Tool Players"])
def test_a_number_in_the_name_of_a_set_is_no_count(label: str) -> None:
    assert labels(f"{BASE}{label}\nTA1 Orla Thorsby - Tarn\nTA2 Dov Quill - Tarn\n") == ["Base Set", label]


@pytest.mark.parametrize("label", ["Once in a Lifetime", "Twice a Winner", "Total Domination", "Class of 1998-99"])
def test_odds_find_a_set_whatever_words_its_name_has(label: str) -> None:
    draft = read(checklist=f"{BASE}{label}\nZZ1 Orla Thorsby - Tarn\n", odds=f"{label} 1:24")
    key = next(one.key for one in draft.reading.product.sections if one.label == label)
    assert [(row.section, row.packs_per_hit) for row in draft.reading.product.odds] == [(key, "24")]
    table = book(("Odds", [["Line", "Hobby"], [label, "1:24"], ["Ink", "1:60"]]))
    draft = read(("o.xlsx", table), checklist=f"{BASE}{label}\nZZ1 Orla Thorsby - Tarn\nInk\nI1 Dov Quill - Tarn\n")
    assert key in {row.section for row in draft.reading.product.odds}


def test_a_finish_may_be_called_total_and_a_total_is_none() -> None:
    listed = book(
        ("Base", [["No", "Name"], [1, "Orla Thorsby"], [2, "Dov Quill"]]),
        (
            "Finishes",
            [["Finish", "Run"], ["Copper", 199], ["Total Eclipse", 25], ["Total", 2], ["Total finishes: 2", ""]],
        ),
    )
    draft = read(("b.xlsx", listed))
    assert [row.label for row in draft.reading.product.parallels] == ["Copper", "Total Eclipse"]
    assert status(draft, "Total  2").status is not Status.UNDERSTOOD


@pytest.mark.parametrize("letters", ["NY", "LA"])
def test_letters_behind_a_club_in_brackets_are_asked_about(letters: str) -> None:
    draft = read(
        checklist=f"Base Set\n1 Orla Thorsby (Tarn) {letters}\n2 Dov Quill (Tarn)\n3 Pia Munro (Tarn) debut\n"
    )
    card, _, debut = draft.reading.product.cards
    assert (card.name, card.team, card.rookie) == ("Orla Thorsby", "Tarn", "")
    assert (debut.name, debut.rookie) == ("Pia Munro", "yes")
    assert letters in status(draft, "1 Orla").says
    assert status(draft, "1 Orla").status is Status.GUESSED


def test_marks_that_join_letters_stay_in_names() -> None:
    name = "می\u200cنا راد"
    draft = read(checklist=f"Base Set\n1 {name} - Tarn\n2 Dov\u00a0Quill - Tarn\u200b\n")
    assert [card.name for card in draft.reading.product.cards] == [name, "Dov Quill"]
    assert draft.reading.product.cards[1].team == "Tarn"


def test_a_sentence_among_odds_that_says_no_count_is_named() -> None:
    draft = read(
        checklist=BASE, odds="Copper parallels are hobby only. Copper parallels fall 1:24 packs.", formats=HOBBY
    )
    note = status(draft, "Copper parallels are")
    assert "“Copper parallels are hobby only”" in note.says
    assert [row.packs_per_hit for row in draft.reading.product.odds] == ["24"]


def test_an_insert_of_the_demo_kinds_keeps_its_kind_in_a_column() -> None:
    table = "No,Name,Set\n1,Orla Thorsby,Base\n2,Dov Quill,Base\nFL1,Orla Thorsby,Finish Line\nCG1,Dov Quill,Color Guard\n"
    product = read(("c.csv", table.encode())).reading.product
    assert {one.label: one.kind for one in product.sections} == {
        "Base": Kind.BASE, "Finish Line": Kind.INSERT, "Color Guard": Kind.INSERT,
    }  # fmt: skip
