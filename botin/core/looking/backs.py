"""What the back of a card says: number, code and name, matched to the checklist; sure only when they agree."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from rapidfuzz.fuzz import ratio

from botin.core.catalog.naming import fold
from botin.core.catalog.product import Card, Product
from botin.core.looking.textlines import TextLine, find_lines

CLEAR = 0.8
"""How sure a number or a code must be read (a choice: the least sure letter)."""
READABLE = 0.45
"""How sure they must be read where all the rest agrees."""
LEGIBLE = 0.4
SHORT = 11.0
"""Widths in heights up to which a line is read first: numbers, names and codes are short."""
ALIKE = 84.0
"""Percent of a name that must be read as it is printed (a choice)."""
MOST_CANDIDATES = 5
_CODE = re.compile(r"[A-Z]{0,4}[-#. ]?\d{3,10}[A-Z]?")
_NUMBERED = re.compile(r"^(?:CARD\s*)?(?:(?:NUMBER|NO|NR|N)(?=[\s.:#°º\d]))?[\s.:#°º]*", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Printed:
    """A line of print as it was read, and how sure each of its letters is (0 to 1)."""

    text: str = ""
    each: tuple[float, ...] = ()

    @property
    def sure(self) -> float:
        """How sure the least sure letter is."""
        return min(self.each, default=0.0)

    def ending(self, size: int) -> float:
        """How sure the last letters are."""
        return min(self.each[-size:], default=0.0)


Read = Callable[[Sequence[NDArray[np.uint8]]], list[Printed]]
"""Reads lines of print."""


@dataclass(frozen=True, slots=True)
class Said:
    """A line as it was read, how tall it is, and how far from the rim (shares of the card)."""

    printed: Printed
    height: float
    rim: float

    @property
    def text(self) -> str:
        """What stands there."""
        return self.printed.text

    @property
    def sure(self) -> float:
        """How sure the least sure letter is."""
        return self.printed.sure


@dataclass(frozen=True, slots=True)
class Back:
    """What the back of a card says.

    Attributes
    ----------
    section, number, parallel : str or None
        The card, when it is sure; None when it is not.
    code : str
        As printed; empty when none was read.
    sure : bool
        Number, name and code agree, and fit one card only.
    candidates : tuple of (section, number, parallel)
        What it may be, the likeliest first.
    """

    section: str | None = None
    number: str | None = None
    parallel: str | None = None
    code: str = ""
    sure: bool = False
    candidates: tuple[tuple[str, str, str], ...] = ()


@dataclass
class Checklist:
    """A product's cards by what a back can say of them."""

    product: Product
    by_number: dict[str, list[Card]] = field(default_factory=dict)
    by_name: dict[str, list[Card]] = field(default_factory=dict)
    codes: dict[str, list[tuple[str, str]]] = field(default_factory=dict)

    @classmethod
    def of(cls, product: Product) -> Checklist:
        """Sort the cards of a product by number and name, and its codes by their digits."""
        made = cls(product)
        for card in product.cards:
            made.by_number.setdefault(plain(card.number), []).append(card)
            for name in card.name.split(";"):
                made.by_name.setdefault(fold(name.strip()), []).append(card)
        for section in product.sections:
            if section.back_code:
                made.codes.setdefault(section.back_code, []).append((section.key, ""))
        for row in product.parallels:
            if row.back_code:
                made.codes.setdefault(row.back_code, []).append((row.section, row.key))
        return made

    def coded(self, section: str) -> bool:
        """Whether backs of a section, or of its finishes, carry a code that is known."""
        return any(of == section for found in self.codes.values() for of, _ in found)


def plain(text: str) -> str:
    """Return a number without what stands about it: ``No. SK-12`` is SK12."""
    return re.sub(r"[^A-Z0-9]", "", _NUMBERED.sub("", text.strip()).upper())


def read_back(card: NDArray[np.uint8], per_mm: float, checklist: Checklist, read: Read) -> Back:
    """Read the back of a straightened card, whichever way up it lies.

    Parameters
    ----------
    card : height × width × 3
        RGB, the card alone.
    per_mm : float
        Pixels a millimetre.
    checklist : Checklist
        The cards it may be.
    read : callable
        Reads lines of print.
    """
    best = Back()
    for turned in _ways_up(card, per_mm, read):
        lines = find_lines(turned, per_mm)
        short = [line for line in lines if line.width <= SHORT * line.height]
        long = [line for line in lines if line.width > SHORT * line.height]
        said: list[Said] = []
        for some in (short, long):
            said += _read_some(turned, some, read)
            found = matched(said, checklist)
            if found.sure:
                return found
        if found.candidates and not best.candidates:
            best = found
    return best


def _ways_up(card: NDArray[np.uint8], per_mm: float, read: Read) -> list[NDArray[np.uint8]]:
    """Return the card the ways it may be printed, the likeliest first: what reads best is upright."""
    height, width = card.shape[:2]
    worth = []
    for turns in (0, 2, 1, 3):
        turned = np.ascontiguousarray(np.rot90(card, turns))
        lines = sorted(find_lines(turned, per_mm), key=lambda line: -line.width / line.height)
        probe = [line for line in lines if 2.5 <= line.width / line.height <= 14][:4]
        said = read([line.cut(turned) for line in probe])
        score = float(sum(one.sure * min(8, len(one.text)) for one in said))
        worth.append((score, turned))
        if turns == 2 and max(one for one, _ in worth) > 12 and height > width:
            break
    ordered = sorted(worth, key=lambda one: -one[0])
    return [turned for score, turned in ordered if score > 0.35 * ordered[0][0]][:2] or [card]


def _read_some(card: NDArray[np.uint8], lines: Sequence[TextLine], read: Read) -> list[Said]:
    height, width = card.shape[:2]
    said = read([line.cut(card) for line in lines])
    return [
        Said(one, line.height / height, _rim(line, width, height))
        for line, one in zip(lines, said, strict=True)
        if one.text and one.sure >= LEGIBLE / 2
    ]


def _rim(line: TextLine, width: int, height: int) -> float:
    return min(line.y / height, 1 - (line.y + line.height) / height, line.x / width)


def matched(lines: Sequence[Said], checklist: Checklist) -> Back:
    """Match what was read to the checklist: sure only when number, name and code fit one card."""
    numbered = _numbered(lines, checklist)
    named = _named(lines, checklist) or _named_apart(lines, numbered)
    codes = _codes_of(lines)
    both = [card for card in named if numbered.get(card, 0.0) >= READABLE]
    ends = {card: _finish_of(card.section, codes, checklist) for card in both}
    ended = [card for card in both if ends[card] is not None]
    plainly = [card for card in both if numbered[card] >= CLEAR and not checklist.coded(card.section)]
    one = ended or plainly
    if len(one) == 1 and (ended or len(both) == 1):
        parallel, code = ends[one[0]] or ("", codes[0].text if codes else "")
        only = ((one[0].section, one[0].number, parallel),)
        return Back(one[0].section, one[0].number, parallel, code, sure=True, candidates=only)
    code = codes[0].text if codes else ""
    return Back(code=code, candidates=_candidates((ended, both, list(named), list(numbered)), ends))


def _codes_of(lines: Sequence[Said]) -> list[Said]:
    """Return what looks like a code, the smallest print nearest to the rim first."""
    found = [line for line in lines if _CODE.fullmatch(line.text.upper().replace(" ", ""))]
    return sorted(found, key=lambda line: line.height + max(0.0, line.rim))


def _finish_of(section: str, codes: Sequence[Said], checklist: Checklist) -> tuple[str, str] | None:
    """Return the finish that the code on a card of a section says, and the code; None without one of its codes.

    A code read less clearly counts where the section's others differ from it in two digits and more. Where only the
    finishes of a section have codes in the table, another clear code is that of the plain card.
    """
    known = {ending: parallel for ending, meant in checklist.codes.items() for of, parallel in meant if of == section}
    for line in codes:
        digits = re.sub(r"\D", "", line.text)
        for ending, parallel in known.items():
            if not digits.endswith(re.sub(r"\D", "", ending)):
                continue
            near = any(_apart_by(ending, other) < 2 for other in checklist.codes if other != ending)
            if line.printed.ending(len(ending) + 1) >= (CLEAR if near else READABLE):
                return parallel, line.text
    own = checklist.product.section_by_key[section].back_code
    clear = [line for line in codes if line.sure >= CLEAR and not _is_known(line, checklist)]
    return ("", clear[0].text) if known and not own and clear else None


def _is_known(line: Said, checklist: Checklist) -> bool:
    digits = re.sub(r"\D", "", line.text)
    return any(digits.endswith(re.sub(r"\D", "", ending)) for ending in checklist.codes)


def _apart_by(one: str, other: str) -> int:
    """Return in how many places two codes differ."""
    return sum(a != b for a, b in zip(one, other, strict=False)) + abs(len(one) - len(other))


def _candidates(
    ranked: Sequence[Sequence[Card]], ends: Mapping[Card, tuple[str, str] | None]
) -> tuple[tuple[str, str, str], ...]:
    made: dict[tuple[str, str, str], None] = {}
    for cards in ranked:
        for card in cards:
            finish = (ends.get(card) or ("", ""))[0]
            made.setdefault((card.section, card.number, finish))
    return tuple(made)[:MOST_CANDIDATES]


def _named(lines: Sequence[Said], checklist: Checklist) -> dict[Card, float]:
    """Return the cards whose name stands there, the best fit first."""
    found: dict[Card, float] = {}
    for line in lines:
        text = fold(line.text)
        if line.sure < LEGIBLE or len(text) < 4:
            continue
        for name, cards in checklist.by_name.items():
            fit = ratio(text, name, score_cutoff=ALIKE)
            if fit:
                found.update({card: max(fit, found.get(card, 0.0)) for card in cards})
    top = max(found.values(), default=0.0)
    return dict(sorted(((card, fit) for card, fit in found.items() if fit >= top - 4), key=lambda one: -one[1]))


def _named_apart(lines: Sequence[Said], numbered: Mapping[Card, float]) -> dict[Card, float]:
    """Return the numbered cards whose name stands there in parts, first and last name in lines of their own."""
    words = [fold(word) for line in lines if line.sure >= LEGIBLE for word in re.split(r"[\s,.]+", line.text)]
    found: dict[Card, float] = {}
    for card in numbered:
        for name in card.name.split(";"):
            parts = [fold(part) for part in name.split()]
            fits = [max((ratio(part, word) for word in words if word), default=0.0) for part in parts]
            if len(parts) > 1 and min(fits) >= ALIKE:
                found[card] = max(min(fits), found.get(card, 0.0))
    return found


def _numbered(lines: Sequence[Said], checklist: Checklist) -> dict[Card, float]:
    """Return the cards whose number stands there alone, with how sure it was read."""
    found: dict[Card, float] = {}
    for line in sorted(lines, key=lambda one: -one.height):
        for card in checklist.by_number.get(plain(line.text), ()):
            found[card] = max(line.sure, found.get(card, 0.0))
    return found
