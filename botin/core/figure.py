"""A computed figure with how it came about: never a bare number."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Unit = Literal["money", "count", "share", "odds", "number"]


@dataclass(frozen=True, slots=True)
class Input:
    """One number that went into a figure."""

    name: str
    value: float
    unit: Unit = "count"


@dataclass(frozen=True, slots=True)
class Figure:
    """A value with its formula, inputs and assumptions.

    Attributes
    ----------
    value : float or None
        In major units for money; None when it cannot be known.
    formula : str
        In words, with the names of the inputs.
    low, high : float or None
        Interval, where the value is an estimate.
    """

    label: str
    value: float | None
    unit: Unit
    formula: str
    inputs: tuple[Input, ...] = ()
    assumptions: tuple[str, ...] = ()
    low: float | None = None
    high: float | None = None


def ratio(label: str, unit: Unit, top: Input, bottom: Input, assumptions: tuple[str, ...] = ()) -> Figure:
    """``top ÷ bottom`` as a figure; None when there is nothing to divide by."""
    value = top.value / bottom.value if bottom.value else None
    return Figure(label, value, unit, f"{top.name} ÷ {bottom.name}", (top, bottom), assumptions)
