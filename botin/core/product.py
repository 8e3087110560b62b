"""A product as its page states it: formats, sections, cards, parallels, odds, promises.

Rows keep the text as printed (odds are rounded as printed) and the line they came from, so that a finding can
point at it. Names are those of the product package.
"""

from __future__ import annotations

import re
from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum
from functools import cached_property

from botin.core.money import Money


class Kind(StrEnum):
    """What a section of a checklist is."""

    BASE = "base"
    SHORT_PRINT = "short_print"
    INSERT = "insert"
    VARIATION = "variation"
    AUTOGRAPH = "autograph"
    RELIC = "relic"
    AUTOGRAPH_RELIC = "autograph_relic"
    BOX_TOPPER = "box_topper"
    BUYBACK = "buyback"
    REDEMPTION = "redemption"
    DECOY = "decoy"


def split_names(text: str) -> tuple[str, ...]:
    """Several people or clubs on one card are separated by ``;``."""
    return tuple(part.strip() for part in text.split(";") if part.strip())


@dataclass(frozen=True, slots=True)
class Format:
    """The way a product is boxed."""

    key: str
    label: str
    packs_per_box: int
    cards_per_pack: int
    boxes_per_case: int | None = None
    list_price: Money | None = None
    line: int = field(default=0, compare=False)

    @property
    def cards_per_box(self) -> int:
        """Cards in the packs of one box; box toppers lie outside."""
        return self.packs_per_box * self.cards_per_pack


@dataclass(frozen=True, slots=True)
class Section:
    """A part of the checklist, with the cue that tells it by eye."""

    key: str
    label: str
    kind: Kind
    back_code: str = ""
    cue: str = ""
    line: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True)
class Card:
    """One card of the checklist; its parallels are the same card with another finish."""

    section: str
    number: str
    name: str
    team: str = ""
    rookie: str = ""
    group: str = ""
    note: str = ""
    line: int = field(default=0, compare=False)

    @property
    def people(self) -> tuple[str, ...]:
        """Everyone shown on the card."""
        return split_names(self.name)

    @property
    def teams(self) -> tuple[str, ...]:
        """Every club named on the card."""
        return split_names(self.team)


_POOLED = re.compile(r"\d+(\s*\+\s*\d+)*")


def parse_run(text: str) -> tuple[int, ...]:
    """Read a run: ``25`` → (25,), the pooled ``100+80+4`` → (100, 80, 4), empty → () for unnumbered.

    Raises
    ------
    ValueError
        When it is neither.
    """
    text = text.strip().lstrip("/")
    if not text:
        return ()
    if not _POOLED.fullmatch(text):
        raise ValueError(text)
    parts = tuple(int(part) for part in text.split("+"))
    if min(parts) < 1:
        raise ValueError(text)
    return parts


@dataclass(frozen=True, slots=True)
class Parallel:
    """A finish of the cards of a section, or of one group of it.

    ``run`` is what this version has; ``stamped`` what the serial says when several versions share one serial
    (``100+80+4`` is stamped /184, this row's own copies are the first part).
    """

    key: str
    label: str
    section: str
    group: str = ""
    run_text: str = ""
    back_code: str = ""
    cue: str = ""
    swatch: str = ""
    line: int = field(default=0, compare=False)

    @property
    def run(self) -> int | None:
        """Copies of each card in this version; None when unnumbered."""
        parts = parse_run(self.run_text)
        return parts[0] if parts else None

    @property
    def stamped(self) -> int | None:
        """The number after the stroke of the serial; None when unnumbered."""
        parts = parse_run(self.run_text)
        return sum(parts) if parts else None


@dataclass(frozen=True, slots=True)
class OddsRow:
    """One printed rate of one line in one format; the four rates are texts as printed, at most one is filled."""

    format: str
    section: str
    parallel: str = ""
    group: str = ""
    packs_per_hit: str = ""
    per_box: str = ""
    per_case: str = ""
    per_pack: str = ""
    promise: str = ""
    line: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True)
class PromiseRow:
    """A promise that spans lines: ``count`` per pack, box or case over what ``covers`` lists."""

    format: str
    label: str
    count: str
    per: str
    promise: str
    covers: str
    line: int = field(default=0, compare=False)

    def covers_line(self, section: Section, parallel: str) -> bool:
        """Whether a line of this section and parallel shares the promise's count."""
        wanted = split_names(self.covers)
        return (
            section.key in wanted or f"{section.key}:{parallel}" in wanted or f"kind={section.kind.value}" in wanted
        )


@dataclass(frozen=True, slots=True)
class OverallRow:
    """A printed total that the audit checks the lines against."""

    format: str
    label: str
    kinds: str
    packs_per_hit: str
    line: int = field(default=0, compare=False)


@dataclass(frozen=True, slots=True)
class TeamClub:
    """Which club holds the rights behind a team's name."""

    team: str
    club: str
    line: int = field(default=0, compare=False)


@dataclass(frozen=True)
class Product:
    """Everything a product's page states."""

    key: str
    name: str
    maker: str = ""
    season: str = ""
    sport: str = ""
    released_on: date | None = None
    currency: str = "EUR"
    formats: tuple[Format, ...] = ()
    sections: tuple[Section, ...] = ()
    cards: tuple[Card, ...] = ()
    parallels: tuple[Parallel, ...] = ()
    odds: tuple[OddsRow, ...] = ()
    promises: tuple[PromiseRow, ...] = ()
    overall: tuple[OverallRow, ...] = ()
    teams: tuple[TeamClub, ...] = ()

    @cached_property
    def section_by_key(self) -> dict[str, Section]:
        """Sections by their key."""
        return {section.key: section for section in self.sections}

    @cached_property
    def format_by_key(self) -> dict[str, Format]:
        """Formats by their key."""
        return {fmt.key: fmt for fmt in self.formats}

    @cached_property
    def cards_by_section(self) -> dict[str, tuple[Card, ...]]:
        """Cards of each section in the order of the checklist."""
        found: dict[str, list[Card]] = defaultdict(list)
        for card in self.cards:
            found[card.section].append(card)
        return {key: tuple(cards) for key, cards in found.items()}

    @cached_property
    def card_by_number(self) -> dict[tuple[str, str], Card]:
        """Cards by section and number."""
        return {(card.section, card.number): card for card in self.cards}

    @cached_property
    def parallels_by_section(self) -> dict[str, tuple[Parallel, ...]]:
        """Parallel rows of each section in the order of the package."""
        found: dict[str, list[Parallel]] = defaultdict(list)
        for row in self.parallels:
            found[row.section].append(row)
        return {key: tuple(rows) for key, rows in found.items()}

    def parallels_of(self, card: Card) -> tuple[Parallel, ...]:
        """Return the finishes that exist of one card; a row of the card's own group wins over a general one."""
        best: dict[str, Parallel] = {}
        for row in self.parallels_by_section.get(card.section, ()):
            if row.group not in ("", card.group):
                continue
            if row.key not in best or row.group:
                best[row.key] = row
        return tuple(best.values())

    def parallel_of(self, card: Card, parallel: str) -> Parallel | None:
        """Return the parallel row that applies to a card, or None (the plain card often has none)."""
        return next((row for row in self.parallels_of(card) if row.key == parallel), None)
