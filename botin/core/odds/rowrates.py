"""What one row of a product's tables says: which cards it stands for, how many a pack, and in which words."""

from __future__ import annotations

from collections import Counter

from botin.core.catalog.product import Card, Format, OddsRow, Product, PromiseRow
from botin.core.errors import BadOddsError
from botin.core.odds.rates import Span, count_span, odds_span

LineKey = tuple[str, str, str]
"""Section, parallel and group: what tells one line from another."""
RATES = ("packs_per_hit", "per_box", "per_case", "per_pack")


def line_words(product: Product, key: LineKey) -> str:
    """Return a line in words: the section's label, its finish and its group."""
    section = product.section_by_key.get(key[0])
    rows = product.parallels_by_section.get(key[0], ())
    finish = next((row.label for row in rows if row.key == key[1] and row.label), key[1]) if key[1] else ""
    return " ".join(filter(None, (section.label if section else key[0], finish, f"({key[2]})" if key[2] else "")))


def cards_of_line(product: Product, section: str, parallel: str, group: str) -> tuple[Card, ...]:
    """Return the cards a row of the odds stands for, by its group and by the groups that have the parallel."""
    cards = product.cards_by_group.get((section, group), ()) if group else product.cards_by_section.get(section, ())
    groups = product.groups_of_finish.get((section, parallel), frozenset()) if parallel else frozenset()
    if groups and "" not in groups:
        cards = tuple(card for card in cards if card.group in groups)
    return cards


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


def has_rate(row: OddsRow) -> bool:
    """Whether a row of the odds states any rate."""
    return any(getattr(row, name) for name in RATES)


def pack_rate(row: OddsRow, fmt: Format) -> Span | None:
    """Cards per pack of one row; None when its odds are unprinted, unreadable, or the case size is unknown."""
    try:
        if row.packs_per_hit:
            return odds_span(row.packs_per_hit)
        return counted_rate(row, fmt)
    except BadOddsError:
        return None


def counted_rate(row: OddsRow, fmt: Format) -> Span | None:
    """Cards per pack of the count of a row (a pack, a box, a case); None when it has none."""
    try:
        if row.per_pack:
            return count_span(row.per_pack, row.promise or "exact", 1)
        if row.per_box:
            return count_span(row.per_box, row.promise, fmt.mean_packs)
        if row.per_case and fmt.boxes_per_case:
            return count_span(row.per_case, row.promise, fmt.mean_packs * fmt.boxes_per_case)
    except BadOddsError:
        return None
    return None


def promise_rate(row: PromiseRow, fmt: Format) -> Span | None:
    """Cards per pack of a promise over lines; None when it cannot be read or the size of a case is unknown."""
    packs = {"pack": 1.0, "box": fmt.mean_packs, "case": fmt.mean_packs * (fmt.boxes_per_case or 0)}[row.per]
    try:
        return count_span(row.count, row.promise or "exact", packs) if packs else None
    except BadOddsError:
        return None


def rate_words(row: OddsRow, name: str = "rate") -> str:
    """Return a rate as printed: 1:24, exactly 2 a box."""
    if row.packs_per_hit and name == "rate":
        return f"1:{row.packs_per_hit.removeprefix('1:')}"
    return next(
        (
            f"{_how(row.promise)}{text} a {unit}"
            for text, unit in ((row.per_pack, "pack"), (row.per_box, "box"), (row.per_case, "case"))
            if text
        ),
        "odds not printed",
    )


def _how(promise: str) -> str:
    return {"at_least": "at least ", "guaranteed": "at least ", "exact": "exactly "}.get(promise, "")


def promise_words(row: PromiseRow) -> str:
    """Return a promise as one reads it: “2 autographs”, exactly 2 a box."""
    how = "" if row.promise in ("", "average") else _how(row.promise)
    tail = " on average" if row.promise in ("", "average") else ""
    return f"“{row.label or row.covers}”: {how}{row.count} a {row.per}{tail}"
