"""An order as it was typed: rows of boxes and singles, and what they share."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Any

from flask import request
from flask_wtf import FlaskForm
from sqlalchemy.orm import Session
from wtforms import FieldList, Form, FormField, HiddenField, StringField
from wtforms.validators import Length

from botin.core.books.orders import ORDERED
from botin.core.books.posting import AmountError
from botin.core.days import PLANNED
from botin.desk.books.purchases import BoxLine, Order
from botin.desk.books.singles import SingleLine, read_single
from botin.desk.workbench import Workbench
from botin.web.fields import (
    CurrencyField,
    DayField,
    MoneyField,
    OnceForm,
    RateField,
    TicksField,
    TypedForm,
    WordField,
)

BOX_ROWS, SINGLE_ROWS, MOST_ROWS = 4, 3, 40


class BoxRow(Form):
    """One row of boxes."""

    quantity = StringField()
    format = StringField()
    price = MoneyField()
    label = StringField(validators=[Length(max=80, message="A note takes 80 characters.")])

    def line(self, number: int, currency: str) -> BoxLine | None:
        """Return the boxes of the row; None when nothing is written in it.

        Raises
        ------
        AmountError
            When a row has no price or no format though something else is written in it.
        """
        price, chosen, note = ((field.data or "").strip() for field in (self.price, self.format, self.label))
        if not price and not chosen and not note:
            return None
        if not price or not (chosen.isascii() and chosen.isdecimal()):
            lacks = "price" if chosen else "product and format"
            message = f"The row {number} of the boxes has no {lacks}. Fill it in, or empty the row."
            raise AmountError(message)
        return BoxLine(int(chosen[:15]), _whole(self.quantity.data or ""), self.price.money(currency), note)


class SingleRow(Form):
    """One row of singles."""

    product = StringField()
    card = StringField()
    price = MoneyField()

    def lines(self, session: Session, bench: Workbench, number: int, currency: str) -> list[SingleLine]:
        """Return the cards of the row; none when nothing is written in it.

        Raises
        ------
        AmountError
            When a row has a price and no card, or its card is not understood.
        """
        text, chosen = (self.card.data or "").strip(), (self.product.data or "").strip()
        if not text and (self.price.data or "").strip():
            message = f"The row {number} of the singles has no card. Write which, or empty the row."
            raise AmountError(message)
        if not text:
            return []
        product = int(chosen[:15]) if chosen.isascii() and chosen.isdecimal() else 0
        return read_single(session, bench, product, text[:200], self.price.money(currency))


class OrderForm(FlaskForm):
    """An order of boxes and singles."""

    client_key = HiddenField()
    seller = StringField()
    bought_on = DayField(ahead=PLANNED)
    state = StringField(default="arrived")
    currency = CurrencyField(default="EUR")
    rate = RateField()
    shipping = MoneyField()
    tax = MoneyField()
    due_on = DayField(ahead=PLANNED)
    note = StringField()
    box = FieldList(FormField(BoxRow), max_entries=MOST_ROWS)
    single = FieldList(FormField(SingleRow), max_entries=MOST_ROWS)

    def order(self, session: Session, bench: Workbench) -> Order:
        """Return the order.

        Raises
        ------
        BotinError
            When something of it cannot be read; the message says what.
        """
        if not self.validate():
            raise AmountError(next(_said(self.errors)))
        currency, state = self.currency.code(), self.state.data or "arrived"
        self.bought_on.ahead = PLANNED if state == ORDERED else timedelta(0)
        boxes = (row.form.line(number, currency) for number, row in _numbered("box", self.box))
        singles = (
            row.form.lines(session, bench, number, currency) for number, row in _numbered("single", self.single)
        )
        return Order(
            bought_on=self.bought_on.day() or _no_day(),
            seller=self.seller.data or "",
            shipping=self.shipping.money(currency),
            tax=self.tax.money(currency),
            state=state,
            boxes=tuple(line for line in boxes if line is not None),
            singles=tuple(line for lines in singles for line in lines),
            rate=self.rate.rate(),
            due_on=self.due_on.day(),
            note=self.note.data or "",
        )


def sent_order(session: Session, bench: Workbench) -> Order:
    """Read the order that was sent.

    Raises
    ------
    BotinError
        When something of it cannot be read; the message says what.
    """
    numbers = [key.split("-")[1] for key in request.form if key.startswith(("box-", "single-"))]
    if not all(number.isascii() and number.isdecimal() and len(number) < 6 for number in numbers):
        message = "The rows of this form cannot be told apart. Reload the page, and write the order down anew."
        raise AmountError(message)
    return OrderForm().order(session, bench)


def _numbered(name: str, rows: Any) -> Iterator[tuple[int, Any]]:
    """Go through rows with their numbers on the page, from 1 on; a field list counts away what was not sent."""
    parts = (key.split("-") for key in request.form if key.startswith(f"{name}-"))
    sent = sorted({int(part[1]) for part in parts if len(part) == 3})
    yield from zip((number + 1 for number in sent), rows, strict=False)


def _said(errors: Any) -> Any:
    """Go through what is wrong, however deep it lies."""
    if isinstance(errors, str):
        yield errors
        return
    for one in errors.values() if isinstance(errors, dict) else errors:
        yield from _said(one)


def _no_day() -> date:
    message = "Write the day it was bought, like 2026-03-14."
    raise AmountError(message)


def _whole(text: str) -> int:
    """Read how many; an empty field is one.

    Raises
    ------
    AmountError
        When it is no number from 1 to 60.
    """
    if not text.strip():
        return 1
    if not (text.strip().isascii() and text.strip().isdecimal() and len(text.strip()) < 4):
        message = f"“{text[:20]}” is no number of boxes. Write 1, or 2."
        raise AmountError(message)
    return int(text)


class PaidForm(TypedForm):
    """The day on which an order was paid."""

    day = DayField()


class SentForm(TypedForm):
    """When what was sent should arrive."""

    due_on = DayField(ahead=PLANNED)


class ArrivedForm(TypedForm):
    """What of an order arrived: the ticked things, or all of it."""

    what = WordField()
    box = TicksField()
    copy = TicksField()

    @property
    def ticked(self) -> bool:
        """Whether only what is ticked arrived."""
        return self.what.text == "ticked"

    def things(self) -> tuple[list[int], list[int]]:
        """Return boxes and singles; both empty for all of it."""
        return (self.box.ids(), self.copy.ids()) if self.ticked else ([], [])


class AskedForm(OnceForm):
    """Under which key an order is stored, and whether it was asked about the budget."""

    over_budget = WordField(most=20)
