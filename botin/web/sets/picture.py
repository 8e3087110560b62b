"""The set board and the finishing curve as pictures."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from botin.core.setbuilding import FinishCurve
from botin.desk.setboard import Cell

WIDTH = 1000.0


@dataclass(frozen=True, slots=True)
class Spot:
    """A cell with its place on the board."""

    x: float
    y: float
    cell: Cell


@dataclass(frozen=True)
class BoardPicture:
    """The grid: every number a card-shaped cell."""

    spots: tuple[Spot, ...]
    columns: int
    width: float
    height: float
    total: float
    font: float


def board_picture(cells: Sequence[Cell]) -> BoardPicture:
    """Lay out the cells in the order of the checklist, 5 to 7 each; larger sets get smaller cells."""
    count = max(1, len(cells))
    columns = 20 if count <= 120 else 30 if count <= 400 else 40 if count <= 900 else 50
    step = WIDTH / columns
    width = step * 0.9
    height = width * 7 / 5
    row = height + step * 0.12
    spots = tuple(
        Spot(round(at % columns * step + 0.5, 1), round(at // columns * row + 0.5, 1), cell)
        for at, cell in enumerate(cells)
    )
    longest = max((len(cell.number) for cell in cells), default=1)
    font = min(width * 0.46, width * 1.55 / max(longest, 2))
    return BoardPicture(spots, columns, width, height, math.ceil(count / columns) * row, round(font, 1))


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
