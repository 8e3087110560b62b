"""How well the cards of scans with a known truth are measured."""

from __future__ import annotations

import random
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from botin.core.looking.measure import measure_picture
from botin.core.looking.measured import Measured
from tests.scans.draw import CORNERS, SIDES, Card
from tests.scans.scan import Scan, chance_scan


@dataclass
class Score:
    """Errors in points of a percent, what was covered, what was claimed."""

    errors: list[float] = field(default_factory=list)
    covered: list[bool] = field(default_factory=list)
    half_widths: list[float] = field(default_factory=list)
    worst_px: list[float] = field(default_factory=list)
    cards: int = 0
    outlined: int = 0
    bordered: int = 0
    measured: int = 0
    claimed: int = 0
    bled: int = 0
    found: int = 0
    missed: int = 0
    false: int = 0
    clean: int = 0
    cards_with_false: int = 0

    @property
    def p95(self) -> float:
        """The error that 95 of 100 stay below."""
        return float(np.percentile(self.errors, 95)) if self.errors else 0.0

    def line(self) -> str:
        """Say it in one line."""
        share = lambda a, b: f"{100 * a / b:.1f} %" if b else "–"  # noqa: E731
        said = f"{self.cards} cards, measured {share(self.measured, self.bordered)}"
        if self.errors:
            said += f", p95 {self.p95:.2f}, worst {max(self.errors):.2f}, covered {share(sum(self.covered), len(self.covered))}"
            said += f", half-width to {max(self.half_widths):.2f}, border to {max(self.worst_px):.2f} px"
        if self.bled:
            said += f", full bleed claimed {self.claimed} of {self.bled}"
        return f"{said}; wear found {share(self.found, self.found + self.missed)}, false {share(self.false, self.clean)} by place, {share(self.cards_with_false, self.cards)} by card"


def score(scans: Iterable[Scan], *, dpi_told: bool = True) -> Score:
    """Measure scans and hold the answers against the truth."""
    made = Score()
    for scan in scans:
        found = measure_picture(np.ascontiguousarray(scan.picture[:, :, ::-1]), scan.dpi if dpi_told else None)
        for card, corners in scan.cards:
            near = [
                one
                for one in found
                if np.hypot(*(np.mean(one.corners, axis=0) - corners.mean(axis=0))) < scan.dpi / 10
            ]
            _one(made, card, near[0] if near else None, scan.dpi)
    return made


def _one(made: Score, card: Card, found: Measured | None, dpi: int) -> None:
    made.cards += 1
    made.bordered += card.borders is not None
    made.bled += card.borders is None
    if found is None or not found.outlined:
        return
    made.outlined += 1
    _wear(made, card, found)
    if (
        found.borders is None
        or found.left_right is None
        or found.top_bottom is None
        or not found.low
        or not found.high
    ):
        return
    if card.borders is None:
        made.claimed += 1
        return
    made.measured += 1
    for at, (said, true) in enumerate(((found.left_right, card.left_right), (found.top_bottom, card.top_bottom))):
        made.errors.append(abs(said - true))
        made.covered.append(found.low[at] <= true <= found.high[at])
        made.half_widths.append((found.high[at] - found.low[at]) / 2)
    sides = dict(zip(("left", "right", "top", "bottom"), card.borders, strict=True))
    made.worst_px.append(max(abs(found.borders[side] - width) for side, width in sides.items()) * dpi / 25.4)


def _wear(made: Score, card: Card, found: Measured) -> None:
    true = {ding.place: ding.size for ding in card.dings}
    said = dict(zip((*CORNERS, *SIDES), (*found.wear.corners, *found.wear.edges), strict=True))
    before = made.false
    for place, size in said.items():
        if size is None:
            continue
        made.found += place in true and size > 0
        made.missed += place in true and size == 0
        made.clean += place not in true
        made.false += place not in true and size > 0
    made.cards_with_false += made.false > before


def scans(kind: str, seeds: range, **how: object) -> Iterable[Scan]:
    """Make scans of a kind, one a seed."""
    return (chance_scan(random.Random(seed), kind, **how) for seed in seeds)  # type: ignore[arg-type]
