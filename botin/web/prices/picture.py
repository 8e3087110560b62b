"""Sold prices of a version over time, with the estimate and its band."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date

from botin.core.pricing.guess import Guess
from botin.core.pricing.prices import PriceKind, PriceRow

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BASE = 620.0, 210.0, 52.0, 610.0, 12.0, 176.0


@dataclass(frozen=True, slots=True)
class Dot:
    """One price: its place, and how it is drawn."""

    x: float
    y: float
    kind: str
    words: str


@dataclass(frozen=True)
class PricePicture:
    """The chart."""

    dots: tuple[Dot, ...]
    middle: float
    low: float
    high: float
    ticks: tuple[tuple[float, str], ...]
    days: tuple[tuple[float, str], ...]


def price_picture(
    rows: Sequence[PriceRow], used: Collection[PriceRow], guess: Guess, today: date
) -> PricePicture | None:
    """Draw raw prices of the last year; None when there is none."""
    raw = [row for row in rows if not row.grade and row.sold_on and (today - row.sold_on).days <= 400]
    if not raw:
        return None
    span = max(14, *((today - row.sold_on).days for row in raw if row.sold_on))
    top = 1.12 * max(guess.high, *sorted(row.amount for row in raw)[: max(1, int(0.95 * len(raw) + 0.5))])

    def x(day: date) -> float:
        return round(RIGHT - (RIGHT - LEFT) * (today - day).days / span, 1)

    def y(amount: float) -> float:
        return round(BASE - (BASE - TOP) * min(amount, top) / top, 1)

    dots = tuple(
        Dot(
            x(row.sold_on),
            y(row.amount),
            "used" if row in used else "odd" if row.kind is PriceKind.SOLD else row.kind.value,
            f"{row.amount:,.2f} on {row.sold_on.isoformat()}, {row.kind.value}, {row.source or 'typed'}",
        )
        for row in raw
        if row.sold_on
    )
    step = top / 4
    ticks = tuple((y(step * n), f"{step * n:,.0f}" if top > 20 else f"{step * n:,.2f}") for n in range(5))
    marks = tuple(
        (round(RIGHT - (RIGHT - LEFT) * n / 4, 1), f"{round(span * n / 4)} d ago" if n else "today") for n in range(5)
    )
    return PricePicture(dots, y(guess.mean), y(guess.low), y(guess.high), ticks, marks)
