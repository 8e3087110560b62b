"""Forms of the books."""

from __future__ import annotations

from botin.desk.books.accounts import Noted
from botin.exchange.selling.feestext import known_currency
from botin.web.fields import DayField, MoneyField, OnceForm, TypedForm, WholeField, WordField


class NoteForm(OnceForm):
    """An expense, or what was paid to or got from a person."""

    what = WordField(most=60)
    amount = MoneyField()
    currency = WordField(most=20)
    day = DayField()
    person = WordField(most=120)
    words = WordField(most=400)

    def noted(self) -> Noted:
        """Return it.

        Raises
        ------
        BotinError
            When the amount, the currency or the day cannot be read.
        """
        code = known_currency(self.currency.word if self.currency.raw_data else "EUR")
        amount = self.amount.money(code)
        return Noted(self.what.text, amount, self.day.or_today(), self.person.text, self.words.text)


class BackForm(TypedForm):
    """An entry that is taken back."""

    entry = WholeField()
