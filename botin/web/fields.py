"""Fields of forms read as people write them: an amount, a day, a rate, a currency. Written once, used by all."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from wtforms import StringField, ValidationError
from wtforms.widgets import DateInput

from botin.core.days import typed_day
from botin.core.errors import BotinError
from botin.core.money import Money, parse_money
from botin.exchange.selling.feestext import known_currency
from botin.web.requests import bench

RATES = (1e-6, 1e6)
"""Least and most that one unit of a currency may be worth in another; beyond lies a slip of the hand."""


class MoneyField(StringField):
    """An amount from 0 on; empty is nothing, where it may be."""

    def pre_validate(self, _form: Any) -> None:
        """Refuse what is no amount, or less than nothing."""
        try:
            paid = parse_money(self.data or "0", "EUR")
        except BotinError as exc:
            raise ValidationError(exc.message) from exc
        if paid.minor < 0:
            message = "A price is not negative. Write what you paid, or 0 for a gift."
            raise ValidationError(message)

    def money(self, currency: str) -> Money:
        """Return the amount in a currency.

        Raises
        ------
        BadAmountError
            When it is finer than the currency's minor unit.
        """
        return parse_money(self.data or "0", currency)


class DayField(StringField):
    """A day as people write it; ``ahead`` says how far it may lie in the future."""

    widget = DateInput()

    def __init__(self, label: str = "", validators: Any = None, *, ahead: timedelta, **more: Any) -> None:
        super().__init__(label, validators, **more)
        self.ahead = ahead

    def _value(self) -> str:
        return self.data.isoformat() if isinstance(self.data, date) else str(self.data or "")

    def pre_validate(self, _form: Any) -> None:
        """Refuse what is no day, or of another century."""
        if not self._value().strip():
            return
        try:
            self.day()
        except BotinError as exc:
            raise ValidationError(exc.message) from exc

    def day(self) -> date | None:
        """Return the day; None when it is left out.

        Raises
        ------
        DayError
            When it is none.
        """
        text = self._value().strip()
        return typed_day(text, bench().today(), self.ahead) if text else None


class RateField(StringField):
    """What one unit of a currency is worth in another; its digits are kept as they were typed."""

    def rate(self) -> str:
        """Return the rate with a point as its decimal mark; empty when it is left out."""
        return (self.data or "").strip().replace(",", ".")

    def pre_validate(self, _form: Any) -> None:
        """Refuse what is no rate."""
        text = self.rate()
        whole, _, part = text.partition(".")
        plain = whole.isascii() and whole.isdecimal() and (not part or (part.isascii() and part.isdecimal()))
        if text and not (plain and RATES[0] <= float(text) <= RATES[1]):
            message = f"“{text[:20]}” is no rate. Write what one unit was worth, like 0.92."
            raise ValidationError(message)


class CurrencyField(StringField):
    """A currency by its three letters."""

    def pre_validate(self, _form: Any) -> None:
        """Refuse what is no currency of ISO 4217."""
        try:
            self.code()
        except BotinError as exc:
            raise ValidationError(exc.message) from exc

    def code(self) -> str:
        """Return its code in capitals.

        Raises
        ------
        TermsError
            When it is none.
        """
        return known_currency(self.data or "EUR")
