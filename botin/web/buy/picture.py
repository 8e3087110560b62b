"""The value curve as a picture: the distribution, the price, the median, the area that pays, my own boxes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from botin.core.pricing.valuecurve import ValueCurve
from botin.desk.buying.myboxes import MyBox

WIDTH, HEIGHT, LEFT, BASE = 640.0, 250.0, 8.0, 196.0
BINS = 84
TOP = 34.0


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar; ``pays`` when all of it lies at or above the price."""

    x: float
    y: float
    width: float
    height: float
    pays: bool


@dataclass(frozen=True, slots=True)
class Tick:
    """A place on the axis with its words."""

    x: float
    words: str


@dataclass(frozen=True)
class CurvePicture:
    """The whole picture."""

    bars: tuple[Bar, ...]
    ticks: tuple[Tick, ...]
    cost: float
    median: float | None
    mean: float | None
    beyond: float
    mine: tuple[Tick, ...]
    table: tuple[tuple[float, float], ...]
    cut: bool


def value_picture(curve: ValueCurve, cost: float, mine: Sequence[MyBox]) -> CurvePicture:
    """Draw the curve of one box on a scale that shows the price, the usual outcomes and my own boxes."""
    ninth = curve.quantile(0.94) or curve.quantile(0.9) or cost
    far = max(1.3 * cost, ninth, *(box.value for box in mine if box.value < 2.5 * max(ninth, cost)), 0.1)
    far = min(far, curve.grid.reach * 0.999)
    step = _round_step(far)
    edges = np.linspace(0.0, far, BINS + 1)
    below = np.array([curve.chance_below(float(edge)) for edge in edges])
    masses = np.diff(below)
    highest, cut = _cap(masses)
    scale = (BASE - TOP) / highest if highest else 0.0

    def place(value: float) -> float:
        return round(LEFT + value / far * (WIDTH - 2 * LEFT), 2)

    bars = tuple(
        Bar(
            place(float(edges[at])),
            round(BASE - min(mass, highest) * scale, 2),
            round((WIDTH - 2 * LEFT) / BINS - 0.6, 2),
            round(min(mass, highest) * scale, 2),
            bool(edges[at] >= cost - 1e-9),
        )
        for at, mass in enumerate(masses.tolist())
        if mass > 0
    )
    median = curve.quantile(0.5)
    amounts = np.arange(0, far + step / 2, step)
    return CurvePicture(
        bars=bars,
        ticks=tuple(Tick(place(float(x)), f"{x:g}") for x in amounts if x <= far),
        cost=place(min(cost, far)),
        median=place(median) if median is not None and median <= far else None,
        mean=place(curve.mean) if curve.mean <= far else None,
        beyond=1 - float(below[-1]),
        mine=tuple(
            Tick(place(min(box.value, far)), f"box {box.id}: {box.value:,.2f} for {box.cost:,.2f}") for box in mine
        ),
        table=tuple((float(x), curve.chance_at_least(float(x))) for x in amounts if x <= far),
        cut=cut,
    )


def _cap(masses: np.ndarray) -> tuple[float, bool]:
    """Height of the picture: a lone spike is cut off so that the rest can be seen."""
    ordered = np.sort(masses)[::-1]
    highest = float(ordered[0])
    third = float(ordered[min(3, len(ordered) - 1)])
    return (2.2 * third, True) if third > 0 and highest > 3 * third else (highest, False)


def _round_step(far: float) -> float:
    """Return a round step that gives five to ten ticks."""
    raw = far / 8
    decade = 10.0 ** np.floor(np.log10(raw))
    return float(next(nice * decade for nice in (1, 2, 2.5, 5, 10) if nice * decade >= raw))


@dataclass(frozen=True, slots=True)
class OpenedBox:
    """One of the hundred: its value and how tall it stands."""

    value: float
    height: float
    pays: bool


@dataclass(frozen=True)
class Hundred:
    """A row of simulated boxes."""

    boxes: tuple[OpenedBox, ...]
    line: float
    pays: int
    total: float
    paid: float
    best: float
    worst: float
    seed: int


def hundred_picture(values: np.ndarray, cost: float, seed: int) -> Hundred:
    """Stand the boxes in the order they were opened; heights end at three times the price."""
    top = max(3 * cost, float(np.percentile(values, 95)), 0.01)
    boxes = tuple(
        OpenedBox(value, round(min(value, top) / top * 84, 2), value >= cost - 1e-9) for value in values.tolist()
    )
    return Hundred(
        boxes=boxes,
        line=round(cost / top * 84, 2),
        pays=sum(1 for box in boxes if box.pays),
        total=float(values.sum()),
        paid=cost * len(boxes),
        best=float(values.max()),
        worst=float(values.min()),
        seed=seed,
    )
