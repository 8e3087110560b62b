"""The form for a box bought."""

from __future__ import annotations

from datetime import date

from flask_wtf import FlaskForm
from wtforms import HiddenField, SelectField, StringField
from wtforms.fields.choices import SelectChoice  # type: ignore[attr-defined]  # the stubs are older
from wtforms.validators import DataRequired, Length, Optional

from botin.core.days import PLANNED
from botin.desk.opening.boxedit import BoxFacts
from botin.desk.opening.shelf import Purchase
from botin.exchange.catalog.package import amount_text
from botin.web.fields import DayField, MoneyField, WordField
from botin.web.forms import DealForm


def shown(facts: BoxFacts) -> dict[str, object]:
    """Return what a box says as the form shows it."""
    amounts = {name: getattr(facts, name) for name in ("price", "shipping", "tax")}
    cells: dict[str, object] = {name: amount_text(money) for name, money in amounts.items()}
    return {**cells, "bought_on": facts.bought_on, "label": facts.label, "format_id": facts.format_id}


class PurchaseForm(FlaskForm):
    """What was bought, when, and for how much."""

    client_key = HiddenField(validators=[DataRequired(), Length(max=64)])
    format_id = SelectField("Product and format", coerce=int)
    bought_on = DayField("Bought on", [DataRequired("Write a date like 2026-03-14.")], ahead=PLANNED)
    price = MoneyField("Price", [DataRequired("Write what the box cost, like 39.99.")])
    shipping = MoneyField("Shipping")
    tax = MoneyField("Tax and duty")
    over_budget = HiddenField(validators=[Optional(), Length(max=8)])
    label = StringField("Note", validators=[Length(max=80, message="A note takes 80 characters.")])

    def offer(self, choices: list[tuple[int, str, str]]) -> None:
        """Set the formats to choose from."""
        self.format_id.choices = [SelectChoice(str(key), words) for key, words, _ in choices]

    def facts(self, currency: str) -> BoxFacts:
        """Return what the box is corrected to."""
        return BoxFacts(
            bought_on=self.bought_on.day() or date.min,
            price=self.price.money(currency),
            shipping=self.shipping.money(currency),
            tax=self.tax.money(currency),
            label=(self.label.data or "").strip(),
            format_id=self.format_id.data,
        )

    def purchase(self, choices: list[tuple[int, str, str]]) -> Purchase:
        """Return the purchase as typed, in the product's currency."""
        currency = next((code for key, _, code in choices if key == self.format_id.data), "EUR")

        return Purchase(
            format_id=self.format_id.data,
            bought_on=self.bought_on.day() or date.min,
            price=self.price.money(currency),
            shipping=self.shipping.money(currency),
            tax=self.tax.money(currency),
            label=(self.label.data or "").strip(),
        )


class SellForm(DealForm):
    """A box that is sold as it is, or empty; or a sale of one that is taken back."""

    back = WordField()
