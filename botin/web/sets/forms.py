"""Forms of the set board."""

from __future__ import annotations

from botin.desk.copies.elsewhere import CAME, Acquisition
from botin.desk.copies.swapping import Agreed
from botin.web.fields import DayField, MoneyField, OnceForm, TicksField, TypedForm, WholeField, WordField

Card = tuple[int, str, str]
"""Product, section and number of a card that comes in."""


class ArriveForm(OnceForm):
    """Copies that came from elsewhere: numbers, and what all of them cost."""

    product_id = WholeField()
    back = WordField()
    section = WordField(most=120)
    numbers = WordField(most=20_000)
    parallel = WordField(most=120)
    came = WordField(most=40)
    source = WordField()
    got_on = DayField()
    cost = MoneyField()

    def acquisition(self, currency: str) -> Acquisition:
        """Return what came.

        Raises
        ------
        BotinError
            When the day or the cost cannot be read.
        """
        return Acquisition(
            section=self.section.text, numbers=self.numbers.text, parallel=self.parallel.word,
            came=self.came.text if self.came.raw_data else CAME[0], source=self.source.text,
            got_on=self.got_on.or_today(), cost=self.cost.money(currency),
        )  # fmt: skip


class SwapForm(OnceForm):
    """A swap as it was agreed: what goes, what comes, cash, the day, with whom."""

    copy = TicksField()
    got = TicksField(name="get")
    cash = MoneyField()
    day = DayField()
    to = WordField(most=120)

    def agreed(self, currency: str) -> Agreed:
        """Return it.

        Raises
        ------
        BotinError
            When the day or the cash cannot be read.
        """
        came = tuple(card for text in self.got.data if (card := _card(text)) is not None)
        return Agreed(
            tuple(self.copy.ids("copy:")), came, self.cash.money(currency), self.day.or_today(), self.to.text
        )


def _card(text: str) -> Card | None:
    """Read ``product:section:number``; None for what is no such thing."""
    product, _, rest = text.partition(":")
    section, _, number = rest.partition(":")
    known = product.isascii() and product.isdecimal() and len(product) < 19 and section and number
    return (int(product), section, number) if known else None


class SetsForm(TypedForm):
    """The named sets, one a line."""

    sets = WordField(most=8_000)


class HaveForm(TypedForm):
    """The product of which one has cards already."""

    product = WholeField()
