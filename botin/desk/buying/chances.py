"""The chance table of the buy desk: each wish, any and all of them, and kinds of cards."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from botin.core.buying.chance import Chances, TooManyWantsError, Versions, chances
from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Kind
from botin.core.pricing.priced import PricedLine
from botin.desk.buying.prepared import Prepared

Wish = tuple[str, Versions | None, str]
KINDS = (
    ("any autograph", (Kind.AUTOGRAPH, Kind.AUTOGRAPH_RELIC)),
    ("any relic", (Kind.RELIC, Kind.AUTOGRAPH_RELIC)),
    ("any short print", (Kind.SHORT_PRINT,)),
    ("any variation", (Kind.VARIATION,)),
)


@dataclass(frozen=True)
class ChanceRow:
    """One row of the table.

    Attributes
    ----------
    found : Chances or None
        None when ``error`` says why there is none.
    money : float or None
        Boxes for an even chance times the cost of a box.
    wish : bool
        It is a line of the chase list.
    """

    label: str
    found: Chances | None
    money: float | None = None
    error: str = ""
    wish: bool = False


def chance_rows(
    ready: Prepared, wishes: Sequence[Wish], cost: float, boxes: int, rule: HitRule
) -> tuple[ChanceRow, ...]:
    """Work out the table.

    Parameters
    ----------
    wishes : sequence
        The chase list with its versions.
    cost : float
        Of one box, for the money to an even chance.
    rule : HitRule
        What counts as a hit.
    boxes : int
        “In so many boxes.”
    """

    def row(label: str, wants: list[Versions], *, every: bool = False, wish: bool = False) -> ChanceRow:
        try:
            found = chances(ready.box, wants, every=every, boxes=boxes, repeats=ready.repeats)
        except TooManyWantsError as exc:
            return ChanceRow(label, None, error=exc.message, wish=wish)
        return ChanceRow(label, found, found.even * cost if found.even else None, wish=wish)

    known = [found for _, found, _ in wishes if found]
    rows = [
        row(label, [found], wish=True) if found else ChanceRow(label, None, error=error, wish=True)
        for label, found, error in wishes
    ]
    if len(known) > 1:
        rows += [row("any of these", known), row("all of these", known, every=True)]
    hits = _versions(line for line in ready.box.lines if rule.is_hit(line.line.section.kind, line.line.run))
    rows += [row("any hit", [hits])] if hits else []
    for label, kinds in KINDS:
        wanted = _versions(line for line in ready.box.lines if line.line.section.kind in kinds)
        if wanted:
            rows.append(row(label, [wanted]))
    numbered = _versions(line for line in ready.box.lines if line.line.run)
    return (*rows, *([row("any numbered card", [numbered])] if numbered else []))


def _versions(lines: Iterable[PricedLine]) -> Versions:
    """All versions of some lines."""
    return frozenset((card.section, card.number, line.line.parallel) for line in lines for card in line.line.cards)
