"""Layouts that are seldom, or crooked: names in two columns, cards in a row, headings of two rows, ticks for finishes."""

from __future__ import annotations

import io
import random

import openpyxl

from tests.corpus.tablelayouts import Cells, csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def first_and_last(rng: random.Random) -> Case:
    """First and last names in columns of their own."""
    world = make_world(rng)
    heads = [
        "Set",
        "No.",
        *rng.choice((("First name", "Last name"), ("First", "Last"), ("Vorname", "Nachname"))),
        "Team",
    ]
    rows: Cells = [heads]
    for s in world.sections:
        for c in s.cards:
            first, _, last = c.name.partition(" ")
            rows.append([s.label, c.number, first, last, c.team])
    return Case("first and last", {"names.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def pasted_table(rng: random.Random) -> Case:
    """A table copied from a page into the field for the checklist: tabs or bars between the cells."""
    world = make_world(rng)
    mark = rng.choice(("\t", " | ", "\t"))
    lines = [mark.join(("No.", "Player", "Team", "Set", "RC"))]
    lines += [
        mark.join((c.number, c.name, c.team, s.label, "RC" if c.rookie else ""))
        for s in world.sections
        for c in s.cards
    ]
    return Case("pasted table", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def markdown_table(rng: random.Random) -> Case:
    """Tables in Markdown, each under its heading."""
    world = make_world(rng, base=40)
    lines = [f"# {world.title}", ""]
    for s in world.sections:
        lines += [f"## {s.label}", "", "| No | Name | Club |", "|----|:-----|------|"]
        lines += [f"| {c.number} | {c.name} | {c.team} |" for c in s.cards] + [""]
    data = "\n".join(lines).encode()
    return Case("markdown table", {"page.md": data}, truth=truth_cards(world, rookies=False))


def number_last(rng: random.Random) -> Case:
    """The number behind the name."""
    world = make_world(rng, plain_clubs=True)
    style = rng.choice(("{name} ({team}) #{number}", "{name} - {team} - #{number}", "{name}, {team} #{number}"))
    lines = []
    for s in world.sections:
        lines += [f"{s.label} ({len(s.cards)} cards)"]
        lines += [style.format(name=c.name, team=c.team, number=c.number) for c in s.cards]
    return Case("number last", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def cards_in_a_row(rng: random.Random) -> Case:
    """Several cards in a line."""
    world = make_world(rng, base=40, plain_clubs=True)
    mark = rng.choice((", ", "; "))
    lines = []
    for s in world.sections:
        lines.append(f"{s.label}:")
        for start in range(0, len(s.cards), 5):
            lines.append(mark.join(f"{c.number} {c.name} ({c.team})" for c in s.cards[start : start + 5]))
    return Case("cards in a row", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def club_in_the_name(rng: random.Random) -> Case:
    """Name and club in one cell."""
    world = make_world(rng, plain_clubs=True)
    style = rng.choice(("{} ({})", "{} - {}", "{}, {}"))
    rows: Cells = [["Insert set", "Card", "Description"]]
    rows += [[s.label, c.number, style.format(c.name, c.team)] for s in world.sections for c in s.cards]
    return Case("club in the name", {"d.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def two_rows_of_heads(rng: random.Random) -> Case:
    """Odds under headings of two rows."""
    world = make_world(rng, base=40)
    cards: Cells = [["Set", "#", "Name", "Club"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    odds: Cells = [
        ["", "", *(["Odds"] + [""] * (len(world.formats) - 1))],
        ["Set", "Parallel", *(f["format"] for f in world.formats)],
    ]
    for s in world.sections:
        for label in [""] * (s.kind != "base") + [label for label, _ in s.finishes]:
            odds.append([s.label, label, *(f"1:{world.odds[(f['format'], s.label, label)]}" for f in world.formats)])
    finishes = [{**row, "run": ""} for row in truth_finishes(world)]
    truth = {**truth_cards(world, rookies=False), "odds": truth_odds(world), "parallels": finishes}
    files = {"o.xlsx": xlsx_bytes([("Cards", cards), ("Odds", odds)])}
    return Case("two rows of heads", files, truth=truth)


def finish_ticks(rng: random.Random) -> Case:
    """A column for each finish, with a tick where the card has it."""
    world = make_world(rng, base=40)
    world.sections = [s for s in world.sections if s.kind == "base"]
    base = world.sections[0]
    labels = dict(base.finishes)
    rows: Cells = [["No", "Name", "Club", *(f"{label} /{run}" if run else label for label, run in labels.items())]]
    rows += [[c.number, c.name, c.team, *("x" for _ in labels)] for c in base.cards]
    truth = {**truth_cards(world, rookies=False), "parallels": truth_finishes(world)}
    truth["sections"] = [{"section": "Base", "kind": "base"}]
    for table in ("cards", "parallels"):
        truth[table] = [{**row, "section": "Base"} for row in truth[table]]
    return Case("finish ticks", {"ticks.csv": csv_bytes(rng, rows)}, truth=truth)


def stacked(rng: random.Random) -> Case:
    """Formats, finishes and cards below one another on one sheet."""
    world = make_world(rng, base=40)
    names = ("format", "packs_per_box", "cards_per_pack", "boxes_per_case", "list_price")
    rows: Cells = [[world.title], [], ["Box type", "Packs per box", "Cards per pack", "Boxes per case", "Price"]]
    rows += [[fmt[name] for name in names] for fmt in world.formats]
    rows += [[], ["Parallels"], ["Set", "Finish", "Print run"]]
    rows += [[s.label, label, run] for s in world.sections for label, run in s.finishes]
    rows += [[], ["Checklist"], ["Set", "Card #", "Player", "Team"]]
    rows += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    truth = {**truth_cards(world, rookies=False), "parallels": truth_finishes(world), "formats": truth_formats(world)}
    return Case("stacked", {"all.xlsx": xlsx_bytes([("Sheet1", rows)])}, truth=truth)


def filled_down(rng: random.Random) -> Case:
    """The section only in the first row of its cards, the cell merged or left blank below."""
    world = make_world(rng)
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.append(["Subset", "Number", "Athlete", "Team"])
    merged = rng.random() < 0.5
    for s in world.sections:
        first = sheet.max_row + 1
        for place, c in enumerate(s.cards):
            sheet.append([None if place else s.label, c.number, c.name, c.team])
        if merged and len(s.cards) > 1:
            sheet.merge_cells(start_row=first, end_row=sheet.max_row, start_column=1, end_column=1)
    out = io.BytesIO()
    book.save(out)
    return Case("filled down", {"f.xlsx": out.getvalue()}, truth=truth_cards(world, rookies=False))


def page_breaks(rng: random.Random) -> Case:
    """The headings once more every so many rows, and sections continued."""
    world = make_world(rng)
    heads: list[object] = ["#", "Player", "Team"]
    rows: Cells = []
    for s in world.sections:
        for start in range(0, len(s.cards), 30):
            rows += [[f"{s.label}{' (continued)' if start else ''}"], heads]
            rows += [[c.number, c.name, c.team] for c in s.cards[start : start + 30]]
    return Case("page breaks", {"p.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def list_of_sections(rng: random.Random) -> Case:
    """Sections with their finishes in a cell, beside the cards."""
    world = make_world(rng, base=40)
    cards: Cells = [["Set", "#", "Name", "Club"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    sets: Cells = [["Set", "Cards", "Parallels"]]
    for s in world.sections:
        stated = ", ".join(f"{label} /{run}" if run else label for label, run in s.finishes)
        sets.append([s.label, str(len(s.cards)), stated])
    truth = {**truth_cards(world, rookies=False), "parallels": truth_finishes(world)}
    return Case("list of sections", {"s.xlsx": xlsx_bytes([("Cards", cards), ("Sets", sets)])}, truth=truth)


def odds_by_section(rng: random.Random) -> Case:
    """Odds under the name of each section, one format."""
    world = make_world(rng, base=40)
    world.formats = world.formats[:1]
    world.odds = {key: rate for key, rate in world.odds.items() if key[0] == "Hobby"}
    listed = []
    for s in world.sections:
        listed += [f"{s.label} - {len(s.cards)} cards", *(f"{c.number} {c.name} - {c.team}" for c in s.cards), ""]
    odds = []
    for s in world.sections:
        rate = "" if s.kind == "base" else f" (1:{world.odds[('Hobby', s.label, '')]})"
        odds += [f"{s.label}{rate}"]
        odds += [f"• {label} 1:{world.odds[('Hobby', s.label, label)]}" for label, _ in s.finishes]
    finishes = [{**row, "run": ""} for row in truth_finishes(world)]
    truth = {**truth_cards(world, rookies=False), "odds": truth_odds(world), "parallels": finishes}
    texts = {"checklist": "\n".join(listed), "odds": "\n".join(odds), "formats": "Hobby box: 24 packs of 8 cards"}
    return Case("odds by section", texts=texts, truth=truth)


def all_in_one(rng: random.Random) -> Case:
    """A whole page in one field: boxes, sections with odds and finishes, cards."""
    world = make_world(rng, base=40, plain_clubs=True)
    world.formats = world.formats[:1]
    world.odds = {key: rate for key, rate in world.odds.items() if key[0] == "Hobby"}
    lines = [world.title, "Hobby: 24 packs per box, 8 cards per pack, 12 boxes per case, $118.00", ""]
    for s in world.sections:
        rate = "" if s.kind == "base" else f" (1:{world.odds[('Hobby', s.label, '')]} packs)"
        lines += [f"{s.label.upper()}{rate}", f"{len(s.cards)} cards"]
        if s.finishes:
            lines.append("Parallels:")
        for label, run in s.finishes:
            lines.append(f"* {label}{f' – /{run}' if run else ''} (1:{world.odds[('Hobby', s.label, label)]} packs)")
        lines += ["", *(f"{c.number} {c.name}, {c.team}{' RC' if c.rookie else ''}" for c in s.cards), ""]
    formats = [{**fmt, "currency": "USD"} for fmt in truth_formats(world)]
    truth = {**truth_cards(world), "parallels": truth_finishes(world), "odds": truth_odds(world), "formats": formats}
    return Case("all in one", texts={"checklist": "\n".join(lines)}, truth=truth)


def numbers_for_odds(rng: random.Random) -> Case:
    """Odds as bare numbers under “1 in”, in a CSV beside a checklist CSV and a CSV of boxes."""
    world = make_world(rng)
    world.formats = world.formats[:1]
    world.odds = {key: rate for key, rate in world.odds.items() if key[0] == "Hobby"}
    cards: Cells = [["Set", "Number", "Subject", "Team"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    odds: Cells = [["Card type", "Parallel", "1 in"]]
    odds += [[section, label, rate] for (_, section, label), rate in world.odds.items()]
    boxes: Cells = [
        ["Box", "Packs", "Cards per pack", "Boxes per case", "Price"],
        ["Hobby", "24", "8", "12", "$118.00"],
    ]
    formats = [{**fmt, "currency": "USD"} for fmt in truth_formats(world)]
    finishes = [{**row, "run": ""} for row in truth_finishes(world)]
    truth = {
        **truth_cards(world, rookies=False), "odds": truth_odds(world), "formats": formats, "parallels": finishes,
    }  # fmt: skip
    files = {
        "cards list.csv": csv_bytes(rng, cards),
        "pull rates.csv": csv_bytes(rng, odds),
        "boxes.csv": csv_bytes(rng, boxes),
    }
    return Case("numbers for odds", files, truth=truth)


NORDIC = (
    (("Kortnr", "Namn", "Lag", "Serie", "Upplaga"), "sv"), (("Numero", "Giocatore", "Squadra", "Serie", "Tiratura"), "it"),
    (("Numer", "Zawodnik", "Drużyna", "Zestaw", "Nakład"), "pl"), (("Číslo", "Jméno", "Tým", "Sada", "Náklad"), "cs"),
    (("Kort nr.", "Navn", "Hold", "Serie", "Oplag"), "da"),
)  # fmt: skip


def other_tongues(rng: random.Random) -> Case:
    """Headings in languages that fewer people write, numbered cards among them."""
    world = make_world(rng)
    heads, _ = rng.choice(NORDIC)
    signed = next(s for s in world.sections if s.kind == "autograph")
    rows: Cells = [list(heads)]
    rows += [
        [c.number, c.name, c.team, s.label, "99" if s is signed else ""] for s in world.sections for c in s.cards
    ]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = [{"section": signed.label, "parallel": "", "run": "99"}]
    return Case("other tongues", {"x.csv": csv_bytes(rng, rows)}, truth=truth)


def sheets_without_a_word(rng: random.Random) -> Case:
    """A workbook whose sheets are the sections, named by titles that say no kind; numbers all count from 1."""
    world = make_world(rng)
    names = [
        "Season cards",
        *rng.sample(("Storm Front", "Gold Rush Hour", "Velocity", "Iron Lungs", "Early Birds"), 5),
    ]
    sheets: list[tuple[str, Cells]] = []
    truth: dict[str, list[dict[str, str]]] = {"sections": [], "cards": []}
    for place, (s, label) in enumerate(zip(world.sections, names, strict=False)):
        rows: Cells = [["Card", "Who", "Club"], *([str(n), c.name, c.team] for n, c in enumerate(s.cards, 1))]
        sheets.append((label, rows))
        truth["sections"].append({"section": label, "kind": "insert" if place else "base"})
        for n, c in enumerate(s.cards, 1):
            truth["cards"].append({"section": label, "number": str(n), "name": c.name, "team": c.team, "rookie": ""})
    return Case("sheets without a word", {"w.xlsx": xlsx_bytes(sheets)}, truth=truth)


ODD = (first_and_last, pasted_table, markdown_table, number_last, cards_in_a_row, club_in_the_name, two_rows_of_heads,
       finish_ticks, stacked, filled_down, page_breaks, list_of_sections, odds_by_section, all_in_one, numbers_for_odds,
       other_tongues, sheets_without_a_word)  # fmt: skip
