"""Layouts of people at other desks: exports with codes, sets side by side, boxes a sheet each, lists typed in prose."""

from __future__ import annotations

import random

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows, listed, rated_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def export_with_uids(rng: random.Random) -> Case:
    """An export with ids of its own, the set's code and name, marks in one column, runs in another."""
    world = make_world(rng)
    rows = [["uid", "set_code", "set_name", "card_number", "subject_names", "team_names", "attributes"]]
    for at, s in enumerate(world.sections):
        for c in s.cards:
            marks = "|".join(["RC"] * c.rookie)
            uid = f"{rng.randrange(10**6, 10**7)}"
            rows.append([uid, f"S{at + 1:02}", s.label, c.number, c.name, c.team, marks])
    return Case("ids", {"export.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def side_by_side_sets(rng: random.Random) -> Case:
    """Sets side by side: the name of each above its column, number, name and club in one cell."""
    world = make_world(rng, plain_clubs=True)
    longest = max(len(s.cards) for s in world.sections)
    rows = [[s.label for s in world.sections]]
    for at in range(longest):
        row = []
        for s in world.sections:
            c = s.cards[at] if at < len(s.cards) else None
            row.append(f"{c.number} {c.name}, {c.team}" if c else "")
        rows.append(row)
    return Case("side by side", {"sets.xlsx": xlsx_bytes([("Sets", rows)])}, truth=truth_cards(world, rookies=False))


def number_at_the_end(rng: random.Random) -> Case:
    """Below each heading name, club in brackets and the number last."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label, *[f"{c.name} ({c.team}) #{c.number}" for c in s.cards], ""]
    return Case("numbers last", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def finish_table_below(rng: random.Random) -> Case:
    """Below each heading a small table of finishes with bars, then the cards."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(f"== {s.label} ==")
        if s.finishes:
            lines += ["Parallel | Print run", *[f"{label} | {run or 'unnumbered'}" for label, run in s.finishes]]
        lines += [*[f"{c.number}\t{c.name}\t{c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("small tables", texts={"checklist": "\n".join(lines)}, truth=truth)


def odds_sheet_a_box(rng: random.Random) -> Case:
    """A sheet of odds for each box."""
    world = make_world(rng)
    sheets = [("All cards", [["Set", "Card #", "Athlete", "Club"], *card_rows(world)])]
    for f in world.formats:
        rows = [["Insert / parallel", "Odds"]]
        for label, finish in rated_of(world):
            rows.append([f"{label} {finish}".strip(), f"1:{world.odds[(f['format'], label, finish)]}"])
        sheets.append((f"{f['format']} odds", rows))
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("a sheet a box", {"b.xlsx": xlsx_bytes(sheets)}, {"formats": formats_of(world)}, truth=truth)


def club_in_brackets_of_name(rng: random.Random) -> Case:
    """German, the club in brackets behind the name in its cell, rookies starred."""
    world = make_world(rng, plain_clubs=True)
    rows = [["Lfd.", "Kartennr.", "Fahrer (Verein)", "Satz", "Neuling"]]
    at = 0
    for s in world.sections:
        for c in s.cards:
            at += 1
            rows.append([str(at), c.number, f"{c.name} ({c.team})", s.label, "*" if c.rookie else ""])
    return Case("clubs behind names", {"k.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def last_name_first(rng: random.Random) -> Case:
    """Last name, first name and the club in brackets, a line a card."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(f"{s.label.upper()} - {len(s.cards)} cards")
        for c in s.cards:
            first, last = c.name.split(" ", 1)
            lines.append(f"{c.number}. {last}, {first} ({c.team})" + (" RC" if c.rookie else ""))
    return Case("last names first", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def odds_behind_headings(rng: random.Random) -> Case:
    """Odds of all boxes in brackets behind each heading."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        rates = [
            f"{f['format']} 1:{world.odds[(f['format'], s.label, '')]}" for f in world.formats if s.kind != "base"
        ]
        lines.append(s.label + (f" ({', '.join(rates)})" if rates else ""))
        lines += [*[f"{c.number} – {c.name} – {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["odds"] = [row for row in truth_odds(world) if not row["parallel"]]
    truth["formats"] = truth_formats(world, price=False)
    texts = {"checklist": "\n".join(lines), "formats": formats_of(world)}
    return Case("odds in headings", texts=texts, truth=truth)


def a_cell_a_line(rng: random.Random) -> Case:
    """A page's table pasted cell by cell: number, name and club on lines of their own."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(s.label)
        for c in s.cards:
            lines += [c.number, c.name, c.team]
        lines.append("")
    return Case("a cell a line", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def finishes_and_odds_sheet(rng: random.Random) -> Case:
    """One sheet for what can be pulled: set, finish, run, and a column of odds a box."""
    world = make_world(rng)
    rows = [["Set", "Finish", "#'d to", *[f["format"] for f in world.formats]]]
    runs = {(s.label, label): run for s in world.sections for label, run in s.finishes}
    for label, finish in rated_of(world):
        rates = [f"1:{world.odds[(f['format'], label, finish)]}" for f in world.formats]
        rows.append([label, finish or "Base version", runs.get((label, finish), ""), *rates])
    sheets = [("Checklist", [["Set", "No.", "Name", "Team"], *card_rows(world)]), ("What you can pull", rows)]
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    truth["parallels"] = truth_finishes(world)
    return Case("to be pulled", {"p.xlsx": xlsx_bytes(sheets)}, {"formats": formats_of(world)}, truth=truth)


def odds_in_prose(rng: random.Random) -> Case:
    """Odds of one box in sentences."""
    world = make_world(rng, plain_clubs=True)
    box = world.formats[0]["format"]
    lines = [f"In {box.lower()} boxes the odds are as follows."]
    for label, finish in rated_of(world):
        name = f"{label} {finish} parallels" if finish else f"{label} cards"
        lines.append(f"{name} can be found in one of every {world.odds[(box, label, finish)]} packs.")
    truth = truth_cards(world, rookies=False)
    truth["odds"] = [row for row in truth_odds(world) if row["format"] == box]
    truth["formats"] = truth_formats(world, price=False)
    texts = {"checklist": listed(world), "odds": "\n".join(lines), "formats": formats_of(world)}
    return Case("odds in prose", texts=texts, truth=truth)


def numbers_with_signs(rng: random.Random) -> Case:
    """Numbers with a sign and the set in a column at the end, rookies by R in a narrow column."""
    world = make_world(rng)
    rows = [["R", "No.", "Competitor", "Represents", "From the set"]]
    for s in world.sections:
        rows += [["R" if c.rookie else "", f"#{c.number}", c.name, c.team, s.label] for c in s.cards]
    return Case("signs", {"n.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def boxes_in_sentences(rng: random.Random) -> Case:
    """How it is boxed told in sentences, the cards as a plain list."""
    world = make_world(rng, plain_clubs=True)
    told = [
        f"A {f['format'].lower()} box comes with {f['packs_per_box']} packs, each holding {f['cards_per_pack']} cards; "
        f"a case is {f['boxes_per_case']} boxes."
        for f in world.formats
    ]
    truth = truth_cards(world, rookies=False)
    truth["formats"] = truth_formats(world, price=False)
    return Case("told", texts={"checklist": listed(world), "formats": "\n".join(told)}, truth=truth)


def checklist_of_finishes(rng: random.Random) -> Case:
    """Finishes named on the line of their set's heading behind a colon, runs in brackets."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines.append(s.label)
        if s.finishes:
            told = [f"{label} ({run})" if run else label for label, run in s.finishes]
            lines.append(f"also as: {', '.join(told)}")
        lines += [*[f"[{c.number}] {c.name}, {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("also as", texts={"checklist": "\n".join(lines)}, truth=truth)


DESKS = (
    export_with_uids, side_by_side_sets, number_at_the_end, finish_table_below, odds_sheet_a_box,
    club_in_brackets_of_name, last_name_first, odds_behind_headings, a_cell_a_line, finishes_and_odds_sheet,
    odds_in_prose, numbers_with_signs, boxes_in_sentences, checklist_of_finishes,
)  # fmt: skip
