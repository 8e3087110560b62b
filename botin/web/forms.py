"""Forms that several desks share."""

from __future__ import annotations

from botin.desk.selling.sales import Deal
from botin.web.fields import DayField, MoneyField, OnceForm, TicksField, TypedForm, WholeField, WordField


class DealForm(OnceForm):
    """Something sold by hand: when, for how much, at what costs, to whom."""

    day = DayField()
    price = MoneyField()
    costs = MoneyField()
    to = WordField(most=120)

    def deal(self, currency: str) -> Deal:
        """Return the deal.

        Raises
        ------
        BotinError
            When the day or an amount cannot be read.
        """
        return Deal(self.day.or_today(), self.price.money(currency), self.costs.money(currency), self.to.text)


class DaysForm(TypedForm):
    """How many days pass in the demo, and which page asked."""

    days = WholeField()
    sale = WholeField()
    order = WholeField()

    def count(self, most: int) -> int:
        """Return how many days pass.

        Raises
        ------
        TypedError
            When it is no whole number.
        """
        return min(max(1, self.days.whole(1)), most)


class LotForm(DealForm):
    """Copies that are sold together."""

    copy = TicksField()
