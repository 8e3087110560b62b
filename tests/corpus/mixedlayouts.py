"""Texts put together from habits: how one heads a set, writes a card, a finish, a rate and a box; each by chance."""

from __future__ import annotations

import csv
import io
import random
from collections.abc import Callable

from tests.corpus.plainlayouts import rated_of
from tests.corpus.tablelayouts import xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import (
    World,
    WorldCard,
    WorldSection,
    make_world,
    truth_cards,
    truth_finishes,
    truth_formats,
    truth_odds,
)

HEADINGS: tuple[Callable[[WorldSection], str], ...] = (
    lambda s: s.label,
    lambda s: s.label.upper(),
    lambda s: f"{s.label}:",
    lambda s: f"** {s.label} **",
    lambda s: f"### {s.label}",
    lambda s: f"{s.label} ({len(s.cards)})",
    lambda s: f"{s.label} - {len(s.cards)} cards",
    lambda s: f"{s.label} Checklist",
    lambda s: f"=== {s.label} ===",
    lambda s: f"{s.label} ({s.cards[0].number} - {s.cards[-1].number})",
    lambda s: f"{len(s.cards)}-card {s.label} set" if s.kind != "base" else f"{s.label}, {len(s.cards)} cards",
    lambda s: f"[{s.label}]",
    lambda s: f"Set: {s.label}",
    lambda s: f"{s.label} ....... {len(s.cards)}",
    lambda s: f"{s.label.upper()} | {len(s.cards)} cards",
    lambda s: f"{s.label} - {s.cards[0].number} to {s.cards[-1].number}",
)
CARDS: tuple[Callable[[WorldCard], str], ...] = (
    lambda c: f"{c.number} {c.name} - {c.team}",
    lambda c: f"{c.number}. {c.name}, {c.team}",
    lambda c: f"#{c.number} {c.name} ({c.team})",
    lambda c: f"{c.number}\t{c.name}\t{c.team}",
    lambda c: f"{c.number} | {c.name} | {c.team}",
    lambda c: f"- {c.number} {c.name}, {c.team}",
    lambda c: f"• {c.number} – {c.name} – {c.team}",
    lambda c: f"{c.number}: {c.name} [{c.team}]",
    lambda c: f"{c.number}) {c.name} / {c.team}",
    lambda c: f"No. {c.number} {c.name} ({c.team})",
    lambda c: f"{c.number}   {c.name}   {c.team}",
    lambda c: f"{c.number}; {c.name}; {c.team}",
    lambda c: f"{c.name} ({c.team}) #{c.number}",
    lambda c: f"{c.number}, {c.name}, {c.team}",
    lambda c: f"{c.number} {c.name} [{c.team}]",
    lambda c: f"{c.number} – {c.name} ({c.team})",
    lambda c: f"[ ] {c.number} {c.name} - {c.team}",
    lambda c: f"{c.number} {c.name} @ {c.team}",
)
FINISHES: tuple[Callable[[list[tuple[str, str]]], list[str]], ...] = (
    lambda made: ["Parallels: " + ", ".join(f"{label} /{run}" if run else label for label, run in made)],
    lambda made: ["Parallels:", *[f"- {label} /{run}" if run else f"- {label}" for label, run in made]],
    lambda made: ["Parallels", *[f"  {label} (/{run})" if run else f"  {label}" for label, run in made]],
    lambda made: [f"{label} parallel{f', numbered to {run}' if run else ''}" for label, run in made],
    lambda made: ["Available in " + "; ".join(f"{label} (#/{run})" if run else label for label, run in made)],
    lambda made: ["Parallel versions: " + " | ".join(f"{label} #'d/{run}" if run else label for label, run in made)],
    lambda made: ["also as: " + ", ".join(f"{label} ({run})" if run else label for label, run in made)],
    lambda made: ["Parallel | Print run", *[f"{label} | {run or '-'}" for label, run in made]],
    lambda made: [f"* {label}: {run or 'no number'}" for label, run in made],
    lambda made: [f"Parallels ({len(made)}): " + "; ".join(f"{label} {run}".strip() for label, run in made)],
)
RATES: tuple[Callable[[str, str], str], ...] = (
    lambda name, rate: f"{name} 1:{rate}",
    lambda name, rate: f"{name} - 1:{rate} packs",
    lambda name, rate: f"{name}: 1 in {rate} packs",
    lambda name, rate: f"{name} (1:{rate})",
    lambda name, rate: f"• {name} – one in {rate}",
    lambda name, rate: f"{name}\t1:{rate}",
    lambda name, rate: f"{name} ..... 1/{rate}",
    lambda name, rate: f"{name} = 1:{rate}",
    lambda name, rate: f"1:{rate} {name}",
    lambda name, rate: f"{name}, 1:{rate}",
    lambda name, rate: f"{name} one in every {rate} packs",
    lambda name, rate: f"{name} | 1:{rate}",
    lambda name, rate: f"1 in {rate} packs: {name}",
)
BOXES: tuple[Callable[[dict[str, str]], str], ...] = (
    lambda f: f"{f['format']}: {f['packs_per_box']} packs of {f['cards_per_pack']}, {f['boxes_per_case']} boxes a case",
    lambda f: f"{f['format']} box - {f['packs_per_box']} packs x {f['cards_per_pack']} cards - {f['boxes_per_case']} boxes/case",
    lambda f: f"{f['format']} ({f['cards_per_pack']} cards per pack, {f['packs_per_box']} packs per box, "
              f"{f['boxes_per_case']} boxes per case)",
    lambda f: f"{f['format']}: {f['packs_per_box']} packs/box, {f['cards_per_pack']} cards/pack, {f['boxes_per_case']} boxes/case",
    lambda f: f"{f['format']} boxes have {f['packs_per_box']} packs with {f['cards_per_pack']} cards each; a case holds "
              f"{f['boxes_per_case']} boxes",
    lambda f: f"{f['format']} - {f['packs_per_box']}/{f['cards_per_pack']}/{f['boxes_per_case']}",
    lambda f: f"{f['format']}\nPacks per box: {f['packs_per_box']}\nCards per pack: {f['cards_per_pack']}\n"
              f"Boxes per case: {f['boxes_per_case']}",
    lambda f: f"{f['format']} | {f['packs_per_box']} packs | {f['cards_per_pack']} cards | {f['boxes_per_case']} boxes a case",
)  # fmt: skip


def mixed_habits(rng: random.Random) -> Case:
    """One person's habits: every set, card, finish, rate and box of a product written alike."""
    world = make_world(rng, plain_clubs=True)
    heading, card, finish = rng.choice(HEADINGS), rng.choice(CARDS), rng.choice(FINISHES)
    rate, box, blank = rng.choice(RATES), rng.choice(BOXES), rng.random() < 0.6
    lines: list[str] = []
    for s in world.sections:
        lines += [heading(s), *(finish(s.finishes) if s.finishes else []), *map(card, s.cards)]
        lines += [""] * blank
    odds: list[str] = []
    for f in world.formats:
        odds += [f"{f['format']} odds:"]
        for label, name in rated_of(world):
            odds.append(rate(f"{label} {name}".strip(), world.odds[(f["format"], label, name)]))
    truth = truth_cards(world, rookies=False)
    truth["parallels"], truth["odds"] = truth_finishes(world), truth_odds(world)
    truth["formats"] = truth_formats(world, price=False)
    texts = {"checklist": "\n".join(lines), "odds": "\n".join(odds), "formats": "\n".join(map(box, world.formats))}
    return Case("mixed", texts=texts, truth=truth)


NUMBER = ("#", "No.", "Card #", "Card Number", "Nr.", "Number", "Card", "Kartennummer", "Numéro", "ID")
NAME = ("Name", "Player", "Athlete", "Subject", "Rider", "Who", "Spieler", "Nom", "Jugador", "On the card")
TEAM = ("Team", "Club", "Squad", "Verein", "Équipe", "Equipo", "Affiliation", "Home", "Crew / Club", "Represents")
SET = ("Set", "Subset", "Insert", "Section", "Satz", "Série", "Which set", "Belongs to", "Insert set", "Category")
ROOKIE = (("RC", "RC", ""), ("Rookie", "Yes", "No"), ("Rookie?", "x", ""), ("Neuling", "ja", "nein"), ("R", "1", "0"))
OWN = (("Qty", "1"), ("Condition", "NM"), ("Notes to self", "box 3"), ("Got it?", "yes"), ("Value", "0.25"))
RUN = ("Print run", "Numbered", "#'d to", "Auflage", "Run", "Copies", "Limited to")
FINISH = ("Parallel", "Finish", "Version", "Color", "Parallele", "Variant")


def mixed_sheets(rng: random.Random) -> Case:
    """A workbook put together by chance: words and order of its columns, where the sets stand, what else is in it."""
    world = make_world(rng)
    heads = {"number": rng.choice(NUMBER), "name": rng.choice(NAME), "team": rng.choice(TEAM), "set": rng.choice(SET)}
    order = ["number", "name", "team"]
    rng.shuffle(order)
    rookies, own = rng.choice((*ROOKIE, None)), rng.choice((*OWN, None))
    where = rng.choice(("column", "column first", "headings", "sheets", "once"))

    def row(s: WorldSection, c: WorldCard) -> list[str]:
        cells = {"number": c.number, "name": c.name, "team": c.team}
        made = [cells[name] for name in order]
        made += [rookies[1] if c.rookie else rookies[2]] if rookies else []
        return [*made, *([own[1]] if own else [])]

    head = [*[heads[name] for name in order], *([rookies[0]] if rookies else []), *([own[0]] if own else [])]
    top = rng.choice(([], [[world.title]], [[world.title], ["updated 3 May 2026"], []]))
    sheets: list[tuple[str, list[list[str]]]] = []
    if where == "sheets":
        sheets = [(s.label[:31], [*top, head, *[row(s, c) for c in s.cards]]) for s in world.sections]
    else:
        body: list[list[str]] = []
        for s in world.sections:
            rows = [row(s, c) for c in s.cards]
            if where == "headings":
                body += [[s.label], *rows]
            elif where == "once":
                body += [[s.label if not at else "", *cells] for at, cells in enumerate(rows)]
            else:
                body += [[s.label, *cells] if where == "column first" else [*cells, s.label] for cells in rows]
        first = {"headings": [], "once": [heads["set"]], "column first": [heads["set"]], "column": []}[where]
        last = [heads["set"]] if where == "column" else []
        sheets = [(rng.choice(("Checklist", "Sheet1", "Cards", "Full list")), [*top, [*first, *head, *last], *body])]
    sheets += _others(rng, world)
    truth = truth_cards(world, rookies=rookies is not None)
    truth["parallels"], truth["odds"] = truth_finishes(world), truth_odds(world)
    truth["formats"] = truth_formats(world, price=False)
    return Case("mixed", {"book.xlsx": xlsx_bytes(sheets)}, truth=truth)


def _others(rng: random.Random, world: World) -> list[tuple[str, list[list[str]]]]:
    """Sheets of finishes, odds and boxes, each in one of several ways."""
    runs = [[rng.choice(SET), rng.choice(FINISH), rng.choice(RUN)]]
    none = rng.choice(("", "-", "unnumbered", "no"))
    slash = rng.choice(("", "/"))
    runs += [[s.label, label, f"{slash}{run}" if run else none] for s in world.sections for label, run in s.finishes]
    names = [f["format"] for f in world.formats]
    way = rng.choice(("1:{}", "1 in {}", "1/{}", "1:{} packs"))
    joint = rng.choice((" ", " - ", ": "))
    odds: list[list[str]]
    if rng.random() < 0.5:
        odds = [[rng.choice(("Insert", "Card type", "What", "")), *names]]
        for label, finish in rated_of(world):
            rates = [way.format(world.odds[(name, label, finish)]) for name in names]
            odds.append([f"{label}{joint}{finish}" if finish else label, *rates])
    else:
        odds = [[rng.choice(SET), rng.choice(FINISH), "Format", rng.choice(("Odds", "Pull rate", "Ratio"))]]
        for label, finish in rated_of(world):
            odds += [[label, finish, name, way.format(world.odds[(name, label, finish)])] for name in names]
    boxes = [["Format", "Packs per box", "Cards per pack", "Boxes per case"]]
    keys = ("format", "packs_per_box", "cards_per_pack", "boxes_per_case")
    boxes += [[f[key] for key in keys] for f in world.formats]
    if rng.random() < 0.4:
        boxes = [list(column) for column in zip(*boxes, strict=True)]
    named = ("Parallels", "Odds", "Formats") if rng.random() < 0.6 else ("Finishes", "Pull rates", "Boxes")
    made = list(zip(named, (runs, odds, boxes), strict=True))
    rng.shuffle(made)
    return made


ODD_HEADS = {
    "number": ("No", "Nr", "#", "Card", "Cd#", "Karte", "Code", "Seq on card", "Num"),
    "name": (
        "Judoka",
        "Surfer",
        "Pilot",
        "Chess master",
        "Who",
        "Pictured",
        "Fighter",
        "Sportler",
        "Nome",
        "Full name",
    ),
    "team": ("Dojo", "Break", "Stable", "Gym", "Crew", "Land", "From", "Wereld", "Societa", "Camp"),
    "set": ("Which", "Part", "Subset", "Series", "Group of cards", "Kind", "Line", "Where it belongs", "Block"),
    "rookie": ("RC", "Rookie", "Debut?", "R/C"),
    "run": ("Ser.", "/", "Made", "Numbered", "Of how many"),
    "own": ("Have", "Mine", "Qty"),
    "blank": ("",),
    "row": ("", "Row", "idx"),
    "price": ("Value", "Paid", "Price"),
    "sport": ("Sport",),
    "year": ("Year",),
}
YES = (("RC", ""), ("x", ""), ("yes", "no"), ("1", "0"), ("TRUE", "FALSE"), ("✓", ""))
ENCODINGS = ("utf-8", "utf-8-sig", "utf-16")


def mixed_tables(rng: random.Random) -> Case:
    """A table with words of its own above its columns, in any order, among columns that are none of the checklist's."""
    world = make_world(rng)
    order = ["number", "name", "team", "set"]
    rng.shuffle(order)
    order += rng.sample(["rookie", "run", "own", "blank", "row", "price", "sport", "year"], rng.randrange(5))
    if rng.random() < 0.3:
        rng.shuffle(order)
    yes, no = rng.choice(YES)
    runs = {s.label: rng.choice(["", "99", "50", "25"]) if s.kind != "base" else "" for s in world.sections}
    slash = rng.choice(["", "/"])
    rows = []
    for s in world.sections:
        for c in s.cards:
            cells = {
                "number": c.number, "name": c.name, "team": c.team, "set": s.label, "rookie": yes if c.rookie else no,
                "run": slash + runs[s.label] if runs[s.label] else "", "own": str(rng.randrange(3)), "blank": "",
                "row": str(len(rows) + 1), "price": f"{rng.randrange(1, 900) / 100:.2f}", "sport": world.sport,
                "year": "2026",
            }  # fmt: skip
            rows.append([cells[name] for name in order])
    if rng.random() < 0.3:
        rng.shuffle(rows)
    top = rng.choice([[], [[world.title]], [["exported 2026-04-02"], []], [[world.title, "", "", ""], []]])
    foot = rng.choice([[], [[], ["Total", str(len(rows))]], [[], ["Source: the club's list"]]])
    made = io.StringIO()
    quoting = rng.choice((csv.QUOTE_MINIMAL, csv.QUOTE_ALL))
    head = [rng.choice(ODD_HEADS[name]) for name in order]
    csv.writer(made, delimiter=rng.choice(",;\t|"), quoting=quoting).writerows([*top, head, *rows, *foot])
    truth = truth_cards(world, rookies="rookie" in order)
    if "run" in order:
        truth["parallels"] = [{"section": label, "parallel": "", "run": run} for label, run in runs.items() if run]
    return Case("mixed", {"list.csv": made.getvalue().encode(rng.choice(ENCODINGS))}, truth=truth)


MIXED = (mixed_habits, mixed_sheets, mixed_tables)
