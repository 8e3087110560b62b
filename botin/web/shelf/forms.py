"""The form for a box bought."""

from __future__ import annotations

from datetime import date
from typing import Any

from flask_wtf import FlaskForm
from wtforms import DateField, Field, HiddenField, SelectField, StringField
from wtforms.fields.choices import SelectChoice  # type: ignore[attr-defined]  # the stubs are older
from wtforms.validators import DataRequired, Length, Optional, ValidationError

from botin.core.days import PLANNED, DayError, likely_day
from botin.core.errors import BadAmountError
from botin.core.money import Money, parse_money
from botin.desk.opening.boxedit import BoxFacts
from botin.desk.opening.shelf import Purchase
from botin.exchange.catalog.package import amount_text
from botin.web.requests import bench


def not_negative(_form: FlaskForm, field: Field) -> None:
    """Refuse what is no amount or less than nothing, at the field."""
    try:
        paid = parse_money(field.data or "0", "EUR")
    except BadAmountError as exc:
        raise ValidationError(exc.message) from exc
    if paid.minor < 0:
        message = "A price is not negative. Write what you paid, or 0 for a gift."
        raise ValidationError(message)


def can_be_meant(_form: FlaskForm, field: DateField) -> None:
    """Refuse a day of another century; what is ordered ahead may come later."""
    try:
        likely_day(field.data or bench().today(), bench().today(), PLANNED)
    except DayError as exc:
        raise ValidationError(exc.message) from exc


def shown(facts: BoxFacts) -> dict[str, object]:
    """Return what a box says as the form shows it."""
    amounts = {name: getattr(facts, name) for name in ("price", "shipping", "tax")}
    cells: dict[str, object] = {name: amount_text(money) for name, money in amounts.items()}
    return {**cells, "bought_on": facts.bought_on, "label": facts.label, "format_id": facts.format_id}


class PurchaseForm(FlaskForm):
    """What was bought, when, and for how much."""

    client_key = HiddenField(validators=[DataRequired(), Length(max=64)])
    format_id = SelectField("Product and format", coerce=int)
    bought_on = DateField("Bought on", validators=[DataRequired("Write a date like 2026-03-14."), can_be_meant])
    price = StringField("Price", validators=[DataRequired("Write what the box cost, like 39.99."), not_negative])
    shipping = StringField("Shipping", validators=[Optional(), not_negative])
    tax = StringField("Tax and duty", validators=[Optional(), not_negative])
    over_budget = HiddenField(validators=[Optional(), Length(max=8)])
    label = StringField("Note", validators=[Length(max=80, message="A note takes 80 characters.")])

    def offer(self, choices: list[tuple[int, str, str]]) -> None:
        """Set the formats to choose from."""
        self.format_id.choices = [SelectChoice(str(key), words) for key, words, _ in choices]

    def facts(self, currency: str) -> BoxFacts:
        """Return what the box is corrected to."""

        def paid(field: Any) -> Money:
            return parse_money(field.data or "0", currency)

        return BoxFacts(
            self.bought_on.data or date.min,
            paid(self.price),
            paid(self.shipping),
            paid(self.tax),
            (self.label.data or "").strip(),
            self.format_id.data,
        )

    def purchase(self, choices: list[tuple[int, str, str]]) -> Purchase:
        """Return the purchase as typed, in the product's currency."""
        currency = next((code for key, _, code in choices if key == self.format_id.data), "EUR")
        bought: date = self.bought_on.data or date.min

        def paid(field: Any) -> Money:
            return parse_money(field.data or "0", currency)

        return Purchase(
            self.format_id.data,
            bought,
            paid(self.price),
            paid(self.shipping),
            paid(self.tax),
            (self.label.data or "").strip(),
        )
