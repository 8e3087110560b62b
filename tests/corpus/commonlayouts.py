"""Layouts met often: counts, odds and finishes below each heading, headings of columns in two rows, clubs as headings."""

from __future__ import annotations

import io
import random
import zipfile

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows, listed, rated_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def number_of_how_many(rng: random.Random) -> Case:
    """“1 of 25 Orla Thorsby - Harrow Bay”: the number and how many there are."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        s.cards = [type(c)(str(n), c.name, c.team, c.rookie) for n, c in enumerate(s.cards, 1)]
        lines += [s.label, *[f"{c.number} of {len(s.cards)}  {c.name} - {c.team}" for c in s.cards], ""]
    return Case("of how many", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def spanish_csv(rng: random.Random) -> Case:
    """Spanish headings, Sí and No."""
    world = make_world(rng)
    rows = [["Nº", "Ciclista", "Equipo", "Colección", "Novato"]]
    for s in world.sections:
        rows += [[c.number, c.name, c.team, s.label, "Sí" if c.rookie else "No"] for c in s.cards]
    return Case("Spanish", {"s.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def two_rows_of_headings(rng: random.Random) -> Case:
    """A title, a remark, and the headings of the columns in two rows."""
    world = make_world(rng)
    rows = [[world.title], ["Master checklist, version 3"], []]
    rows += [["Card", "", "Subject", "", "Set"], ["Number", "Code", "Name", "Team", "Name"]]
    rows += [[number, "", name, team, label] for label, number, name, team in card_rows(world)]
    return Case("two rows", {"m.xlsx": xlsx_bytes([("Master", rows)])}, truth=truth_cards(world, rookies=False))


def base_version_of_each(rng: random.Random) -> Case:
    """A sheet of odds that calls a card without a finish the base version."""
    world = make_world(rng)
    odds = [["Set", "Parallel", *[f["format"] for f in world.formats]]]
    for label, finish in rated_of(world):
        rates = [f"1:{world.odds[(f['format'], label, finish)]} packs" for f in world.formats]
        odds.append([label, finish or "Base version", *rates])
    sheets = [("Cards", [["Set", "No", "Name", "Team"], *card_rows(world)]), ("Pack odds", odds)]
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("base versions", {"m.xlsx": xlsx_bytes(sheets)}, {"formats": formats_of(world)}, truth=truth)


def forum_post(rng: random.Random) -> Case:
    """A post with marks of a forum, thanks above and a signature below."""
    world = make_world(rng, plain_clubs=True)
    lines = [f"[b]{world.title}[/b]", "thanks to everyone who helped!", ""]
    for s in world.sections:
        lines.append(f"[u]{s.label}[/u] ({len(s.cards)})")
        lines += [f"#{c.number} - {c.name} - {c.team}{' (RC)' if c.rookie else ''}" for c in s.cards] + [""]
    lines += ["Edit: fixed two typos.", "_______", "collecting since 1994"]
    return Case("a post", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def finishes_across_runs(rng: random.Random) -> Case:
    """A row a set, a column a finish, the run in the cell."""
    world = make_world(rng)
    names = sorted({label for s in world.sections for label, _ in s.finishes})
    grid = [["Set", *names]]
    for s in world.sections:
        runs = {label: f"/{run}" if run else "yes" for label, run in s.finishes}
        grid.append([s.label, *[runs.get(name, "") for name in names]])
    sheets = [("List", [["Set", "No", "Name", "Team"], *card_rows(world)]), ("Parallels", grid)]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("finishes across", {"m.xlsx": xlsx_bytes(sheets)}, truth=truth)


def comma_lines(rng: random.Random) -> Case:
    """Commas between number, name and club, headings in capitals."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label.upper(), *[f"{c.number}, {c.name}, {c.team}" for c in s.cards], ""]
    return Case("commas", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def sections_with_info(rng: random.Random) -> Case:
    """Below each heading how many cards, the odds, the finishes; then the cards."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label, f"Total cards: {len(s.cards)}"]
        if s.kind != "base":
            rates = [f"{f['format']} 1:{world.odds[(f['format'], s.label, '')]}" for f in world.formats]
            lines.append("Odds: " + "; ".join(rates))
        if s.finishes:
            lines.append(
                "Parallels: " + ", ".join(f"{label} (/{run})" if run else label for label, run in s.finishes)
            )
        lines += ["", *[f"{c.number} {c.name}, {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"], truth["formats"] = truth_finishes(world), truth_formats(world, price=False)
    truth["odds"] = [row for row in truth_odds(world) if not row["parallel"]]
    texts = {"checklist": "\n".join(lines), "formats": formats_of(world)}
    return Case("about each set", texts=texts, truth=truth)


def zip_of_csvs(rng: random.Random) -> Case:
    """A zip with a table for each set, named after it."""
    world = make_world(rng)
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as packed:
        for s in world.sections:
            rows = [["Number", "Rider", "Club"], *[[c.number, c.name, c.team] for c in s.cards]]
            packed.writestr(f"{s.label}.csv", csv_bytes(rng, rows))
    return Case("a zip", {"all.zip": data.getvalue()}, truth=truth_cards(world, rookies=False))


def czech_csv(rng: random.Random) -> Case:
    """Czech headings, ano and ne, semicolons."""
    world = make_world(rng)
    rows = [["Číslo", "Jméno", "Tým", "Sada", "Nováček"]]
    for s in world.sections:
        rows += [[c.number, c.name, c.team, s.label, "ano" if c.rookie else "ne"] for c in s.cards]
    data = "\n".join(";".join(row) for row in rows).encode("utf-8-sig")
    return Case("Czech", {"s.csv": data}, truth=truth_cards(world))


def box_breakdown_sheet(rng: random.Random) -> Case:
    """A sheet with the boxes across and what they hold down."""
    world = make_world(rng)
    said = {
        "Packs per box": "packs_per_box", "Cards per pack": "cards_per_pack", "Boxes per case": "boxes_per_case",
    }  # fmt: skip
    boxes = [["Configuration", *[f["format"] for f in world.formats]]]
    boxes += [[word, *[f[name] for f in world.formats]] for word, name in said.items()]
    boxes.append(["SRP", *[f"${f['list_price']}" for f in world.formats]])
    sheets = [("Checklist", [["Subset", "#", "Player", "Club"], *card_rows(world)]), ("Box config", boxes)]
    truth = truth_cards(world, rookies=False)
    truth["formats"] = truth_formats(world)
    return Case("boxes across", {"p.xlsx": xlsx_bytes(sheets)}, truth=truth)


def clubs_as_headings(rng: random.Random) -> Case:
    """Clubs in capitals for headings, the set in brackets behind each card."""
    world = make_world(rng, plain_clubs=True)
    by_club: dict[str, list[str]] = {}
    for label, number, name, team in card_rows(world):
        by_club.setdefault(team.upper(), []).append(f"{number} {name} ({label})")
    lines = [line for club, cards in by_club.items() for line in (club, *cards, "")]
    truth = truth_cards(world, rookies=False)
    for row in truth["cards"]:
        row["team"] = " ".join(word if len(word) < 3 else word.capitalize() for word in row["team"].split())
    return Case("clubs as headings", texts={"checklist": "\n".join(lines)}, truth=truth)


def odds_below_boxes(rng: random.Random) -> Case:
    """Odds below the name of each box, strokes between set, finish and rate."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for f in world.formats:
        lines.append(f"== {f['format']} ==")
        for label, finish in rated_of(world):
            rate = f"1:{world.odds[(f['format'], label, finish)]}"
            lines.append(" - ".join(filter(None, (label, finish, rate))))
        lines.append("")
    cards = listed(world, "{label}", "{number} {name} | {team}")
    texts = {"checklist": cards, "odds": "\n".join(lines), "formats": formats_of(world)}
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("odds below boxes", texts=texts, truth=truth)


def all_in_one_cell(rng: random.Random) -> Case:
    """Number, name and club in one cell."""
    world = make_world(rng)
    rows = [["Set", "Card", "Rookie"]]
    for s in world.sections:
        rows += [[s.label, f"{c.number} {c.name} ({c.team})", "Y" if c.rookie else "N"] for c in s.cards]
    return Case("one cell", {"s.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


COMMON = (
    number_of_how_many, spanish_csv, two_rows_of_headings, base_version_of_each, forum_post, finishes_across_runs,
    comma_lines, sections_with_info, zip_of_csvs, czech_csv, box_breakdown_sheet, clubs_as_headings, odds_below_boxes,
    all_in_one_cell,
)  # fmt: skip
