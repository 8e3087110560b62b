"""A product as its page states it: formats, sections, cards, parallels, odds, promises.

Rows keep the text as printed (odds are rounded as printed) and the line they came from, so that a finding can
point at it. Names are those of the product package.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
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
    packs_range: tuple[int, int] | None = None
    """Fewest and most packs, where boxes differ; ``packs_per_box`` is then their middle."""

    @property
    def most_packs(self) -> int:
        """Most packs a box can hold."""
        return self.packs_range[1] if self.packs_range else self.packs_per_box

    @property
    def fewest_packs(self) -> int:
        """Fewest packs a box can hold."""
        return self.packs_range[0] if self.packs_range else self.packs_per_box

    @property
    def mean_packs(self) -> float:
        """Packs of a box on average: each number between the fewest and the most is taken as likely as the others."""
        return (self.fewest_packs + self.most_packs) / 2

    def packs_held(self, opened: int) -> int:
        """Packs a box held of which so many were opened; a box of 7 to 10 packs that gave nine held nine."""
        return opened if self.fewest_packs <= opened <= self.most_packs else self.packs_per_box

    @property
    def packs_words(self) -> str:
        """Packs of a box as a table has them: ``24``, or ``7-10`` where boxes differ."""
        return f"{self.packs_range[0]}-{self.packs_range[1]}" if self.packs_range else str(self.packs_per_box)

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

    ``run_text`` is the run as written; what of a pooled run (``100+80+4``, stamped /184) is this row's own is
    known only beside the other rows: see `Product.run_of`.
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
    def parts(self) -> tuple[int, ...]:
        """The parts of the run as written; empty when unnumbered."""
        return parse_run(self.run_text)

    @property
    def stamped(self) -> int | None:
        """The number after the stroke of the serial; None when unnumbered."""
        return sum(self.parts) or None


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

    def covers_line(self, section: Section, parallel: str, *, numbered: bool = False) -> bool:
        """Whether a line of this section and parallel shares the promise's count."""
        wanted = set(split_names(self.covers))
        names = {section.key, f"{section.key}:{parallel}", f"kind={section.kind.value}"}
        if section.kind is Kind.AUTOGRAPH_RELIC:  # both at once, and counted once
            names |= {f"kind={Kind.AUTOGRAPH.value}", f"kind={Kind.RELIC.value}"}
        names.add("numbered" if numbered else "unnumbered")
        if parallel:
            names.add("parallels")
        if section.kind is Kind.INSERT and not parallel:
            names.add("inserts")
        return bool(wanted & names)


COVER_WORDS = frozenset(("numbered", "unnumbered", "parallels", "inserts"))
"""Covers beside sections and kinds: every line that is numbered, say."""


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
    def year(self) -> int | None:
        """Year of its cards: the first of its season, else that of its release."""
        found = re.search(r"\d{4}", self.season)
        return int(found[0]) if found else (self.released_on.year if self.released_on else None)

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
    def cards_by_group(self) -> dict[tuple[str, str], tuple[Card, ...]]:
        """Cards by section and odds group."""
        found: dict[tuple[str, str], list[Card]] = defaultdict(list)
        for card in self.cards:
            found[(card.section, card.group)].append(card)
        return {key: tuple(cards) for key, cards in found.items()}

    @cached_property
    def groups_of_finish(self) -> dict[tuple[str, str], frozenset[str]]:
        """For each section and finish the groups that its rows name; the empty group is the whole section."""
        found: dict[tuple[str, str], set[str]] = defaultdict(set)
        for row in self.parallels:
            found[(row.section, row.key)].add(row.group)
        return {key: frozenset(groups) for key, groups in found.items()}

    @cached_property
    def printed_finishes(self) -> dict[tuple[str, str], tuple[str, ...]]:
        """Finishes that the odds name, by section and group of the cards."""
        found: dict[tuple[str, str], dict[str, None]] = defaultdict(dict)
        for row in self.odds:
            groups = [row.group] if row.group else list(self.group_sizes.get(row.section, ()))
            for group in groups:
                found[(row.section, group)][row.parallel] = None
        return {key: tuple(finishes) for key, finishes in found.items()}

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

    @cached_property
    def _own_parts(self) -> dict[Parallel, int]:
        """Own part of each row whose pooled run is shared with rows of other sections."""
        pools: dict[tuple[str, tuple[int, ...]], list[Parallel]] = defaultdict(list)
        for row in self.parallels:
            if len(row.parts) > 1:
                pools[(row.key, tuple(sorted(row.parts)))].append(row)
        own: dict[Parallel, int] = {}
        for rows in pools.values():
            if len(rows) == len(rows[0].parts):
                same = len({row.parts for row in rows}) == 1
                own |= {row: row.parts[place] if same else row.parts[0] for place, row in enumerate(rows)}
        return own

    def run_of(self, row: Parallel) -> int | None:
        """Copies of each card in this version; None when unnumbered.

        A pooled run belongs to its row as a whole, unless as many rows of this finish as it has parts carry the
        same parts (the versions are rows of their own): then each has one part, by the order of the rows, or the
        first part where the rows are written with their own first.
        """
        return self._own_parts.get(row, row.stamped)

    @cached_property
    def group_sizes(self) -> dict[str, Counter[str]]:
        """How many cards each group of a section has."""
        return {key: Counter(card.group for card in cards) for key, cards in self.cards_by_section.items()}

    @cached_property
    def _finishes(self) -> dict[tuple[str, str], dict[str, Parallel]]:
        """Finishes by section and group of the cards; a row of the group wins over a general one."""
        found: dict[tuple[str, str], dict[str, Parallel]] = {}
        for section, rows in self.parallels_by_section.items():
            for group in {*self.group_sizes.get(section, ()), ""}:
                best = found.setdefault((section, group), {})
                for row in rows:
                    if row.group in ("", group) and (row.key not in best or row.group):
                        best[row.key] = row
        return found

    def finishes(self, section: str, group: str) -> dict[str, Parallel]:
        """Return the finishes of the cards of one group of a section by key."""
        return self._finishes.get((section, group), {})

    def finish_words(self) -> list[tuple[str, str]]:
        """Return key and label of every finish, each once."""
        return list({row.key: row.label for row in self.parallels}.items())

    def is_numbered(self, section: str, parallel: str) -> bool:
        """Whether the cards of a section have a serial in a finish (plain when it is empty)."""
        return any(row.key == parallel and row.run_text for row in self.parallels_by_section.get(section, ()))

    def covers(self, promise: PromiseRow, section: str, parallel: str) -> bool:
        """Whether a line of a section and finish shares a promise's count."""
        found = self.section_by_key.get(section)
        return found is not None and promise.covers_line(
            found, parallel, numbered=self.is_numbered(section, parallel)
        )

    def parallels_of(self, card: Card) -> tuple[Parallel, ...]:
        """Return the finishes that exist of one card; a row of the card's own group wins over a general one."""
        return tuple(self.finishes(card.section, card.group).values())

    def parallel_of(self, card: Card, parallel: str) -> Parallel | None:
        """Return the parallel row that applies to a card, or None (the plain card often has none)."""
        return self.finishes(card.section, card.group).get(parallel)
