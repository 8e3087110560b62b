"""The truth of a source in the package's own rows, and how much of it a reading got right."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from botin.exchange.catalog.interpret import About, Draft, interpret
from botin.exchange.catalog.readout import read_document
from botin.exchange.catalog.sheets import Sources, add_file, text_sheet

Row = dict[str, str]
Rows = dict[str, list[Row]]
KEYS: dict[str, tuple[str, ...]] = {
    "formats": ("format",),
    "sections": ("section",),
    "cards": ("section", "number"),
    "parallels": ("section", "parallel", "group"),
    "odds": ("format", "section", "parallel", "group"),
    "promises": ("format", "covers", "per"),
}
"""What tells a row of a table from another; labels stand for keys, so that no key has to be guessed."""
FIELDS: dict[str, tuple[str, ...]] = {
    "formats": ("packs_per_box", "cards_per_pack", "boxes_per_case", "list_price", "currency"),
    "sections": ("kind",),
    "cards": ("name", "team", "rookie"),
    "parallels": ("run",),
    "odds": ("rate",),
    "promises": ("count", "promise"),
}
MAIN = {"formats": "format", "sections": "section", "cards": "name", "parallels": "parallel", "odds": "parallel",
        "promises": "count"}  # fmt: skip
"""The word of a row that its line must show."""
_FILLER = {"set", "cards", "card", "checklist", "subset", "parallel", "parallels", "the", "box"}


@dataclass
class Case:
    """Files and texts as somebody has them, and what they say."""

    name: str
    files: dict[str, bytes] = field(default_factory=dict)
    texts: dict[str, str] = field(default_factory=dict)
    truth: Rows = field(default_factory=dict)
    trap: bool = False
    """Whether the point is what must not come out of it."""


@dataclass(frozen=True, slots=True)
class Score:
    """How many rows of a case came out right, and how many wrong ones stood under a ✓."""

    rows: int
    right: int
    wrong: int
    misses: tuple[str, ...] = ()

    def __add__(self, other: Score) -> Score:
        """Return the score of both together."""
        return Score(
            self.rows + other.rows, self.right + other.right, self.wrong + other.wrong, self.misses + other.misses
        )


def plain(text: str) -> str:
    """Return a label without case, accents, punctuation and words that say nothing."""
    bare = unicodedata.normalize("NFKD", text.casefold())
    words = re.findall(r"[a-z0-9]+", "".join(c for c in bare if not unicodedata.combining(c)).replace("ß", "ss"))
    return " ".join(word for word in words if word not in _FILLER) or " ".join(words)


def _number(text: str) -> str:
    bare = text.replace(",", "").strip()
    try:
        return str(Fraction(bare))
    except (ValueError, ZeroDivisionError):
        return text.strip()


def draft_of(case: Case) -> Draft:
    """Read a case as ``botin read`` does, as far as a draft."""
    sources = Sources()
    for name, data in case.files.items():
        add_file(sources, name, data)
    for name, text in case.texts.items():
        sources.add(text_sheet(name, text))
    return interpret(sources, About())


def read_case(case: Case) -> dict[str, Any]:
    """Return what ``botin read`` answers."""
    return read_document(draft_of(case))


def told(document: Mapping[str, Any]) -> Rows:
    """Return the rows of a reading with labels in place of keys, in the shape of a truth."""
    made: Rows = {name: [dict(row) for row in document["product"][name]] for name in KEYS}
    sections = {row["section"]: row["label"] for row in made["sections"]}
    formats = {row["format"]: row["label"] for row in made["formats"]}
    finishes = {(row["section"], row["parallel"]): row["label"] for row in made["parallels"]}
    sizes = {row["format"]: (row["packs_per_box"], row["boxes_per_case"]) for row in made["formats"]}
    for row in made["odds"]:
        row["rate"] = _rate(row)
        row["packs"], row["boxes"] = sizes.get(row["format"], ("", ""))
    for name in ("odds", "parallels"):
        for row in made[name]:
            if row["parallel"]:
                row["parallel"] = finishes.get((row["section"], row["parallel"]), row["parallel"])
    for rows in made.values():
        for row in rows:
            if "section" in row:
                row["section"] = sections.get(row["section"], row["section"])
            if "format" in row:
                row["format"] = formats.get(row["format"], row["format"])
    for row in made["promises"]:
        row["covers"] = _covers(row["covers"], made, document["product"])
    return made


def _rate(row: Row) -> str:
    name = next((name for name in ("packs_per_hit", "per_box", "per_case", "per_pack") if row.get(name)), "")
    return f"{name} {_number(row[name].removeprefix('1:'))}" if name else ""


def _covers(text: str, made: Rows, product: Mapping[str, Any]) -> str:
    """Return what a promise covers line by line, whatever word stands for them."""
    kinds = {row["section"]: row["kind"] for row in product["sections"]}
    labels = {row["section"]: row["label"] for row in product["sections"]}
    rows = list(zip(product["parallels"], made["parallels"], strict=True))
    found = []
    for part in filter(None, text.split(";")):
        section, colon, _ = part.partition(":")
        kind = {"inserts": "insert"}.get(part, part.removeprefix("kind=") if part.startswith("kind=") else "")
        if kind:
            found += [labels[key] for key, value in kinds.items() if value == kind]
        elif part in ("numbered", "parallels"):
            wanted = [row for raw, row in rows if raw["parallel"] and (part == "parallels" or raw["run"])]
            found += [f"{row['section']}:{row['parallel']}" for row in wanted]
        elif colon:
            found += [
                f"{row['section']}:{row['parallel']}"
                for raw, row in rows
                if f"{raw['section']}:{raw['parallel']}" == part
            ]
        else:
            found.append(labels.get(section, section))
    return ";".join(found)


def _key(table: str, row: Row) -> tuple[str, ...]:
    return tuple(
        ";".join(sorted(plain(part) for part in row.get(name, "").split(";")))
        if name == "covers"
        else plain(row.get(name, ""))
        for name in KEYS[table]
    )


def _same(table: str, one: Row, other: Row) -> bool:
    return all(_alike(table, name, one, other) for name in FIELDS[table] if name in one)


def _alike(table: str, name: str, one: Row, other: Row) -> bool:
    if name == "rate" and one[name] != other[name]:
        first, second = _a_pack(one[name], other), _a_pack(other[name], other)
        return first > 0 and abs(first - second) < 1e-3 * first
    return _value(table, name, one) == _value(table, name, other)


def _a_pack(rate: str, row: Row) -> float:
    """Return a rate as cards a pack, so that one in 48 packs is half a card in a box of 24."""
    column, _, text = rate.partition(" ")
    try:
        packs, boxes, value = float(row.get("packs") or 0), float(row.get("boxes") or 0), float(Fraction(text))
    except ValueError:
        return 0.0
    sizes = {"per_pack": 1.0, "per_box": packs, "per_case": packs * boxes}
    if column == "packs_per_hit":
        return 1 / value if value else 0.0
    return value / sizes[column] if sizes.get(column) else 0.0


def _value(table: str, name: str, row: Row) -> str:
    text = row.get(name, "")
    if table == "cards":
        return " ".join(text.split())
    if name in ("kind", "promise", "currency", "rate"):
        return text
    return _number(text)


def score(case: Case, document: Mapping[str, Any]) -> Score:
    """Compare a reading with the truth.

    A row is right when it is there with all its fields. One that is wrong or not in the truth counts against the
    reader when its line is marked understood; so does a row of the truth that is missing while no line that shows it
    is marked guessed or unread.
    """
    got = told(document)
    status = {(line["source"], line["line"]): line["status"] for line in document["lines"]}
    open_lines = [line["text"] for line in document["lines"] if line["status"] != "understood"]
    total = Score(0, 0, 0)
    for table in case.truth if not case.trap else KEYS:
        total += _table(table, case.truth.get(table, []), got[table], status, open_lines)
    return total


def _table(
    table: str, truth: list[Row], rows: list[Row], status: Mapping[tuple[str, int], str], open_lines: Iterable[str]
) -> Score:
    have: dict[tuple[str, ...], Row] = {}
    misses: list[str] = []
    wrong = 0
    twice = Counter(_key(table, row) for row in rows)
    for row in rows:
        have.setdefault(_key(table, row), row)
    wanted = {_key(table, row): row for row in truth}
    right = sum(key in have and _same(table, row, have[key]) for key, row in wanted.items())
    shown = [line.casefold() for line in open_lines]
    for key, row in wanted.items():
        found = have.get(key)
        if found is not None and _same(table, row, found):
            continue
        sure = _sure(found, status) if found is not None else not _is_shown(table, row, shown)
        wrong += sure
        misses.append(f"{'✓' if sure else '≈'} {table} {'as' if found else 'lost'} {key}: {_brief(found or row)}")
    for key, row in have.items():
        if (key not in wanted or twice[key] > 1) and _sure(row, status):
            wrong += 1
            misses.append(f"✓ {table} invented {key}: {_brief(row)}")
    return Score(len(wanted), right, wrong, tuple(misses))


def _is_shown(table: str, row: Row, lines: list[str]) -> bool:
    words = [row.get(MAIN[table]) or row.get("section", "")] + [row.get("number", "")] * (table == "cards")
    wanted = [re.compile(rf"(?<![\w-]){re.escape(word.casefold())}(?![\w-])") for word in words]
    return any(all(word.search(line) for word in wanted) for line in lines)


def _sure(row: Mapping[str, Any], status: Mapping[tuple[str, int], str]) -> bool:
    place = row.get("from")
    return place is None or status.get((place[0], place[1])) == "understood"


def _brief(row: Mapping[str, Any]) -> str:
    return " | ".join(f"{name}={value}" for name, value in row.items() if value and name != "label")[:160]
