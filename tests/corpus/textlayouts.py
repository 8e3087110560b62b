"""Layouts of text: how checklists, odds and breakdowns stand on pages that people copy from."""

from __future__ import annotations

import random

from tests.corpus.truth import Case, Row
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


def _heading(rng: random.Random, section: WorldSection, *, counted: bool) -> str:
    label = section.label.upper() if counted and rng.random() < 0.3 else section.label
    return rng.choice((f"{label} ({len(section.cards)} cards)", f"{label} - {len(section.cards)} cards",
                       f"{label}: {len(section.cards)} cards")) if counted else rng.choice((f"{label}:", f"# {label}", f"== {label} =="))  # fmt: skip


def _card(style: int, card: WorldCard, rookie: str) -> str:
    mark = f" {rookie}" if card.rookie else ""
    return (
        f"{card.number} {card.name} - {card.team}{mark}",
        f"{card.number}. {card.name}, {card.team}{mark}",
        f"• {card.number} {card.name} – {card.team}{mark}",
        f"#{card.number} {card.name} ({card.team}){mark}",
        f"- {card.number} {card.name} | {card.team}{mark}",
        f"{card.number}\t{card.name}\t{card.team}{mark}",
    )[style]


def checklist(rng: random.Random) -> Case:
    """Headings and card lines in one of the usual manners."""
    world = make_world(rng, plain_clubs=True)
    style, counted = rng.randrange(6), rng.random() < 0.5
    rookie = rng.choice(("RC", "(RC)", "Rookie", "(Rookie)"))
    lines = [world.title, ""] if rng.random() < 0.6 else []
    for section in world.sections:
        lines += [_heading(rng, section, counted=counted), *(_card(style, c, rookie) for c in section.cards), ""]
    return Case("text checklist", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


def club_named_rc(rng: random.Random) -> Case:
    """Clubs whose own name ends in RC among marks of rookies."""
    world = make_world(rng)
    lines = []
    for section in world.sections:
        lines += [f"{section.label} - {len(section.cards)} cards"]
        lines += [f"{c.number} {c.name} - {c.team}{' (RC)' if c.rookie else ''}" for c in section.cards]
    return Case("club named RC", texts={"checklist": "\n".join(lines)}, truth=truth_cards(world))


BOXED = (
    "{format}: {packs_per_box} packs of {cards_per_pack} cards, {boxes_per_case} boxes per case, {list_price}",
    (
        "{format} box – {packs_per_box} packs per box, {cards_per_pack} cards per pack, {boxes_per_case} boxes per "
        "case, EUR {list_price}"
    ),
    (
        "{format}: {cards_per_pack} cards per pack, {packs_per_box} packs per box, {boxes_per_case}-box case "
        "(€{list_price})"
    ),
)


def _formats(rng: random.Random, world: World) -> str:
    style = rng.choice(BOXED)
    return "\n".join(style.format(**fmt) for fmt in world.formats)


def _lines(world: World) -> list[tuple[str, list[tuple[str, str]]]]:
    """Return what has odds, and its rate in each format."""
    made = []
    for s in world.sections:
        for label in [""] * (s.kind != "base") + [label for label, _ in s.finishes]:
            name = f"{s.label} {label}".strip()
            made.append((name, [(f["format"], world.odds[(f["format"], s.label, label)]) for f in world.formats]))
    return made


def _checked(world: World) -> str:
    lines = []
    for section in world.sections:
        lines += [f"{section.label} ({len(section.cards)} cards)"]
        if section.finishes:
            stated = [f"{label} /{run}" if run else label for label, run in section.finishes]
            lines += [f"Parallels: {', '.join(stated)}"]
        lines += [f"{c.number} {c.name} - {c.team}" for c in section.cards] + [""]
    return "\n".join(lines)


def _whole(world: World) -> dict[str, list[Row]]:
    return {**truth_cards(world, rookies=False), "parallels": truth_finishes(world), "odds": truth_odds(world)}


def odds_in_one_line(rng: random.Random) -> Case:
    """Odds of all formats in a line, in one of the usual manners."""
    world = make_world(rng, base=40)
    style = rng.randrange(4)
    lines = []
    for name, rates in _lines(world):
        stated = {
            0: ", ".join(f"1:{rate} {fmt.lower()}" for fmt, rate in rates),
            1: "; ".join(f"{fmt} 1:{rate}" for fmt, rate in rates),
            2: " / ".join(f"{fmt}: 1 in {rate} packs" for fmt, rate in rates),
            3: ", ".join(f"1:{rate} packs ({fmt})" for fmt, rate in rates),
        }[style]
        lines.append(f"{name} {'– ' if style else ''}{stated}")
    texts = {"checklist": _checked(world), "odds": "\n".join(lines), "formats": _formats(rng, world)}
    return Case("odds in one line", texts=texts, truth={**_whole(world), "formats": truth_formats(world)})


def odds_by_format(rng: random.Random) -> Case:
    """Odds under the name of each format."""
    world = make_world(rng, base=40)
    style, head = (
        rng.randrange(4),
        rng.choice(("{} odds:", "{} box:", "{}", "Odds per {} pack", "Each {} box holds:")),
    )
    lines = []
    for fmt in world.formats:
        lines.append(head.format(fmt["format"].lower() if "{} box" in head else fmt["format"]))
        for name, rates in _lines(world):
            rate = dict(rates)[fmt["format"]]
            stated = (f"1:{rate}", f"one in every {rate} packs", f"1 in {rate} packs", f"1 per {rate} packs")[style]
            lines.append(f"{name} {stated}" if style % 2 == 0 else f"{name}: {stated}")
        lines.append("")
    texts = {"checklist": _checked(world), "odds": "\n".join(lines), "formats": _formats(rng, world)}
    return Case("odds by format", texts=texts, truth={**_whole(world), "formats": truth_formats(world)})


def several_in_a_line(rng: random.Random) -> Case:
    """Finishes of a section with their odds in one line, parted by commas; one format."""
    world = make_world(rng, base=40)
    world.formats = world.formats[:1]
    world.odds = {key: rate for key, rate in world.odds.items() if key[0] == "Hobby"}
    lines = []
    for s in world.sections:
        stated = [f"{label} 1:{world.odds[('Hobby', s.label, label)]}" for label, _ in s.finishes]
        if s.kind != "base":
            lines.append(f"{s.label} 1:{world.odds[('Hobby', s.label, '')]}")
        if stated:
            lines.append(f"{s.label} parallels: {', '.join(stated)}")
    texts = {"checklist": _checked(world), "odds": "\n".join(lines), "formats": "Hobby: 24 packs of 8 cards"}
    return Case("several in a line", texts=texts, truth=_whole(world))


def counts_by_unit(rng: random.Random) -> Case:
    """Rates a box or a case, percent and several in so many packs."""
    world = make_world(rng, base=40)
    world.formats = world.formats[:1]
    odds: list[Row] = []
    lines = []
    for s in world.sections:
        for label in [""] * (s.kind != "base") + [label for label, _ in s.finishes]:
            name = f"{s.label} {label}".strip()
            n = rng.choice((2, 3, 4, 6, 12))
            text, rate = rng.choice(
                (
                    (f"1 per {n} boxes", f"packs_per_hit {n * 24}"),
                    (f"1:{n} boxes", f"packs_per_hit {n * 24}"),
                    ("1 per case", "per_case 1"),
                    (f"1:{n} packs", f"packs_per_hit {n}"),
                    ("4 % of packs", "packs_per_hit 25"),
                    ("2 in 36 packs", "packs_per_hit 18"),
                    (f"1/{n * 4} packs", f"packs_per_hit {n * 4}"),
                )
            )
            lines.append(f"{name}: {text}")
            odds.append({"format": "Hobby", "section": s.label, "parallel": label, "rate": rate})
    texts = {"checklist": _checked(world), "odds": "\n".join(lines),
             "formats": "Hobby: 24 packs of 8 cards, 12 boxes per case"}  # fmt: skip
    return Case("counts by unit", texts=texts, truth={**_whole(world), "odds": odds})


RUN_WORDS = ("/{}", "#'d to {}", "numbered to {}", "limited to {}", "{} copies", "#/{}", "(/{})", "print run {}", "serial numbered to {}")  # fmt: skip


def runs_in_words(rng: random.Random) -> Case:
    """Finishes one a line below their section, with runs in the usual words."""
    world = make_world(rng, base=40)
    lines = []
    for section in world.sections:
        lines += [f"{section.label} ({len(section.cards)} cards)"]
        lines += [f"{c.number} {c.name} - {c.team}" for c in section.cards]
        if section.finishes:
            lines += ["Parallels:"]
            style = rng.choice(RUN_WORDS)
            lines += [f"{label} {style.format(run)}" if run else label for label, run in section.finishes]
        lines.append("")
    truth = {**truth_cards(world, rookies=False), "parallels": truth_finishes(world)}
    return Case("runs in words", texts={"checklist": "\n".join(lines)}, truth=truth)


def ruled_short_prints(rng: random.Random) -> Case:
    """Short prints by a rule of numbers with an exception."""
    world = make_world(rng, base=100)
    first = rng.choice((61, 76, 81))
    out = rng.randint(first + 2, 98)
    rule = rng.choice((f"Cards {first}-100 are short prints, except {out}", f"Short prints: {first}-100 except {out}",
                       f"SP {first}–100 (not {out})", f"{first} to 100 are short-printed but not {out}"))  # fmt: skip
    base = world.sections[0]
    lines = [f"{base.label} (100 cards)", *(f"{c.number} {c.name} - {c.team}" for c in base.cards), rule]
    truth = truth_cards(World(world.title, world.sport, [base], [], []), rookies=False)
    short = {str(n) for n in range(first, 101) if n != out}
    label = f"{base.label} short prints"
    truth["sections"].append({"section": label, "kind": "short_print"})
    truth["cards"] = [{**row, "section": label} if row["number"] in short else row for row in truth["cards"]]
    return Case("ruled short prints", texts={"checklist": "\n".join(lines)}, truth=truth)


def breakdown(rng: random.Random) -> Case:
    """What a box promises: over kinds, over finishes, on average and guaranteed."""
    world = make_world(rng, base=40)
    world.formats = world.formats[:1]
    signed = next(s for s in world.sections if s.kind == "autograph")
    insert = next(s for s in world.sections if s.kind == "insert")
    base = world.sections[0]
    one, two = base.finishes[0][0], base.finishes[1][0]
    wanted = [
        ("2 autographs per box", signed.label, "2", "at_least"),
        ("On average 2 autographs per box", signed.label, "2", "average"),
        (f"{insert.label}: 3 per box", insert.label, "3", "at_least"),
        (f"11 {one} and/or {two} parallels per box", f"{base.label}:{one};{base.label}:{two}", "11", "at_least"),
        ("10 inserts per box guaranteed", insert.label, "10", "at_least"),
    ]
    text, covers, count, promise = rng.choice(wanted)
    texts = {"checklist": _checked(world), "odds": text, "formats": "Hobby: 24 packs of 8 cards"}
    truth = {**truth_cards(world, rookies=False), "parallels": truth_finishes(world)}
    if covers == insert.label and count == "3":  # one line: its own count
        truth["odds"] = [{"format": "Hobby", "section": covers, "parallel": "", "rate": "per_box 3"}]
        return Case("breakdown", texts=texts, truth=truth)
    if "insert" in text:
        covers = ";".join(s.label for s in world.sections if s.kind == "insert")
    truth["promises"] = [{"format": "Hobby", "covers": covers, "per": "box", "count": count, "promise": promise}]
    return Case("breakdown", texts=texts, truth=truth)


TEXTS = (checklist, club_named_rc, odds_in_one_line, odds_by_format, several_in_a_line, counts_by_unit, runs_in_words,
         ruled_short_prints, breakdown)  # fmt: skip
