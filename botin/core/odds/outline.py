"""A product at a glance: what each section holds, what is missing in its numbers, and whether a box is full."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Product, Section
from botin.core.errors import BadOddsError
from botin.core.odds.lines import odds_rows
from botin.core.odds.rates import parse_printed

MOST_GAPS = 12


@dataclass(frozen=True, slots=True)
class FinishOutline:
    """A finish of a section: its run, and its rate in each format as printed."""

    label: str
    run: str
    rates: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class SectionOutline:
    """What a section holds.

    Attributes
    ----------
    first, last : Card or None
        In the order they were given.
    gaps : tuple of str
        Numbers that are missing between its lowest and its highest, like ``17`` or ``40–42``.
    twice : tuple of str
        Numbers that stand there more than once.
    rates : tuple of (format, rate)
        Of the plain card.
    """

    section: Section
    count: int
    first: Card | None
    last: Card | None
    gaps: tuple[str, ...]
    twice: tuple[str, ...]
    run: str
    rates: tuple[tuple[str, str], ...]
    finishes: tuple[FinishOutline, ...]


@dataclass(frozen=True, slots=True)
class BoxOutline:
    """How full a box is by its odds: cards in its packs, those of lines with odds, what is left for the base set."""

    fmt: Format
    cards: int
    rated: float
    unprinted: int

    @property
    def rest(self) -> float:
        """Cards that are left for the base set."""
        return self.cards - self.rated


def outline(product: Product) -> tuple[SectionOutline, ...]:
    """Return what each section holds, in their order."""
    return tuple(_section(product, section) for section in product.sections)


def _section(product: Product, section: Section) -> SectionOutline:
    cards = [card for card in product.cards if card.section == section.key]
    numbers = [card.number for card in cards]
    rows = product.parallels_by_section.get(section.key, ())
    rates = _rates(product, section.key)
    return SectionOutline(
        section=section,
        count=len(cards),
        first=cards[0] if cards else None,
        last=cards[-1] if cards else None,
        gaps=gaps_of(numbers),
        twice=tuple(number for number, count in Counter(numbers).items() if count > 1)[:MOST_GAPS],
        run=next((row.run_text for row in rows if not row.key and not row.group), ""),
        rates=rates.get("", ()),
        finishes=tuple(FinishOutline(row.label, row.run_text, rates.get(row.key, ())) for row in rows if row.key),
    )


def _rates(product: Product, section: str) -> dict[str, tuple[tuple[str, str], ...]]:
    """Return the rates of a section as printed, by finish."""
    found: dict[str, list[tuple[str, str]]] = {}
    for row in product.odds:
        if row.section == section:
            words = _words(row)
            found.setdefault(row.parallel, []).append((row.format, words))
    return {parallel: tuple(rates) for parallel, rates in found.items()}


def _words(row: OddsRow) -> str:
    """Return a rate as printed."""
    if row.packs_per_hit:
        return f"1:{row.packs_per_hit.removeprefix('1:')}"
    counts = ((row.per_box, "box"), (row.per_case, "case"), (row.per_pack, "pack"))
    return next((f"{rate} a {per}" for rate, per in counts if rate), "not printed")


def gaps_of(numbers: Sequence[str]) -> tuple[str, ...]:
    """Return the numbers that are missing between the lowest and the highest of those with one prefix.

    Examples
    --------
    >>> gaps_of(["1", "2", "5", "7"])
    ('3–4', '6')
    """
    found = [re.fullmatch(r"(\D*?)(\d{1,5})", number) for number in numbers]
    prefixes = {match[1] for match in found if match}
    if None in found or len(prefixes) != 1:
        return ()
    prefix = prefixes.pop()
    have = sorted({int(match[2]) for match in found if match})
    holes = [(a + 1, b - 1) for a, b in pairwise(have) if b > a + 1]
    words = [f"{prefix}{a}" if a == b else f"{prefix}{a}–{b}" for a, b in holes]
    return (*words[:MOST_GAPS], f"and {len(words) - MOST_GAPS} more") if len(words) > MOST_GAPS else tuple(words)


def boxes(product: Product) -> tuple[BoxOutline, ...]:
    """Return how full each box is by the odds that are stated."""
    return tuple(_box(product, fmt) for fmt in product.formats)


def _box(product: Product, fmt: Format) -> BoxOutline:
    outside = {section.key for section in product.sections if section.kind is Kind.BOX_TOPPER}
    rows = [row for row in odds_rows(product, fmt) if row.section not in outside]
    counts = [_a_box(row, fmt) for row in rows]
    return BoxOutline(fmt, fmt.cards_per_box, sum(filter(None, counts)), counts.count(None))


def _a_box(row: OddsRow, fmt: Format) -> float | None:
    """Return how many cards a box a rate is; None when it is not printed."""
    packs, boxes = fmt.packs_per_box, fmt.boxes_per_case
    sizes = ((row.per_box, 1.0), (row.per_pack, float(packs)), (row.per_case, 1 / boxes if boxes else 0.0))
    try:
        if row.packs_per_hit:
            return packs / parse_printed(row.packs_per_hit).value
        return next((parse_printed(text).value * size for text, size in sizes if text), None)
    except BadOddsError:
        return None
