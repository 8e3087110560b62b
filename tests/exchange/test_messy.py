"""Checklists as they really come: ten messy files, each with what must come out, and any text at all."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from dataclasses import dataclass

import openpyxl
import pytest
import xlsxwriter
from hypothesis import example, given, settings
from hypothesis import strategies as st

from botin.core.catalog.numberrule import short_print_rule
from botin.core.catalog.product import Kind, Product
from botin.core.errors import BotinError, UnreadableFileError
from botin.exchange.catalog.cardtext import card_of, take_marks
from botin.exchange.catalog.formatstext import format_cells
from botin.exchange.catalog.interpret import About, Draft, interpret
from botin.exchange.catalog.oddstext import rates_in
from botin.exchange.catalog.sheets import Sources, add_file, text_sheet
from botin.exchange.notes import Note, Status

HOBBY = "Hobby box: 24 packs of 8 cards, 12 boxes a case, 118.00"
BOTH = f"{HOBBY}\nRetail blaster: 7 packs of 6 cards"


def read(*files: tuple[str, bytes], formats: str = HOBBY, **texts: str) -> Draft:
    sources = Sources()
    for name, data in files:
        add_file(sources, name, data)
    sources.sheets += [text_sheet(name, text) for name, text in texts.items()]
    return interpret(sources, About(name="Messy", formats=formats))


def book(*sheets: tuple[str, list[list[object]]], merge: str = "") -> bytes:
    made = openpyxl.Workbook()
    made.remove(made.active)
    for name, rows in sheets:
        sheet = made.create_sheet(name)
        for row in rows:
            sheet.append(row)
        if merge:
            sheet.merge_cells(merge)
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()


def cards(made: Product) -> list[tuple[str, ...]]:
    return [(c.section, c.number, c.name, c.team, c.rookie) for c in made.cards]


def status(draft: Draft, text: str) -> Note:
    return next(note for note in draft.notes if text in note.text)


@dataclass(frozen=True)
class Messy:
    """A messy file and what must come out of it."""

    make: Callable[[], Draft]
    cards: list[tuple[str, ...]]
    more: Callable[[Draft], bool] = lambda _draft: True


def semicolons_and_bom() -> Draft:
    text = "Banked 2027;;;\n;;;\nNo.;Rider;Club;RC\n1;Orla Thorsby;Harrow Bay RC;\n2;Bram Dunsparrow;Lindmark Wheelers;x\n"
    return read(("list.csv", b"\xef\xbb\xbf" + text.encode()))


def old_code_page() -> Draft:
    return read(("list.csv", "#\tAthlete\tTeam\n7\tMaëlle Söder\tKøge – Vél’o\n".encode("cp1252")))


def headings_in_a_sheet() -> Draft:
    rows = [["Card #", "Player", "Team"], ["Base Set – 2 cards"], [1, "Orla Thorsby", "Harrow Bay RC"], [2.0, "Bram D", ""],
            [], ["SIGNED IN INK – 3 cards"], ["SI-1", "Orla Thorsby (RC)", "Harrow Bay RC"]]  # fmt: skip
    return read(("list.xlsx", book(("Checklist", rows))))


def merged_cells() -> Draft:
    rows = [["Set", "Number", "Name"], ["Sprint kings", "SK-1", "Orla Thorsby"], [None, "SK-2", "Fenn Lune"]]
    return read(("list.xlsx", book(("Inserts", rows), merge="A2:A3")))


def several_lines_in_a_cell() -> Draft:
    rows = '"Number","Name","Club"\n"MP-1","Orla Thorsby\nFenn Lune","Harrow Bay RC\nSaltmarsh Velo"\n'
    return read(("pairs.csv", rows.encode()))


def a_row_for_each_finish() -> Draft:
    rows = "Set,Card,Player,Parallel,Print Run\nBase,1,Orla Thorsby,Base,\nBase,1,Orla Thorsby,Slate,199\nBase,2,Fenn Lune,Slate,199\n"
    return read(("all.csv", rows.encode()))


def pasted_with_marks() -> Draft:
    text = """BANKED 2027 CHECKLIST
Base Set (5 cards)
1. Orla Thorsby – Harrow Bay RC
2. Bram Dunsparrow, Lindmark Wheelers RC
3 Fenn Lune (RC)
4 Radek Prendrake (SP)
1–3 short prints except 2
312 Late Rider
Signed in ink
SI-1 Orla Thorsby /99
SI-2 Fenn Lune #/25
"""
    return read(checklist=text)


def wrapper_odds() -> Draft:
    text = "Base Set\n1 Orla Thorsby\nParallels: Copper, Slate /199\nSigned on the boards\nS-1 Orla Thorsby\nJersey relics\nJ-1 Fenn Lune\n"
    odds = """Copper parallel 1:29; Signed on the boards 1:124 packs
Slate 1:24 hobby, 1:48 retail blaster
Signed 1 in 1,473
2 autographs per box
one autograph or relic per case on average
Velvet 1:12
Halo parallel /10 1:7,5
"""
    return read(formats=BOTH, checklist=text, odds=odds)


def odds_table() -> Draft:
    listed = "Number,Name\n1,Orla Thorsby\n"
    odds = "Insert;Hobby;Retail\nCopper parallel;1:4;1:6\nSlate parallel /199;5.5 packs;-\n"
    return read(("cards_list.csv", listed.encode()), ("odds_list.csv", odds.encode()), formats=BOTH)


def numbers_missing() -> Draft:
    rows = "No;Name;Note\n;Orla Thorsby;\n2;;\n3;Fenn Lune;debut year\nsee page 2;x;\n"
    return read(("list.csv", rows.encode()))


def runs(draft: Draft) -> set[tuple[str, str, str, str]]:
    return {(r.section, r.key, r.group, r.run_text) for r in draft.reading.product.parallels}


def rates(draft: Draft) -> set[tuple[str, ...]]:
    return {(o.format, o.section, o.parallel, o.packs_per_hit) for o in draft.reading.product.odds}


BASE1 = ("base", "1", "Orla Thorsby", "", "")
MESSY = {
    "semicolons, BOM, a title and a blank row": Messy(
        semicolons_and_bom,
        [("base", "1", "Orla Thorsby", "Harrow Bay RC", ""), ("base", "2", "Bram Dunsparrow", "Lindmark Wheelers", "yes")],
        lambda d: status(d, "Banked").status is Status.PASSED,
    ),
    "tabs and an old code page": Messy(old_code_page, [("base", "7", "Maëlle Söder", "Køge – Vél’o", "")]),
    "headings inside a sheet, numbers as numbers": Messy(
        headings_in_a_sheet,
        [("base-set", "1", "Orla Thorsby", "Harrow Bay RC", ""), ("base-set", "2", "Bram D", "", ""),
         ("signed-in-ink", "SI-1", "Orla Thorsby", "Harrow Bay RC", "yes")],
        lambda d: "heading says 3 cards, 1 follow" in status(d, "SIGNED").says
        and d.reading.product.section_by_key["signed-in-ink"].kind is Kind.AUTOGRAPH,
    ),
    "merged cells": Messy(
        merged_cells, [("sprint-kings", "SK-1", "Orla Thorsby", "", ""), ("sprint-kings", "SK-2", "Fenn Lune", "", "")]
    ),
    "several lines in a cell": Messy(
        several_lines_in_a_cell, [("base", "MP-1", "Orla Thorsby; Fenn Lune", "Harrow Bay RC; Saltmarsh Velo", "")]
    ),
    "a row for each finish": Messy(
        a_row_for_each_finish, [BASE1, ("base", "2", "Fenn Lune", "", "")], lambda d: runs(d) == {("base", "slate", "", "199")}
    ),
    "pasted, with marks and a rule": Messy(
        pasted_with_marks,
        [("base-set", "2", "Bram Dunsparrow", "Lindmark Wheelers RC", ""), ("base-set", "312", "Late Rider", "", ""),
         ("base-set-sp", "1", "Orla Thorsby", "Harrow Bay RC", ""), ("base-set-sp", "3", "Fenn Lune", "", "yes"),
         ("base-set-sp", "4", "Radek Prendrake", "", ""),
         ("signed-in-ink", "SI-1", "Orla Thorsby", "", ""), ("signed-in-ink", "SI-2", "Fenn Lune", "", "")],
        lambda d: runs(d) == {("signed-in-ink", "", "of 99", "99"), ("signed-in-ink", "", "of 25", "25")},
    ),
    "odds off a wrapper": Messy(
        wrapper_odds,
        [("base-set", "1", "Orla Thorsby", "", ""), ("signed-on-the-boards", "S-1", "Orla Thorsby", "", ""),
         ("jersey-relics", "J-1", "Fenn Lune", "", "")],
        lambda d: rates(d) == {
            ("hobby", "base-set", "copper", "29"), ("hobby", "signed-on-the-boards", "", "124"),
            ("hobby", "base-set", "slate", "24"), ("retail-blaster", "base-set", "slate", "48"),
            ("hobby", "signed-on-the-boards", "", "1,473"), ("hobby", "base-set", "halo", "7.5"),
            ("hobby", "jersey-relics", "", ""),
        } and status(d, "Velvet").status is Status.NOT
        and [(p.count, p.per, p.promise, p.covers) for p in d.reading.product.promises] == [
            ("2", "box", "at_least", "kind=autograph"), ("1", "case", "average", "kind=autograph;kind=relic")],
    ),
    "odds in a table, a column a format": Messy(
        odds_table, [BASE1],
        lambda d: rates(d) == {("hobby", "base", "copper", "4"), ("retail-blaster", "base", "copper", "6"),
                               ("hobby", "base", "slate", "5.5")},
    ),
    "numbers or names missing": Messy(
        numbers_missing, [("base", "3", "Fenn Lune", "", "")],
        lambda d: sum(note.status is Status.NOT for note in d.notes) == 3,
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", MESSY)
def test_messy_files(name: str) -> None:
    draft = MESSY[name].make()
    assert cards(draft.reading.product) == MESSY[name].cards
    assert MESSY[name].more(draft), draft.notes


@pytest.mark.parametrize("name", MESSY)
def test_every_line_has_a_note(name: str) -> None:
    draft = MESSY[name].make()
    assert all(note.says for note in draft.notes if note.status is not Status.PASSED)
    assert len({(note.sheet, note.line) for note in draft.notes}) == len(draft.notes)


@pytest.mark.parametrize(
    ("text", "name", "column", "number", "promise"),
    [
        ("Copper 1:24", "Copper", "packs_per_hit", "24", ""),
        ("Copper 1 in 24", "Copper", "packs_per_hit", "24", ""),
        ("Copper 1/24 packs", "Copper", "packs_per_hit", "24", ""),
        ("Copper 1:1,473", "Copper", "packs_per_hit", "1,473", ""),
        ("Copper 1:1.473.000", "Copper", "packs_per_hit", "1,473,000", ""),
        ("Copper (1:7.0)", "Copper", "packs_per_hit", "7.0", ""),
        ("Sprint kings: 2 per box", "Sprint kings", "per_box", "2", ""),
        ("2 Sprint kings per box", "Sprint kings", "per_box", "2", ""),
        ("one relic per case on average", "relic", "per_case", "1", "average"),
        ("Two guaranteed autographs a box", "autographs", "per_box", "2", "at_least"),
        ("exactly one poster in every box", "poster", "per_box", "1", "exact"),
    ],
)
def test_rates_as_wrappers_print_them(text: str, name: str, column: str, number: str, promise: str) -> None:
    (found,) = rates_in(text, {})
    assert (found.name, found.column, found.text, found.promise) == (name, column, number, promise)


@pytest.mark.parametrize("text", ["12 Orla Thorsby 1/1", "Orla Thorsby", "", "1 Orla", "9 lives"])
def test_what_is_no_rate(text: str) -> None:
    assert rates_in(text, {}) == ()


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("1–80 short prints except 17; also 312", "1–16, 18–80, 312"),
        ("SP: 1-100 except 45, also 301", "1–44, 46–100, 301"),
        ("Short prints: 3, 5 and 9", "3, 5, 9"),
        ("Cards 301 to 330 are short printed", "301–330"),
    ],
)
def test_rules_of_numbers(text: str, says: str) -> None:
    rule = short_print_rule(text)
    assert rule is not None
    assert rule.words() == says


@pytest.mark.parametrize(
    "text", ["12 Orla Thorsby SP", "1–80", "short prints", "12 Spencer Short", "80-1 short prints"]
)
def test_what_is_no_rule(text: str) -> None:
    assert short_print_rule(text) is None


@pytest.mark.parametrize(
    ("text", "packs", "cards_", "case"),
    [
        ("Hobby box: 24 packs of 8 cards, 12 boxes a case, 118.00", "24", "8", "12"),
        ("Retail blaster: 7 packs x 6", "7", "6", ""),
        ("Jumbo 10 packs, 18 cards per pack, 8-box case", "10", "18", "8"),
    ],
)
def test_formats_in_a_line(text: str, packs: str, cards_: str, case: str) -> None:
    found = format_cells(text)
    assert found is not None
    assert (found["packs_per_box"], found["cards_per_pack"], found["boxes_per_case"]) == (packs, cards_, case)


def test_marks_come_off_in_any_order() -> None:
    for text in ("Fenn Lune RC SP /25", "Fenn Lune /25 (SP) (RC)", "Fenn Lune (Rookie) numbered to 25 SP"):
        found = take_marks(text)
        assert (found.text, found.rookie, found.run, found.short) == ("Fenn Lune", "yes", "25", True)


def test_a_club_that_ends_in_rc_is_no_rookie() -> None:
    found = card_of("12 Orla Thorsby - Harrow Bay RC /99")
    assert found is not None
    assert (found.team, found.rookie, found.run) == ("Harrow Bay RC", "", "99")


ANY = st.text(st.characters(codec="utf-8", exclude_categories=["Cs"]), max_size=400)


@settings(max_examples=150, deadline=None)
@given(ANY, ANY, ANY)
@example("", "\u00ad", "")
@example("\u200b\n1 Orla Thorsby\u200b", "", "\ufeff")
def test_any_text_is_read_without_a_crash_and_every_line_is_answered(one: str, two: str, formats: str) -> None:
    draft = read(formats=formats, checklist=one, odds=two)
    lines = [line for text in (one, two) for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n")]
    answered = sum(1 for note in draft.notes if note.sheet != "how it is boxed")
    assert answered == sum(1 for line in lines if line.strip())


WORDS = st.lists(st.sampled_from(
    ["12", "1:24", "1/1", "RC", "(SP)", "/99", "-", "–", ";", ",", "Orla", "hobby", "per box", "autographs", "Parallels:",
     "short prints", "except", "1–80", "40 cards", "\n", "\t", "signed", "=1+1", "2 per case", "#", "1:0", "1:", "/0"]), max_size=40)  # fmt: skip


@settings(max_examples=300, deadline=None)
@given(WORDS)
@example(["12", ";", "RC"])
def test_any_jumble_of_the_grammar_is_read_without_a_crash(words: list[str]) -> None:
    text = " ".join(words)
    draft = read(formats=BOTH, checklist=text, odds=text)
    assert all(card.number and card.name for card in draft.reading.product.cards)


@settings(max_examples=120, deadline=None)
@given(st.binary(max_size=600), st.sampled_from(["a.csv", "a.xlsx", "a.zip", "a.txt", "a.json", "a.exe"]))
def test_any_bytes_are_read_or_refused_in_words(data: bytes, name: str) -> None:
    try:
        read((name, data))
    except BotinError as exc:
        assert exc.message.endswith((".", ")"))  # noqa: PT017


def zipped(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name.replace("__", "/"), data)
    return out.getvalue()


def formula() -> bytes:
    return book(("cards", [["section", "number", "name"], ["base", "1", "=1+1"]]))


def external() -> bytes:
    data = io.BytesIO(book(("cards", [["a"]])))
    with zipfile.ZipFile(data, "a") as archive:
        archive.writestr("xl/externalLinks/externalLink1.xml", "<x/>")
    return data.getvalue()


def wide() -> bytes:
    made = openpyxl.Workbook()
    made.active.cell(1, 16_384, "x")  # type: ignore[union-attr]
    out = io.BytesIO()
    made.save(out)
    return out.getvalue()


def huge_sheet() -> bytes:
    row = b"<row>" + b"<c><v>1</v></c>" * 1000 + b"</row>"
    out = io.BytesIO(book(("cards", [["a"]])))
    with zipfile.ZipFile(out, "a", zipfile.ZIP_STORED) as archive:
        archive.writestr("xl/worksheets/sheet9.xml", row * 3_500)
    return out.getvalue()


REFUSED = {
    "zip bomb": ("a.zip", lambda: zipped(**{"cards.csv": b"0" * 60_000_000}), "would unpack to"),
    "path trick": ("a.zip", lambda: zipped(**{"..__cards.csv": b"x"}), "outside itself"),
    "absolute path": ("a.zip", lambda: zipped(**{"__etc__cards.csv": b"x"}), "outside itself"),
    "50 MB sheet": ("a.xlsx", huge_sheet, "Split it"),
    "50 MB text": ("a.csv", lambda: b"1,Orla\n" * 8_000_000, "Split it"),
    "external links": ("a.xlsx", external, "other files"),
    "a million columns": ("a.csv", lambda: b"," * 1_000_000, "columns"),
    "as many as a sheet has": ("a.xlsx", wide, "columns"),
    "not a workbook": ("a.xlsx", lambda: b"hello", "cannot be opened"),
    "not a text": ("a.csv", lambda: b"a\0b", "no text file"),
    "another kind of file": ("a.pdf", lambda: b"%PDF", "no kind of file"),
}  # fmt: skip


LETTERED = "BASE SET\n1 Orla Thorsby, Tarn\nSTORM LINES | 2 CARDS | H 1:8, B 1:16\nSL1 Dov Quill, Tarn\nSL2 Pia Fenwick, Tarn\n"


@pytest.mark.parametrize(
    ("formats", "odds"),
    [
        ("Hobby: 24 packs of 8\nBlaster: 7 packs of 6", [("hobby", "8"), ("blaster", "16")]),
        ("Hobby: 24 packs of 8\nHobby jumbo: 7 packs of 6\nBlaster: 7 packs of 6", [("blaster", "16")]),
    ],
    ids=["one format a letter", "two formats begin with H"],
)
def test_a_letter_before_odds_is_a_format_or_a_question(formats: str, odds: list[tuple[str, str]]) -> None:
    draft = read(formats=formats, checklist=LETTERED)
    assert [(line.format, line.packs_per_hit) for line in draft.reading.product.odds] == odds
    assert status(draft, "STORM LINES").status is Status.GUESSED


@pytest.mark.parametrize("numbers", ["S-{}", "{}"], ids=["a column counts rows", "no other column has numbers"])
def test_the_numbers_on_the_cards_are_not_the_count_of_rows(numbers: str) -> None:
    rows = "".join(f"{at},{numbers.format(at)},{name},Tarn\n" for at, name in enumerate(("Orla", "Dov", "Pia"), 1))
    draft = read(("s.csv", f"# exported 2026-05-01\nid,card,sailor,crew\n{rows}".encode()))
    assert [card.number for card in draft.reading.product.cards] == [numbers.format(at) for at in (1, 2, 3)]


@pytest.mark.parametrize("formats", [HOBBY, BOTH], ids=["one format", "two formats"])
def test_a_word_behind_a_rate_that_nobody_knows_is_asked_about(formats: str) -> None:
    draft = read(
        formats=formats, checklist="BASE SET\n1 Orla Thorsby, Tarn\nParallels: Copper", odds="Copper 1:4 jumbo"
    )
    note = status(draft, "Copper 1:4 jumbo")
    assert note.status is Status.GUESSED
    assert "“jumbo”" in note.says


@pytest.mark.parametrize("run", ["/-5", "/abc", "/9999999"])
def test_what_stands_like_a_run_and_is_none_is_asked_about(run: str) -> None:
    text = f"BASE SET\n1 Orla Thorsby, Tarn\nParallels: Copper, Gold {run}"
    listed = book(("Base", [["No", "Name"], [1, "Orla"], [2, "Dov"]]), ("Finishes", [["Parallel"], [f"Gold {run}"]]))
    assert status(read(checklist=text), "Parallels").status is not Status.UNDERSTOOD
    assert status(read(("b.xlsx", listed)), f"Gold {run}").status is not Status.UNDERSTOOD


def test_a_slash_in_the_name_of_a_finish_is_no_run() -> None:
    draft = read(checklist="BASE SET\n1 Orla Thorsby, Tarn\nParallels: Black/Gold, Red / White /25")
    assert status(draft, "Parallels").status is Status.UNDERSTOOD
    assert [row.label for row in draft.reading.product.parallels] == ["Black/Gold", "Red / White"]


@pytest.mark.parametrize("number", ["Jan 3", "03-Mrz", "01.04.2026"])
def test_a_number_that_a_spreadsheet_made_a_day_of_is_no_number(number: str) -> None:
    table = f"No;Name;Club\n1;Orla Thorsby;Tarn\n2;Dov Quill;Tarn\n{number};Jorik Munro;Tarn\n4;Pia Munro;Tarn\n"
    draft = read(("d.csv", table.encode()))
    assert status(draft, number).status is Status.NOT
    assert [card.number for card in draft.reading.product.cards] == ["1", "2", "4"]


@pytest.mark.parametrize("label", ["Control Points", "Poster Kings", "Common Ground", "Contest of Wheels"])
def test_a_word_in_the_name_of_an_insert_makes_it_no_other_kind(label: str) -> None:
    draft = read(checklist=f"Base Set\n1 Orla Thorsby - Tarn\n2 Dov Quill - Tarn\n{label}\nKP1 Dov Quill - Tarn\n")
    section = next(one for one in draft.reading.product.sections if one.label == label)
    assert section.kind is Kind.INSERT


def test_two_columns_of_names_are_two_people() -> None:
    rows = b"Number,Name,Team,Name,Team\n1,Orla,Tarn,Dov,Eastmere\n2,Dov,Eastmere,Pia,Tarn\n3,Pia,Tarn,Orla,Tarn\n"
    draft = read(("duals.csv", rows))
    assert [card.people for card in draft.reading.product.cards][:2] == [("Orla", "Dov"), ("Dov", "Pia")]


def test_a_formula_without_its_value_is_no_name() -> None:
    draft = read(("a.xlsx", formula()))
    assert draft.reading.product.cards == ()
    assert status(draft, "=1+1").status is Status.NOT
    assert "a formula without its value" in status(draft, "=1+1").says


def test_the_value_saved_beside_a_formula_is_taken() -> None:
    out = io.BytesIO()
    made = xlsxwriter.Workbook(out, {"in_memory": True})
    sheet = made.add_worksheet("Base")
    for row, cells in enumerate([["No", "Name"], ["1", "Orla Thorsby"], ["2", "Fenn Lune"]]):
        sheet.write_row(row, 0, cells)
    sheet.write_formula(3, 0, "=A3+1", None, 3)
    sheet.write_string(3, 1, "Radek Prendrake")
    made.close()
    draft = read(("a.xlsx", out.getvalue()))
    assert [(card.number, card.name) for card in draft.reading.product.cards][2] == ("3", "Radek Prendrake")


@pytest.mark.parametrize("name", REFUSED)
def test_what_is_not_taken_in_is_refused_in_words(name: str) -> None:
    file, make, says = REFUSED[name]
    with pytest.raises(UnreadableFileError, match=says):
        read((file, make()))


def test_finishes_below_the_cards_of_a_sheet_are_no_cards_and_no_section() -> None:
    rows: list[list[object]] = [["#", "Player", "Team"], ["Night Sprints"], ["NS-1", "Orla Thorsby", "Tarn"]]
    rows += [["Parallels"], ["Copper", "/99"], ["Slate"], ["Signed Sprints"], ["SS-1", "Dov Quill", "Tarn"]]
    product = read(("s.xlsx", book(("Sheet1", rows)))).reading.product
    assert {(p.section, p.label, p.run_text) for p in product.parallels if p.key} == {
        ("night-sprints", "Copper", "99"),
        ("night-sprints", "Slate", ""),
    }
    assert {card.section for card in product.cards} == {"night-sprints", "signed-sprints"}


def test_an_unknown_word_among_rookies_is_a_yes_that_is_asked_about() -> None:
    rows: list[list[object]] = [["#", "Player", "Rookie"], [1, "Dov Quill", "oui"], [2, "Pia Fenwick", "perhaps"]]
    draft = read(("s.xlsx", book(("Base", rows))))
    assert [note.status for note in draft.notes if "card" in note.says][-2:] == [Status.UNDERSTOOD, Status.GUESSED]
    assert [card.rookie for card in draft.reading.product.cards] == ["yes", "yes"]


def test_what_stands_in_brackets_behind_every_card_is_its_club_unless_one_names_a_kind() -> None:
    clubs = "\n".join(f"{n} Rider {'ABCDEFGHIJKL'[n]}son [{('Tarn', 'Eastmere')[n % 2]}]" for n in range(1, 12))
    product = read(checklist=f"Base Set\n{clubs}").reading.product
    assert {card.team for card in product.cards} == {"Tarn", "Eastmere"}
    assert [section.label for section in product.sections] == ["Base Set"]


def test_finishes_told_in_brackets_behind_a_heading_are_its_own() -> None:
    text = "Night Sprints (Parallels: Copper (/99), Slate)\nNS-1 Orla Thorsby - Tarn\nNS-2 Dov Quill - Tarn"
    product = read(checklist=text).reading.product
    assert [section.label for section in product.sections] == ["Night Sprints"]
    assert [(p.label, p.run_text) for p in product.parallels if p.key] == [("Copper", "99"), ("Slate", "")]
    assert [card.number for card in product.cards] == ["NS-1", "NS-2"]


def test_a_number_before_a_heading_is_its_count_where_so_many_lines_with_bullets_follow() -> None:
    cards = "\n".join(f"• #{n} Rider {'ABCD'[n]}son" for n in range(1, 4))
    product = read(checklist=f"3 Night Sprints\n{cards}").reading.product
    assert [(section.label, len(product.cards)) for section in product.sections] == [("Night Sprints", 3)]
    card = read(checklist=f"4 Orla Thorsby\n{cards}").reading.product.cards[0]
    assert (card.number, card.name) == ("4", "Orla Thorsby")


def test_a_column_of_finishes_with_their_runs_is_no_list_of_cards() -> None:
    rows: list[list[object]] = [["Set", "#", "Player", "Parallels"]]
    rows += [["Base", n, f"Rider {'ABCDEFGHI'[n]}son", "Gold 50; Red 25"] for n in range(1, 9)]
    product = read(("s.xlsx", book(("Cards", rows)))).reading.product
    assert [card.number for card in product.cards] == [str(n) for n in range(1, 9)]
    assert {section.label for section in product.sections} == {"Base"}


@pytest.mark.parametrize("line", ["Card: 3", "(1) exclusive to hobby boxes", "1/24 Copper packs", "No: 4"])
def test_what_is_like_a_card_or_a_count_is_neither(line: str) -> None:
    draft = read(checklist=f"Base Set\n1 Orla Thorsby - Tarn\n2 Dov Quill - Tarn\n{line}")
    assert [note.status for note in draft.notes if note.text == line] == [Status.NOT]
    assert len(draft.reading.product.cards) == 2


def test_a_section_in_the_place_of_a_club_is_never_certain() -> None:
    text = "Night Sprints\n1 Orla Thorsby (Base Set)\n2 Dov Quill (Tarn)\n"
    draft = read(checklist=text)
    said = {note.text: note.status for note in draft.notes}
    assert said["1 Orla Thorsby (Base Set)"] is Status.GUESSED
    assert said["2 Dov Quill (Tarn)"] is Status.UNDERSTOOD


def test_a_column_of_numbers_for_each_set_leaves_no_card_certain() -> None:
    table = "Player,Team,Base #,Night Sprints #\nOrla Thorsby,Tarn,1,NS1\nDov Quill,Tarn,2,NS2\nPia Munro,Eastmere,3,NS3\n"
    draft = read(("players.csv", table.encode()))
    cards = [note for note in draft.notes if note.sheet == "players.csv" and note.says.startswith("card ")]
    assert cards
    assert all(note.status is not Status.UNDERSTOOD for note in cards)
