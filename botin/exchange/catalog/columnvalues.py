"""What the values of a column say it is: numbers that count up, names, few words that repeat, ticks, runs, rates."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby, pairwise

from botin.core.catalog.product import Kind
from botin.exchange.catalog.kinds import is_section_word
from botin.exchange.catalog.runtext import UNNUMBERED, USUAL_RUNS

NUMBER = re.compile(
    r"#?\s{0,3}(?:[A-Za-z]{0,6}[-\s.]?\d{1,5}[A-Za-z]{0,2}|[A-Za-z0-9]{1,6}-[A-Za-z0-9]{1,6})(?:\.0)?"
)
RATE = re.compile(
    r"\d+\s?:\s?[\d.,]+\b.*|(?:1|one)\s+(?:in|per|every|out of|auf|sur|su|op)\b.*\d.*|[\d.,]+\s?%.*"
    r"|1\s?/\s?[\d.,]+ .*|\d[\d.,]*\s+(?:per|a|pro|je|par|por)\s+[^\W\d_]+",
    re.IGNORECASE,
)
_HAS_RATE = re.compile(r"(?<![\d:.])1\s?:\s?\d|\b(?:1|one) in (?:every )?\d", re.IGNORECASE)
"""``Lawn box 1:9, Garden box 1:18``."""
_ONE_OF = re.compile(r"1\s?/\s?(?!1$)[\d.,]+")
"""``1/24``: a serial, or below the name of a box a rate."""
RUN = re.compile(
    r"(?:#\s?'?d?\s*)?(?:\d{1,5}\s?)?/\s?\d{1,6}|(?:#'?d|numbered|limited|limitiert auf|x)\s*(?:to)?\s*\d{1,6}"
    r"|\d{1,6}\s*(?:copies|made|pcs|ex\.?)|\d+(?:\s?\+\s?\d+)+",
    re.IGNORECASE,
)
BOTH = re.compile(r"#?\s?(?:[A-Za-z]{0,6}-?\d{1,4}[a-z]?|[A-Z]{1,6}-[A-Z]{1,6})[\s.:)–-]+[^\W\d_][^\d]*")
"""A number and a name in one cell."""
MARKS = re.compile(
    r"(?:\b(?:RC|S?SP|short[- ]?prints?|rookies?|R|veterans?|vets?|legends?|stars?|retired|commons?)\b[\s,;/+]*)+",
    re.IGNORECASE,
)
SAYS_ROOKIE = re.compile(r"\b(?:RC|R|rookie)\b", re.IGNORECASE)
SAYS_SHORT = re.compile(r"\bS?SP\b|\bshort[- ]?print", re.IGNORECASE)
MONEY = re.compile(r"(?:[€$£¥]|[A-Z]{3})\s?[\d.,]+|[\d.,]+\s?(?:[€$£¥]|[A-Z]{3})|\d{1,6}[.,]\d{2}")
COUNT = re.compile(r"\d{1,6}(?:\.0)?|\d{1,3}\s?[-–]\s?\d{1,3}")
NO = frozenset(("", "no", "n", "0", "false", "nein", "non", "nee", "nej", "-", "–", "—", "ne", "nie", "não", "nao",
                "none", "n/a"))  # fmt: skip
YES = frozenset(
    ("yes", "y", "x", "xx", "rc", "(rc)", "1", "1.0", "true", "rookie", "rookie card", "✓", "✔", "☑", "*", "ja", "j",
     "oui", "o", "sí", "sì", "si", "s", "sim", "tak", "ano", "r", "recrue", "neuling", "novato", "debutant")
)  # fmt: skip
TICKS = frozenset(
    ("x", "xx", "yes", "y", "1", "true", "rc", "rookie", "✓", "✔", "☑", "*", "•", "ja", "j", "oui", "o", "si", "sí",
     "s", "sim", "tak", "ano", "r", "(rc)", "no", "n", "0", "false", "nein", "non", "nee", "-", "–", "—")
)  # fmt: skip
_NAMELIKE = re.compile(r"^\W*[^\W\d_]")


FEW = 30
"""Rows up to which a column of codes may be that of the sections of a product."""


@dataclass(frozen=True, slots=True)
class Profile:
    """Shares of a column's filled cells that look like something, and how they repeat."""

    rows: int
    filled: float
    distinct: float
    changes: float
    steps: float
    numbers: float
    counts: float
    words: float
    several: float
    ticks: float
    rates: float
    rated: float
    ones: float
    runs: float
    usual: float
    unnumbered: float
    money: float
    both: float
    marks: float
    sections: float
    named: float
    kinds: int


def profile(values: Sequence[str]) -> Profile | None:
    """Look at the values of a column, empty ones among them; None when all are empty."""
    given = [value.strip() for value in values]
    cells = [value for value in given if value]
    if not cells:
        return None
    size = len(cells)

    def share(pattern: re.Pattern[str]) -> float:
        return sum(1 for cell in cells if pattern.fullmatch(cell)) / size

    worded = [cell for cell in cells if _is_worded(cell)]
    return Profile(
        rows=len(given),
        filled=size / len(given),
        distinct=len(set(cells)) / size,
        changes=sum(a != b for a, b in pairwise(cells)) / max(size - 1, 1),
        steps=_steps(cells),
        numbers=share(NUMBER),
        counts=share(COUNT),
        words=len(worded) / size,
        several=sum(len(cell.split()) > 1 for cell in worded) / size,
        ticks=sum(cell.casefold() in TICKS for cell in cells) / size,
        rates=share(RATE),
        rated=sum(1 for cell in cells if _HAS_RATE.search(cell)) / size,
        ones=share(_ONE_OF),
        runs=share(RUN),
        usual=sum(cell.removesuffix(".0") in USUAL_RUNS for cell in cells) / size,
        unnumbered=sum(cell.casefold() in UNNUMBERED for cell in cells) / size,
        money=share(MONEY),
        both=share(BOTH),
        marks=share(MARKS),
        sections=sum(is_section_word(cell) for cell in cells) / size,
        named=_named(set(cells)),
        kinds=len(set(cells)),
    )


def _named(words: set[str]) -> float:
    """Return the share of words that are names of kinds and nothing else; there are few such."""
    return sum(map(is_section_word, words)) / len(words) if len(words) <= len(Kind) else 0.0


def is_ticked(text: str) -> bool:
    """Whether a cell of runs says that the finish is there and has none: a tick, “unnumbered”."""
    return text.casefold() in TICKS | UNNUMBERED and not text.isdecimal()


def _is_worded(cell: str) -> bool:
    digits = sum(c.isdigit() for c in cell)
    return bool(_NAMELIKE.match(cell)) and digits * 3 < len(cell) and not (digits and NUMBER.fullmatch(cell))


def _steps(cells: Sequence[str]) -> float:
    """Share of the cells that count one up from the one before; the same number several times is one."""
    if len(cells) < 2:
        return 0.0
    ends = [re.search(r"(\d+)(?:\.0)?[A-Za-z]{0,2}$", cell) for cell in cells]
    numbers = [number for number, _ in groupby(int(found[1]) if found else -1 for found in ends)]
    return sum(b == a + 1 and a >= 0 for a, b in pairwise(numbers)) / max(len(numbers) - 1, 1)


def value_fits(found: Profile) -> dict[str, float]:
    """Return how well the values fit each field, 0 to 1; a field that they rule out has −1."""
    lettered = found.words > 0.5
    small = min(found.rows / 6, 1.0)
    few = found.distinct <= 0.7 and found.kinds > 1
    ticked = found.ticks > 0.9 and found.kinds <= 3
    fits = {
        "number": _as_number(found),
        "name": (0.35 + 0.35 * found.several + 0.3 * found.distinct) if lettered and found.several > 0.3 else 0.0,
        "team": (0.45 + 0.3 * (1 - found.distinct)) * small if lettered and few and found.changes > 0.3 else 0.0,
        "section": _as_section(found) * (1.0 if found.sections else small),
        "rookie": 0.6 if ticked and found.filled < 0.7 else 0.0,
        "run": max(
            0.9 * (found.runs > 0.6), 0.45 * (found.usual > 0.9 and found.steps < 0.2 and found.distinct < 0.5)
        ),
        "odds": 0.95 if max(found.rates, found.rated) > 0.6 else 0.0,
        "list_price": 0.5 if found.money > 0.7 else 0.0,
        "marks": 0.7 if found.marks > 0.9 and found.kinds > 1 else 0.0,
        "card": 0.9 if found.both > 0.7 and found.distinct > 0.7 else 0.0,
    }
    fits.update((field, -1.0) for field in _ruled_out(found))
    return fits


def _as_section(found: Profile) -> float:
    """Words that stay the same over many rows; one word in all of them tells little."""
    if found.words <= 0.5 or (found.changes >= 0.25 and not found.sections):
        return 0.0
    if found.sections and found.kinds > 1 and found.distinct <= 0.7:
        return 0.85
    return 0.1 if found.kinds == 1 else 0.55 + 0.3 * (1 - found.distinct)


def _as_number(found: Profile) -> float:
    if found.numbers < 0.6 or found.filled < 0.5:
        return 0.0
    return min(1.0, 0.35 * found.numbers + 0.4 * min(found.steps * 1.3, 1.0) + 0.25 * found.distinct)


def _ruled_out(found: Profile) -> list[str]:
    """Return the fields that the values of a column rule out."""
    worded, numbered = found.words > 0.5, found.numbers > 0.6
    rules = (
        (found.marks < 0.5, ("marks",)),
        (found.both < 0.4, ("card",)),
        (found.words < 0.4, ("name", "team", "section")),
        (found.words >= 0.4 and found.sections > 0, ("team",)),
        (worded, ("run", "list_price")),
        (worded and found.rated < 0.6, ("odds",)),
        (found.rated > 0.6, ("format", "team", "name", "section")),
        (worded and found.named < 1.0, ("kind",)),
        (found.counts < 0.6, ("packs_per_box", "cards_per_pack", "boxes_per_case", "count")),
        (found.kinds > 8 and found.ticks < 0.5, ("rookie",)),
        (found.rates > 0.6, ("number", "run")),
        # the code on the back is that of a section, the number that of a card
        (numbered and found.distinct > 0.3 and found.rows > FEW, ("back_code",)),
        (numbered and found.distinct > 0.3 and found.rows > FEW and found.usual < 0.5 and found.runs < 0.5, ("run",)),
        (numbered and found.numbers - found.counts > 0.05 and found.runs < 0.5, ("run",)),
        (found.words > 0.7 and found.several > 0.6, ("number",)),
    )
    return [field for holds, fields in rules if holds for field in fields]
