"""How many cards of each line a pack holds, as printed, in every format: the common ground of audit and print run."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Product, PromiseRow
from botin.core.errors import BadOddsError
from botin.core.odds.lines import cards_of_line
from botin.core.odds.rates import Span, count_span, odds_span

LineKey = tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class PrintedLine:
    """A line over all formats.

    Attributes
    ----------
    key : tuple
        Section, parallel and group.
    cards : tuple of Card
        The cards it stands for.
    copies : int or None
        Σ run over its cards; None when any of them is unnumbered.
    rates : dict
        Cards per pack by format; None where the row is there and its odds are not printed.
    """

    key: LineKey
    cards: tuple[Card, ...]
    copies: int | None
    rates: dict[str, Span | None]


def pack_rate(row: OddsRow, fmt: Format) -> Span | None:
    """Cards per pack of one row; None when its odds are unprinted, unreadable, or the case size is unknown."""
    try:
        if row.packs_per_hit:
            return odds_span(row.packs_per_hit)
        if row.per_pack:
            return count_span(row.per_pack, row.promise or "exact", 1)
        if row.per_box:
            return count_span(row.per_box, row.promise, fmt.packs_per_box)
        if row.per_case and fmt.boxes_per_case:
            return count_span(row.per_case, row.promise, fmt.packs_per_box * fmt.boxes_per_case)
    except BadOddsError:
        return None
    return None


def copies_of(product: Product, cards: tuple[Card, ...], parallel: str) -> int | None:
    """Σ run over the cards; None when one of them is unnumbered or there are none."""
    section = cards[0].section if cards else ""
    whole = len(cards) == len(product.cards_by_section.get(section, ()))
    groups = product.group_sizes[section] if cards and whole else Counter(card.group for card in cards)
    total = 0
    for group, count in groups.items():
        row = product.finishes(section, group).get(parallel)
        run = product.run_of(row) if row else None
        if run is None:
            return None
        total += run * count
    return total or None


def printed_lines(product: Product) -> tuple[PrintedLine, ...]:
    """Return every line of the odds over all formats.

    A section and parallel that one format prints as a whole and another by groups is one line: the groups' rates
    are added up there. The first of two rows for the same line counts (the audit says so).
    """
    whole = {(row.section, row.parallel) for row in product.odds if not row.group}
    whole_here = {(row.format, row.section, row.parallel) for row in product.odds if not row.group}
    rates: dict[LineKey, dict[str, Span | None]] = {}
    taken: set[tuple[str, str, str, str]] = set()
    for row in product.odds:
        fmt, place = product.format_by_key.get(row.format), (row.format, row.section, row.parallel, row.group)
        if fmt is None or row.section not in product.section_by_key or place in taken or _is_rest(product, row):
            continue
        taken.add(place)
        key = (row.section, row.parallel, "" if (row.section, row.parallel) in whole else row.group)
        found = rates.setdefault(key, {})
        rate = pack_rate(row, fmt)
        if (row.format, row.section, row.parallel) in whole_here and row.group:
            continue  # part of the whole that this format prints
        before = found.get(row.format)
        found[row.format] = before.plus(rate) if before and rate else rate
    return tuple(_line(product, key, found) for key, found in rates.items())


def _is_rest(product: Product, row: OddsRow) -> bool:
    rated = row.packs_per_hit or row.per_box or row.per_case or row.per_pack
    kind = product.section_by_key[row.section].kind
    numbered = any(p.key == row.parallel and p.run_text for p in product.parallels_by_section.get(row.section, ()))
    return not rated and not row.parallel and kind is Kind.BASE and not numbered


def _line(product: Product, key: LineKey, rates: dict[str, Span | None]) -> PrintedLine:
    cards = cards_of_line(product, *key)
    return PrintedLine(key, cards, copies_of(product, cards, key[1]), rates)


def promised_lines(product: Product, lines: Sequence[PrintedLine]) -> tuple[PrintedLine, ...]:
    """Return each promise over numbered lines as a line of its own: their copies, and how many come together.

    A promise that also covers cards without a run, or lines whose odds are all printed, tells nothing more.
    """
    found = []
    for at, row in enumerate(product.promises):
        covered = [line for line in lines if product.covers(row, line.key[0], line.key[1])]
        open_odds = any(line.rates.get(key) is None for line in covered for key in _formats_of(product, row))
        if not covered or not open_odds or any(line.copies is None for line in covered):
            continue
        rates = {
            key: span for key in _formats_of(product, row) if (span := _promise_rate(product, row, key)) is not None
        }
        if rates:
            cards = tuple(card for line in covered for card in line.cards)
            copies = sum(line.copies or 0 for line in covered)
            found.append(PrintedLine((f"promise {at}", row.label, ""), cards, copies, dict(rates)))
    return tuple(found)


def _formats_of(product: Product, row: PromiseRow) -> tuple[str, ...]:
    return (row.format,) if row.format else tuple(product.format_by_key)


def _promise_rate(product: Product, row: PromiseRow, key: str) -> Span | None:
    """Cards per pack of a promise in a format."""
    fmt = product.format_by_key.get(key)
    if fmt is None:
        return None
    packs = {"pack": 1, "box": fmt.packs_per_box, "case": fmt.packs_per_box * (fmt.boxes_per_case or 0)}[row.per]
    try:
        return count_span(row.count, row.promise or "exact", packs) if packs else None
    except BadOddsError:
        return None
