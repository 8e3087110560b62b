"""Layouts of people who sell: stock lists, set sheets with prices, boards copied from a forum, a wiki's page."""

from __future__ import annotations

import random

from tests.corpus.otherlayouts import formats_of
from tests.corpus.plainlayouts import card_rows, listed, rated_of
from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def stock_list(rng: random.Random) -> Case:
    """A shop's stock: article number, description of set, number and name in one cell, club, amount, price."""
    world = make_world(rng)
    rows = [["SKU", "Set", "Description", "Club", "Qty", "Price"]]
    for label, number, name, team in card_rows(world):
        rows.append([f"A{rng.randrange(10**5)}", label, f"#{number} {name}", team, str(rng.randrange(5)), "0.50"])
    return Case("stock", {"stock.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def wiki_page(rng: random.Random) -> Case:
    """A page in a wiki's marks: headings between equal signs, tables with bars and row marks."""
    world = make_world(rng, plain_clubs=True)
    lines = [f"= {world.title} =", ""]
    for s in world.sections:
        lines += [f"== {s.label} ==", '{| class="wikitable"', "! No. !! Name !! Club"]
        for c in s.cards:
            lines += ["|-", f"| {c.number} || {c.name} || {c.team}"]
        lines += ["|}", ""]
    return Case("wiki", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def html_rows(rng: random.Random) -> Case:
    """The source of a page: table rows in tags, headings in tags."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [f"<h2>{s.label}</h2>", "<table>"]
        lines += [f"<tr><td>{c.number}</td><td>{c.name}</td><td>{c.team}</td></tr>" for c in s.cards]
        lines.append("</table>")
    return Case("tags", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def forum_quotes(rng: random.Random) -> Case:
    """A post that was quoted: an arrow before every line."""
    world = make_world(rng, plain_clubs=True)
    text = listed(world, "{label} ({count})", "{number} {name}, {team}")
    return Case("quoted", texts={"checklist": "\n".join(f"> {line}" if line else ">" for line in text.splitlines())},
                truth=truth_cards(world, rookies=False))  # fmt: skip


def want_list(rng: random.Random) -> Case:
    """A want list: a box to tick before each card, headings underlined with dashes."""
    world = make_world(rng, plain_clubs=True)
    lines: list[str] = []
    for s in world.sections:
        lines += [s.label, "-" * len(s.label)]
        lines += [f"[{'x' if rng.random() < 0.5 else ' '}] {c.number} {c.name} - {c.team}" for c in s.cards]
        lines.append("")
    return Case("wants", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def two_header_levels(rng: random.Random) -> Case:
    """A sheet whose headings stand in two rows: what over which."""
    world = make_world(rng)
    rows = [["Card", "", "Who", "", ""], ["Set", "Number", "Name", "Club", "Rookie"]]
    rows += [[s.label, c.number, c.name, c.team, "x" if c.rookie else ""] for s in world.sections for c in s.cards]
    return Case("two rows", {"t.xlsx": xlsx_bytes([("Cards", rows)])}, truth=truth_cards(world))


def odds_and_runs_text(rng: random.Random) -> Case:
    """Finishes with runs and odds of the first box behind each, below the heading."""
    world = make_world(rng, plain_clubs=True)
    box = world.formats[0]["format"]
    lines: list[str] = []
    for s in world.sections:
        rate = f" - 1:{world.odds[(box, s.label, '')]}" if s.kind != "base" else ""
        lines.append(f"{s.label.upper()}{rate}")
        for label, run in s.finishes:
            lines.append(f"  {label} - {'#/' + run if run else 'unnumbered'} - 1:{world.odds[(box, s.label, label)]}")
        lines += [*[f"{c.number} {c.name} - {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    truth["odds"] = [row for row in truth_odds(world) if row["format"] == box]
    formats = formats_of(world).splitlines()[0]
    truth["formats"] = truth_formats(world, price=False)[:1]
    return Case("runs and odds", texts={"checklist": "\n".join(lines), "formats": formats}, truth=truth)


def clubs_in_capitals(rng: random.Random) -> Case:
    """A table with last names in capitals before first names and the club in capitals."""
    world = make_world(rng)
    rows = [["Nº", "Corredor", "Equipo", "Serie"]]
    rows += [[c.number, c.name, c.team.upper(), s.label] for s in world.sections for c in s.cards]
    truth = truth_cards(world, rookies=False)
    for row in truth["cards"]:
        row["team"] = row["team"].upper()
    return Case("capitals", {"lista.csv": csv_bytes(rng, rows)}, truth=truth)


def formats_in_rows_with_units(rng: random.Random) -> Case:
    """Boxes with units in the cells, odds with “packs” behind each."""
    world = make_world(rng)
    boxes = [["Product", "Configuration"]]
    for f in world.formats:
        said = f"{f['packs_per_box']} packs/box, {f['cards_per_pack']} cards/pack, {f['boxes_per_case']} boxes/case"
        boxes.append([f["format"], said])
    odds = [["Card type", *[f["format"] for f in world.formats]]]
    for label, finish in rated_of(world):
        rates = [f"1:{world.odds[(f['format'], label, finish)]} packs" for f in world.formats]
        odds.append([f"{label} - {finish}" if finish else label, *rates])
    sheets = [
        ("Configuration", boxes),
        ("Checklist", [["Set", "No", "Name", "Team"], *card_rows(world)]),
        ("Odds", odds),
    ]
    truth = truth_cards(world, rookies=False)
    truth["odds"], truth["formats"] = truth_odds(world), truth_formats(world, price=False)
    return Case("units", {"c.xlsx": xlsx_bytes(sheets)}, truth=truth)


def numbers_apart(rng: random.Random) -> Case:
    """The code of the set in one column, the number in the next."""
    world = make_world(rng)
    rows = [["Insert", "Prefix", "#", "Player", "Team"]]
    for label, number, name, team in card_rows(world):
        prefix, dash, rest = number.partition("-")
        rows.append([label, f"{prefix}-" if dash else "", rest if dash else prefix, name, team])
    return Case("apart", {"n.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def finishes_each_a_sheet(rng: random.Random) -> Case:
    """A sheet a finish of the base set, besides those of the sets."""
    world = make_world(rng)
    sheets = [(s.label[:31], [["No", "Name", "Team"], *[[c.number, c.name, c.team] for c in s.cards]])
              for s in world.sections]  # fmt: skip
    runs = [
        ["Set", "Parallel", "Numbered"],
        *[[s.label, label, run or "-"] for s in world.sections for label, run in s.finishes],
    ]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("finishes", {"f.xlsx": xlsx_bytes([*sheets, ("Parallels & numbering", runs)])}, truth=truth)


def card_then_set_behind_dash(rng: random.Random) -> Case:
    """Each line a card with its set behind a dash at the end."""
    world = make_world(rng, plain_clubs=True)
    lines = [f"{number} {name} ({team}) - {label}" for label, number, name, team in card_rows(world)]
    return Case("set last", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


SHOP = (
    stock_list, wiki_page, html_rows, forum_quotes, want_list, two_header_levels, odds_and_runs_text,
    clubs_in_capitals, formats_in_rows_with_units, numbers_apart, finishes_each_a_sheet, card_then_set_behind_dash,
)  # fmt: skip
