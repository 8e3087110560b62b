"""Layouts of a last set of hands: notes beside cards, sections by their codes, odds told per card, files by sport."""

from __future__ import annotations

import random

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows, listed, rated_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def portuguese_csv(rng: random.Random) -> Case:
    """Portuguese headings, sim for rookies."""
    world = make_world(rng)
    rows = [["Coleção", "Número", "Jogador", "Equipe", "Estreante"]]
    for s in world.sections:
        rows += [[s.label, c.number, c.name, c.team, "sim" if c.rookie else "não"] for c in s.cards]
    return Case("Portuguese", {"t.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def first_and_last_names(rng: random.Random) -> Case:
    """First and last name in columns of their own."""
    world = make_world(rng)
    rows = [["Insert", "Card", "First Name", "Last Name", "Team"]]
    for label, number, name, team in card_rows(world):
        first, last = name.split(" ", 1)
        rows.append([label, number, first, last, team])
    return Case("two names", {"t.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def capitals_and_counts(rng: random.Random) -> Case:
    """Headings in capitals with the count on the line, names in capitals."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [
            f"{s.label.upper()} ({len(s.cards)} CARDS)",
            *[f"{c.number} {c.name} / {c.team}" for c in s.cards],
            "",
        ]
    return Case("capitals", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def odds_by_finish_sheet(rng: random.Random) -> Case:
    """Odds with section and finish in one cell, a dash between, the boxes in columns called packs."""
    world = make_world(rng)
    odds = [["Pull", *[f"{f['format']} packs" for f in world.formats]]]
    for label, finish in rated_of(world):
        rates = [f"1/{world.odds[(f['format'], label, finish)]}" for f in world.formats]
        odds.append([f"{label} – {finish}" if finish else label, *rates])
    sheets = [("Checklist", [["Set", "#", "Rider", "Club"], *card_rows(world)]), ("Odds", odds)]
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("pulls", {"t.xlsx": xlsx_bytes(sheets)}, {"formats": formats_of(world)}, truth=truth)


def sheets_named_by_code(rng: random.Random) -> Case:
    """A sheet of contents names each sheet's set."""
    world = make_world(rng)
    contents = [["Tab", "Set", "Cards"]]
    sheets = []
    for at, s in enumerate(world.sections, 1):
        contents.append([f"Set {at}", s.label, str(len(s.cards))])
        sheets.append(
            (f"Set {at}", [[s.label], ["#", "Name", "Team"], *[[c.number, c.name, c.team] for c in s.cards]])
        )
    truth = truth_cards(world, rookies=False)
    return Case("contents", {"t.xlsx": xlsx_bytes([("Contents", contents), *sheets])}, truth=truth)


def finishes_with_percent(rng: random.Random) -> Case:
    """Finishes listed with dots to their runs."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label, *[f"{c.number} {c.name} ({c.team})" for c in s.cards], ""]
        if s.finishes:
            lines.append(f"Parallels of {s.label}")
            lines += [f"{label} ..... {run or 'unnumbered'}" for label, run in s.finishes] + [""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("dots to runs", texts={"checklist": "\n".join(lines)}, truth=truth)


def tabs_without_headings(rng: random.Random) -> Case:
    """A paste with tabs, no headings of columns, sets between."""
    world = make_world(rng)
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label, *[f"{c.number}\t{c.name}\t{c.team}\t{'RC' if c.rookie else ''}" for c in s.cards], ""]
    return Case("tabs", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def rookie_in_the_name(rng: random.Random) -> Case:
    """Rookie in words behind the club."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        cards = [f"{c.number} {c.name}, {c.team}{' - Rookie' if c.rookie else ''}" for c in s.cards]
        lines += [f"* {s.label} *", *cards, ""]
    return Case("rookie in words", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def odds_sentences_each(rng: random.Random) -> Case:
    """A sentence of odds for each set and box."""
    world = make_world(rng, plain_clubs=True)
    lines = [
        f"{label} {finish}".strip() + f" fall 1 in {world.odds[(f['format'], label, finish)]} {f['format']} packs."
        for label, finish in rated_of(world)
        for f in world.formats
    ]
    texts = {"checklist": listed(world), "odds": "\n".join(lines), "formats": formats_of(world)}
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("odds in sentences", texts=texts, truth=truth)


def club_before_the_name(rng: random.Random) -> Case:
    """Number, club, name by columns without headings."""
    world = make_world(rng)
    rows = [[label, number, team, name] for label, number, name, team in card_rows(world)]
    text = [["Set", "No", "Club", "Name"], *rows]
    return Case("club first", {"t.csv": csv_bytes(rng, text)}, truth=truth_cards(world, rookies=False))


def merged_titles(rng: random.Random) -> Case:
    """One sheet, the sets as titles over their own headings, a blank row between."""
    world = make_world(rng)
    rows: list[list[str]] = []
    for s in world.sections:
        rows += [[s.label.upper()], ["Card", "Player", "Team"], *[[c.number, c.name, c.team] for c in s.cards], []]
    truth = truth_cards(world, rookies=False)
    return Case("titles over headings", {"t.xlsx": xlsx_bytes([("Checklist", rows)])}, truth=truth)


def semicolon_text(rng: random.Random) -> Case:
    """Number; name; club below each set, no spaces."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"[{s.label}]", *[f"{c.number};{c.name};{c.team}" for c in s.cards], ""]
    return Case("semicolons", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def runs_by_sheet(rng: random.Random) -> Case:
    """Finishes of all sets on one sheet, the set merged above its rows."""
    world = make_world(rng)
    finishes: list[list[str]] = [["Set", "Version", "Copies"]]
    for s in world.sections:
        for at, (label, run) in enumerate(s.finishes):
            finishes.append(["" if at else s.label, label, run or "open"])
    sheets = [("List", [["Set", "No.", "Player", "Team"], *card_rows(world)]), ("Versions", finishes)]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("versions", {"t.xlsx": xlsx_bytes(sheets)}, truth=truth)


def notes_between(rng: random.Random) -> Case:
    """Remarks in brackets and lines of thanks between the sets."""
    world = make_world(rng, plain_clubs=True)
    lines = [f"{world.title} - complete checklist", "(thanks to Sam for the scans)", ""]
    for s in world.sections:
        lines += [f"{s.label}", *[f"{c.number}. {c.name} - {c.team}" for c in s.cards], "(all confirmed)", ""]
    return Case("notes between", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


LAST = (
    portuguese_csv, first_and_last_names, capitals_and_counts, odds_by_finish_sheet, sheets_named_by_code,
    finishes_with_percent, tabs_without_headings, rookie_in_the_name, odds_sentences_each, club_before_the_name,
    merged_titles, semicolon_text, runs_by_sheet, notes_between,
)  # fmt: skip
