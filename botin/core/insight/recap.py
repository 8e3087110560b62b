"""What came of a box: expected against seen, value against cost, the best cards."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from botin.core.buying.cost import Cost
from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Card, Kind
from botin.core.figure import Figure, Input
from botin.core.odds.lines import BoxModel, Line
from botin.core.pricing.prices import Basis, Estimate, PriceBook


@dataclass(frozen=True, slots=True)
class Pulled:
    """One logged copy, as the recap needs it; another's counts for luck and odds and never for worth."""

    id: int
    card: Card
    kind: Kind
    parallel: str
    run: int | None
    pack: int
    mine: bool = True


@dataclass(frozen=True, slots=True)
class LineSeen:
    """A line as expected and as it came.

    Attributes
    ----------
    chance_as_many, chance_as_few : float or None
        P(X ≥ seen) and P(X ≤ seen) under the line's own count; None when it has none of its own.
    """

    line: Line
    expected: float | None
    seen: int
    chance_as_many: float | None
    chance_as_few: float | None


@dataclass(frozen=True, slots=True)
class Valued:
    """A copy with its price estimate."""

    pulled: Pulled
    estimate: Estimate


@dataclass(frozen=True, slots=True)
class Recap:
    """Everything the recap of one box says."""

    cards: int
    hits: int
    duplicates: int
    costs: tuple[Figure, ...]
    lines: tuple[LineSeen, ...]
    unplaced: int
    value: Figure
    best: tuple[Valued, ...]
    """All copies, the dearest first."""
    rarest: tuple[Valued, ...] = ()
    """All copies by kind, run and odds: the other school of “best”, and the only one without prices."""
    priced: int = 0
    """Copies with a price of any kind."""
    counted: int = 0
    """Base cards that were counted and not typed; among ``cards``."""
    others: int = 0
    """Copies that belong to others, or to nobody known yet; among ``cards``, in no value."""


def _seen(line: Line, seen: int) -> LineSeen:
    if line.law is None:
        return LineSeen(line, line.expected, seen, None, None)
    return LineSeen(line, line.expected, seen, line.law.at_least(seen), line.law.at_most(seen))


def lines_seen(model: BoxModel, pulled: Sequence[Pulled]) -> tuple[tuple[LineSeen, ...], int]:
    """Expected against seen per line, and how many copies fit no line of this format."""
    counts: Counter[tuple[str, str, str]] = Counter()
    unplaced = 0
    for copy in pulled:
        line = model.line_of(copy.card, copy.parallel)
        if line is None:
            unplaced += 1
        else:
            counts[line.key] += 1
    return tuple(_seen(line, counts[line.key]) for line in model.lines), unplaced


def value_of(pulled: Sequence[Pulled], prices: PriceBook) -> tuple[Figure, tuple[Valued, ...]]:
    """Value of the logged copies at their raw prices, and the copies with the dearest first."""
    valued = [Valued(copy, prices.estimate(copy.card, copy.parallel)) for copy in pulled]
    valued.sort(key=lambda row: -row.estimate.amount)
    by_basis: Counter[str] = Counter()
    for row in valued:
        by_basis[row.estimate.basis.value] += 1
    total = math.fsum(row.estimate.amount for row in valued)
    inputs = (
        Input("cards with sold prices of their own", by_basis["comps"]),
        Input("cards at the usual price of their kind", by_basis["tier"]),
        Input("cards without a price, counted 0", by_basis["none"]),
    )
    known = len(valued) - by_basis["none"]
    worth = total if known or not valued else None
    figure = Figure("value of what came out", worth, "money", "Σ raw price of each card", inputs)
    return figure, tuple(valued)


def recap(
    model: BoxModel,
    pulled: Sequence[Pulled],
    prices: PriceBook,
    cost: Cost,
    rule: HitRule,
    counted: int = 0,
    opened: int | None = None,
) -> Recap:
    """Work out the recap of one box.

    Parameters
    ----------
    model : BoxModel
        The lines of the box's format.
    pulled : sequence of Pulled
        Every copy logged, also those of others.
    prices : PriceBook
        Sold prices, at one date.
    cost : Cost
        What the box cost, with shipping and tax.
    rule : HitRule
        What counts as a hit.
    counted : int
        Base cards that were counted and not typed: they cost as much as any other.
    opened : int, optional
        Packs opened: where boxes differ, what they held.
    """
    lines, unplaced = lines_seen(model, pulled)
    mine = [copy for copy in pulled if copy.mine]
    value, valued = value_of(mine, prices)
    hits = sum(1 for copy in mine if rule.is_hit(copy.kind, copy.run))
    versions = Counter((copy.card.section, copy.card.number, copy.parallel) for copy in mine)
    costs = (
        cost.figure(),
        cost.per("card", len(pulled) + counted),
        cost.per("pack", model.format.packs_held(opened or 0)),
        cost.per("hit", hits),
    )
    extra = sum(count - 1 for count in versions.values())
    priced = sum(1 for row in valued if row.estimate.basis is not Basis.NONE)
    ranked = rarest_first(model, valued)
    others = len(pulled) - len(mine)
    return Recap(
        cards=len(pulled) + counted,
        hits=hits,
        duplicates=extra,
        costs=costs,
        lines=lines,
        unplaced=unplaced,
        value=value,
        best=valued,
        rarest=ranked,
        priced=priced,
        counted=counted,
        others=others,
    )


RANK = (
    Kind.AUTOGRAPH_RELIC, Kind.AUTOGRAPH, Kind.RELIC, Kind.BUYBACK, Kind.REDEMPTION, Kind.VARIATION, Kind.SHORT_PRINT,
    Kind.INSERT, Kind.BOX_TOPPER, Kind.BASE, Kind.DECOY,
)  # fmt: skip
"""Kinds as collectors rank them before any price is known; common practice, no source."""


def rarest_first(model: BoxModel, valued: Sequence[Valued]) -> tuple[Valued, ...]:
    """Order copies by kind, then by run, then by how seldom one of them comes."""

    def key(row: Valued) -> tuple[int, int, float]:
        copy = row.pulled
        line = model.line_of(copy.card, copy.parallel)
        each = line.expected / len(line.cards) if line is not None and line.expected and line.cards else 0.0
        numbered = 0 if copy.run and copy.run <= SCARCE else 1
        return numbered * len(RANK) + RANK.index(copy.kind), copy.run or UNNUMBERED, each

    return tuple(sorted(valued, key=key))


SCARCE, UNNUMBERED = 25, 10**9
"""A run up to this ranks before any kind; a choice, no source."""
