"""How a count is spread over boxes, by the way it is stated: odds, slots, exactly, at least, on average, a case."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from botin.core.catalog.product import Format, OddsRow, PromiseRow
from botin.core.counts import CountLaw, average_law, per_pack_law, promised_law
from botin.core.errors import BadOddsError
from botin.core.odds.rates import parse_printed

AT_LEAST = ("at_least", "guaranteed")
PROMISED = ("exact", *AT_LEAST)
CLOSE = 1e-6
"""A rate this near to what is printed is what is printed: the program stops there."""


def count_law(
    row: OddsRow | None, fmt: Format, expected: float, seeding: str, counts: Sequence[int]
) -> CountLaw | None:
    """Count of a line in one box that holds so many of it on average."""
    packs = fmt.packs_per_box
    try:
        if row is not None and row.per_box and (not row.packs_per_hit or row.promise in PROMISED):
            return promised_count(parse_printed(row.per_box).value, row.promise, expected, seeding, counts)
        if (
            row is not None
            and row.per_case
            and fmt.boxes_per_case
            and (not row.packs_per_hit or row.promise in PROMISED)
        ):
            count = snapped(expected * fmt.boxes_per_case, parse_printed(row.per_case).value)
            promised = parse_printed(row.per_case).value if row.promise in AT_LEAST else count
            share = case_share_law(min(count, promised), row.promise, fmt.boxes_per_case, seeding)
            over = max(0.0, count - promised) / fmt.boxes_per_case
            return replace(share, poisson=share.poisson + over) if over > CLOSE else share
        if row is not None and (row.packs_per_hit or row.per_pack):
            stated = (
                1 / parse_printed(row.packs_per_hit).value if row.packs_per_hit else parse_printed(row.per_pack).value
            )
            return per_pack_law(snapped(expected / packs, stated), packs)
    except BadOddsError:
        pass
    return per_pack_law(expected / packs, packs)


def snapped(value: float, stated: float) -> float:
    """Return what is stated where a value is that near to it."""
    return stated if math.isclose(value, stated, rel_tol=CLOSE) else value


def promised_count(count: float, promise: str, expected: float, seeding: str, counts: Sequence[int]) -> CountLaw:
    """Law of a promised count; beyond a guarantee comes what more is expected, an average is what the box allows."""
    if promise in PROMISED:
        return promised_law(count, promise, expected if expected > count * (1 + CLOSE) else None, seeding, counts)
    return average_law(snapped(expected, count), seeding, counts)


def own_case_law(row: OddsRow, fmt: Format, seeding: str) -> CountLaw | None:
    """Count in a whole case of a row per case; beside odds a guarantee grows by what they expect beyond it."""
    odds = None
    try:
        if row.packs_per_hit and fmt.boxes_per_case:
            odds = fmt.packs_per_box * fmt.boxes_per_case / parse_printed(row.packs_per_hit).value
        return case_law_of(row.per_case, row.promise, fmt.boxes_per_case, seeding, odds)
    except BadOddsError:
        return None


def case_law_of(
    text: str, promise: str, boxes: int | None, seeding: str, odds_expect: float | None = None
) -> CountLaw | None:
    """Count in a whole case, where one is stated and the boxes of the case are tied to each other by it."""
    if not text or not boxes or (seeding == "random" and promise not in PROMISED):
        return None
    return promised_law(parse_printed(text).value, promise, odds_expect, seeding)


def case_share_law(count: float, promise: str, boxes: int, seeding: str) -> CountLaw:
    """Count in one box of a case that holds ``count``: spread over the boxes, no box twice while it can be helped."""
    even = average_law(count / boxes, "even")
    if promise in PROMISED or seeding == "even":
        return even
    random = CountLaw(poisson=count / boxes)
    return random if seeding == "random" else CountLaw(schools=((0.5, even), (0.5, random)))


def joint_law(
    row: PromiseRow, fmt: Format, count: float, expected: float, seeding: str, counts: Sequence[int] = ()
) -> CountLaw | None:
    """Law of a promise's count in one box; None when the size of a case is unknown."""
    if row.per == "case":
        if not fmt.boxes_per_case:
            return None
        return case_share_law(count, row.promise, fmt.boxes_per_case, seeding)
    per_box = count * fmt.packs_per_box if row.per == "pack" else count
    return promised_count(per_box, row.promise, expected, seeding, counts)
