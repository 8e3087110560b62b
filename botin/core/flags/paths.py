"""What each route of a copy nets month by month: selling raw while the price fades, and each tier once it is back."""

from __future__ import annotations

from dataclasses import dataclass

from botin.core.flags.nets import GradedSales, graded_route, later_route
from botin.core.flags.ways import WEEKS_A_MONTH, CopyFacts, GradingCosts, Route
from botin.core.selling.costs import SaleCosts

MONTHS = 12


@dataclass(frozen=True)
class RoutePath:
    """One route over the months: ``first`` is the month in which it can be sold, ``steps`` go on from there."""

    label: str
    first: int
    steps: tuple[Route, ...]

    @property
    def best(self) -> tuple[int, Route]:
        """The month in which it nets most, with what it nets then."""
        at = max(range(len(self.steps)), key=lambda step: (self.steps[step].mean, -step))
        return self.first + at, self.steps[at]


def route_paths(
    copy: CopyFacts, costs: SaleCosts, grading: GradingCosts, months: int = MONTHS
) -> tuple[RoutePath, ...]:
    """Follow selling raw and every tier over the months.

    Parameters
    ----------
    copy : CopyFacts
        Prices, chances, fade and age.
    costs : SaleCosts
        What selling costs.
    grading : GradingCosts
        Tiers, and what a month of waiting costs.
    months : int
        How far to look.

    Returns
    -------
    tuple of RoutePath
        Selling raw first; nothing when no price is known.
    """
    if copy.raw.amount <= 0:
        return ()
    raw = tuple(later_route(copy, costs, grading, month * WEEKS_A_MONTH) for month in range(months + 1))
    found = [RoutePath("sell raw", 0, raw)]
    sales = GradedSales(copy, costs, grading)
    for tier in grading.tiers if copy.chances else ():
        back = -int(-tier.days // (7 * WEEKS_A_MONTH))
        if back <= months:
            steps = (graded_route(sales, tier, month * WEEKS_A_MONTH) for month in range(back, months + 1))
            found.append(RoutePath(f"grade ({tier.label})", back, tuple(steps)))
    return tuple(found)
