"""One season against another: what changed between two products."""

from __future__ import annotations

from dataclasses import dataclass

from botin.core.catalog.product import Format, OddsRow, Product
from botin.core.errors import BadOddsError
from botin.core.odds.rates import parse_printed


@dataclass(frozen=True, slots=True)
class Change:
    """One thing that differs: what it is, as it was and as it is; ``better`` for the collector, or None."""

    what: str
    was: str
    now: str
    better: bool | None = None


def season_changes(before: Product, now: Product, old: Format, new: Format) -> tuple[Change, ...]:
    """List what changed from one season's format to another's, the configuration first.

    Parameters
    ----------
    before, now : Product
        Last season and this one.
    old, new : Format
        The formats compared.
    """
    return (*_configuration(old, new), *_sizes(before, now), *_runs(before, now), *_odds(before, now, old, new))


def _configuration(old: Format, new: Format) -> list[Change]:
    rows = []
    if old.list_price != new.list_price:
        better = None
        if old.list_price and new.list_price and old.list_price.currency == new.list_price.currency:
            better = new.list_price.minor < old.list_price.minor
        rows.append(Change("price at issue", _money(old), _money(new), better))
        a, b = _per_card(old), _per_card(new)
        if a and b:
            rows.append(Change("price a card", f"{a:.2f}", f"{b:.2f}", b < a))
    if (old.packs_per_box, old.cards_per_pack) != (new.packs_per_box, new.cards_per_pack):
        was, is_now = (f"{f.packs_per_box} × {f.cards_per_pack} = {f.cards_per_box} cards" for f in (old, new))
        rows.append(Change("configuration", was, is_now, new.cards_per_box > old.cards_per_box))
    if old.boxes_per_case != new.boxes_per_case:
        rows.append(Change("boxes a case", str(old.boxes_per_case or "–"), str(new.boxes_per_case or "–")))
    return rows


def _money(fmt: Format) -> str:
    return f"{fmt.list_price.major:,.2f} {fmt.list_price.currency}" if fmt.list_price else "–"


def _per_card(fmt: Format) -> float | None:
    return fmt.list_price.major / fmt.cards_per_box if fmt.list_price and fmt.cards_per_box else None


def _sizes(before: Product, now: Product) -> list[Change]:
    old = {section.key: len(before.cards_by_section.get(section.key, ())) for section in before.sections}
    new = {section.key: len(now.cards_by_section.get(section.key, ())) for section in now.sections}
    labels = {section.key: section.label for section in (*before.sections, *now.sections)}
    return [
        Change(labels[key], _cards(old.get(key)), _cards(new.get(key)))
        for key in dict.fromkeys((*old, *new))
        if old.get(key) != new.get(key)
    ]


def _cards(count: int | None) -> str:
    return "not there" if count is None else f"{count} cards"


def _runs(before: Product, now: Product) -> list[Change]:
    old = {(row.section, row.key, row.group): row for row in before.parallels}
    new = {(row.section, row.key, row.group): row for row in now.parallels}
    rows = []
    for key in dict.fromkeys((*old, *new)):
        a, b = old.get(key), new.get(key)
        was, is_now = _run(a.run_text) if a else "not there", _run(b.run_text) if b else "dropped"
        if was != is_now:
            row = b or a
            label = " ".join(filter(None, (row.label if row else key[1], key[0], key[2])))
            scarcer = None
            if a and b and a.stamped and b.stamped:
                scarcer = b.stamped < a.stamped
            rows.append(Change(label, was, is_now, scarcer))
    return rows


def _run(text: str) -> str:
    return f"/{text}" if text else "unnumbered"


def _odds(before: Product, now: Product, old: Format, new: Format) -> list[Change]:
    was = {(row.section, row.parallel, row.group): row for row in before.odds if row.format == old.key}
    rows = []
    for row in now.odds:
        key = (row.section, row.parallel, row.group)
        if row.format != new.key or key not in was:
            continue
        a, b = _per_box(was[key], old), _per_box(row, new)
        if a and b and abs(a / b - 1) > 0.05:
            label = " ".join(filter(None, key))
            rows.append(Change(f"{label}, a box", f"{a:.2f}", f"{b:.2f}", b > a))
    return rows


def _per_box(row: OddsRow, fmt: Format) -> float | None:
    try:
        if row.packs_per_hit:
            return fmt.packs_per_box / parse_printed(row.packs_per_hit).value
        if row.per_pack:
            return fmt.packs_per_box * parse_printed(row.per_pack).value
        if row.per_box:
            return parse_printed(row.per_box).value
        if row.per_case and fmt.boxes_per_case:
            return parse_printed(row.per_case).value / fmt.boxes_per_case
    except BadOddsError:
        return None
    return None
