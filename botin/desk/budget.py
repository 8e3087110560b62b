"""A month's rip budget: what is spent, what came back, the price of the fun."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.desk.settings import Settings
from botin.store.models import BoxRecord
from botin.store.models_copies import ArrivalRecord, DepartureRecord


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
    """Add up the month of a day."""
    first = day.replace(day=1)
    after = (first + timedelta(days=32)).replace(day=1)
    paid = func.sum(BoxRecord.price_minor + BoxRecord.shipping_minor + BoxRecord.tax_minor)
    spent = session.scalar(
        select(paid).where(BoxRecord.bought_on >= first, BoxRecord.bought_on < after, BoxRecord.currency == currency)
    )
    a, d = ArrivalRecord, DepartureRecord
    singles = session.scalar(
        select(func.sum(a.cost_minor)).where(
            a.got_on >= first, a.got_on < after, a.currency == currency, a.undone_at.is_(None)
        )
    )
    back = session.scalar(
        select(func.sum(d.price_minor - d.costs_minor)).where(
            d.left_on >= first, d.left_on < after, d.currency == currency, d.undone_at.is_(None)
        )
    )
    budget = Money.from_major(settings.rip_budget, currency) if settings.rip_budget else None
    return Month(
        first, budget, Money(spent or 0, currency), Money(singles or 0, currency), Money(back or 0, currency)
    )
