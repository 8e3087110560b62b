"""Layouts as several people keep them: a shop's export, a club's workbook, a forum's list, a sell sheet with its sets."""

from __future__ import annotations

import random

from tests.corpus.tablelayouts import Cells, csv_bytes, xlsx_bytes
from tests.corpus.truth import Case
from tests.corpus.world import World, WorldSection, make_world, truth_cards, truth_finishes, truth_formats, truth_odds


def _finishes(section: WorldSection, style: str, join: str) -> str:
    """Write the finishes of a section in one line."""
    return join.join(style.format(label=label, run=run) if run else label for label, run in section.finishes)


def _notes(world: World, section: WorldSection) -> list[str]:
    return ["RC" if card.rookie else "" for card in section.cards]


def overview_and_sheets(rng: random.Random) -> Case:
    """An overview of the sets with sizes and odds first, then a sheet for each set."""
    world = make_world(rng)
    first = world.formats[0]["format"]
    heads = rng.choice((["Set", "Cards", f"Odds ({first})"], ["Subset", "# of cards", f"{first} odds"]))
    overview: Cells = [[world.title], [], heads]
    for s in world.sections:
        rate = world.odds.get((first, s.label, ""))
        overview.append([s.label, str(len(s.cards)), f"1:{rate}" if rate else "-"])
    sheets: list[tuple[str, Cells]] = [("Overview", overview)]
    for s in world.sections:
        rows: Cells = [[rng.choice(("No.", "#", "Card")), "Name", "Club", "Note"]]
        rows += [[c.number, c.name, c.team, note] for c, note in zip(s.cards, _notes(world, s), strict=True)]
        sheets.append((s.label[:30], rows))
    truth = truth_cards(world)
    truth["odds"] = [row for row in truth_odds(world) if row["format"] == first and not row["parallel"]]
    return Case("overview and sheets", {"sets.xlsx": xlsx_bytes(sheets)}, truth=truth)


def banner_workbook(rng: random.Random) -> Case:
    """A banner above each table, a line of the author below, sheets for cards, runs, odds and boxes."""
    world = make_world(rng)
    cards: Cells = [[world.title.upper()], ["compiled by Wim, last change 12 March"], [],
                    ["Card No.", "Athlete", "Squad", "Subset", "Notes"]]  # fmt: skip
    for s in world.sections:
        cards += [[c.number, c.name, c.team, s.label, "Rookie" if c.rookie else ""] for c in s.cards]
    cards += [[], ["found a mistake? write to me"]]
    runs: Cells = [["Subset", "Finish", "Numbered to"]]
    runs += [[s.label, label, run or "not numbered"] for s in world.sections for label, run in s.finishes]
    odds: Cells = [["Subset", "Finish", *[f["format"] for f in world.formats]]]
    for s in world.sections:
        for label in ([""] if s.kind != "base" else []) + [label for label, _ in s.finishes]:
            odds.append(
                [
                    s.label,
                    label or "plain",
                    *[f"1:{world.odds[(f['format'], s.label, label)]}" for f in world.formats],
                ]
            )
    boxes: Cells = [["Box", "Packs", "Cards / pack", "Boxes / case", "SRP"]]
    boxes += [
        [f["format"], f["packs_per_box"], f["cards_per_pack"], f["boxes_per_case"], f["list_price"]]
        for f in world.formats
    ]
    sheets = [("Checklist", cards), ("Print runs", runs), ("Pack odds", odds), ("Boxes", boxes)]
    truth = truth_cards(world)
    truth["parallels"], truth["odds"], truth["formats"] = (
        truth_finishes(world),
        truth_odds(world),
        truth_formats(world),
    )
    return Case("banner workbook", {"list.xlsx": xlsx_bytes(sheets)}, truth=truth)


def database_dump(rng: random.Random) -> Case:
    """Columns as a database has them: snake case, true and false, empty second players."""
    world = make_world(rng)
    rows: Cells = [
        [
            "product",
            "year",
            "subset",
            "card_number",
            "player_1",
            "team_1",
            "player_2",
            "team_2",
            "is_rookie",
            "autograph",
        ]
    ]
    for s in world.sections:
        for c in s.cards:
            rows.append([world.title, "2026", s.label, c.number, c.name, c.team, "", "",
                         "true" if c.rookie else "false", "true" if s.kind == "autograph" else "false"])  # fmt: skip
    return Case("database dump", {"cards.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def shop_export(rng: random.Random) -> Case:
    """A shop's list of singles of a whole product: title of each in one cell, price and stock beside it."""
    world = make_world(rng, plain_clubs=True)
    rows: Cells = [["SKU", "Set", "No", "Card", "Team", "In stock", "Price EUR"]]
    at = 1000
    for s in world.sections:
        for c in s.cards:
            at += 1
            rows.append(
                [
                    f"S{at}",
                    s.label,
                    c.number,
                    c.name + (" RC" if c.rookie else ""),
                    c.team,
                    str(rng.randint(0, 3)),
                    "0,49",
                ]
            )
    return Case("shop export", {"export.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def headings_with_odds_and_finishes(rng: random.Random) -> Case:
    """A text: each set with its size and odds in the heading, finishes in the line below, then the cards."""
    world = make_world(rng, plain_clubs=True)
    first = world.formats[0]["format"]
    lines = [world.title, ""]
    for s in world.sections:
        rate = world.odds.get((first, s.label, ""))
        lines.append(f"{s.label.upper()} ({len(s.cards)} cards{f', 1:{rate} {first.lower()} packs' if rate else ''})")
        if s.finishes:
            lines.append("Parallels: " + _finishes(s, "{label} (/{run})", ", "))
        lines += [f"{c.number}. {c.name}, {c.team}{' (RC)' if c.rookie else ''}" for c in s.cards] + [""]
    truth = truth_cards(world)
    truth["parallels"] = truth_finishes(world)
    truth["odds"] = [row for row in truth_odds(world) if row["format"] == first and not row["parallel"]]
    return Case("headings with odds", texts={"checklist": "\n".join(lines)}, truth=truth)


def legend_of_prefixes(rng: random.Random) -> Case:
    """One long list; a legend says which letters before a number stand for which set."""
    world = make_world(rng, plain_clubs=True)
    for s in world.sections[1:]:
        s.code = "".join(word[0] for word in s.label.upper().split()) + rng.choice("XQZ")
        s.cards = [type(c)(f"{s.code}-{n}", c.name, c.team, c.rookie) for n, c in enumerate(s.cards, 1)]
    lines = ["Numbers without letters are the base set.", *[f"{s.code} = {s.label}" for s in world.sections[1:]], ""]
    lines += [f"{c.number} {c.name} - {c.team}{' RC' if c.rookie else ''}" for s in world.sections for c in s.cards]
    truth = truth_cards(world)
    return Case("legend of prefixes", texts={"checklist": "\n".join(lines)}, truth=truth)


def three_blocks(rng: random.Random) -> Case:
    """Three blocks side by side, the base set going on from one to the next, inserts in the last."""
    world = make_world(rng, base=rng.choice((60, 100)))
    base = world.sections[0]
    half = (len(base.cards) + 1) // 2
    columns = [base.cards[:half], base.cards[half:]]
    rows: Cells = [
        [base.label, "", "", "", base.label + " (cont.)", "", "", "", "Inserts"],
        ["#", "Name", "Team", "", "#", "Name", "Team", "", "Set", "#", "Name", "Team"],
    ]
    others = [(s.label, c) for s in world.sections[1:] for c in s.cards]
    for at in range(max(half, len(others))):
        row: list[object] = []
        for cards in columns:
            row += [cards[at].number, cards[at].name, cards[at].team, ""] if at < len(cards) else ["", "", "", ""]
        row += (
            [others[at][0], others[at][1].number, others[at][1].name, others[at][1].team] if at < len(others) else []
        )
        rows.append(row)
    return Case("three blocks", {"wide.xlsx": xlsx_bytes([("All", rows)])}, truth=truth_cards(world, rookies=False))


def finish_matrix(rng: random.Random) -> Case:
    """Finishes down, sets across, the run where they meet; odds as a second sheet of the same shape for one box."""
    world = make_world(rng)
    labels = list(dict.fromkeys(label for s in world.sections for label, _ in s.finishes))
    runs: Cells = [["Parallel", *[s.label for s in world.sections]]]
    for label in labels:
        row: list[object] = [label]
        for s in world.sections:
            found = dict(s.finishes)
            row.append(f"/{found[label]}" if found.get(label) else "unnumbered" if label in found else "")
        runs.append(row)
    cards: Cells = [["Set", "Number", "Name", "Team"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("finish matrix", {"x.xlsx": xlsx_bytes([("Cards", cards), ("Parallels", runs)])}, truth=truth)


def odds_by_box(rng: random.Random) -> Case:
    """Pasted odds, box by box: a heading for each, a line for each insert and finish."""
    world = make_world(rng, plain_clubs=True)
    lines = []
    for f in world.formats:
        lines.append(
            rng.choice((f"{f['format'].upper()} BOX", f"{f['format']} odds", f"Odds per pack - {f['format']}"))
        )
        for s in world.sections:
            for label in ([""] if s.kind != "base" else []) + [label for label, _ in s.finishes]:
                rate = world.odds[(f["format"], s.label, label)]
                lines.append(f"{s.label}{' ' + label if label else ''} - 1:{rate}")
        lines.append("")
    checklist = []
    for s in world.sections:
        checklist.append(f"{s.label} - {len(s.cards)} cards")
        if s.finishes:
            checklist.append(_finishes(s, "{label} /{run}", "; "))
        checklist += [f"{c.number} {c.name} - {c.team}" for c in s.cards]
    formats = [
        f"{f['format']}: {f['packs_per_box']} packs per box, {f['cards_per_pack']} cards per pack, {f['boxes_per_case']} boxes per case"
        for f in world.formats
    ]
    truth = truth_cards(world, rookies=False)
    truth["parallels"], truth["odds"] = truth_finishes(world), truth_odds(world)
    truth["formats"] = truth_formats(world, price=False)
    texts = {"checklist": "\n".join(checklist), "odds": "\n".join(lines), "formats": "\n".join(formats)}
    return Case("odds by box", texts=texts, truth=truth)


def german_club_list(rng: random.Random) -> Case:
    """A club's list in German: semicolons, the set as a heading row, Auflage and Neuling in columns."""
    world = make_world(rng)
    rows: Cells = [["Nr.", "Name", "Verein", "Neuling"]]
    for s in world.sections:
        rows += [
            [s.label, "", "", ""],
            *[[c.number, c.name, c.team, "ja" if c.rookie else ""] for c in s.cards],
            ["", "", "", ""],
        ]
    data = "\r\n".join(";".join(str(cell) for cell in row) for row in rows).encode("cp1252", "replace")
    truth = truth_cards(world)
    for row in truth["cards"]:
        row["name"] = row["name"].encode("cp1252", "replace").decode("cp1252")
        row["team"] = row["team"].encode("cp1252", "replace").decode("cp1252")
    return Case("german club list", {"liste.csv": data}, truth=truth)


def name_in_brackets(rng: random.Random) -> Case:
    """The club in brackets behind the name, the rookie mark behind that, numbers with a sharp sign."""
    world = make_world(rng)
    lines = []
    for s in world.sections:
        lines += ["", f"* {s.label} *"]
        lines += [f"#{c.number} {c.name} ({c.team}){' *RC*' if c.rookie else ''}" for c in s.cards]
    return Case("name in brackets", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def tabs_from_a_page(rng: random.Random) -> Case:
    """Copied from a page: tabs between the cells, the set as a line of its own, odds of each finish behind it."""
    world = make_world(rng)
    first = world.formats[0]["format"]
    lines = []
    for s in world.sections:
        lines.append(s.label)
        for label, run in s.finishes:
            lines.append(f"{label}\t{'/' + run if run else ''}\t1:{world.odds[(first, s.label, label)]} {first}")
        lines += ["Number\tName\tTeam", *[f"{c.number}\t{c.name}\t{c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    truth["odds"] = [row for row in truth_odds(world) if row["format"] == first and row["parallel"]]
    truth["formats"] = truth_formats(world, price=False)
    formats = "\n".join(
        f"{f['format']}: {f['packs_per_box']} packs of {f['cards_per_pack']}, {f['boxes_per_case']} boxes a case"
        for f in world.formats
    )
    return Case("tabs from a page", texts={"checklist": "\n".join(lines), "formats": formats}, truth=truth)


def sell_sheet_and_lists(rng: random.Random) -> Case:
    """A sell sheet's breakdown first, then the lists: what each box holds, and who is in it."""
    world = make_world(rng, plain_clubs=True)
    f = world.formats[0]
    signed = next(s for s in world.sections if s.kind == "autograph")
    insert = next(s for s in world.sections if s.kind == "insert")
    lines = [f"{world.title} {f['format']} Box", f"{f['packs_per_box']} packs per box, {f['cards_per_pack']} cards per pack",
             "Each box contains, on average:", f"- 2 {signed.label}", f"- 6 {insert.label}", ""]  # fmt: skip
    for s in world.sections:
        lines += [s.label, *[f"{c.number} {c.name}, {c.team}" for c in s.cards], ""]
    truth = truth_cards(world, rookies=False)
    truth["formats"] = [
        {"format": f["format"], "packs_per_box": f["packs_per_box"], "cards_per_pack": f["cards_per_pack"]}
    ]
    truth["odds"] = [
        {"format": f["format"], "section": signed.label, "parallel": "", "rate": "per_box 2"},
        {"format": f["format"], "section": insert.label, "parallel": "", "rate": "per_box 6"},
    ]
    return Case("sell sheet and lists", texts={"checklist": "\n".join(lines)}, truth=truth)


def serial_columns(rng: random.Random) -> Case:
    """A row for each version: number, name, club, set, finish and run, as somebody lists what there is to collect."""
    world = make_world(rng, base=40)
    rows: Cells = [["Set", "#", "Player", "Club", "Version", "Numbered"]]
    for s in world.sections:
        for c in s.cards:
            for label, run in [("Base" if s.kind == "base" else "Regular", ""), *s.finishes]:
                rows.append([s.label, c.number, c.name, c.team, label, f"/{run}" if run else ""])
    truth = truth_cards(world, rookies=False)
    truth["parallels"] = truth_finishes(world)
    return Case("serial columns", {"versions.csv": csv_bytes(rng, rows)}, truth=truth)


MORE = (
    overview_and_sheets, banner_workbook, database_dump, shop_export, headings_with_odds_and_finishes,
    legend_of_prefixes, three_blocks, finish_matrix, odds_by_box, german_club_list, name_in_brackets,
    tabs_from_a_page, sell_sheet_and_lists, serial_columns,
)  # fmt: skip
