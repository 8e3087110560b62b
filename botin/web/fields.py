"""Fields of forms read as people write them: amounts, days, whole numbers, grades, ticks. Written once, used by all.

A `TypedForm` is read field by field, each when its value is wanted: a form of several buttons asks for no more than
the button needs, and what cannot be read is refused in words by the one who answers for the request.
"""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from flask import request
from wtforms import Field, Form, StringField, ValidationError
from wtforms.widgets import DateInput

from botin.core.days import typed_day
from botin.core.errors import BadAmountError, BotinError
from botin.core.money import Money, parse_money
from botin.exchange.selling.feestext import known_currency
from botin.web.requests import bench

RATES = (1e-6, 1e6)
"""Least and most that one unit of a currency may be worth in another; beyond lies a slip of the hand."""


WIDEST = "KWD"
"""Before its currency is known an amount may have three decimals, as the finest currencies have."""


class TypedError(BotinError):
    """Something in a form that cannot be read, with how it is written."""

    status = 422


class TypedForm(Form):
    """A form as it was sent."""

    def __init__(self) -> None:
        super().__init__(request.form)


def read_money(text: str, currency: str) -> Money:
    """Read an amount from 0 on; 0 when it is left out.

    Raises
    ------
    BadAmountError, TypedError
        When it is none, is finer than the currency's minor unit, or is less than nothing.
    """
    found = parse_money(text.strip() or "0", currency)
    if found.minor < 0:
        message = f"“{text.strip()[:20]}” is less than nothing: an amount is not negative. Write it from 0 on."
        raise TypedError(message)
    return found


class WordField(StringField):
    """Words, cut to a length."""

    def __init__(self, label: str = "", validators: Any = None, *, most: int = 4_000, **more: Any) -> None:
        super().__init__(label, validators, **more)
        self.most = most

    @property
    def text(self) -> str:
        """What was written; empty when it was left out."""
        return (self.data or "")[: self.most]

    @property
    def word(self) -> str:
        """The same without blanks around it."""
        return self.text.strip()


class OnceForm(TypedForm):
    """A form that changes something: sent twice with the same key, it is done once."""

    client_key = WordField(most=64)


class MoneyField(WordField):
    """An amount from 0 on; empty is nothing, where it may be."""

    def pre_validate(self, _form: Any) -> None:
        """Refuse what is no amount, or less than nothing."""
        try:
            self.money(WIDEST)
        except BotinError as exc:
            raise ValidationError(exc.message) from exc

    def money(self, currency: str) -> Money:
        """Return the amount in a currency.

        Raises
        ------
        BadAmountError, TypedError
            When it is none, is finer than the currency's minor unit, or is less than nothing.
        """
        return read_money(self.word, currency)

    def given(self, currency: str) -> Money:
        """Return the amount where there must be one.

        Raises
        ------
        BadAmountError, TypedError
            When it is left out as well.
        """
        if not self.word:
            raise BadAmountError(self.word)
        return self.money(currency)


class DayField(StringField):
    """A day as people write it; ``ahead`` says how far it may lie in the future."""

    widget = DateInput()

    def __init__(
        self, label: str = "", validators: Any = None, *, ahead: timedelta = timedelta(), **more: Any
    ) -> None:
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
        return self.or_today() if self._value().strip() else None

    def or_today(self) -> date:
        """Return the day; today when it is left out.

        Raises
        ------
        DayError
            When it is none.
        """
        return typed_day(self._value().strip(), bench().today(), self.ahead)


AHEAD = timedelta(days=3 * 366)
"""How far a day may lie ahead on which something falls due or ends."""


class PlannedField(DayField):
    """A day that may lie ahead."""

    def __init__(self, label: str = "", **more: Any) -> None:
        super().__init__(label, ahead=AHEAD, **more)


class WholeField(WordField):
    """A whole number from 0 on."""

    def whole(self, otherwise: int = 0) -> int:
        """Return the number; ``otherwise`` when it is left out.

        Raises
        ------
        TypedError
            When it is none.
        """
        text = self.word
        if not text:
            return otherwise
        if not (text.isascii() and text.isdecimal() and len(text) < 10):
            message = f"“{text[:20]}” is no whole number. Write one from 0 on, without a unit."
            raise TypedError(message)
        return int(text)

    def lenient(self, otherwise: int) -> int:
        """Return the number; ``otherwise`` for what is none, where nothing hangs on it but the place one is at."""
        text = self.word
        return int(text) if text.isascii() and text.isdecimal() and len(text) < 10 else otherwise

    def row_id(self) -> int:
        """Return the number of a thing that the form names; 0, which nothing has, for what is none."""
        text = self.text
        return int(text) if text.isascii() and text.isdecimal() and len(text) < 19 else 0


class NumberField(WordField):
    """A number between two bounds, with a point or a comma.

    Parameters
    ----------
    low, high : float
        The bounds.
    step : float
        It is a multiple of this; 0 for any.
    must : str
        What is said behind what was written otherwise, with the field's name: "for the {name} is no grade. Write …".
    """

    def __init__(self, label: str = "", *, low: float, high: float, must: str, step: float = 0, **more: Any) -> None:
        super().__init__(label, **more)
        self.low, self.high, self.step, self.must = low, high, step, must

    def number(self) -> float | None:
        """Return the number; None when it is left out.

        Raises
        ------
        TypedError
            When it is none, lies beyond the bounds, or between two steps.
        """
        if not self.word:
            return None
        try:
            found = float(self.word.replace(",", "."))
        except ValueError:
            found = self.low - 1
        if not self.low <= found <= self.high or (self.step and found / self.step % 1):
            message = f"“{self.word[:20]}” {self.must.format(name=self.name)}"
            raise TypedError(message)
        return found


class TicksField(Field):
    """Boxes that are ticked, or one field that occurs several times."""

    data: list[str]

    def process_data(self, _value: Any) -> None:
        """Begin with none."""
        self.data = []

    def process_formdata(self, valuelist: list[str]) -> None:
        """Keep what was sent, in its order."""
        self.data = [str(value) for value in valuelist]

    def ids(self, prefix: str = "") -> list[int]:
        """Return the numbers among them, without a word before each."""
        texts = [text.removeprefix(prefix) for text in self.data]
        return [int(text) for text in texts if text.isascii() and text.isdecimal() and len(text) < 19]


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
