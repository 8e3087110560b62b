"""Layouts of plain hands: a sheet a club, a paste of pages, letters for the boxes, a list with the house's notices."""

from __future__ import annotations

import random

from tests.corpus.otherlayouts import formats_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import World, make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def card_rows(world: World) -> list[list[str]]:
    """Set, number, name and club of every card."""
    return [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]


def rated_of(world: World) -> list[tuple[str, str]]:
    """Sections and finishes that have odds: all but the plain base card."""
    return [
        (s.label, label)
        for s in world.sections
        for label in ([""] if s.kind != "base" else []) + [label for label, _ in s.finishes]
    ]


def listed(world: World, heading: str = "{label}", card: str = "{number} {name} - {team}") -> str:
    """All sections below their headings, a blank line between them."""
    lines: list[str] = []
    for s in world.sections:
        lines.append(heading.format(label=s.label, count=len(s.cards)))
        lines += [card.format(number=c.number, name=c.name, team=c.team) for c in s.cards]
        lines.append("")
    return "\n".join(lines)


def players_by_team_sheet(rng: random.Random) -> Case:
    """A sheet a club, with a column of sets and none of clubs."""
    world = make_world(rng)
    by_club: dict[str, list[list[str]]] = {}
    for label, number, name, team in card_rows(world):
        by_club.setdefault(team, []).append([label, number, name])
    sheets = [(team[:31], [["Set", "No.", "Player"], *rows]) for team, rows in by_club.items()]
    return Case("a sheet a club", {"teams.xlsx": xlsx_bytes(sheets)}, truth=truth_cards(world, rookies=False))


def odds_grid_transposed(rng: random.Random) -> Case:
    """Odds with the boxes down and everything that can be pulled across."""
    world = make_world(rng)
    columns = rated_of(world)
    odds = [
        ["Box", *[f"{label} {finish}".strip() for label, finish in columns]],
        *[[f["format"], *[f"1:{world.odds[(f['format'], *column)]}" for column in columns]] for f in world.formats],
    ]
    keys = ("format", "packs_per_box", "cards_per_pack", "boxes_per_case")
    boxes = [
        ["Box", "Packs", "Cards per pack", "Boxes per case"],
        *[[f[key] for key in keys] for f in world.formats],
    ]
    sheets = [("Cards", [["Insert", "#", "Name", "Team"], *card_rows(world)]), ("Odds", odds), ("Boxes", boxes)]
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("odds across", {"t.xlsx": xlsx_bytes(sheets)}, truth=truth)


def swedish_csv(rng: random.Random) -> Case:
    """Swedish headings, ja and nej."""
    world = make_world(rng)
    rows = [["Serie", "Nummer", "Spelare", "Lag", "Rookie"]]
    for s in world.sections:
        rows += [[s.label, c.number, c.name, c.team, "ja" if c.rookie else "nej"] for c in s.cards]
    return Case("Swedish", {"s.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def print_run_behind_each(rng: random.Random) -> Case:
    """A column of runs, filled where the whole set is numbered."""
    world = make_world(rng)
    rows = [["Card", "Player", "Team", "Set", "Serial"]]
    runs = {s.label: rng.choice((99, 25, 10)) for s in world.sections if s.kind in ("autograph", "relic")}
    for label, number, name, team in card_rows(world):
        rows.append([number, name, team, label, f"#/{runs[label]}" if label in runs else ""])
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = [{"section": label, "parallel": "", "run": str(run)} for label, run in runs.items()]
    return Case("runs behind each", {"s.csv": csv_bytes(rng, rows)}, truth=truth)


def pdf_paste(rng: random.Random) -> Case:
    """A paste of pages: the title again in the midst, nothing between name and club."""
    world = make_world(rng, plain_clubs=True)
    title = world.title.upper()
    lines = [title, "OFFICIAL CHECKLIST", "Page 1 of 4", ""]
    for s in world.sections:
        lines.append(s.label.upper())
        cards = [f"{c.number} {c.name} {c.team}{' RC' if c.rookie else ''}" for c in s.cards]
        lines += [*cards[:21], *(["Page 2 of 4", title] if len(cards) > 20 else []), *cards[21:]]
    return Case("a paste of pages", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def odds_h_b(rng: random.Random) -> Case:
    """Odds with a letter for each box, and a line that says what each means."""
    world = make_world(rng, plain_clubs=True)
    first = world.formats[0]["format"]
    world.formats = [world.formats[0], *[f for f in world.formats[1:2] if f["format"][0] != first[0]]]
    lines = [f"{f['format'][0]} = {f['format']}" for f in world.formats]
    for label, finish in rated_of(world):
        rates = [f"1:{world.odds[(f['format'], label, finish)]} {f['format'][0]}" for f in world.formats]
        lines.append(f"{label} {finish}".strip() + " " + " / ".join(rates))
    texts = {"checklist": listed(world), "odds": "\n".join(lines), "formats": formats_of(world)}
    truth, kept = truth_cards(world, rookies=False), {f["format"] for f in world.formats}
    truth["formats"] = truth_formats(world, price=False)
    truth["odds"] = [row for row in truth_odds(world) if row["format"] in kept]
    return Case("letters for boxes", texts=texts, truth=truth)


def short_prints_by_note(rng: random.Random) -> Case:
    """Short prints and rookies marked in one column."""
    world = make_world(rng, base=100)
    base = world.sections[0]
    short = {c.number for c in base.cards[80:]}
    rows = [["Set", "Number", "Name", "Team", "Info"]]
    for s in world.sections:
        for c in s.cards:
            info = "SP" if s is base and c.number in short else "RC" if c.rookie else ""
            rows.append([s.label, c.number, c.name, c.team, info])
    truth = truth_cards(world)
    for row in truth["cards"]:
        if row["section"] == base.label and row["number"] in short:
            row |= {"section": f"{base.label} short prints", "rookie": ""}
    truth["sections"].append({"section": f"{base.label} short prints", "kind": "short_print"})
    return Case("short prints by a note", {"s.csv": csv_bytes(rng, rows)}, truth=truth)


def notices_around(rng: random.Random) -> Case:
    """What a page says besides: dates, a price, a contest, last year's set, whose rights."""
    world = make_world(rng, plain_clubs=True)
    before = [world.title, "Release date: 12 March 2026", "Retail price: $4.99 a pack", ""]
    contest = ["Contest rules: send 3 wrappers before 1 May to win.", ""]
    cards = listed(world, "{label} ({count} cards):", "{number} {name} ({team})")
    after = ["Last year's set had 250 cards and 4 autographs per box.", "(c) the club, all rights reserved"]
    text = "\n".join([*before, *contest, cards, *after])
    return Case("notices around", texts={"checklist": text}, truth=truth_cards(world, rookies=False))


def letters_before_numbers(rng: random.Random) -> Case:
    """One sheet, headings in a lone cell, a letter for each insert set before its numbers."""
    world = make_world(rng)
    for letter, s in zip("BCDEFGH", world.sections[1:], strict=False):
        s.cards = [type(c)(f"{letter}{n}", c.name, c.team, c.rookie) for n, c in enumerate(s.cards, 1)]
    rows: list[list[str]] = [["Number", "Name", "Club"]]
    for s in world.sections:
        rows += [[], [s.label], *[[c.number, c.name, c.team] for c in s.cards]]
    return Case("letters", {"s.xlsx": xlsx_bytes([("Tabelle1", rows)])}, truth=truth_cards(world, rookies=False))


def finish_list_sheet_no_head(rng: random.Random) -> Case:
    """A sheet of finishes without headings of columns: a line a section, a line a finish."""
    world = make_world(rng)
    finishes: list[list[str]] = []
    for s in world.sections:
        if s.finishes:
            finishes += [[f"{s.label} parallels"], *[[f"{a} - /{run}" if run else a] for a, run in s.finishes], [""]]
    cards = [["Set", "No", "Name", "Team"], *card_rows(world)]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("lists", {"b.xlsx": xlsx_bytes([("Checklist", cards), ("Parallels", finishes)])}, truth=truth)


def formats_in_prose(rng: random.Random) -> Case:
    """How it is boxed, in a sentence a box."""
    world = make_world(rng, plain_clubs=True)
    sentences = [
        f"A {f['format'].lower()} box has {f['packs_per_box']} packs with {f['cards_per_pack']} cards each; "
        f"a case holds {f['boxes_per_case']} boxes."
        for f in world.formats
    ]
    texts = {"checklist": listed(world, "{label} - {count} cards"), "formats": "\n".join(sentences)}
    truth = truth_cards(world, rookies=False)
    truth["formats"] = truth_formats(world, price=False)
    return Case("boxes in prose", texts=texts, truth=truth)


def guarantees_text(rng: random.Random) -> Case:
    """Nothing of odds but what a box delivers."""
    world = make_world(rng, plain_clubs=True)
    odds = f"Each {world.formats[0]['format'].lower()} box delivers 2 autographs!\n1 insert per pack"
    texts = {"checklist": listed(world), "odds": odds, "formats": formats_of(world)}
    truth = truth_cards(world, rookies=False)
    truth["formats"] = truth_formats(world, price=False)
    return Case("what a box delivers", texts=texts, truth=truth)


def tsv_utf16(rng: random.Random) -> Case:
    """A table that an office program saved as “Unicode text”."""
    world = make_world(rng)
    lines = ["\t".join(row) for row in [["Set", "Card #", "Player", "Team"], *card_rows(world)]]
    data = "\r\n".join(lines).encode("utf-16")
    return Case("Unicode text", {"u.txt": data}, truth=truth_cards(world, rookies=False))


def name_number_team_dash(rng: random.Random) -> Case:
    """Name, number and club between strokes."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"{s.label.upper()}:", *[f"{c.name} - {c.number} - {c.team}" for c in s.cards], ""]
    return Case("number between", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


PLAIN = (
    players_by_team_sheet, odds_grid_transposed, swedish_csv, print_run_behind_each, pdf_paste, odds_h_b,
    short_prints_by_note, notices_around, letters_before_numbers, finish_list_sheet_no_head, formats_in_prose,
    guarantees_text, tsv_utf16, name_number_team_dash,
)  # fmt: skip
