"""Layouts of desks and papers: a press release, the back of a checklist card, sets side by side, files in one zip."""

from __future__ import annotations

import io
import random
import zipfile

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows, listed, rated_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import WorldSection, make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def _finishes(section: WorldSection, run: str = "{label} /{run}") -> list[str]:
    """The finishes of a section, with their runs where they have one."""
    return [run.format(label=label, run=number) if number else label for label, number in section.finishes]


def press_release(rng: random.Random) -> Case:
    """A sentence of praise, the boxes, then each set with its count and finishes in capitals."""
    world = make_world(rng, plain_clubs=True)
    count = len(world.sections[0].cards)
    lines = [world.title, "", f"The season's first release returns with a {count}-card base set and new inserts.", ""]
    lines += [
        f"{f['format']} Box: {f['packs_per_box']} packs per box, {f['cards_per_pack']} cards per pack, "
        f"{f['boxes_per_case']} boxes per case"
        for f in world.formats
    ]
    for s in world.sections:
        lines += ["", s.label.upper(), f"{len(s.cards)} cards"]
        lines += ["PARALLELS: " + "; ".join(_finishes(s, "{label} #/{run}"))] if s.finishes else []
        lines += [f"{c.number} {c.name} – {c.team}" for c in s.cards]
    truth = truth_cards(world, rookies=False)
    truth["parallels"], truth["formats"] = truth_finishes(world), truth_formats(world, price=False)
    return Case("a press release", texts={"checklist": "\n".join(lines)}, truth=truth)


def sets_and_cards(rng: random.Random) -> Case:
    """A file of sets with their counts, a file of cards."""
    world = make_world(rng)
    sets = [["section", "kind", "cards"], *[[s.label, s.kind, str(len(s.cards))] for s in world.sections]]
    cards = [["number", "name", "team", "section"]]
    cards += [[number, name, team, label] for label, number, name, team in card_rows(world)]
    files = {"sets.csv": sets, "cards.csv": cards}
    made = {name: "\n".join(";".join(row) for row in rows).encode() for name, rows in files.items()}
    return Case("sets and cards", made, truth=truth_cards(world, rookies=False))


def one_column_per_section(rng: random.Random) -> Case:
    """A column a set, whole cards below its name."""
    world = make_world(rng)
    columns = [[f"{c.number} {c.name} ({c.team})" for c in s.cards] for s in world.sections]
    longest = max(map(len, columns))
    rows = [[column[at] if at < len(column) else "" for column in columns] for at in range(longest)]
    book = xlsx_bytes([("Sheet1", [[s.label for s in world.sections], *rows])])
    return Case("a column a set", {"c.xlsx": book}, truth=truth_cards(world, rookies=False))


def back_of_a_checklist_card(rng: random.Random) -> Case:
    """Number and name, three to a line."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        cards = [f"{c.number} {c.name}" for c in s.cards]
        lines += [s.label, *["    ".join(cards[at : at + 3]) for at in range(0, len(cards), 3)], ""]
    truth = truth_cards(world, rookies=False)
    for row in truth["cards"]:
        row["team"] = ""
    return Case("three to a line", texts={"checklist": "\n".join(lines)}, truth=truth)


def odds_with_tabs(rng: random.Random) -> Case:
    """Odds pasted out of a table, a box a column."""
    world = make_world(rng, plain_clubs=True)
    odds = ["\t".join(["Card", *[f["format"] for f in world.formats]])]
    for label, finish in rated_of(world):
        rates = [f"1:{world.odds[(f['format'], label, finish)]}" for f in world.formats]
        odds.append("\t".join([f"{label} {finish}".strip(), *rates]))
    cards = listed(world, "{label} ({count})", "{number}. {name}, {team}")
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    texts = {"checklist": cards, "odds": "\n".join(odds), "formats": formats_of(world)}
    return Case("odds with tabs", texts=texts, truth=truth)


def rookies_starred(rng: random.Random) -> Case:
    """A legend says that a star is a rookie."""
    world = make_world(rng, plain_clubs=True)
    lines = ["* = rookie", ""]
    for s in world.sections:
        cards = [f"{c.number}. {c.name}{'*' if c.rookie else ''}, {c.team}" for c in s.cards]
        lines += [f"### {s.label}", *cards, ""]
    return Case("stars", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def titles_above_finishes_below(rng: random.Random) -> Case:
    """A sheet a set: three lines of titles, the cards, below them the finishes with their runs."""
    world = make_world(rng)
    sheets = []
    for s in world.sections:
        rows = [[world.title], [f"{s.label} checklist"], [f"{len(s.cards)} cards"], []]
        rows.append(["Card #", "Athlete", "Team", "Rookie"])
        rows += [[c.number, c.name, c.team, "Rookie" if c.rookie else ""] for c in s.cards]
        if s.finishes:
            rows += [[], ["Parallels"], *[[label, f"/{run}" if run else "unnumbered"] for label, run in s.finishes]]
        sheets.append((s.label[:31], rows))
    truth = truth_cards(world)
    truth["parallels"] = truth_finishes(world)
    return Case("finishes below", {"e.xlsx": xlsx_bytes(sheets)}, truth=truth)


def odds_of_one_box(rng: random.Random) -> Case:
    """Odds of one box alone, in packs a hit."""
    world = make_world(rng)
    first = world.formats[0]["format"]
    odds = [["Program", "Parallel", f"Packs per hit {first}"]]
    odds += [[label, finish, world.odds[(first, label, finish)]] for label, finish in rated_of(world)]
    sheets = [("Cards", [["Program", "Card", "Name", "Team"], *card_rows(world)]), ("Odds", odds)]
    truth = truth_cards(world, rookies=False)
    truth["odds"] = [row for row in truth_odds(world) if row["format"] == first]
    truth["formats"] = truth_formats(world, price=False)
    return Case("odds of one box", {"k.xlsx": xlsx_bytes(sheets)}, {"formats": formats_of(world)}, truth=truth)


def german_runs(rng: random.Random) -> Case:
    """German: Karten, Nr., Farbvarianten with their Auflage."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"{s.label} ({len(s.cards)} Karten)", *[f"Nr. {c.number} {c.name}, {c.team}" for c in s.cards]]
        runs = _finishes(s, "{label} (Auflage {run})")
        lines += [f"Farbvarianten: {', '.join(runs)}"] * bool(runs) + [""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("German runs", texts={"checklist": "\n".join(lines)}, truth=truth)


def set_before_each(rng: random.Random) -> Case:
    """The set and a colon before each card."""
    world = make_world(rng, plain_clubs=True)
    lines = [f"{label}: {number} {name} ({team})" for label, number, name, team in card_rows(world)]
    return Case("set before each", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def have_and_want(rng: random.Random) -> Case:
    """Somebody's list of what he has and wants, rookies in the notes."""
    world = make_world(rng)
    rows = [["Have", "Want", "Set", "Card No.", "Player", "Team", "Notes"]]
    for s in world.sections:
        for c in s.cards:
            rows.append([rng.choice(("x", "", "")), "", s.label, c.number, c.name, c.team, "RC" if c.rookie else ""])
    return Case("have and want", {"h.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def runs_in_headings(rng: random.Random) -> Case:
    """Sets that are numbered as a whole, said in their headings."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    runs = {s.label: rng.choice(("99", "25", "10")) for s in world.sections if s.kind != "base"}
    for s in world.sections:
        lines.append(f"{s.label} (#'d to {runs[s.label]})" if s.label in runs else s.label)
        lines += [f"{c.number} {c.name} / {c.team}" for c in s.cards] + [""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = [{"section": label, "parallel": "", "run": run} for label, run in runs.items()]
    return Case("runs in headings", texts={"checklist": "\n".join(lines)}, truth=truth)


def breaks_by_box(rng: random.Random) -> Case:
    """Nothing of odds but what each box breaks into."""
    world = make_world(rng, plain_clubs=True)
    hits = [s.label for s in world.sections if s.kind != "base"]
    odds: list[str] = []
    for f in world.formats:
        odds += [f"{f['format'].upper()} BOX BREAK", *[f"{rng.randint(1, 6)} {hit} per box" for hit in hits], ""]
    cards = listed(world, "-- {label} --", "{number} {name}; {team}")
    truth = truth_cards(world, rookies=False)
    truth["formats"] = truth_formats(world, price=False)
    texts = {"checklist": cards, "odds": "\n".join(odds), "formats": formats_of(world)}
    return Case("breaks by box", texts=texts, truth=truth)


def zip_with_a_text(rng: random.Random) -> Case:
    """A zip of a table of cards and a text of finishes."""
    world = make_world(rng)
    finishes = [f"{s.label}: {', '.join(_finishes(s))}" for s in world.sections if s.finishes]
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as packed:
        packed.writestr("checklist.csv", csv_bytes(rng, [["Set", "#", "Player", "Team"], *card_rows(world)]))
        packed.writestr("parallels.txt", "\n".join(finishes))
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("a text in a zip", {"all.zip": data.getvalue()}, truth=truth)


OFFICE = (
    press_release, sets_and_cards, one_column_per_section, back_of_a_checklist_card, odds_with_tabs, rookies_starred,
    titles_above_finishes_below, odds_of_one_box, german_runs, set_before_each, have_and_want, runs_in_headings,
    breaks_by_box, zip_with_a_text,
)  # fmt: skip
