"""Forms of a card's page about its copies."""

from __future__ import annotations

from botin.desk.copies.editing import CopyFacts
from botin.desk.selling.disposals import WENT, Disposal
from botin.web.fields import DayField, MoneyField, OnceForm, TypedForm, WholeField, WordField


class LeaveForm(OnceForm):
    """How a copy left."""

    copy = WholeField()
    disposal = WholeField()
    went = WordField(most=40)
    left_on = DayField()
    price = MoneyField()
    costs = MoneyField()
    came_in = WordField(most=200)
    to = WordField(most=120)

    def leaving(self, currency: str) -> Disposal:
        """Return it.

        Raises
        ------
        BotinError
            When the day or an amount cannot be read.
        """
        price, costs = self.price.money(currency), self.costs.money(currency)
        went = self.went.text if self.went.raw_data else WENT[0]
        return Disposal(went, self.left_on.or_today(), price, costs, self.came_in.text, self.to.text)


class CopyForm(OnceForm):
    """Whose a copy is, where it lies, its certificate and note."""

    copy = WholeField()
    owner = WordField()
    place = WordField()
    certificate = WordField()
    note = WordField()

    def facts(self) -> CopyFacts:
        """Return them as they were written."""
        return CopyFacts(self.owner.text, self.place.text, self.certificate.text, self.note.text)


class PriceForm(TypedForm):
    """A price that is taken out, or brought back."""

    price = WholeField()
    bring_back = WholeField()


class BackForm(TypedForm):
    """A note that is taken back: that a copy left, or that it came."""

    disposal = WholeField()
    acquired = WholeField()
