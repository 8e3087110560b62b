"""Layouts of still other hands: the product's name in every heading, other columns beside, two riders on a card."""

from __future__ import annotations

import random

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def product_in_every_heading(rng: random.Random) -> Case:
    """Each heading is the product's name and the set's."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"{world.title} {s.label}", *[f"{c.number} {c.name} - {c.team}" for c in s.cards], ""]
    return Case("names in headings", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def clubs_by_code(rng: random.Random) -> Case:
    """Clubs as three letters, which a column beside them spells out."""
    world = make_world(rng)
    codes = {club: f"{club[:2].upper()}{at}" for at, club in enumerate(world.clubs)}
    rows = [["Set", "No.", "Player", "Team Abbr", "Team"]]
    rows += [[label, number, name, codes[team], team] for label, number, name, team in card_rows(world)]
    return Case("codes of clubs", {"t.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def other_columns_beside(rng: random.Random) -> Case:
    """An export with columns that are nobody's here: price, quantity, picture, place."""
    world = make_world(rng)
    rows = [["ID", "Year", "Set", "Card Number", "Player", "Team", "Qty", "Value", "Image", "Location"]]
    for at, (label, number, name, team) in enumerate(card_rows(world)):
        price = f"{rng.randint(10, 999) / 100:.2f}"
        rows.append([str(4000 + at), "2026", label, number, name, team, "1", price, f"img/{at}.jpg", "Box 3"])
    return Case("an export", {"t.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def name_and_club_in_a_cell(rng: random.Random) -> Case:
    """Name, a stroke and the club in one cell."""
    world = make_world(rng, plain_clubs=True)
    rows = [["Insert Set", "#", "Subject"]]
    rows += [[label, number, f"{name} - {team}"] for label, number, name, team in card_rows(world)]
    return Case("two in a cell", {"t.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def odds_below_each_heading(rng: random.Random) -> Case:
    """Odds of all boxes on a line below each heading, bars between."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(s.label.upper())
        if s.kind != "base":
            rates = [f"{f['format']} – 1:{world.odds[(f['format'], s.label, '')]}" for f in world.formats]
            lines.append(" | ".join(rates))
        lines += [*[f"{c.number} {c.name}, {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["odds"] = [row for row in truth_odds(world) if not row["parallel"]]
    truth["formats"] = truth_formats(world, price=False)
    texts = {"checklist": "\n".join(lines), "formats": formats_of(world)}
    return Case("odds below headings", texts=texts, truth=truth)


def shifted_sheet(rng: random.Random) -> Case:
    """An empty column and empty rows before the table."""
    world = make_world(rng)
    rows: list[list[str]] = [[], [], ["", "SET", "CARD NO", "RIDER", "TEAM", "RC"]]
    for s in world.sections:
        rows += [["", s.label, c.number, c.name, c.team, "RC" if c.rookie else ""] for c in s.cards]
    return Case("shifted", {"t.xlsx": xlsx_bytes([("Sheet1", rows)])}, truth=truth_cards(world))


def copies_of_each(rng: random.Random) -> Case:
    """Finishes below the cards, each with how many copies there are."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"{s.label} – {len(s.cards)} cards", *[f"{c.number} {c.name} ({c.team})" for c in s.cards], ""]
        if s.finishes:
            lines += [f"{s.label} Parallels", *[f"{a} ({run} copies)" if run else a for a, run in s.finishes], ""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("copies of each", texts={"checklist": "\n".join(lines)}, truth=truth)


def last_name_first_text(rng: random.Random) -> Case:
    """Last name, comma, first name, the club in brackets."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(s.label)
        for c in s.cards:
            first, last = c.name.split(" ", 1)
            lines.append(f"{c.number} {last}, {first} ({c.team})")
        lines.append("")
    return Case("last name first", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def french_csv(rng: random.Random) -> Case:
    """French headings, oui for rookies."""
    world = make_world(rng)
    rows = [["Série", "N°", "Coureur", "Équipe", "Recrue"]]
    for s in world.sections:
        rows += [[s.label, c.number, c.name, c.team, "oui" if c.rookie else ""] for c in s.cards]
    return Case("French", {"t.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def quoted_lines(rng: random.Random) -> Case:
    """A quoted mail: a mark before every line."""
    world = make_world(rng, plain_clubs=True)
    lines = ["Here it is again:", ""]
    for s in world.sections:
        lines += [f"> {s.label}", *[f"> {c.number} {c.name} - {c.team}" for c in s.cards], ">"]
    return Case("quoted", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def finishes_in_the_section(rng: random.Random) -> Case:
    """Each finish as a set of its own in the column of sets, with all cards again."""
    world = make_world(rng, base=40)
    rows = [["Set", "Number", "Player", "Team", "Print Run"]]
    for s in world.sections:
        for label, run in [("", ""), *s.finishes]:
            rows += [[f"{s.label} {label}".strip(), c.number, c.name, c.team, run] for c in s.cards]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("finishes as sets", {"t.csv": csv_bytes(rng, rows)}, truth=truth)


def boxes_in_a_table_of_text(rng: random.Random) -> Case:
    """The boxes as a pasted table, strokes in the list."""
    world = make_world(rng, plain_clubs=True)
    keys = ("format", "packs_per_box", "cards_per_pack", "boxes_per_case")
    boxes = ["Box\tPacks\tCards\tBoxes per case", *["\t".join(f[key] for key in keys) for f in world.formats]]
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label, "-" * len(s.label), *[f"{c.number} - {c.name} - {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["formats"] = truth_formats(world, price=False)
    return Case("boxes pasted", texts={"checklist": "\n".join(lines), "formats": "\n".join(boxes)}, truth=truth)


def one_sheet_side_by_side(rng: random.Random) -> Case:
    """Two tables beside one another: the cards left, the finishes of all sets right."""
    world = make_world(rng)
    left = [["Set", "#", "Name", "Team"], *card_rows(world)]
    right = [["Set", "Parallel", "Run"], *[[s.label, a, run or "-"] for s in world.sections for a, run in s.finishes]]
    rows = [[*cells, "", *(right[at] if at < len(right) else [])] for at, cells in enumerate(left)]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("side by side", {"t.xlsx": xlsx_bytes([("All", rows)])}, truth=truth)


def numbers_in_brackets(rng: random.Random) -> Case:
    """The number in brackets before the name, the club behind an at."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"{s.label}:", *[f"({c.number}) {c.name} @ {c.team}" for c in s.cards], ""]
    return Case("in brackets", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


HANDS = (
    product_in_every_heading, clubs_by_code, other_columns_beside, name_and_club_in_a_cell, odds_below_each_heading,
    shifted_sheet, copies_of_each, last_name_first_text, french_csv, quoted_lines, finishes_in_the_section,
    boxes_in_a_table_of_text, one_sheet_side_by_side, numbers_in_brackets,
)  # fmt: skip
