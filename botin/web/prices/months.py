"""What each route nets, month by month."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from botin.core.flags.paths import RoutePath

LEFT, RIGHT, TOP, BASE = 52.0, 460.0, 12.0, 204.0
GAP = 14.0
MOST, FAR = 4, 3.0
"""So many routes are drawn; none that leaves the best one further behind than this many times what it nets."""


@dataclass(frozen=True, slots=True)
class PathLine:
    """One route: its line, the dot of its best month, and where its name stands."""

    label: str
    words: str
    line: str
    x: float
    y: float
    label_y: float
    best: bool


@dataclass(frozen=True)
class MonthsPicture:
    """The chart on 620 × 230; ``zero`` is the height of nothing left, None when all stay above it."""

    paths: tuple[PathLine, ...]
    band: str
    ticks: tuple[tuple[float, str], ...]
    marks: tuple[tuple[float, str], ...]
    zero: float | None
    left_out: str


def months_picture(paths: Sequence[RoutePath]) -> MonthsPicture | None:
    """Draw the routes over the months; None when there is none."""
    if not paths:
        return None
    ranked = sorted(paths, key=lambda path: -path.best[1].mean)
    best = ranked[0]
    depth = best.best[1].mean - FAR * max(1.0, abs(best.best[1].mean))
    paths = [path for path in ranked[:MOST] if path is best or path.steps[-1].mean >= depth]
    far = (path for path in ranked if path not in paths)
    left_out = ", ".join(f"{path.label} ({path.best[1].mean:,.2f})" for path in far).replace("-", "−")
    means = [step.mean for path in paths for step in path.steps]
    top = max(*means, *(step.p90 for step in best.steps))
    bottom = min(0.0, *means, *(step.p10 for step in best.steps))
    span, months = (top - bottom) or 1.0, max(path.first + len(path.steps) - 1 for path in paths)

    def x(month: float) -> float:
        return round(LEFT + (RIGHT - LEFT) * month / max(1, months), 1)

    def y(value: float) -> float:
        return round(BASE - (BASE - TOP) * (value - bottom) / span, 1)

    ends = _apart([y(path.steps[-1].mean) for path in paths])
    drawn = tuple(
        PathLine(
            label=path.label,
            words=f"nets {path.best[1].mean:,.2f} in month {path.best[0]}",
            line=" ".join(f"{x(path.first + at)},{y(step.mean)}" for at, step in enumerate(path.steps)),
            x=x(path.best[0]),
            y=y(path.best[1].mean),
            label_y=round(end + 4, 1),
            best=path is best,
        )
        for path, end in zip(paths, ends, strict=True)
    )
    high = [f"{x(best.first + at)},{y(step.p90)}" for at, step in enumerate(best.steps)]
    low = [f"{x(best.first + at)},{y(step.p10)}" for at, step in enumerate(best.steps)]
    ticks = tuple((y(value), f"{value:,.0f}" if span > 8 else f"{value:,.2f}") for value in _steps(bottom, top))
    marks = tuple((x(month), "now" if month == 0 else f"{month} mo") for month in range(0, months + 1, 3))
    return MonthsPicture(drawn, " ".join(high + low[::-1]), ticks, marks, y(0.0) if bottom < 0 else None, left_out)


def _steps(bottom: float, top: float) -> list[float]:
    """Round values to mark on the axis."""
    rough = max((top - bottom) / 4, 1e-6)
    unit = 10 ** math.floor(math.log10(rough))
    step = unit * next(size for size in (1, 2, 2.5, 5, 10) if size * unit >= rough)
    return [step * n for n in range(math.ceil(bottom / step), math.floor(top / step) + 1)]


def _apart(heights: Sequence[float]) -> list[float]:
    """Move names apart that would cover each other, keeping their order."""
    order = sorted(range(len(heights)), key=lambda at: heights[at])
    found, above = list(heights), -math.inf
    for at in order:
        found[at] = max(heights[at], above + GAP)
        above = found[at]
    over = max(0.0, above - BASE)
    return [value - over for value in found]
