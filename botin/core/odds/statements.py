"""All that is said of what the packs hold: every printed row, total, promise and run as one linear statement.

The unknowns are the copies of each line that went into each format, and the packs made of it. A statement says of the
copies of some lines that there are so many a pack of a format, or so many in all; it keeps its source and its words.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Product, PromiseRow, Section, split_names
from botin.core.errors import BadOddsError
from botin.core.odds.rates import Span, odds_span
from botin.core.odds.rowrates import (
    LineKey,
    cards_of_line,
    copies_of,
    counted_rate,
    has_rate,
    line_words,
    pack_rate,
    promise_rate,
    promise_words,
    rate_words,
)

Present = frozenset[tuple[str, str, str]]
"""Cards in hand that no row of their format stands for: format, section and parallel."""
SCARCE = (Kind.SHORT_PRINT, Kind.INSERT, Kind.VARIATION)


class Said(IntEnum):
    """What a statement comes from, in the order in which one is given up where several cannot hold together."""

    USUAL = 0
    HAND = 1
    PROMISE = 2
    ODDS = 3
    TOTAL = 4
    RUN = 5
    BOX = 6


@dataclass(frozen=True)
class BoxLine:
    """Cards of one section in one finish (and one group, where groups have odds of their own).

    Attributes
    ----------
    copies : int or None
        Σ run over the cards; None when one of them is not numbered.
    formats : tuple of str
        Formats it may lie in.
    run_line : int
        Line of parallels.csv that states its run; 0 without one.
    """

    key: LineKey
    section: Section
    cards: tuple[Card, ...]
    copies: int | None
    formats: tuple[str, ...]
    run_line: int = 0

    @property
    def in_packs(self) -> bool:
        """Box toppers lie outside the packs."""
        return self.section.kind is not Kind.BOX_TOPPER

    @property
    def is_base(self) -> bool:
        """Whether it is plain base: what fills a box when nothing else is said."""
        return self.section.kind is Kind.BASE and not self.key[1]


@dataclass(frozen=True)
class Statement:
    """One thing said of the box.

    Attributes
    ----------
    where : str
        File and line.
    words : str
        What it says, as one would read it out.
    format : str
        The format whose packs it counts by; empty where it counts copies over all formats.
    terms : tuple of (line, factor)
        Whose copies are added up, by place among the lines.
    span : Span
        Copies a pack (or in all): least, as printed, most; ``high`` is infinite for a guarantee.
    """

    said: Said
    where: str
    words: str
    format: str
    terms: tuple[tuple[int, float], ...]
    span: Span

    @cached_property
    def places(self) -> frozenset[int]:
        """Places of the lines it speaks of."""
        return frozenset(place for place, _ in self.terms)


@dataclass(frozen=True)
class Statements:
    """The lines of a product over all formats, and what is said of them."""

    product: Product
    lines: tuple[BoxLine, ...]
    said: tuple[Statement, ...]

    @cached_property
    def place_of(self) -> dict[LineKey, int]:
        """Place of each line by its key."""
        return {line.key: place for place, line in enumerate(self.lines)}

    @cached_property
    def of_section(self) -> dict[str, tuple[int, ...]]:
        """Places of the lines of each section."""
        found: dict[str, list[int]] = defaultdict(list)
        for place, line in enumerate(self.lines):
            found[line.key[0]].append(place)
        return {section: tuple(places) for section, places in found.items()}

    def line_of(self, card: Card, parallel: str) -> int | None:
        """Return the place of the line that a version of a card belongs to; None when no line has it."""
        keys = ((card.section, parallel, card.group), (card.section, parallel, ""))
        return next((self.place_of[key] for key in keys if key in self.place_of), None)


def statements_of(product: Product, present: Present = frozenset()) -> Statements:
    """Put together all that a product's page, and the cards in hand, say of its boxes.

    Parameters
    ----------
    product : Product
        As its page states it, corrections taken in.
    present : set of (format, section, parallel)
        Cards that came although no row of their format stands for them.

    Returns
    -------
    Statements
        Every version of the checklist is on one line. A line with rows in some formats is absent from the others;
        without any row it may lie in every format that its section lies in.
    """
    lines = tuple(_lines(product, present))
    bare = Statements(product, lines, ())
    said = [
        *_row_statements(bare),
        *_total_statements(bare),
        *_promise_statements(bare),
        *_run_statements(bare),
        *_box_statements(bare),
    ]
    printed = {
        (statement.format, *statement.places)
        for statement in said
        if statement.said is Said.ODDS and len(statement.terms) == 1 and statement.span.high != float("inf")
    }
    said += _usual_statements(bare, printed)
    return Statements(product, lines, tuple(said))


def _lines(product: Product, present: Present) -> Iterator[BoxLine]:
    """Every version of the checklist on a line, in the order of the sections."""
    rows: dict[tuple[str, str], dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    for row in product.odds:
        if row.format in product.format_by_key:
            rows[(row.section, row.parallel)][row.group].append(row.format)
    for section in product.sections:
        finishes = {"": None} | {row.key: None for row in product.parallels_by_section.get(section.key, ())}
        finishes |= {row.parallel: None for row in product.odds if row.section == section.key}
        finishes |= {parallel: None for _, key, parallel in sorted(present) if key == section.key}
        here = {
            fmt for key, groups in rows.items() if key[0] == section.key for own in groups.values() for fmt in own
        }
        for parallel in finishes:
            groups = rows.get((section.key, parallel), {})
            late = {fmt for fmt, key, finish in present if (key, finish) == (section.key, parallel)}
            yield from _atoms(product, section, parallel, groups, (here, late))


def _atoms(
    product: Product,
    section: Section,
    parallel: str,
    groups: Mapping[str, list[str]],
    formats: tuple[set[str], set[str]],
) -> Iterator[BoxLine]:
    """One line for each group that has odds of its own, and one for the other cards."""
    here, late = formats
    everywhere = section.kind is Kind.BASE or not here
    default = set(product.format_by_key) if everywhere else here
    whole = set(groups.get("", ()))
    cards = cards_of_line(product, section.key, parallel, "")
    own = [group for group in groups if group]
    taken: set[str] = set()
    for group in own:
        part = cards_of_line(product, section.key, parallel, group)
        taken |= {card.number for card in part}
        if part:
            yield _line(product, section, (section.key, parallel, group), part, whole | set(groups[group]) | late)
    left = tuple(card for card in cards if card.number not in taken)
    if left:
        stays = section.kind is Kind.BASE and not parallel
        lies_in = default if not whole or stays else whole | late
        yield _line(product, section, (section.key, parallel, ""), left, lies_in)


def _line(
    product: Product, section: Section, key: LineKey, cards: tuple[Card, ...], formats: Iterable[str]
) -> BoxLine:
    known = set(formats)
    run = product.parallel_of(cards[0], key[1])
    return BoxLine(
        key=key,
        section=section,
        cards=cards,
        copies=copies_of(product, cards, key[1]),
        formats=tuple(fmt.key for fmt in product.formats if fmt.key in known),
        run_line=run.line if run is not None else 0,
    )


def _ones(places: Iterable[int]) -> tuple[tuple[int, float], ...]:
    return tuple((place, 1.0) for place in places)


def _row_statements(bare: Statements) -> Iterator[Statement]:
    """A row of the odds says how many cards of its line a pack holds; odds beside a promised count are two."""
    product, taken = bare.product, set()
    for row in product.odds:
        fmt, place = product.format_by_key.get(row.format), (row.format, row.section, row.parallel, row.group)
        if fmt is None or place in taken or not has_rate(row):
            continue
        taken.add(place)
        terms = _ones(_lines_of_row(bare, row))
        spans = {name: span for name in ("rate", "count") if (span := _span_of(row, fmt, name)) is not None}
        for name, span in spans.items():
            if terms:
                words = f"{line_words(product, (row.section, row.parallel, row.group))} {rate_words(row, name)}"
                where = f"odds.csv:{row.line}"
                yield Statement(
                    Said.ODDS if name == "rate" or "rate" not in spans else Said.PROMISE, where, words, row.format,
                    terms, span,
                )  # fmt: skip


def _span_of(row: OddsRow, fmt: Format, name: str) -> Span | None:
    if name == "rate":
        return pack_rate(row, fmt) if row.packs_per_hit else None
    return counted_rate(row, fmt)


def _lines_of_row(bare: Statements, row: OddsRow) -> list[int]:
    keys = ((place, bare.lines[place].key) for place in bare.of_section.get(row.section, ()))
    return [
        place
        for place, key in keys
        if key[1] == row.parallel
        and (not row.group or key[2] == row.group)
        and row.format in bare.lines[place].formats
    ]


def _in_kinds(kind: Kind, kinds: Iterable[str]) -> bool:
    """Whether a section counts for some kinds; a signed relic is of both its kinds and counts once."""
    own = {kind.value, Kind.AUTOGRAPH.value, Kind.RELIC.value} if kind is Kind.AUTOGRAPH_RELIC else {kind.value}
    return bool(own & set(kinds))


def _total_statements(bare: Statements) -> Iterator[Statement]:
    """A printed total adds up all lines of its kinds, in every finish."""
    for row in bare.product.overall:
        if row.format not in bare.product.format_by_key or not row.packs_per_hit:
            continue
        kinds = split_names(row.kinds)
        terms = _ones(
            place for place, line in enumerate(bare.lines)
            if row.format in line.formats and _in_kinds(line.section.kind, kinds)
        )  # fmt: skip
        try:
            span = odds_span(row.packs_per_hit)
        except BadOddsError:
            continue
        if terms:
            words = f"“{row.label}” 1:{row.packs_per_hit.removeprefix('1:')} in all"
            yield Statement(Said.TOTAL, f"overall.csv:{row.line}", words, row.format, terms, span)


def covered_lines(bare: Statements, row: PromiseRow, fmt: str) -> tuple[int, ...]:
    """Return the places of the lines of a format that a promise covers."""
    return tuple(
        place
        for place, line in enumerate(bare.lines)
        if fmt in line.formats and bare.product.covers(row, line.key[0], line.key[1])
    )


def _promise_statements(bare: Statements) -> Iterator[Statement]:
    for row in bare.product.promises:
        for fmt in bare.product.formats:
            if row.format not in ("", fmt.key):
                continue
            span, places = promise_rate(row, fmt), covered_lines(bare, row, fmt.key)
            if span is not None and places:
                where = f"promises.csv:{row.line}"
                yield Statement(Said.PROMISE, where, promise_words(row), fmt.key, _ones(places), span)


def _run_statements(bare: Statements) -> Iterator[Statement]:
    """The copies of a numbered line lie in its formats together."""
    for place, line in enumerate(bare.lines):
        if line.copies and line.formats:
            words = f"{line_words(bare.product, line.key)}: {line.copies:,} copies"
            copies = float(line.copies)
            where = f"parallels.csv:{line.run_line}"
            yield Statement(Said.RUN, where, words, "", ((place, 1.0),), Span(copies, copies, copies))


def _box_statements(bare: Statements) -> Iterator[Statement]:
    """What lies in the packs fills them; without plain base on the checklist other cards may fill the rest."""
    for fmt in bare.product.formats:
        places = [place for place, line in enumerate(bare.lines) if fmt.key in line.formats and line.in_packs]
        if not places:
            continue
        whole = any(bare.lines[place].is_base for place in places)
        size = float(fmt.cards_per_pack)
        words = f"{fmt.label}: {fmt.cards_per_pack} cards a pack"
        span = Span(size if whole else 0.0, size, size)
        yield Statement(Said.BOX, f"formats.csv:{fmt.line}", words, fmt.key, _ones(places), span)


def _usual_statements(bare: Statements, printed: set[tuple[object, ...]]) -> Iterator[Statement]:
    """The weakest: a short print, an insert or a finish is at most as frequent per card as the plain base card."""
    for fmt in bare.product.formats:
        base = [place for place, line in enumerate(bare.lines) if line.is_base and fmt.key in line.formats]
        size = sum(len(bare.lines[place].cards) for place in base)
        for place, line in enumerate(bare.lines):
            scarce = line.section.kind in SCARCE or line.key[1]
            if not size or not scarce or fmt.key not in line.formats or (fmt.key, place) in printed:
                continue
            terms = ((place, 1.0 / len(line.cards)), *((one, -1.0 / size) for one in base))
            words = f"{line_words(bare.product, line.key)} is taken to be no more frequent a card than plain base"
            yield Statement(Said.USUAL, "", words, fmt.key, terms, Span(float("-inf"), 0.0, 0.0))
