"""How many packs were made, from everything that is said of the boxes: read off the law of the box."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from botin.core.catalog.product import Format, Product
from botin.core.odds.boxlaw import UNKNOWN, BoxLaw, Interval, LoggedBoxes
from botin.core.odds.rowrates import LineKey
from botin.core.odds.statements import Said, Statement

SEPARABLE = 2.0
TAIL = 0.025
"""Chance left out at each end of what counting says."""


@dataclass(frozen=True, slots=True)
class FormatRun:
    """How much of one format was made.

    ``separable`` is false when the numbered lines cannot tell this format from the others (high ÷ low > 2).
    """

    format: Format
    packs: Interval
    separable: bool

    @property
    def boxes(self) -> Interval:
        """Boxes made."""
        return self.packs.times(1 / self.format.mean_packs)

    @property
    def cases(self) -> Interval:
        """Cases made; unknown when the size of a case is."""
        return self.boxes.times(1 / self.format.boxes_per_case) if self.format.boxes_per_case else UNKNOWN


@dataclass(frozen=True, slots=True)
class NumberedLine:
    """A numbered line and whether the other lines bear it out (None: they do not reach its formats)."""

    key: LineKey
    copies: int
    agrees: bool | None


@dataclass(frozen=True, slots=True)
class Population:
    """How many copies of each card of an unnumbered line exist."""

    key: LineKey
    per_card: Interval


@dataclass(frozen=True, slots=True)
class MissingOdds:
    """What the unprinted odds of a numbered line must be, in packs per hit."""

    format: str
    key: LineKey
    packs_per_hit: Interval


@dataclass(frozen=True, slots=True)
class PrintRun:
    """Everything that follows for the amounts made.

    Attributes
    ----------
    formats : dict
        By format key; None for a format whose packs nothing bounds.
    slack : float
        Largest share by which statements that contradict each other must give way; 0 when all agree.
    """

    formats: dict[str, FormatRun | None]
    slack: float
    lines: tuple[NumberedLine, ...]
    populations: tuple[Population, ...]
    missing_odds: tuple[MissingOdds, ...]


def print_run(product: Product, law: BoxLaw | None = None) -> PrintRun:
    """Work out packs per format and all that follows.

    Parameters
    ----------
    product : Product
        With odds as printed and runs as stated.
    law : BoxLaw, optional
        The law of its boxes, where it is at hand; with logged boxes in it they narrow the packs.
    """
    law = law or BoxLaw(product)
    formats = {fmt.key: _format_run(law, fmt) for fmt in product.formats}
    lines = law.system.lines
    numbered = [place for place, line in enumerate(lines) if line.copies and line.formats]
    return PrintRun(
        formats=formats,
        slack=max((conflict.slack for conflict in law.conflicts), default=0.0),
        lines=tuple(
            NumberedLine(lines[place].key, lines[place].copies or 0, _agrees(law, place)) for place in numbered
        ),
        populations=tuple(
            Population(line.key, _population(law, place, formats))
            for place, line in enumerate(lines)
            if not line.copies and line.formats
        ),
        missing_odds=tuple(_missing(law, numbered, formats)),
    )


def _format_run(law: BoxLaw, fmt: Format) -> FormatRun | None:
    """Packs of a format between their ends; None when nothing limits them."""
    if not any(fmt.key in line.formats and line.copies for line in law.system.lines):
        return None
    low, high = law.system.packs(fmt.key)
    estimate = law.point.packs.get(fmt.key)
    if high is None and low <= fmt.packs_per_box * (1 + 1e-9):
        return None
    packs = Interval(None if estimate is None or high is None else min(max(estimate, low), high), low, high)
    counted = _by_counting(law, fmt, packs)
    separable = bool(packs.low and packs.high and packs.high / packs.low <= SEPARABLE)
    return FormatRun(fmt, counted, separable)


def _by_counting(law: BoxLaw, fmt: Format, packs: Interval) -> Interval:
    """Narrow the packs by how many numbered cards logged boxes held: one answer, inside what is stated.

    With K numbered copies in P packs, n packs hold a Poisson count of mean K·n ÷ P; over a flat logarithm of P its
    inverse is Gamma(x, K·n), cut to the ends.
    """
    logged = next((one for one in law.logs if one.format == fmt.key and one.boxes), None)
    numbered = [place for place in law.system.places(fmt.key) if law.system.lines[place].copies]
    copies = math.fsum(_copies_here(law, fmt, place, packs) or 0.0 for place in numbered)
    if logged is None or not copies or packs.low is None:
        return packs
    seen = sum(logged.seen.get(law.system.lines[place].key, 0) for place in numbered)
    if not seen:
        return packs
    return _cut_gamma(packs, seen, copies * logged.boxes * fmt.mean_packs)


def _copies_here(law: BoxLaw, fmt: Format, place: int, packs: Interval) -> float | None:
    """Copies of a numbered line in one format: all of them where it lies nowhere else, else its share."""
    line = law.system.lines[place]
    if line.formats == (fmt.key,):
        return float(line.copies or 0)
    rate = law.point_rate(fmt, place)
    return None if rate is None or packs.estimate is None else rate * packs.estimate


def _cut_gamma(packs: Interval, seen: int, weight: float) -> Interval:
    from scipy.special import gammainc, gammaincinv  # noqa: PLC0415  (slow to load)

    rare = 0.0 if packs.high is None else float(gammainc(seen, weight / packs.high))
    often = 1.0 if not packs.low else float(gammainc(seen, weight / packs.low))
    if often - rare < 1e-9:
        return packs
    few, middle, many = (
        weight / float(gammaincinv(seen, rare + share * (often - rare))) for share in (1 - TAIL, 0.5, TAIL)
    )
    return Interval(middle, max(few, packs.low or 0.0), many if packs.high is None else min(many, packs.high))


def _own(law: BoxLaw, place: int) -> list[Statement]:
    return [s for s in law.system.said.said if s.said is Said.RUN and s.places == {place}]


def _agrees(law: BoxLaw, place: int) -> bool | None:
    """Whether the other lines bear a numbered line out: without its run they would not contradict each other."""
    line = law.system.lines[place]
    rated = {
        (statement.format, one)
        for statement in law.system.said.said
        if statement.said in (Said.ODDS, Said.PROMISE)
        for one in statement.places
    }
    if not any((fmt, place) in rated for fmt in line.formats):
        return None
    others = [
        other
        for at, other in enumerate(law.system.lines)
        if at != place and other.copies and any((fmt, at) in rated for fmt in line.formats)
    ]
    if not others:
        return None
    if not any(place in statement.places for conflict in law.conflicts for statement in conflict.statements):
        return True
    return not law.system.holds_without(_own(law, place))


def _population(law: BoxLaw, place: int, formats: Mapping[str, FormatRun | None]) -> Interval:
    """Copies of each card of an unnumbered line."""
    line = law.system.lines[place]
    if any(formats[fmt] is None for fmt in line.formats):
        return UNKNOWN
    low, high = law.system.copies(place)
    parts = [(law.point.rates.get((fmt, place)), formats[fmt]) for fmt in line.formats]
    known = [
        rate * run.packs.estimate
        for rate, run in parts
        if rate is not None and run is not None and run.packs.estimate is not None
    ]
    best = math.fsum(known) if len(known) == len(parts) else None
    if best is not None:
        best = max(low, best if high is None else min(best, high))
    return Interval(best, low, high).times(1 / len(line.cards))


def _missing(law: BoxLaw, numbered: list[int], formats: Mapping[str, FormatRun | None]) -> list[MissingOdds]:
    """Odds that a numbered line must have where they are unprinted."""
    found = []
    for fmt in law.product.formats:
        if formats[fmt.key] is None:
            continue
        own = law.own_rows(fmt)
        for place in numbered:
            if fmt.key in law.system.lines[place].formats and place not in own:
                rate = law.rate(fmt, place)
                packs = Interval(_turned(rate.estimate), _turned(rate.high), _turned(rate.low))
                found.append(MissingOdds(fmt.key, law.system.lines[place].key, packs))
    return found


def _turned(rate: float | None) -> float | None:
    return 1 / rate if rate else None


__all__ = ["FormatRun", "Interval", "LoggedBoxes", "PrintRun", "print_run"]
