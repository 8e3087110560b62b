"""Layouts of further hands: codes explained on a sheet, headings of two rows, dots, capitals, names over clubs."""

from __future__ import annotations

import random

from tests.corpus.tablelayouts import Cells, csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def codes_on_a_sheet(rng: random.Random) -> Case:
    """A sheet says which code stands for which set; the cards have the code in a column, the number in another."""
    world = make_world(rng)
    key: Cells = [["Code", "Set"]]
    cards: Cells = [["Code", "Number", "Name", "Team"]]
    for at, s in enumerate(world.sections):
        code = "BASE" if s.kind == "base" else f"I{at}"
        key.append([code, s.label])
        cards += [[code, c.number, c.name, c.team] for c in s.cards]
    sheets = [("Key", key), ("Cards", cards)]
    return Case("codes on a sheet", {"coded.xlsx": xlsx_bytes(sheets)}, truth=truth_cards(world, rookies=False))


def heads_of_two_rows(rng: random.Random) -> Case:
    """Odds below headings of two rows: the box above, what the figures are of below it."""
    world = make_world(rng)
    top: list[object] = [""]
    under: list[object] = ["Insert / parallel"]
    for f in world.formats:
        top += [f["format"], ""]
        under += ["1 per ... packs", "Packs/box"]
    odds: Cells = [top, under]
    for s in world.sections:
        for label in ([""] if s.kind != "base" else []) + [label for label, _ in s.finishes]:
            row: list[object] = [f"{s.label} {label}".strip()]
            for f in world.formats:
                row += [world.odds[(f["format"], s.label, label)], f["packs_per_box"]]
            odds.append(row)
    cards: Cells = [["Set", "No.", "Name", "Club"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    truth = truth_cards(world, rookies=False)
    truth["odds"] = truth_odds(world)
    return Case("heads of two rows", {"o.xlsx": xlsx_bytes([("Cards", cards), ("Odds", odds)])}, truth=truth)


def runs_in_words(rng: random.Random) -> Case:
    """Finishes in whole words below each heading."""
    world = make_world(rng, plain_clubs=True)
    words = (
        "{label} parallel, limited to {run} copies",
        "{label} parallel - {run} made",
        "{label}: numbered to {run}",
    )
    lines = []
    for s in world.sections:
        lines += [
            f"{s.label.upper()}",
            *[
                rng.choice(words).format(label=x, run=r) if r else f"{x} parallel (not numbered)"
                for x, r in s.finishes
            ],
        ]
        lines += [f"{c.number} {c.name} ({c.team})" for c in s.cards] + [""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("runs in words", texts={"checklist": "\n".join(lines)}, truth=truth)


def team_first_padded(rng: random.Random) -> Case:
    """Club, name, padded number: columns the other way round."""
    world = make_world(rng)
    rows: Cells = [["Team", "Player", "Card No", "Insert"]]
    for s in world.sections:
        rows += [[c.team, c.name, c.number.zfill(3) if c.number.isdecimal() else c.number, s.label] for c in s.cards]
    truth = truth_cards(world, rookies=False)
    for row in truth["cards"]:
        row["number"] = row["number"].zfill(3) if row["number"].isdecimal() else row["number"]
    return Case("team first padded", {"t.csv": csv_bytes(rng, rows)}, truth=truth)


def dotted_leaders(rng: random.Random) -> Case:
    """Dots between number, name and club, as in a printed book."""
    world = make_world(rng, plain_clubs=True)
    lines = []
    for s in world.sections:
        lines += [
            f"{s.label} ({len(s.cards)})",
            *[f"{c.number} ..... {c.name} ........ {c.team}" for c in s.cards],
            "",
        ]
    return Case("dotted leaders", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def ranges_and_rookies(rng: random.Random) -> Case:
    """Headings with the range of their numbers, the rookies below a heading of their own in the same set."""
    world = make_world(rng, base=100, plain_clubs=True)
    base = world.sections[0]
    base.cards = [type(c)(c.number, c.name, c.team, int(c.number) > 80) for c in base.cards]
    lines = ["Veterans (1-80)", *[f"{c.number} {c.name} - {c.team}" for c in base.cards[:80]],
             "Rookies (81-100)", *[f"{c.number} {c.name} - {c.team}" for c in base.cards[80:]], ""]  # fmt: skip
    for s in world.sections[1:]:
        lines += [
            f"{s.label} ({s.cards[0].number} to {s.cards[-1].number})",
            *[f"{c.number} {c.name} - {c.team}{' RC' if c.rookie else ''}" for c in s.cards],
            "",
        ]
    truth = truth_cards(world)
    for row in truth["cards"]:
        if row["section"] == base.label:
            row["section"] = "Base"
    truth["sections"][0]["section"] = "Base"
    return Case("ranges and rookies", texts={"checklist": "\n".join(lines)}, truth=truth)


def french_text(rng: random.Random) -> Case:
    """A French list: cards counted, Parallèles with their runs, recrue behind the club."""
    world = make_world(rng, plain_clubs=True)
    lines = [world.title, ""]
    for s in world.sections:
        lines.append(f"{s.label} – {len(s.cards)} cartes")
        if s.finishes:
            lines.append("Parallèles : " + ", ".join(f"{x} /{r}" if r else x for x, r in s.finishes))
        lines += [f"{c.number} {c.name} – {c.team}{' (recrue)' if c.rookie else ''}" for c in s.cards] + [""]
    truth = truth_cards(world)
    truth["parallels"] = truth_finishes(world)
    return Case("french text", texts={"checklist": "\n".join(lines)}, truth=truth)


def facts_page(rng: random.Random) -> Case:
    """A page's facts first: configuration in a sentence, the price, odds as sentences, then the sets."""
    world = make_world(rng, plain_clubs=True)
    f = world.formats[0]
    lines = [
        world.title,
        f"{f['format']} configuration: {f['cards_per_pack']} cards per pack, {f['packs_per_box']} packs per box, {f['boxes_per_case']} boxes per case",
        "",
    ]
    stated = []
    for s in world.sections[1:]:
        rate = world.odds[(f["format"], s.label, "")]
        lines.append(f"{s.label} fall one in every {rate} {f['format'].lower()} packs.")
        stated.append((f["format"], s.label, ""))
    lines.append("")
    for s in world.sections:
        lines += [f"{s.label} checklist", *[f"{c.number} {c.name}, {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["formats"] = truth_formats(world, price=False)[:1]
    truth["odds"] = [row for row in truth_odds(world) if (row["format"], row["section"], row["parallel"]) in stated]
    return Case("facts page", texts={"checklist": "\n".join(lines)}, truth=truth)


def club_below_the_name(rng: random.Random) -> Case:
    """Two lines a card: number and name, then the club indented."""
    world = make_world(rng, base=40, plain_clubs=True)
    lines = []
    for s in world.sections:
        lines += [f"{s.label} - {len(s.cards)} cards"]
        for c in s.cards:
            lines += [f"{c.number} {c.name}", f"    {c.team}"]
        lines.append("")
    return Case("club below the name", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def markdown_bullets(rng: random.Random) -> Case:
    """Markdown with bold numbers and slanted clubs."""
    world = make_world(rng, plain_clubs=True)
    lines = [f"# {world.title}"]
    for s in world.sections:
        lines += ["", f"### {s.label}", ""]
        if s.finishes:
            lines += ["_Parallels:_ " + ", ".join(f"{x} (/{r})" if r else x for x, r in s.finishes), ""]
        lines += [f"- **{c.number}** {c.name} — _{c.team}_{' **RC**' if c.rookie else ''}" for c in s.cards]
    truth = truth_cards(world)
    truth["parallels"] = truth_finishes(world)
    return Case("markdown bullets", texts={"checklist": "\n".join(lines)}, truth=truth)


def clubs_with_their_cards(rng: random.Random) -> Case:
    """Each set club by club: the club, a colon, its cards in a row."""
    world = make_world(rng, base=60, plain_clubs=True)
    lines = []
    for s in world.sections:
        lines.append(f"{s.label.upper()} - {len(s.cards)} CARDS")
        by: dict[str, list[str]] = {}
        for c in s.cards:
            by.setdefault(c.team, []).append(f"{c.number} {c.name}")
        lines += [f"{club}: {', '.join(cards)}" for club, cards in by.items()] + [""]
    return Case(
        "clubs with their cards", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False)
    )


def status_and_price(rng: random.Random) -> Case:
    """A price guide: low and high beside each card, its status in a word."""
    world = make_world(rng)
    rows: Cells = [["Set", "No.", "Player", "Team", "Status", "Low", "High"]]
    for s in world.sections:
        rows += [
            [
                s.label,
                c.number,
                c.name,
                c.team,
                "Rookie" if c.rookie else "Veteran",
                "0.25",
                f"{rng.randint(1, 40)}.00",
            ]
            for c in s.cards
        ]
    return Case("status and price", {"guide.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def capitals_throughout(rng: random.Random) -> Case:
    """Everything in capitals, tabs between the cells, sets by heading rows."""
    world = make_world(rng)
    rows: Cells = [["NO", "NAME", "TEAM"]]
    for s in world.sections:
        rows += [[s.label.upper(), "", ""], *[[c.number, c.name.upper(), c.team.upper()] for c in s.cards]]
    truth = truth_cards(world, rookies=False)
    for row in truth["cards"]:
        row["name"], row["team"] = row["name"].upper(), row["team"].upper()
    return Case("capitals throughout", {"c.xlsx": xlsx_bytes([("LIST", rows)])}, truth=truth)


def odds_sheet_each_box(rng: random.Random) -> Case:
    """A sheet of odds for each box, named after it; the cards on a sheet of their own."""
    world = make_world(rng)
    cards: Cells = [["Insert set", "Card", "Player", "Club"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    sheets: list[tuple[str, Cells]] = [("Checklist", cards)]
    for f in world.formats:
        rows: Cells = [["Insert set", "Parallel", "Odds"]]
        for s in world.sections:
            for label in ([""] if s.kind != "base" else []) + [label for label, _ in s.finishes]:
                rows.append([s.label, label, f"1 in {world.odds[(f['format'], s.label, label)]}"])
        sheets.append((f"{f['format']} odds", rows))
    truth = truth_cards(world, rookies=False)
    truth["odds"] = truth_odds(world)
    return Case("odds sheet each box", {"b.xlsx": xlsx_bytes(sheets)}, truth=truth)


FURTHER = (
    codes_on_a_sheet, heads_of_two_rows, runs_in_words, team_first_padded, dotted_leaders, ranges_and_rookies,
    french_text, facts_page, club_below_the_name, markdown_bullets, clubs_with_their_cards, status_and_price,
    capitals_throughout, odds_sheet_each_box,
)  # fmt: skip
