"""A reading that does not hang together is never certain, and what a person means is read all the same.

What is held here is common practice of those who keep checklists, no source; the names are invented.
"""

from __future__ import annotations

from typing import Any

import pytest

from botin.core.catalog.numberrule import short_print_rule
from botin.exchange.catalog.cardtext import CardLine, card_of, cards_in
from botin.exchange.catalog.celllines import cells_below, finish_tables, starred_finishes
from botin.exchange.catalog.clubnames import settle_clubs
from botin.exchange.catalog.formatstext import format_cells, parts_of, price_of_pack, three_in_a_row
from botin.exchange.catalog.headingtext import heading_of
from botin.exchange.catalog.oddstext import rates_in
from botin.exchange.catalog.partners import with_partners
from botin.exchange.catalog.rateunits import in_digits, plainly
from botin.exchange.catalog.runtext import run_of, take_run
from botin.exchange.catalog.wholedoubts import Doubt, doubts_in
from botin.exchange.notes import Status
from tests.corpus.tablelayouts import Cells, xlsx_bytes
from tests.corpus.truth import Case, draft_of, read_case, told

FORMATS = {"hobby": "hobby", "retail": "retail"}
CARDS = [f"{n} Rider{chr(96 + n)} Last{chr(96 + n)} - Harrow Bay" for n in range(1, 7)]


def statuses(*lines: str, **texts: str) -> list[Status]:
    """How certain the cards of a checklist are."""
    draft = draft_of(Case("x", texts={"checklist": "\n".join(lines), **texts}))
    return [note.status for note in draft.notes if note.says.startswith("card") and note.sheet == "checklist"]


def test_a_plain_list_is_certain() -> None:
    assert set(statuses("Base", *CARDS, "Night Sprints", "NS-1 Orla Thorsby - Tarn")) == {Status.UNDERSTOOD}


def test_numbers_left_in_the_names_are_doubted() -> None:
    lines = [f"{n} no {n + 20} Orla Thorsby - Tarn" for n in range(1, 7)]
    assert set(statuses("Base", *lines)) == {Status.GUESSED}


def test_a_base_set_without_cards_makes_the_headings_below_it_doubtful() -> None:
    lines = [
        "BASE SET",
        "",
        "Harrow Bay",
        "1 Orla Thorsby",
        "2 Dov Quill",
        "",
        "Tarn",
        "3 Jorik Munro",
        "4 Pia Worth",
    ]
    assert set(statuses(*lines)) == {Status.GUESSED}


def test_letters_spread_over_several_headings_are_doubted() -> None:
    lines = []
    for at, club in enumerate(("Harrow Bay", "Tarn", "Weststrand")):
        lines += [club, f"{at + 1} Orla Thorsby", f"NS-{at + 1} Dov Quill", ""]
    assert Status.UNDERSTOOD not in statuses(*lines)


def test_numbers_that_go_on_below_a_line_are_doubted() -> None:
    lines = ["Base", *CARDS, "Tarn 1904", "7 Orla Thorsby", "8 Dov Quill"]
    assert statuses(*lines) == [Status.UNDERSTOOD] * len(CARDS) + [Status.GUESSED] * 2


def test_what_is_doubted_is_said_once_a_source() -> None:
    lines = ["Base", *CARDS, "Tarn 1904", "7 Orla Thorsby", "8 Dov Quill"]
    assert doubts_in(draft_of(Case("x", texts={"checklist": "\n".join(lines)})).notes) == [
        Doubt("checklist", "numbers go on below a heading without words of a set: is it one?", 2)
    ]


def test_many_lines_that_are_not_read_make_the_rest_doubtful() -> None:
    odd = [f"{sign}{sign} 4!7 {sign}" for sign in "%&§=+"]
    assert set(statuses("Base", *CARDS[:3], *odd, *CARDS[3:])) == {Status.GUESSED}


def test_who_stands_in_the_place_of_the_club_is_one_of_the_people() -> None:
    base = [CardLine("1", "Orla Thorsby", "Tarn"), CardLine("2", "Dov Quill", "Tarn")]
    duals = [CardLine("D1", "Orla Thorsby", "Dov Quill"), CardLine("D2", "Dov Quill", "Pia Worth")]
    made = with_partners({"Base": base, "Dual Signatures": duals})
    assert [card.name for card in made["Dual Signatures"]] == ["Orla Thorsby; Dov Quill", "Dov Quill; Pia Worth"]
    assert not any(card.team for card in made["Dual Signatures"])
    assert made["Base"] == base
    assert all(card.guesses for card in made["Dual Signatures"])


def test_clubs_of_several_people_stay_clubs() -> None:
    base = [CardLine("1", "Orla Thorsby", "Tarn"), CardLine("2", "Dov Quill", "Harrow Bay")]
    duals = [CardLine("D1", "Orla Thorsby; Dov Quill", "Tarn; Harrow Bay")]
    assert with_partners({"Base": base, "Dual Signatures": duals})["Dual Signatures"] == duals


def test_letters_behind_a_club_that_others_have_without_them_are_left_out_and_said() -> None:
    cards = [CardLine(str(n), f"Rider {n}", "South Pt") for n in range(3)] + [CardLine("9", "Pim Oso", "South Pt CL")]
    made = settle_clubs(cards)[-1]
    assert (made.team, made.guesses) == ("South Pt", ("“CL” behind the club is left out",))
    alone = [CardLine(str(n), f"Rider {n}", "Tarn CC") for n in range(3)]
    assert [card.team for card in settle_clubs(alone)] == ["Tarn CC"] * 3


@pytest.mark.parametrize(
    ("text", "number", "name", "team"),
    [
        ("3) #12 Orla Thorsby - Tarn", "12", "Orla Thorsby", "Tarn"),
        ("3. NS-4 Orla Thorsby - Tarn", "NS-4", "Orla Thorsby", "Tarn"),
        ("12) Orla Thorsby - Tarn", "12", "Orla Thorsby", "Tarn"),
        ("12 Orla Thorsby/Dov Quill/Pia Worth", "12", "Orla Thorsby; Dov Quill; Pia Worth", ""),
        ("12 Orla Thorsby, Tarn $4.50", "12", "Orla Thorsby", "Tarn"),
        ("12 Orla Thorsby (Tarn) - Rookie Card", "12", "Orla Thorsby", "Tarn"),
    ],
)
def test_cards_as_people_write_them(text: str, number: str, name: str, team: str) -> None:
    card = card_of(text)
    assert card is not None
    assert (card.number, card.name, card.team) == (number, name, team)


def test_a_price_behind_a_card_is_said_and_a_point_ends_a_row() -> None:
    priced = card_of("12 Orla Thorsby, Tarn $4.50")
    assert priced is not None
    assert priced.guesses == ("“$4.50” behind the card is left out",)
    assert [card.team for card in cards_in("1 Orla Thorsby (Tarn); 2 Dov Quill (Tarn).")] == ["Tarn", "Tarn"]


def test_cells_on_lines_of_their_own_are_cards_and_a_club_with_a_year_is_none() -> None:
    text = [
        "Base",
        "1",
        "Orla Thorsby",
        "Tarn 1904",
        "2",
        "Dov Quill",
        "Tarn",
        "3",
        "Pia Worth",
        "Tarn",
        "4",
        "Al Fir",
        "Ash",
    ]
    said = dict(enumerate(text, 1))
    assert cells_below(said) == {2: (3, 4), 5: (6, 7), 8: (9, 10), 11: (12, 13)}
    assert cells_below(dict(enumerate(CARDS, 1))) == {}


def test_small_tables_of_finishes_become_lines() -> None:
    rows, heads = finish_tables(
        {1: "Parallel | Print run", 2: "Copper | 99", 3: "Slate | unnumbered", 4: "1 | Al Fir"}
    )
    assert (rows, heads) == ({2: "Copper /99", 3: "Slate (unnumbered)"}, [1])
    assert starred_finishes({1: "* Copper: 99", 2: "* Slate: no number", 3: "1: Al Fir"}) == {
        1: "Copper /99", 2: "Slate (unnumbered)",
    }  # fmt: skip
    assert starred_finishes({1: "* Orla Thorsby: 12", 2: "* Dov Quill: 13"}) == {}


@pytest.mark.parametrize(
    ("text", "column", "rate"),
    [
        ("Copper 50% per box", "per_box", "0.5"),
        ("Copper 25% (per pack)", "packs_per_hit", "4"),
        ("Look for one Copper in every 2 boxes", "per_box", "0.5"),
        ("one Copper every 3 packs", "packs_per_hit", "3"),
        ("Every other box has a Copper.", "per_box", "0.5"),
        ("Copper can be found in one of every 8 packs.", "packs_per_hit", "8"),
        ("You will find a Copper card in 1 of 8 boxes.", "per_box", "0.125"),
        ("Copper (99): 1:15", "packs_per_hit", "15"),
    ],
)
def test_rates_in_sentences(text: str, column: str, rate: str) -> None:
    (found,) = rates_in(text, FORMATS, odds=True)
    assert (found.column, found.text) == (column, rate)
    assert found.name.startswith("Copper")


def test_a_box_that_has_none_of_it_is_no_name_and_the_run_behind_a_rate_is_kept() -> None:
    found = rates_in("Copper: 1:14 hobby; not in retail", FORMATS, odds=True)
    assert [(rated.name, rated.format) for rated in found] == [("Copper", "hobby")]
    both = rates_in("Copper 1:18 (numbered to 150); Onyx 1:2,160 (1/1)", FORMATS, odds=True)
    assert [(rated.name, rated.run) for rated in both] == [("Copper", "150"), ("Onyx", "1")]


def test_promises_of_a_sentence_each_for_itself() -> None:
    lines = [
        "Base",
        "1 Orla Thorsby",
        "Parallels: Copper /99",
        "Night Sprints",
        "NS-1 Dov Quill",
        "Ink",
        "I-1 Pia Worth",
    ]
    odds = "Each box delivers 1 autograph, four Night Sprints and, on average, two numbered parallels."
    texts = {"checklist": "\n".join(lines), "odds": odds, "formats": "Hobby: twenty-four packs of eight cards"}
    got = told(read_case(Case("x", texts=texts)))
    said = {(row["count"], row["promise"]) for row in got["promises"]}
    assert said == {("1", "at_least"), ("2", "average")}
    assert {(row["section"], row["rate"]) for row in got["odds"] if row["rate"]} == {("Night Sprints", "per_box 4")}
    assert [(row["packs_per_box"], row["cards_per_pack"]) for row in got["formats"]] == [("24", "8")]


@pytest.mark.parametrize(
    ("text", "numbers"),
    [
        ("Nos. 7 to 9 (not 8) are SPs", (7, 9)),
        ("#7-#9 SP", (7, 8, 9)),
        ("7 through 9 are short prints", (7, 8, 9)),
        ("Cards 7-9 are short-printed", (7, 8, 9)),
    ],
)
def test_rules_of_short_prints(text: str, numbers: tuple[int, ...]) -> None:
    rule = short_print_rule(text)
    assert rule is not None
    assert rule.numbers == numbers


def test_runs_and_headings_in_usual_words() -> None:
    assert run_of("1-99") == run_of("001 to 099") == "99"
    assert run_of("2-99") is None
    assert take_run("Onyx (pièce unique)") == ("Onyx", "1")
    assert take_run("Coral (numbered, 99 copies)") == ("Coral", "99")
    assert heading_of("NIGHT COURT NC1-NC2")[0] == "Night court"
    assert heading_of("Base set, cards 1-6")[0] == "Base set"
    assert heading_of("Class of 2019-2020")[0] == "Class of 2019-2020"


def test_boxes_in_few_words() -> None:
    three = three_in_a_row("Hobby - 20/8/12 - $120")
    assert three is not None
    assert (three[0]["packs_per_box"], three[0]["cards_per_pack"], three[0]["boxes_per_case"]) == ("20", "8", "12")
    assert "is taken for" in three[1]
    assert parts_of("SRP: $4.99 per pack") == {}
    assert price_of_pack("SRP: $4.99 per pack")
    assert not price_of_pack("SRP: $4.99")
    told_so = format_cells("The hobby box holds 24 packs with 8 cards in each. Twelve boxes make a case. Price: £95.")
    assert told_so is not None
    assert (told_so["boxes_per_case"], told_so["list_price"], told_so["currency"]) == ("12", "95", "GBP")
    assert in_digits("thirty-six packs, two hands") == "36 packs, two hands"
    assert plainly("Every second case has a relic") == "relic 1 in 2 case"


def test_a_sheet_of_a_workbook_goes_on_with_no_section_of_another_and_the_product_is_told_by_lines() -> None:
    sheets: list[tuple[str, Cells]] = [
        ("Info", [["Product", "Tide Classic"], ["Year", "2026"], ["Hobby", "20 packs / 8 cards", "12 per case"]]),
        ("Base (3)", [["1", "Kai Lono", "Tarn"], ["2", "Moe Pata", "Tarn"], ["3", "Lin Ware", "Ash"]]),
        ("Big Wave (2)", [["BW1", "Kai Lono", "Tarn"], ["BW2", "Lin Ware", "Ash"]]),
    ]
    got = told(read_case(Case("x", {"a.xlsx": xlsx_bytes(sheets)})))
    assert [(row["section"], row["number"]) for row in got["cards"]] == [
        ("Base", "1"), ("Base", "2"), ("Base", "3"), ("Big Wave", "BW1"), ("Big Wave", "BW2"),
    ]  # fmt: skip
    assert [(row["format"], row["boxes_per_case"]) for row in got["formats"]] == [("Hobby", "12")]
    assert draft_of(Case("x", {"a.xlsx": xlsx_bytes(sheets)})).reading.product.name == "Tide Classic"


@pytest.mark.parametrize(
    ("lines", "kind", "run"),
    [
        (["Shafts (autographs, /99)", "S-1 Orla Thorsby"], "autograph", "99"),
        (["Shafts (autographs, #'d to 99 or less)", "S-1 Orla Thorsby /50"], "autograph", "50"),
        (["Shafts [relic cards, 2 cards]", "S-1 Orla Thorsby"], "relic", ""),
    ],
)
def test_a_description_in_brackets_behind_a_heading(lines: list[str], kind: str, run: str) -> None:
    got = told(read_case(Case("x", texts={"checklist": "\n".join(["Base", *CARDS, *lines])})))
    assert [(row["section"], row["kind"]) for row in got["sections"]][-1] == ("Shafts", kind)
    assert [row["run"] for row in got["parallels"] if not row["group"]] == ([run] if run else [])


def test_signs_are_explained_below_the_cards_or_in_the_heading_and_their_odds_are_read() -> None:
    cards = ["1 Orla Thorsby, Tarn", "2 Dov Quill, Tarn †", "3 Pia Worth, Ash"]
    below = {"checklist": "\n".join(["Base", *cards, "† short print, 1:4 packs"]), "formats": "Hobby: 18 packs of 9"}
    got = told(read_case(Case("x", texts=below)))
    assert [(row["section"], row["number"]) for row in got["cards"]][-1] == ("Base short prints", "2")
    assert [(row["section"], row["rate"]) for row in got["odds"]] == [("Base short prints", "packs_per_hit 4")]
    above = {"checklist": "\n".join(["Base (1-3, SPs marked †)", *cards])}
    kinds = [row["kind"] for row in told(read_case(Case("x", texts=above)))["sections"]]
    assert kinds == ["base", "short_print"]


def test_cards_with_letters_below_no_heading_are_doubted_and_a_remark_behind_a_heading_is_said() -> None:
    assert set(statuses("something I heard about these", "I-1 Orla Thorsby", "I-2 Dov Quill")) == {Status.GUESSED}
    lines = ["Ink Autographs - each numbered to the rider's bib", "I-1 Orla Thorsby /12", "I-2 Dov Quill /7"]
    got = told(read_case(Case("x", texts={"checklist": "\n".join(lines)})))
    assert [(row["section"], row["kind"]) for row in got["sections"]] == [("Ink Autographs", "autograph")]


@pytest.mark.parametrize(
    ("line", "column", "count"),
    [
        ("One in every three boxes yields a relic.", "per_box", "1/3"),
        ("Collectors will find, on average, two relics per box.", "per_box", "2"),
        ("Relics fall just 1:4 packs", "packs_per_hit", "4"),
    ],
)
def test_what_a_release_says(line: str, column: str, count: str) -> None:
    (found,) = rates_in(line, FORMATS, odds=True)
    assert (found.column, found.text, found.name.casefold().rstrip("s")) == (column, count, "relic")


def _line(source: str, number: int, texts: dict[str, str]) -> dict[str, Any]:
    lines = read_case(Case("spoiled", {}, texts, truth={}))["lines"]
    return next(line for line in lines if (line["source"], line["line"]) == (source, number))


def test_a_row_of_a_table_above_the_cards_is_never_surely_the_name_of_the_product() -> None:
    read = _line("checklist", 1, {"checklist": "Gold | 10\nBase\n1 Ada Kolm - Northbank\n2 Bo Rask - Southgate"})
    assert read["status"] != "understood"


def test_a_key_before_signs_is_a_legend_and_not_the_name_of_the_product() -> None:
    cards = "Key: * = rookie\nBase\n1 Ada Kolm * - Northbank\n2 Bo Rask - Southgate"
    assert _line("checklist", 1, {"checklist": cards})["meaning"] == "* is rookie"
    assert _line("checklist", 3, {"checklist": cards})["status"] == "understood"


def test_a_box_of_no_packs_is_not_read_as_a_box() -> None:
    assert (
        _line("formats", 1, {"checklist": "Base\n1 Ada Kolm - Northbank", "formats": "Retail 0/8/12"})["status"]
        == "unread"
    )


def test_a_sign_that_two_lines_explain_differently_is_asked_about() -> None:
    cards = "* = rookie\n* = short print\nBase\n1 Ada Kolm * - Northbank\n2 Bo Rask - Southgate"
    assert _line("checklist", 2, {"checklist": cards})["status"] == "guessed"
