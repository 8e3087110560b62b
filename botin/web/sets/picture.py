"""The set board and the finishing curve as pictures."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from markupsafe import Markup, escape

from botin.core.copies.setbuilding import FinishCurve
from botin.desk.copies.setboard import Cell

WIDTH = 1000.0


@dataclass(frozen=True)
class BoardPicture:
    """The grid: every number a card-shaped cell that leads to its card."""

    svg: Markup
    columns: int
    total: float


@dataclass(frozen=True, slots=True)
class _Shape:
    width: float
    height: float
    font: float


def board_picture(cells: Sequence[Cell], address: str) -> BoardPicture:
    """Lay out the cells in the order of the checklist, 5 to 7 each; larger sets get smaller cells.

    Parameters
    ----------
    cells : sequence of Cell
        All numbers.
    address : str
        Address of a card, its id left out at the end. (Thousands of cells are written here and not in a template,
        which would take most of the time of the page.)
    """
    count = max(1, len(cells))
    columns = 20 if count <= 120 else 30 if count <= 400 else 40 if count <= 900 else 50
    step = WIDTH / columns
    width = step * 0.9
    row = width * 7 / 5 + step * 0.12
    longest = max((len(cell.number) for cell in cells), default=1)
    shape = _Shape(width, width * 7 / 5, min(width * 0.46, width * 1.55 / max(longest, 2)))
    drawn = (
        _cell(cell, at % columns * step + 0.5, at // columns * row + 0.5, shape, address, first=at == 0)
        for at, cell in enumerate(cells)
    )
    return BoardPicture(Markup("\n".join(drawn)), columns, math.ceil(count / columns) * row)  # noqa: S704  (escaped)


def _cell(cell: Cell, x: float, y: float, shape: _Shape, address: str, *, first: bool) -> str:
    """One cell as SVG; all text of the checklist is escaped here."""
    number, name = escape(cell.number), escape(cell.name)
    here = f"{cell.have} here" if cell.have else "sold" if cell.sold else "missing"
    more = (", short print" if cell.short else "") + (f", {cell.other} in another finish" if cell.other else "")
    more += f", {escape(cell.route)}" if cell.route else ""
    more += f", {cell.grading} out for grading" if cell.grading else ""
    w, h, font = shape.width, shape.height, shape.font
    kind, on = ("have", " on") if cell.have else ("missing", "")
    skipped = "" if first else ' tabindex="-1"'
    opened = (
        f'<a href="{address}{cell.card_id}"{skipped}'
        f' aria-label="{number} {name}: {here}{more}"><title>{number} {name}</title>'
        f'<rect x="{x:.1f}" y="{y:.1f}" width="{w:.1f}" height="{h:.1f}" rx="2" class="cell-{kind}"/>'
    )
    parts = [opened]
    if cell.short:
        parts.append(f'<path d="M{x:.1f} {y:.1f}h{w * 0.4:.1f}l-{w * 0.4:.1f} {w * 0.4:.1f}z" class="cell-short"/>')
    if cell.route in ("grade", "look closer", "sell now"):
        parts.append(
            f'<circle cx="{x + w * 0.82:.1f}" cy="{y + h * 0.14:.1f}" r="{w * 0.1:.1f}" class="cell-route"/>'
        )
    if cell.grading:
        parts.append(
            f'<rect x="{x + w * 0.12:.1f}" y="{y + h * 0.09:.1f}" width="{w * 0.76:.1f}" height="{h * 0.82:.1f}"'
            ' rx="1" class="cell-grading"/>'
        )
    parts.append(
        f'<text x="{x + w / 2:.1f}" y="{y + h / 2:.1f}" font-size="{font:.1f}"'
        f' class="cell-number{on}">{number}</text>'
    )
    if cell.have > 1:
        parts.append(
            f'<text x="{x + w * 0.94:.1f}" y="{y + h * 0.92:.1f}" font-size="{font * 0.8:.1f}"'
            f' class="cell-times">×{cell.have}</text>'
        )
    elif cell.sold and not cell.have:
        parts.append(f'<path d="M{x + 2:.1f} {y + h - 2:.1f}l{w - 4:.1f}-{h - 4:.1f}" class="cell-sold"/>')
    return "".join(parts) + "</a>"


@dataclass(frozen=True, slots=True)
class Dot:
    """A point of the finishing curve."""

    x: float
    y: float
    low: float
    high: float
    boxes: int
    best: bool


@dataclass(frozen=True)
class FinishPicture:
    """The cost curve over the boxes, with its spread and where to stop."""

    dots: tuple[Dot, ...]
    line: str
    rare: str
    ticks: tuple[tuple[float, str], ...]
    zero: float


def finish_picture(curve: FinishCurve) -> FinishPicture:
    """Draw the curve on 560 × 190."""
    steps = curve.steps
    values = [value for step in steps for value in (step.p10, step.p90, step.cost)]
    top, bottom = max(values), min(0.0, *values)
    span = (top - bottom) or 1.0
    left, right, high, base = 52.0, 548.0, 14.0, 160.0

    def x(boxes: int) -> float:
        return round(left + (right - left) * boxes / max(1, len(steps) - 1), 1)

    def y(value: float) -> float:
        return round(base - (base - high) * (value - bottom) / span, 1)

    dots = tuple(
        Dot(x(step.boxes), y(step.cost), y(step.p10), y(step.p90), step.boxes, step.boxes == curve.best)
        for step in steps
    )
    line = " ".join(f"{dot.x},{dot.y}" for dot in dots)
    rare = " ".join(f"{x(step.boxes)},{y(max(bottom, step.with_rare))}" for step in steps)
    amounts = [bottom + span * part / 4 for part in range(5)]
    return FinishPicture(dots, line, rare, tuple((y(amount), f"{amount:,.0f}") for amount in amounts), y(0.0))


def history_line(points: Sequence[tuple[date, int]], size: int) -> str:
    """Draw how the set grew as the points of a line on 300 × 60."""
    if len(points) < 2:
        return ""
    first, last = points[0][0], points[-1][0]
    days = max(1, (last - first).days)
    return " ".join(
        f"{4 + 292 * (day - first).days / days:.1f},{56 - 52 * count / max(1, size):.1f}" for day, count in points
    )
