"""Layouts of people who keep lists for a club: a legend of numbers, cards by person or club, two products in a file."""

from __future__ import annotations

import random

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows, listed, rated_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import World, make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def counted_lines(rng: random.Random) -> Case:
    """A counter before each line, then the number with its sign."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(s.label)
        lines += [f"{at}) #{c.number} {c.name} - {c.team}" for at, c in enumerate(s.cards, 1)]
        lines.append("")
    return Case("counted", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def name_first_without_headings(rng: random.Random) -> Case:
    """A table without headings: name, club, set, number."""
    world = make_world(rng)
    rows = [[name, team, label, number] for label, number, name, team in card_rows(world)]
    return Case("no headings", {"plain.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def by_club_below_sets(rng: random.Random) -> Case:
    """Below each set the clubs, below each club its cards."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label.upper(), ""]
        for club in dict.fromkeys(c.team for c in s.cards):
            lines += [f"Club: {club}", *[f"{c.number} {c.name}" for c in s.cards if c.team == club], ""]
    return Case("by club", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def sheets_of_other_things(rng: random.Random) -> Case:
    """A workbook with the cards among sheets of trades and of what was paid."""
    world = make_world(rng)
    sheets = [
        ("Trades", [["Date", "With", "Gave", "Got"], ["2026-02-01", "Bo", "2 base", "1 relic"]]),
        ("Costs", [["Date", "What", "Paid"], ["2026-01-09", "hobby box", "110.00"], ["2026-01-11", "sleeves", "4.50"]]),
        ("Full list", [["Card No", "Name on card", "Club", "Belongs to set"],
                       *[[number, name, team, label] for label, number, name, team in card_rows(world)]]),
    ]  # fmt: skip
    return Case("among others", {"mine.xlsx": xlsx_bytes(sheets)}, truth=truth_cards(world, rookies=False))


def page_heads_and_feet(rng: random.Random) -> Case:
    """A text copied from pages: a head and a foot on every page, headings with “continued”."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    page = 1
    for s in world.sections:
        lines.append(s.label)
        for at, c in enumerate(s.cards, 1):
            lines.append(f"{c.number} {c.name}, {c.team}")
            if at % 25 == 0 and at < len(s.cards):
                lines += [f"Page {page}", f"{world.title} checklist", f"{s.label} (continued)"]
                page += 1
        lines.append("")
    return Case("pages", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def utf16_tabs(rng: random.Random) -> Case:
    """A table parted by tabs in UTF-16, as some programs save it."""
    world = make_world(rng)
    rows = [["Set", "Number", "Name", "Team", "Rookie"]]
    rows += [[s.label, c.number, c.name, c.team, "RC" if c.rookie else ""] for s in world.sections for c in s.cards]
    data = "\r\n".join("\t".join(row) for row in rows).encode("utf-16")
    return Case("utf-16", {"cards.txt": data}, truth=truth_cards(world))


def latin_semicolons(rng: random.Random) -> Case:
    """A table parted by semicolons in Latin-1, with an empty column between and notes below."""
    world = make_world(rng)
    rows = [["Satz", "", "Nr.", "Fahrer", "Verein"]]
    rows += [[label, "", number, name, team] for label, number, name, team in card_rows(world)]
    text = "\n".join(";".join(row) for row in rows) + "\n;;;;\nStand: 3. Mai 2026;;;;\n"
    return Case("latin", {"liste.csv": text.encode("cp1252", "replace")}, truth=_latin(world))


def _latin(world: World) -> dict[str, list[dict[str, str]]]:
    truth = truth_cards(world, rookies=False)
    for row in truth["cards"]:
        for key in ("name", "team"):
            row[key] = row[key].encode("cp1252", "replace").decode("cp1252")
    return truth


def odds_with_totals_a_box(rng: random.Random) -> Case:
    """Odds in a grid with boxes down the side of a text, dots between."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for f in world.formats:
        lines += [f"{f['format']} ({f['packs_per_box']} packs per box)", ""]
        for label, finish in rated_of(world):
            name = f"{label} {finish}".strip()
            lines.append(f"{name} {'.' * 12} 1:{world.odds[(f['format'], label, finish)]}")
        lines.append("")
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    texts = {"checklist": listed(world), "odds": "\n".join(lines), "formats": formats_of(world)}
    return Case("dots", texts=texts, truth=truth)


def finishes_by_star(rng: random.Random) -> Case:
    """Finishes below each heading, a star before each, their runs behind a colon."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(f"{s.label}:")
        lines += [f"* {label}: {run or 'no number'}" for label, run in s.finishes]
        lines += [*[f"{c.number}: {c.name} [{c.team}]" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("stars", texts={"checklist": "\n".join(lines)}, truth=truth)


def first_column_of_sets(rng: random.Random) -> Case:
    """A workbook whose title and date stand above, the set in the first column once, club before name."""
    world = make_world(rng)
    rows = [[world.title], ["as of 3 May 2026"], [], ["Set", "Club", "Name", "No.", "Rookie"]]
    for s in world.sections:
        for at, c in enumerate(s.cards):
            rows.append([s.label if not at else "", c.team, c.name, c.number, "yes" if c.rookie else "no"])
    return Case("set once", {"club.xlsx": xlsx_bytes([("List", rows)])}, truth=truth_cards(world))


def cards_with_pipes_and_marks(rng: random.Random) -> Case:
    """Bars between, the marks in a last cell, headings in brackets."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(f"[{s.label}]")
        lines += [f"{c.number} | {c.name} | {c.team} | {'RC' if c.rookie else '-'}" for c in s.cards]
    return Case("bars and marks", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def odds_by_set_rows(rng: random.Random) -> Case:
    """A sheet of odds with set, finish and a box a column, “n/a” where a box has none of it."""
    world = make_world(rng)
    rows = [["Subset", "Version", *[f"{f['format']} odds" for f in world.formats]]]
    for label, finish in rated_of(world):
        rates = [f"1 in {world.odds[(f['format'], label, finish)]}" for f in world.formats]
        rows.append([label, finish or "regular", *rates])
    boxes = [["", *[f["format"] for f in world.formats]],
             ["Packs in a box", *[f["packs_per_box"] for f in world.formats]],
             ["Cards in a pack", *[f["cards_per_pack"] for f in world.formats]],
             ["Boxes in a case", *[f["boxes_per_case"] for f in world.formats]]]  # fmt: skip
    cards = ("Cards", [["Subset", "No.", "Subject", "Team"], *card_rows(world)])
    sheets = [("Boxes", boxes), cards, ("Odds", rows)]
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("versions", {"o.xlsx": xlsx_bytes(sheets)}, truth=truth)


def typed_in_sentences(rng: random.Random) -> Case:
    """Each set told in a sentence: what it is called, how many cards it has, the cards behind a colon."""
    world = make_world(rng, base=24, plain_clubs=True)
    lines = [
        f"{s.label} has {len(s.cards)} cards: " + "; ".join(f"{c.number} {c.name} ({c.team})" for c in s.cards) + "."
        for s in world.sections
    ]
    return Case("sentences", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def dashes_for_everything(rng: random.Random) -> Case:
    """Dashes between everything, the set first on every line."""
    world = make_world(rng, plain_clubs=True)
    lines = [f"{label} - {number} - {name} - {team}" for label, number, name, team in card_rows(world)]
    return Case("dashes", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


CLUB = (
    counted_lines, name_first_without_headings, by_club_below_sets, sheets_of_other_things, page_heads_and_feet,
    utf16_tabs, latin_semicolons, odds_with_totals_a_box, finishes_by_star, first_column_of_sets,
    cards_with_pipes_and_marks, odds_by_set_rows, typed_in_sentences, dashes_for_everything,
)  # fmt: skip
