"""Layouts of other hands again: a letter, lists to tick, sell sheets in sentences, sets in brackets behind the cards."""

from __future__ import annotations

import csv
import io
import random

from tests.corpus.tablelayouts import csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import World, make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def formats_of(world: World) -> str:
    """How the product is boxed, a line a box."""
    return "\n".join(
        f"{f['format']}: {f['packs_per_box']} packs of {f['cards_per_pack']}, {f['boxes_per_case']} boxes a case"
        for f in world.formats
    )


def dutch_sheets(rng: random.Random) -> Case:
    """Dutch: a sheet a set, one for the variants with their runs."""
    world = make_world(rng)
    sh = []
    for s in world.sections:
        sh.append(
            (
                s.label[:31],
                [
                    ["Nummer", "Speler", "Ploeg", "Debutant"],
                    *[[c.number, c.name, c.team, "x" if c.rookie else ""] for c in s.cards],
                ],
            )
        )
    fin = [
        ["Reeks", "Variant", "Oplage"],
        *[[s.label, label, r or "onbeperkt"] for s in world.sections for label, r in s.finishes],
    ]
    sh.append(("Varianten", fin))
    t = truth_cards(world)
    t["parallels"] = truth_finishes(world)
    return Case("dutch sheets", {"d.xlsx": xlsx_bytes(sh)}, truth=t)


def email_list(rng: random.Random) -> Case:
    """A list in a letter: greetings around it, a bracket behind each number, a stroke before the club."""
    world = make_world(rng, plain_clubs=True)
    lines = ["Hi Jo,", "here is what I have so far for the new one.", ""]
    for s in world.sections:
        lines.append(f"{s.label}:")
        lines += [f"{c.number}) {c.name} / {c.team}" for c in s.cards]
        lines.append("")
    lines += ["Let me know if anything is missing!", "Cheers, Sam"]
    return Case("email list", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def odds_by_card_type(rng: random.Random) -> Case:
    """Odds set by set: the version on a line of its own, all boxes behind it."""
    world = make_world(rng, plain_clubs=True)
    lines = []
    for s in world.sections:
        lines.append(s.label)
        for lab in ([""] if s.kind != "base" else []) + [label for label, _ in s.finishes]:
            lines.append(
                f"  {lab or 'Base version'} - "
                + ", ".join(f"{f['format']} 1:{world.odds[(f['format'], s.label, lab)]}" for f in world.formats)
            )
    cards = []
    for s in world.sections:
        cards += [s.label, *[f"{c.number}\t{c.name}\t{c.team}" for c in s.cards], ""]
    t = truth_cards(world, rookies=False)
    t["odds"] = truth_odds(world)
    t["formats"] = truth_formats(world, price=False)
    return Case(
        "odds by card type",
        texts={"checklist": "\n".join(cards), "odds": "\n".join(lines), "formats": formats_of(world)},
        truth=t,
    )


def spreadsheet_with_totals(rng: random.Random) -> Case:
    """Sets by heading rows, a total below each."""
    world = make_world(rng)
    rows = [[world.title, "", "", ""], ["", "", "", ""], ["Card", "Name", "Team", "RC"]]
    for s in world.sections:
        rows.append([s.label, "", "", ""])
        rows += [[c.number, c.name, c.team, "RC" if c.rookie else ""] for c in s.cards]
        rows.append(["Total", str(len(s.cards)), "", ""])
        rows.append(["", "", "", ""])
    return Case("spreadsheet with totals", {"t.xlsx": xlsx_bytes([("Sheet1", rows)])}, truth=truth_cards(world))


def merged_set_column(rng: random.Random) -> Case:
    """The set stands in the first of its rows alone, as merged cells are saved."""
    world = make_world(rng)
    rows = [["Set", "#", "Player", "Team", "Print run"]]
    for s in world.sections:
        for i, c in enumerate(s.cards):
            rows.append([s.label if i == 0 else "", c.number, c.name, c.team, ""])
    return Case("merged set column", {"m.csv": csv_bytes(rng, rows)}, truth=truth_cards(world, rookies=False))


def hash_headings(rng: random.Random) -> Case:
    """Headings in brackets, versions parted by bars, their runs bare."""
    world = make_world(rng, plain_clubs=True)
    lines = []
    for s in world.sections:
        lines.append(f"[{s.label}]")
        if s.finishes:
            lines.append("versions: " + " | ".join(f"{label} {r}" if r else label for label, r in s.finishes))
        lines += [f"{c.number}, {c.name}, {c.team}{', RC' if c.rookie else ''}" for c in s.cards] + [""]
    t = truth_cards(world)
    t["parallels"] = truth_finishes(world)
    return Case("hash headings", texts={"checklist": "\n".join(lines)}, truth=t)


def parallels_as_columns(rng: random.Random) -> Case:
    """A list to tick: a column for each finish, headed with its run, empty yet."""
    world = make_world(rng)
    labs = list(dict.fromkeys(label for label, _ in world.sections[0].finishes))
    rows = [["No.", "Rider", "Club", *[f"{label}{' /' + r if r else ''}" for label, r in world.sections[0].finishes]]]
    for c in world.sections[0].cards:
        rows.append([c.number, c.name, c.team, *["" for _ in labs]])
    world.sections = world.sections[:1]
    t = truth_cards(world, rookies=False)
    t["sections"][0]["section"] = "Base"
    for r in t["cards"]:
        r["section"] = "Base"
    t["parallels"] = [{"section": "Base", "parallel": label, "run": r} for label, r in world.sections[0].finishes]
    return Case("parallels as columns", {"need.csv": csv_bytes(rng, rows)}, truth=t)


def insert_table_text(rng: random.Random) -> Case:
    """Odds as a small table with bars: insert, cards, odds."""
    world = make_world(rng, plain_clubs=True)
    f = world.formats[0]["format"]
    lines = ["INSERT | CARDS | ODDS"]
    for s in world.sections[1:]:
        lines.append(f"{s.label} | {len(s.cards)} | 1:{world.odds[(f, s.label, '')]}")
    cards = []
    for s in world.sections:
        cards += [f"{s.label} ({len(s.cards)} cards)", *[f"{c.number} {c.name} ({c.team})" for c in s.cards], ""]
    t = truth_cards(world, rookies=False)
    t["odds"] = [r for r in truth_odds(world) if r["format"] == f and not r["parallel"]]
    world.formats = world.formats[:1]
    t["formats"] = truth_formats(world, price=False)
    return Case(
        "insert table text",
        texts={"checklist": "\n".join(cards), "odds": "\n".join(lines), "formats": formats_of(world)},
        truth=t,
    )


def one_line_sections(rng: random.Random) -> Case:
    """Each set in one line, its cards parted by semicolons."""
    world = make_world(rng, base=40, plain_clubs=True)
    lines = []
    for s in world.sections:
        lines.append(f"{s.label}: " + "; ".join(f"{c.number} {c.name} ({c.team})" for c in s.cards))
    return Case("one line sections", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False))


def sections_in_brackets_behind(rng: random.Random) -> Case:
    """One list, the set in brackets behind each card."""
    world = make_world(rng, plain_clubs=True)
    lines = []
    for s in world.sections:
        for c in s.cards:
            lines.append(f"{c.number} {c.name} - {c.team} [{s.label}]")
    return Case(
        "sections in brackets behind", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world, rookies=False)
    )


def full_config_sheet(rng: random.Random) -> Case:
    """How it is boxed on a sheet whose rows are the facts and whose columns the boxes."""
    world = make_world(rng)
    cfg = [
        ["Product", world.title],
        ["Sport", world.sport],
        ["", ""],
        ["Box type", *[f["format"] for f in world.formats]],
        ["Packs per box", *[f["packs_per_box"] for f in world.formats]],
        ["Cards per pack", *[f["cards_per_pack"] for f in world.formats]],
        ["Boxes per case", *[f["boxes_per_case"] for f in world.formats]],
        ["SRP", *[f["list_price"] for f in world.formats]],
    ]
    cards = [
        ["Subset", "Number", "Name", "Team", "Rookie?"],
        *[[s.label, c.number, c.name, c.team, "Y" if c.rookie else "N"] for s in world.sections for c in s.cards],
    ]
    t = truth_cards(world)
    t["formats"] = truth_formats(world)
    return Case("full config sheet", {"book.xlsx": xlsx_bytes([("Info", cfg), ("All cards", cards)])}, truth=t)


def numbered_per_section_text(rng: random.Random) -> Case:
    """Sets whose cards are numbered, said in the heading."""
    world = make_world(rng, plain_clubs=True)
    lines = []
    for s in world.sections:
        run = rng.choice((99, 50, 25)) if s.kind != "base" else 0
        s.run = run
        lines.append(f"{s.label} (#'d/{run})" if run else s.label)
        lines += [f"{c.number} {c.name} - {c.team}" for c in s.cards] + [""]
    t = truth_cards(world, rookies=False)
    t["parallels"] = [{"section": s.label, "parallel": "", "run": str(s.run)} for s in world.sections if s.run]
    return Case("numbered per section text", texts={"checklist": "\n".join(lines)}, truth=t)


def csv_quoted_names(rng: random.Random) -> Case:
    """Every cell quoted, last names first."""
    world = make_world(rng)
    out = io.StringIO()
    wr = csv.writer(out, quoting=csv.QUOTE_ALL)
    wr.writerow(["Insert Set", "Card Number", "Player (Last, First)", "Team City/Name"])
    for s in world.sections:
        for c in s.cards:
            a, _, b = c.name.partition(" ")
            wr.writerow([s.label, c.number, f"{b}, {a}", c.team])
    return Case("csv quoted names", {"q.csv": out.getvalue().encode()}, truth=truth_cards(world, rookies=False))


def odds_range_sentences(rng: random.Random) -> Case:
    """Odds as sentences of a sell sheet, runs behind them."""
    world = make_world(rng, plain_clubs=True)
    f = world.formats[0]
    lines = []
    for s in world.sections[1:]:
        lines.append(f"Look for {s.label} in 1:{world.odds[(f['format'], s.label, '')]} packs")
    for label, r in world.sections[0].finishes:
        lines.append(
            f"{label} parallels are inserted 1:{world.odds[(f['format'], world.sections[0].label, label)]}{', numbered to ' + r if r else ''}"
        )
    cards = []
    for s in world.sections:
        cards += [s.label.upper(), *[f"{c.number} {c.name}, {c.team}" for c in s.cards], ""]
    world.formats = world.formats[:1]
    t = truth_cards(world, rookies=False)
    t["formats"] = truth_formats(world, price=False)
    base = world.sections[0].label
    t["odds"] = [
        r for r in truth_odds(world) if r["format"] == f["format"] and ((not r["parallel"]) or r["section"] == base)
    ]
    t["parallels"] = [{"section": base, "parallel": label, "run": r} for label, r in world.sections[0].finishes]
    return Case(
        "odds range sentences",
        texts={"checklist": "\n".join(cards), "odds": "\n".join(lines), "formats": formats_of(world)},
        truth=t,
    )


OTHER = (
    dutch_sheets,
    email_list,
    odds_by_card_type,
    spreadsheet_with_totals,
    merged_set_column,
    hash_headings,
    parallels_as_columns,
    insert_table_text,
    one_line_sections,
    sections_in_brackets_behind,
    full_config_sheet,
    numbered_per_section_text,
    csv_quoted_names,
    odds_range_sentences,
)
