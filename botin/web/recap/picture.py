"""The money line: cost, value and the model's mean on one scale."""

from __future__ import annotations

from dataclasses import dataclass

from botin.desk.insight.recap import BoxRecap

WIDTH = 600.0


@dataclass(frozen=True, slots=True)
class MoneyLine:
    """Places on a line of 600 units."""

    cost: float
    value: float
    mean: float
    ticks: tuple[tuple[float, float], ...]


def money_line(recap: BoxRecap) -> MoneyLine:
    """Place the three amounts on a scale from 0 to a little above the largest."""
    cost = recap.recap.costs[0].value or 0.0
    value, mean = recap.recap.value.value or 0.0, recap.model_mean.value or 0.0
    top = max(cost, value, mean, 1.0) * 1.08
    step = _step(top)
    ticks = tuple((place * step, place * step / top * WIDTH) for place in range(int(top / step) + 1))
    return MoneyLine(cost / top * WIDTH, value / top * WIDTH, mean / top * WIDTH, ticks)


def _step(top: float) -> float:
    """Return a round step that gives four to eight ticks."""
    step = 1.0
    while top / step > 8:
        step *= 2.5 if str(step).startswith("2") else 2
    return step
