"""The odds ladder: all lines of a format on a log scale, with marks for pack, box and case."""

from __future__ import annotations

import math
from dataclasses import dataclass

from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Product
from botin.core.odds.lines import UNPRINTED, BoxModel, Line
from botin.web.words import number

LEFT, RIGHT, TOP, STEP = 250.0, 800.0, 46.0, 24.0


@dataclass(frozen=True, slots=True)
class Rung:
    """One line: where its mark stands, from where to where it may if its odds are open, its numbers in words."""

    y: float
    x: float
    ends: tuple[float, float] | None
    label: str
    finish: str
    swatch: str
    odds: str
    a_box: str
    words: str
    hit: bool
    certain: bool


@dataclass(frozen=True, slots=True)
class Mark:
    """A line across the ladder, or a tick of its scale."""

    x: float
    words: str


@dataclass(frozen=True)
class Ladder:
    """The whole picture."""

    height: float
    rungs: tuple[Rung, ...]
    ticks: tuple[Mark, ...]
    marks: tuple[Mark, ...]
    unknown: tuple[str, ...]


def packs_text(packs: float) -> str:
    """Return packs per hit as odds."""
    return f"1:{number(round(packs, 1) if packs < 20 else round(packs))}"


def odds_ladder(product: Product, model: BoxModel, rule: HitRule) -> Ladder:
    """Place every line of a format by how many packs one of its cards takes."""
    fmt = model.format
    known = [(fmt.mean_packs / line.expected, line) for line in model.lines if line.expected and not line.is_rest]
    known.sort(key=lambda pair: pair[0])
    case = fmt.packs_per_box * (fmt.boxes_per_case or 1)
    far = max([10_000.0, case * 1.0, *(packs for packs, _ in known)])
    decades = math.ceil(math.log10(far) - 1e-9)

    def place(packs: float) -> float:
        return LEFT + (RIGHT - LEFT) * max(0.0, math.log10(packs)) / decades

    def ends(line: Line) -> tuple[float, float] | None:
        """From its most frequent to its rarest; to the edge where it may never come."""
        bounds = model.bounds(line)
        if line.printed != UNPRINTED or not bounds.high:
            return None
        return place(fmt.mean_packs / bounds.high), place(fmt.mean_packs / bounds.low) if bounds.low else RIGHT

    rungs = tuple(
        _rung(product, model, line, (TOP + STEP * (row + 0.5), place(packs), ends(line)), rule)
        for row, (packs, line) in enumerate(known)
    )
    one = fmt.packs_per_box == 1
    marks = [Mark(place(1), "a pack, the box" if one else "a pack")]
    marks += [] if one else [Mark(place(fmt.packs_per_box), "a box")]
    if fmt.boxes_per_case:
        marks.append(Mark(place(case), "a case"))
    ticks = tuple(Mark(place(10**power), f"1:{10**power:,}") for power in range(decades + 1))
    unknown = tuple(_name(line) for line in model.lines if line.expected is None)
    return Ladder(TOP + STEP * len(known) + 8, rungs, ticks, tuple(marks), unknown)


def _name(line: Line) -> str:
    return " ".join(filter(None, (line.section.label, line.parallel, line.group)))


def box_span(model: BoxModel, line: Line) -> str:
    """Return how many a box an unprinted line may be in words; empty where its odds are printed."""
    bounds = model.bounds(line)
    if line.printed != UNPRINTED or bounds.high is None:
        return ""
    if not bounds.low:
        return f"at most {number(bounds.high, 2)} a box"
    return f"{number(bounds.low, 2)} to {number(bounds.high, 2)} a box"


def _rung(
    product: Product,
    model: BoxModel,
    line: Line,
    at: tuple[float, float, tuple[float, float] | None],
    rule: HitRule,
) -> Rung:
    packs = model.format.mean_packs / (line.expected or 1.0)
    row = product.parallel_of(line.cards[0], line.parallel) if line.cards and line.parallel else None
    finish = " ".join(filter(None, (row.label if row else line.parallel, line.group)))
    boxes, span = line.expected or 0.0, box_span(model, line)
    chance = f"{100 * line.law.at_least(1):.1f} % of boxes have one" if line.law else "a promise rules how many come"
    size = f"{len(line.cards)} cards" + (f", numbered to {line.run}" if line.run else "")
    said = f"nothing printed, {span}, taken as" if span else f"printed {line.printed},"
    words = f"{_name(line)}: {said} {packs_text(packs)}, {number(boxes, 2)} a box; {chance}; {size}"
    return Rung(
        y=at[0],
        x=at[1],
        ends=at[2],
        label=line.section.label,
        finish=finish,
        swatch=row.swatch if row else "",
        odds="open" if span else packs_text(packs),
        a_box=span or f"{number(boxes, 2)} a box",
        words=words,
        hit=rule.is_hit(line.section.kind, line.run),
        certain=line.law is not None and line.law.fixed > 0,
    )
