"""Layouts met more rarely: an index of people, tables drawn with strokes, records of fields, last names in capitals."""

from __future__ import annotations

import random

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows, listed, rated_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def italian_semicolons(rng: random.Random) -> Case:
    """Italian headings between semicolons, sì where a rider is new."""
    world = make_world(rng)
    rows = [["Numero", "Atleta", "Squadra", "Serie", "Esordiente"]]
    for s in world.sections:
        rows += [[c.number, c.name, c.team, s.label, "sì" if c.rookie else ""] for c in s.cards]
    text = "\r\n".join(";".join(row) for row in rows)
    return Case("Italian", {"lista.csv": text.encode("cp1252", "replace")}, truth=_replaced(truth_cards(world)))


def _replaced(truth: dict[str, list[dict[str, str]]]) -> dict[str, list[dict[str, str]]]:
    """Return the truth with the letters that the code page does not have lost."""
    return {
        table: [
            {key: value.encode("cp1252", "replace").decode("cp1252") for key, value in row.items()} for row in rows
        ]
        for table, rows in truth.items()
    }


def markdown_table(rng: random.Random) -> Case:
    """A heading and a table in Markdown for each set."""
    world = make_world(rng)
    lines = [f"# {world.title}", ""]
    for s in world.sections:
        lines += [f"## {s.label}", "", "| No. | Rider | Team |", "|----:|:------|------|"]
        lines += [f"| {c.number} | {c.name} | {c.team} |" for c in s.cards] + [""]
    return Case("Markdown", {"list.md": "\n".join(lines).encode()}, truth=truth_cards(world, rookies=False))


def drawn_table(rng: random.Random) -> Case:
    """A table drawn with strokes and crosses."""
    world = make_world(rng)
    rows = [["Set", "No", "Name", "Team"], *card_rows(world)]
    wide = [max(len(row[at]) for row in rows) for at in range(4)]
    rule = "+" + "+".join("-" * (size + 2) for size in wide) + "+"
    drawn = ["| " + " | ".join(cell.ljust(size) for cell, size in zip(row, wide, strict=True)) + " |" for row in rows]
    lines = [rule, drawn[0], rule, *drawn[1:], rule]
    return Case("a drawn table", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def zeros_and_blanks(rng: random.Random) -> Case:
    """A workbook whose set stands once and is blank below; runs of the finishes on a sheet beside it."""
    world = make_world(rng)
    rows: list[list[str]] = [["Set", "Card No", "Athlete", "Team Name", "RC?"]]
    for s in world.sections:
        for at, c in enumerate(s.cards):
            rows.append(["" if at else s.label, c.number, c.name, c.team, "RC" if c.rookie else ""])
    finishes = [["Set", "Parallel", "Print Run"]]
    for s in world.sections:
        finishes += [[s.label, label, f"/{run}" if run else "Unnumbered"] for label, run in s.finishes]
    truth = truth_cards(world)
    truth["parallels"] = truth_finishes(world)
    return Case("blank below", {"w.xlsx": xlsx_bytes([("Cards", rows), ("Parallels", finishes)])}, truth=truth)


def sheet_each_with_odds_above(rng: random.Random) -> Case:
    """A sheet a set, above its columns the odds in a line."""
    world = make_world(rng)
    sheets = []
    for s in world.sections:
        rates = [
            f"{f['format']} 1:{world.odds[(f['format'], s.label, '')]}" for f in world.formats if s.kind != "base"
        ]
        above = [[f"Odds: {', '.join(rates)}"]] if rates else []
        sheets.append((s.label[:31], [*above, ["#", "Name", "Team"], *[[c.number, c.name, c.team] for c in s.cards]]))
    truth = truth_cards(world, rookies=False)
    truth["odds"] = [row for row in truth_odds(world) if not row["parallel"]]
    truth["formats"] = truth_formats(world, price=False)
    return Case("odds above", {"o.xlsx": xlsx_bytes(sheets)}, {"formats": formats_of(world)}, truth=truth)


def runs_in_words(rng: random.Random) -> Case:
    """Finishes below each set, their runs in words."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"{s.label}", *[f"{c.number} {c.name}, {c.team}" for c in s.cards], ""]
        if s.finishes:
            lines.append("Parallels:")
            for label, run in s.finishes:
                words = "one of one" if run == "1" else f"numbered to {run}" if run else "unnumbered"
                lines.append(f"{label} – {words}")
            lines.append("")
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("runs in words", texts={"checklist": "\n".join(lines)}, truth=truth)


def index_by_person(rng: random.Random) -> Case:
    """Every rider once, all his cards behind him, as set and number."""
    world = make_world(rng)
    rows: dict[tuple[str, str], list[str]] = {}
    for label, number, name, team in card_rows(world):
        rows.setdefault((name, team), []).append(f"{label} {number}")
    table = [["Rider", "Team", "Cards"], *[[name, team, "; ".join(cards)] for (name, team), cards in rows.items()]]
    return Case("by rider", {"r.csv": csv_bytes(rng, table)}, truth=truth_cards(world, rookies=False))


def odds_in_words(rng: random.Random) -> Case:
    """Odds as one in so many packs, a line for each box."""
    world = make_world(rng, plain_clubs=True)
    lines = []
    for label, finish in rated_of(world):
        for f in world.formats:
            rate = world.odds[(f["format"], label, finish)]
            lines.append(f"{label} {finish}".strip() + f": one in every {rate} {f['format'].lower()} packs")
    texts = {"checklist": listed(world), "odds": "\n".join(lines), "formats": formats_of(world)}
    truth = truth_cards(world, rookies=False)
    truth["formats"], truth["odds"] = truth_formats(world, price=False), truth_odds(world)
    return Case("odds in words", texts=texts, truth=truth)


def last_names_first(rng: random.Random) -> Case:
    """LAST NAME, First in one column."""
    world = make_world(rng)
    rows = [["Set", "#", "Player", "Team"]]
    for label, number, name, team in card_rows(world):
        first, last = name.split(" ", 1)
        rows.append([label, number, f"{last}, {first}", team])
    return Case("last names first", {"l.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def records(rng: random.Random) -> Case:
    """A record of fields for each card, a blank line between."""
    world = make_world(rng)
    lines: list[str] = []
    for label, number, name, team in card_rows(world):
        lines += [f"Set: {label}", f"Number: {number}", f"Name: {name}", f"Team: {team}", ""]
    return Case("records", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def exploded(rng: random.Random) -> Case:
    """A row for each card and finish, with its run."""
    world = make_world(rng, base=40)
    rows = [["Set Name", "Card Number", "Player Name", "Team", "Variation", "Numbered"]]
    for s in world.sections:
        for c in s.cards:
            rows.append([s.label, c.number, c.name, c.team, "", ""])
            rows += [[s.label, c.number, c.name, c.team, label, run] for label, run in s.finishes]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("exploded", {"x.csv": csv_bytes(rng, rows)}, truth=truth)


def sheet_a_box(rng: random.Random) -> Case:
    """A sheet of odds for each box, the cards on the first."""
    world = make_world(rng)
    sheets = [("Checklist", [["Subset", "Nr", "Name", "Club"], *card_rows(world)])]
    for f in world.formats:
        odds = [
            [label, finish or "-", f"1 in {world.odds[(f['format'], label, finish)]}"]
            for label, finish in rated_of(world)
        ]
        sheets.append((f"{f['format']} odds", [["Subset", "Parallel", "Odds"], *odds]))
    truth = truth_cards(world, rookies=False)
    truth["formats"], truth["odds"] = truth_formats(world, price=False), truth_odds(world)
    return Case("a sheet a box", {"s.xlsx": xlsx_bytes(sheets)}, {"formats": formats_of(world)}, truth=truth)


def polish_text(rng: random.Random) -> Case:
    """Polish: headings with their counts, numbers with a point."""
    world = make_world(rng, plain_clubs=True)
    text = listed(world, "{label} – {count} kart", "{number}. {name} ({team})")
    return Case("Polish", texts={"checklist": text}, truth=truth_cards(world, rookies=False))


def counted_sections(rng: random.Random) -> Case:
    """A contents page before the list: the sets with their counts, then each with its cards."""
    world = make_world(rng, plain_clubs=True)
    contents = ["Contents", *[f"{s.label} ........ {len(s.cards)} cards" for s in world.sections], "", ""]
    text = "\n".join([world.title, "", *contents, listed(world, "{label}", "{number} {name} - {team}")])
    return Case("contents first", texts={"checklist": text}, truth=truth_cards(world, rookies=False))


RARE = (
    italian_semicolons, markdown_table, drawn_table, zeros_and_blanks, sheet_each_with_odds_above, runs_in_words,
    index_by_person, odds_in_words, last_names_first, records, exploded, sheet_a_box, polish_text, counted_sections,
)  # fmt: skip
