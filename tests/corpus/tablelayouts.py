"""Layouts of tables: how people lay out checklists, finishes, odds and formats in CSV files and workbooks."""

from __future__ import annotations

import csv
import io
import random
from collections.abc import Sequence

import openpyxl

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

Cells = list[list[object]]
HEADS: dict[str, dict[str, tuple[str, ...]]] = {
    "en": {
        "number": ("Card #", "No.", "Card Number", "#", "Nr"), "name": ("Player", "Name", "Athlete", "Subject"),
        "team": ("Team", "Club", "Crew / Club", "Squad"), "section": ("Set", "Insert set", "Which set", "Subset"),
        "rookie": ("RC", "Rookie?", "Rookie Card", "RC?"), "run": ("Print run", "Numbered to", "#'d", "Run"),
        "parallel": ("Parallel", "Finish", "Colour", "Parallel name"), "format": ("Format", "Box type", "Product type"),
        "odds": ("Odds", "Odds 1:x", "Pack odds", "Stated odds"), "packs": ("Packs per box", "Packs/Box", "Packs"),
        "cards": ("Cards per pack", "Cards/Pack", "Cards in a pack"), "case": ("Boxes per case", "Boxes/Case", "Case"),
        "price": ("Price", "Box price", "SRP", "List price"),
    },
    "de": {
        "number": ("Nr.", "Kartennummer", "Nummer"), "name": ("Fahrer", "Spieler", "Name"),
        "team": ("Verein", "Mannschaft", "Klub"), "section": ("Serie", "Satz", "Kategorie"),
        "rookie": ("Neuling", "Rookie"), "run": ("Auflage", "limitiert auf"), "parallel": ("Parallele", "Farbe"),
        "format": ("Format", "Boxart"), "odds": ("Quote", "Chance"), "packs": ("Päckchen pro Box", "Packungen je Box"),
        "cards": ("Karten pro Päckchen", "Karten je Packung"), "case": ("Boxen pro Karton",), "price": ("Preis",),
    },
    "fr": {
        "number": ("N°", "Numéro"), "name": ("Joueur", "Nom", "Athlète"), "team": ("Équipe", "Club"),
        "section": ("Série", "Ensemble"), "rookie": ("Recrue", "Débutant"), "run": ("Tirage", "Numérotée à"),
        "parallel": ("Parallèle", "Couleur"), "format": ("Format",), "odds": ("Cote", "Ratio"),
        "packs": ("Paquets par boîte",), "cards": ("Cartes par paquet",), "case": ("Boîtes par caisse",),
        "price": ("Prix",),
    },
    "es": {
        "number": ("Número", "Núm."), "name": ("Jugador", "Nombre"), "team": ("Equipo", "Club"),
        "section": ("Serie", "Colección"), "rookie": ("Novato", "Debutante"), "run": ("Tirada", "Numerada a"),
        "parallel": ("Paralela", "Color"), "format": ("Formato",), "odds": ("Probabilidad",),
        "packs": ("Sobres por caja",), "cards": ("Cartas por sobre",), "case": ("Cajas por cartón",),
        "price": ("Precio",),
    },
    "nl": {
        "number": ("Nummer", "Kaartnr"), "name": ("Speler", "Naam"), "team": ("Ploeg", "Club"),
        "section": ("Serie", "Reeks"), "rookie": ("Debutant", "Nieuweling"), "run": ("Oplage",),
        "parallel": ("Variant", "Kleur"), "format": ("Formaat", "Doos"), "odds": ("Kans",),
        "packs": ("Pakjes per doos",), "cards": ("Kaarten per pakje",), "case": ("Dozen per krat",), "price": ("Prijs",),
    },
}  # fmt: skip
YES = {
    "en": ("yes", "x", "RC", "Y", "1"),
    "de": ("ja", "x"),
    "fr": ("oui", "x"),
    "es": ("sí", "x"),
    "nl": ("ja", "x"),
}
EXTRA = (("Owned?", ("", "1", "2")), ("Binder page", ("3", "4", "12")), ("Condition", ("", "NM")),
         ("Seen on", ("", "2026-03-02")), ("Paid", ("", "0.50", "1.25")))  # fmt: skip


def word(rng: random.Random, tongue: str, name: str) -> str:
    """Return what a column is headed with."""
    return rng.choice(HEADS[tongue][name])


def csv_bytes(rng: random.Random, rows: Cells) -> bytes:
    """Write rows as CSV with some mark between the cells, in some code page."""
    out = io.StringIO(newline="")
    mark = rng.choice((",", ";", "\t", ",", ";"))
    csv.writer(out, delimiter=mark, lineterminator=rng.choice(("\r\n", "\n"))).writerows(rows)
    return out.getvalue().encode(rng.choice(("utf-8", "utf-8-sig", "utf-8")))


def xlsx_bytes(sheets: Sequence[tuple[str, Cells]]) -> bytes:
    """Write sheets as a workbook, numbers as numbers."""
    book = openpyxl.Workbook()
    book.remove(book.active)
    for name, rows in sheets:
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append([_typed(cell) for cell in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _typed(cell: object) -> object:
    text = str(cell)
    return int(text) if text.isdecimal() and len(text) < 9 and not text.startswith("0") else cell


def shuffled(rng: random.Random, names: Sequence[str], rows: Cells) -> Cells:
    """Put the columns in some order."""
    order = rng.sample(range(len(names)), len(names))
    return [[row[place] for place in order] for row in [list(names), *rows]]


def _extra(rng: random.Random, heads: list[str], rows: Cells) -> None:
    """Add columns that are the collector's own."""
    for head, values in rng.sample(EXTRA, rng.randint(0, 2)):
        heads.append(head)
        for row in rows:
            row.append(rng.choice(values))


def _mark(rng: random.Random, tongue: str, card: WorldCard, yes: str) -> str:
    return yes if card.rookie else rng.choice(("", "")) if tongue else ""


def one_table(rng: random.Random) -> Case:
    """A CSV with the section in a column, under headings of some language, columns in any order."""
    world, tongue = make_world(rng), rng.choice(list(HEADS))
    yes = rng.choice(YES[tongue])
    heads = [word(rng, tongue, name) for name in ("section", "number", "name", "team", "rookie")]
    rows: Cells = [
        [s.label, c.number, c.name, c.team, _mark(rng, tongue, c, yes)] for s in world.sections for c in s.cards
    ]
    _extra(rng, heads, rows)
    data = csv_bytes(rng, shuffled(rng, heads, rows))
    return Case("one table", {"checklist.csv": data}, truth=truth_cards(world))


def odd_heads(rng: random.Random) -> Case:
    """A CSV whose name column is headed by a word of the sport, and others by phrases."""
    world = make_world(rng)
    person = rng.choice(("Rower", "Pilot", "Thrower", "Sledder", "Handler", "Who is on it"))
    heads = [rng.choice(("Which set", "Part of")), rng.choice(("Card", "Card no")), person,
             rng.choice(("Crew / Club", "Rides for", "Home club")), rng.choice(("Rookie?", "First year?"))]  # fmt: skip
    rows: Cells = [
        [s.label, c.number, c.name, c.team, "x" if c.rookie else ""] for s in world.sections for c in s.cards
    ]
    return Case("odd heads", {"list.csv": csv_bytes(rng, shuffled(rng, heads, rows))}, truth=truth_cards(world))


def no_heads(rng: random.Random) -> Case:
    """A CSV without any heading."""
    world = make_world(rng)
    rows: Cells = [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    order = rng.choice(((0, 1, 2, 3), (1, 2, 3, 0), (1, 0, 2, 3)))
    data = csv_bytes(rng, [[row[place] for place in order] for row in rows])
    return Case("no heads", {"export.csv": data}, truth=truth_cards(world, rookies=False))


def headings_inside(rng: random.Random) -> Case:
    """A CSV with the sections as headings between the cards, some with their count, and blank rows."""
    world, tongue = make_world(rng, plain_clubs=True), rng.choice(("en", "de", "fr"))
    heads = [word(rng, tongue, name) for name in ("number", "name", "team")]
    rows: Cells = [[world.title], []] if rng.random() < 0.5 else []
    counted = rng.random() < 0.5
    again = rng.random() < 0.5
    if not again:
        rows.append(list(heads))
    for section in world.sections:
        size = f" ({len(section.cards)} cards)" if counted else ""
        rows += [[], [f"{section.label}{size}"]]
        if again:
            rows.append(list(heads))
        rows += [[c.number, c.name + (" RC" if c.rookie else ""), c.team] for c in section.cards]
    return Case("headings inside", {"checklist.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def side_by_side(rng: random.Random) -> Case:
    """Sections beside one another, each under its name and its own headings."""
    world = make_world(rng, base=40)
    heads = ["#", "Player", "Club"]
    gap = rng.choice((0, 1))
    top, middle = [], []
    for section in world.sections:
        top += [section.label, "", "", *([""] * gap)]
        middle += [*heads, *([""] * gap)]
    rows: Cells = [top, middle]
    for place in range(max(len(s.cards) for s in world.sections)):
        row: list[object] = []
        for section in world.sections:
            c = section.cards[place] if place < len(section.cards) else None
            row += [c.number, c.name, c.team] if c else ["", "", ""]
            row += [""] * gap
        rows.append(row)
    truth = truth_cards(world, rookies=False)
    if rng.random() < 0.5:
        return Case("side by side", {"board.csv": csv_bytes(rng, rows)}, truth=truth)
    return Case("side by side", {"board.xlsx": xlsx_bytes([("Checklist", rows)])}, truth=truth)


def row_for_each_finish(rng: random.Random) -> Case:
    """A row for every card in every finish, with the run beside."""
    world = make_world(rng, base=40)
    heads = ["Set", "Card", "Player", "Club", rng.choice(("Parallel", "Version", "Finish")), "Print run"]
    rows: Cells = []
    for s in world.sections:
        for c in s.cards:
            rows.append([s.label, c.number, c.name, c.team, rng.choice(("", "Base", "")), ""])
            rows += [[s.label, c.number, c.name, c.team, label, run] for label, run in s.finishes]
    truth = {**truth_cards(world, rookies=False), "parallels": truth_finishes(world)}
    return Case("row for each finish", {"every.csv": csv_bytes(rng, [list(heads), *rows])}, truth=truth)


def totals_and_notes(rng: random.Random) -> Case:
    """A CSV with a title, a note above the headings, subtotals between and a total below."""
    world = make_world(rng, plain_clubs=True)
    rows: Cells = [[world.title], ["Checklist may change without notice"], [], ["Set", "No", "Name", "Club", "RC"]]
    for s in world.sections:
        rows += [[s.label, c.number, c.name, c.team, "RC" if c.rookie else ""] for c in s.cards]
        rows.append(["Subtotal", str(len(s.cards)), "", "", ""])
    rows.append(["Total", str(sum(len(s.cards) for s in world.sections)), "", "", ""])
    return Case("totals and notes", {"mine.csv": csv_bytes(rng, rows)}, truth=truth_cards(world))


def _grid(world: World, heads: str) -> Cells:
    """Odds as a grid: rows are lines, columns formats."""
    rows: Cells = [[heads, *(fmt["format"] for fmt in world.formats)]]
    for s in world.sections:
        for label in [""] * (s.kind != "base") + [label for label, _ in s.finishes]:
            name = f"{s.label} {label}".strip()
            rates = [world.odds[(fmt["format"], s.label, label)] for fmt in world.formats]
            rows.append([name, *(f"1:{rate}" for rate in rates)])
    return rows


def _formats(rng: random.Random, world: World, tongue: str) -> Cells:
    names = ("format", "packs", "cards", "case", "price")
    keys = ("format", "packs_per_box", "cards_per_pack", "boxes_per_case", "list_price")
    return [[word(rng, tongue, name) for name in names], *([fmt[key] for key in keys] for fmt in world.formats)]


def _finishes(rng: random.Random, world: World, tongue: str) -> Cells:
    heads: list[object] = [word(rng, tongue, name) for name in ("section", "parallel", "run")]
    return [heads, *([s.label, label, run] for s in world.sections for label, run in s.finishes)]


def _cards(rng: random.Random, section: WorldSection, tongue: str, yes: str) -> Cells:
    heads: list[object] = [word(rng, tongue, name) for name in ("number", "name", "team", "rookie")]
    return [heads, *([c.number, c.name, c.team, yes if c.rookie else ""] for c in section.cards)]


def sheet_each(rng: random.Random) -> Case:
    """A workbook with a sheet for each section, and sheets of finishes, formats and odds."""
    world, tongue = make_world(rng), rng.choice(("en", "en", "de", "fr"))
    yes = rng.choice(YES[tongue])
    sheets = [(s.label, _cards(rng, s, tongue, yes)) for s in world.sections]
    names = {"en": ("Parallels", "Formats", "Odds"), "de": ("Parallelen", "Formate", "Quoten"),
             "fr": ("Parallèles", "Formats", "Cotes")}[tongue]  # fmt: skip
    sheets.append((names[0], _finishes(rng, world, tongue)))
    sheets.append((names[1], _formats(rng, world, tongue)))
    sheets.append((names[2], _grid(world, rng.choice(("Insert", "Card type", "")))))
    truth = {
        **truth_cards(world), "parallels": truth_finishes(world), "formats": truth_formats(world),
        "odds": truth_odds(world),
    }  # fmt: skip
    return Case("sheet each", {"product.xlsx": xlsx_bytes(sheets)}, truth=truth)


def odds_list(rng: random.Random) -> Case:
    """A workbook with one checklist, and a long list of odds: section, finish, format, odds."""
    world = make_world(rng)
    cards: Cells = [["Subset", "Card No.", "Athlete", "Team"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    plain_number = rng.random() < 0.5
    odds: Cells = [["Subset", "Parallel", "Format", "Odds (packs)" if plain_number else "Odds"]]
    for (fmt, section, label), rate in world.odds.items():
        odds.append([section, label, fmt, rate if plain_number else f"1:{rate}"])
    sheets = [("Checklist", cards), ("Configuration", _formats(rng, world, "en")), ("Pack odds", odds)]
    finishes = [{**row, "run": ""} for row in truth_finishes(world)]
    truth = {
        **truth_cards(world, rookies=False), "odds": truth_odds(world), "formats": truth_formats(world),
        "parallels": finishes,
    }  # fmt: skip
    return Case("odds list", {"season.xlsx": xlsx_bytes(sheets)}, truth=truth)


def formula_total(rng: random.Random) -> Case:
    """A workbook whose sheets end with a counted total, under a title in merged cells."""
    world = make_world(rng)
    sheets: list[tuple[str, Cells]] = []
    for s in world.sections:
        rows: Cells = [[f"{world.title} – {s.label}"], ["No.", "Name", "Team"]]
        rows += [[c.number, c.name, c.team] for c in s.cards]
        rows.append(["Total", f"=COUNTA(B3:B{len(s.cards) + 2})"])
        sheets.append((s.label, rows))
    return Case("formula total", {"book.xlsx": xlsx_bytes(sheets)}, truth=truth_cards(world, rookies=False))


def runs_grid(rng: random.Random) -> Case:
    """Runs as a grid: rows are finishes, columns sections, a run or a tick in the cell."""
    world = make_world(rng)
    cards: Cells = [["Set", "#", "Name", "Club"]]
    cards += [[s.label, c.number, c.name, c.team] for s in world.sections for c in s.cards]
    labels = list(dict.fromkeys(label for s in world.sections for label, _ in s.finishes))
    grid: Cells = [["Parallel", *(s.label for s in world.sections)]]
    for label in labels:
        runs = [dict(s.finishes) for s in world.sections]
        grid.append([label, *((f"/{run[label]}" if run[label] else "x") if label in run else "" for run in runs)])
    truth = {**truth_cards(world, rookies=False), "parallels": truth_finishes(world)}
    files = {"sets.xlsx": xlsx_bytes([("Cards", cards), ("Parallels", grid)])}
    return Case("runs grid", files, truth=truth)


TABLES = (one_table, odd_heads, no_heads, headings_inside, side_by_side, row_for_each_finish, totals_and_notes,
          sheet_each, odds_list, formula_total, runs_grid)  # fmt: skip
