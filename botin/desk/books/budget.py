"""A month's rip budget: what is spent, what came back, the price of the fun."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.money import Money
from botin.desk.settings import Settings
from botin.store.books.postings import month_rows


@dataclass(frozen=True, slots=True)
class Month:
    """One month in one currency.

    Attributes
    ----------
    budget : Money or None
        None when no budget is set.
    spent, singles, back : Money
        Boxes bought, singles bought, and what sales brought after their costs.
    """

    first: date
    budget: Money | None
    spent: Money
    singles: Money
    back: Money

    @property
    def fun(self) -> Money:
        """What was spent and has not come back."""
        return self.spent + self.singles - self.back

    def over(self, more: Money) -> Money | None:
        """By how much spending ``more`` would go over the budget; None when it does not."""
        if self.budget is None or more.currency != self.budget.currency:
            return None
        left = self.spent + self.singles + more - self.budget
        return left if left.minor > 0 else None


def month_of(session: Session, day: date, settings: Settings, currency: str) -> Month:
    """Read the month of a day out of the books."""
    first = day.replace(day=1)
    sums: Counter[tuple[str, str]] = Counter()
    for row in month_rows(session, f"{day:%Y-%m}", f"{day:%Y-%m}"):
        if row.currency == currency:
            sums[(row.kind, row.account)] += row.minor
    budget = Money.from_major(settings.rip_budget, currency) if settings.rip_budget else None
    return Month(
        first,
        budget,
        Money(sums[("purchase", Account.BOXES.value)], currency),
        Money(sums[("purchase", Account.CARDS.value)], currency),
        Money(sums[("sale", Account.CASH.value)], currency),
    )
