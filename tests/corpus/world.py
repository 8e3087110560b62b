"""Invented products for layouts to be made of: sports, people, clubs, finishes, odds, all from a seed."""

from __future__ import annotations

import random
from dataclasses import dataclass, field

FIRST = (
    "Orla", "Tamsin", "Jorik", "Élise", "Björn", "Ngaio", "Xavier", "Łucja", "Mattéo", "Sanne", "Íris", "Dov", "Pia",
    "Koa", "Ruairí", "Zofia", "Anders", "Mai-Lin", "Teodor", "Vesna", "Callum", "Inés", "Håkon", "Brita", "Noor",
)  # fmt: skip
LAST = (
    "Thorsby", "van der Meer", "O’Hallow", "Castellane", "Ångström", "Price-Dunn", "Kowalik", "de la Fosse", "Munro",
    "Åkerlund", "Fenwick", "Hargreave", "Straub", "Quill", "Tamaki", "Oyelaran", "Lindqvist", "Ferro", "Bright",
    "St. Clair", "Mc Adden", "Rudaki", "Ives", "Noakes", "Zelenko", "D’Arcy", "Worth", "Young", "Base", "Gold",
)  # fmt: skip
PLACES = (
    "Harrow Bay", "Kestrel Quay", "Nordmark", "St. Orm", "Villa Serena", "Port Calder", "Eastmere", "Ostrava Hill",
    "Lower Fenn", "Grønfjord", "Mill Cross", "Tarn", "Sable Point", "Weststrand", "High Moor",
)  # fmt: skip
ENDINGS = ("Wheelers", "RC", "Sprinters", "1904", "& District", "Rovers", "Club", "CC", "Flyers", "")
SPORTS = ("rower", "kite pilot", "curler", "falconer", "velodrome rider", "fencer", "lumber climber")
LEAGUES = ("Meridian Track League", "Northern Oar League", "Kite Masters", "Stone & Broom Tour", "Lure Circuit")
FINISHES = ("Copper", "Slate", "Frost", "Amber", "Gold", "Rainbow", "Sunset", "Matte", "Verdigris", "Black", "Opal",
            "Red Ice", "Blue Wave", "Green Dot")  # fmt: skip
INSERTS = ("Night Sprints", "Wind Riders", "Quick Starts", "Home Straight", "Top of the Hill", "Street Legends",
           "First Bell", "Long Way Round")  # fmt: skip
SIGNED = ("Signed Sprints", "Trackside Autographs", "Ink of the Year", "Rookie Signatures")
RELICS = ("Worn Jersey Relics", "Boathouse Relics", "Saddle Patches")


@dataclass(frozen=True)
class WorldCard:
    """A card as the truth has it."""

    number: str
    name: str
    team: str
    rookie: bool = False
    short: bool = False


@dataclass
class WorldSection:
    """A section with its cards, finishes (label, run) and code before its numbers."""

    label: str
    kind: str
    cards: list[WorldCard]
    finishes: list[tuple[str, str]] = field(default_factory=list)
    code: str = ""


@dataclass
class World:
    """A product."""

    title: str
    sport: str
    sections: list[WorldSection]
    formats: list[dict[str, str]]
    clubs: list[str]
    odds: dict[tuple[str, str, str], str] = field(default_factory=dict)
    """Packs per hit by (format label, section label, finish label)."""


def make_world(rng: random.Random, *, base: int = 0, plain_clubs: bool = False) -> World:
    """Make a product; ``plain_clubs`` leaves out the clubs whose name ends like a rookie mark."""
    endings = [word for word in ENDINGS if word != "RC"] if plain_clubs else list(ENDINGS)
    clubs = [f"{place} {rng.choice(endings)}".strip() for place in rng.sample(PLACES, rng.randint(6, 12))]
    everybody = [f"{first} {last}" for first in FIRST for last in LAST]
    people = {name: rng.choice(clubs) for name in rng.sample(everybody, 240)}
    league = rng.choice(LEAGUES)
    size = base or rng.choice((40, 60, 100, 150, 200))
    sections = [_base(rng, people, size)]
    labels = rng.sample(INSERTS, rng.randint(1, 3))
    sections += [_some(rng, people, label, "insert", rng.randint(8, 25)) for label in labels]
    sections.append(_some(rng, people, rng.choice(SIGNED), "autograph", rng.randint(6, 20)))
    if rng.random() < 0.6:
        sections.append(_some(rng, people, rng.choice(RELICS), "relic", rng.randint(5, 15)))
    for section in sections:
        names = rng.sample(FINISHES, rng.randint(3, 7) if section.kind == "base" else rng.randint(0, 3))
        runs = sorted(rng.sample((499, 299, 250, 199, 150, 99, 75, 50, 25, 10, 5, 1), len(names)), reverse=True)
        section.finishes = [(name, str(run) if run < 400 else "") for name, run in zip(names, runs, strict=True)]
    world = World(f"2026 {league} {rng.choice(('Premier', 'Grand Tour', 'First Light'))}", rng.choice(SPORTS),
                  sections, _formats(rng), clubs)  # fmt: skip
    _rate(rng, world)
    return world


def _base(rng: random.Random, people: dict[str, str], size: int) -> WorldSection:
    names = list(people)[:size]
    cards = [WorldCard(str(n), name, people[name], rng.random() < 0.15) for n, name in enumerate(names, 1)]
    return WorldSection(rng.choice(("Base", "Base Set", "Base Cards")), "base", cards)


def _some(rng: random.Random, people: dict[str, str], label: str, kind: str, size: int) -> WorldSection:
    code = "".join(word[0] for word in label.upper().split()) if rng.random() < 0.7 else ""
    names = rng.sample(list(people), size)
    if code and rng.random() < 0.3:
        marks: dict[str, str] = {}
        for name in names:
            letters = "".join(word[0] for word in name.replace("-", " ").split()).upper()
            letters = "".join(c for c in letters if c.isascii() and c.isalpha()) or "X"
            while letters in marks:
                letters += "B"
            marks[letters] = name
        numbered = [(f"{code}-{letters}", name) for letters, name in marks.items()]
    else:
        numbered = [(f"{code}-{n}" if code else str(n), name) for n, name in enumerate(names, 1)]
    cards = [WorldCard(number, name, people[name], rng.random() < 0.1) for number, name in numbered]
    return WorldSection(label, kind, cards, code=code)


def _formats(rng: random.Random) -> list[dict[str, str]]:
    known = [
        ("Hobby", "24", "8", "12", "118.00"), ("Jumbo", "10", "30", "6", "219.95"), ("Blaster", "7", "6", "40", "29.99"),
        ("Hanger", "1", "35", "64", "14.99"),
    ]  # fmt: skip
    names = ("format", "packs_per_box", "cards_per_pack", "boxes_per_case", "list_price")
    chosen = [known[0], *rng.sample(known[1:], rng.randint(0, 2))]
    return [dict(zip(names, row, strict=True)) for row in chosen]


def _rate(rng: random.Random, world: World) -> None:
    """Print odds for whatever is scarce, longer in smaller formats."""
    for section in world.sections:
        lines = [""] * (section.kind != "base") + [label for label, _ in section.finishes]
        for label in lines:
            hobby = rng.choice((4, 6, 8, 12, 18, 24, 29, 48, 96, 124, 288, 1473))
            for place, fmt in enumerate(world.formats):
                rate = hobby * (1, 1.5, 2)[place]
                world.odds[(fmt["format"], section.label, label)] = f"{rate:g}"


def truth_cards(world: World, *, rookies: bool = True) -> dict[str, list[dict[str, str]]]:
    """Return sections and cards as the truth has them."""
    return {
        "sections": [{"section": s.label, "kind": s.kind} for s in world.sections],
        "cards": [
            {
                "section": s.label, "number": c.number, "name": c.name, "team": c.team,
                "rookie": "yes" if c.rookie and rookies else "",
            }
            for s in world.sections
            for c in s.cards
        ],
    }  # fmt: skip


def truth_finishes(world: World) -> list[dict[str, str]]:
    """Return the finishes as the truth has them."""
    return [{"section": s.label, "parallel": label, "run": run} for s in world.sections for label, run in s.finishes]


def truth_odds(world: World) -> list[dict[str, str]]:
    """Return the odds as the truth has them."""
    return [
        {"format": fmt, "section": section, "parallel": label, "rate": f"packs_per_hit {rate_text(rate)}"}
        for (fmt, section, label), rate in world.odds.items()
    ]


def rate_text(rate: str) -> str:
    """Return a rate as a fraction, as the score compares them."""
    from fractions import Fraction

    return str(Fraction(rate))


def truth_formats(world: World, *, price: bool = True, case: bool = True) -> list[dict[str, str]]:
    """Return the formats as the truth has them; what a source does not state is not asked."""
    left = set() if price else {"list_price"}
    left |= {"boxes_per_case"} if not case else set()
    return [{name: value for name, value in fmt.items() if name not in left} for fmt in world.formats]
