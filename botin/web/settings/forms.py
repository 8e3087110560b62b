"""The form of the settings."""

from __future__ import annotations

from typing import Any

from flask_wtf import FlaskForm
from wtforms import FloatField, IntegerField, SelectField, SelectMultipleField, StringField, TextAreaField
from wtforms.fields.choices import SelectChoice  # type: ignore[attr-defined]  # the stubs are older
from wtforms.validators import InputRequired, Length, NumberRange, ValidationError
from wtforms.widgets import CheckboxInput, ListWidget

from botin.core.books.basis import CostRule
from botin.core.catalog.product import Kind, split_names
from botin.core.errors import DamageTableError, TimeZoneError
from botin.core.opening.owed import EACH, EVENED
from botin.core.pricing.damage import damage_table
from botin.desk.workbench import zone_of
from botin.web.locales import LOCALES, USUAL, example

KINDS = [
    SelectChoice(kind.value, kind.value.replace("_", " ")) for kind in Kind if kind not in (Kind.BASE, Kind.DECOY)
]


def _money(label: str, most: float = 10_000) -> FloatField:
    message = f"Write an amount from 0 to {most:,.0f}."
    return FloatField(label, validators=[InputRequired(message), NumberRange(0, most, message)])


def _share(label: str) -> FloatField:
    message = "Write a percentage from 0 to 100."
    return FloatField(label, validators=[InputRequired(message), NumberRange(0, 100, message)])


def _readable_damage(_form: FlaskForm, field: TextAreaField) -> None:
    """Refuse a table of damage that cannot be read."""
    try:
        damage_table(field.data or "")
    except DamageTableError as exc:
        raise ValidationError(exc.message) from exc


def _known_zone(_form: FlaskForm, field: StringField) -> None:
    """Refuse a time zone that is not known."""
    try:
        zone_of(field.data or "")
    except TimeZoneError as exc:
        raise ValidationError(exc.message) from exc


class SettingsForm(FlaskForm):
    """What counts as a hit, what selling and grading cost, who is collected."""

    hit_kinds = SelectMultipleField(
        "Always a hit", choices=KINDS, option_widget=CheckboxInput(), widget=ListWidget(prefix_label=False)
    )
    hit_numbered_to = IntegerField(
        "Numbered cards count up to a run of",
        validators=[InputRequired("Write a run, or 0."), NumberRange(0, 100_000, "Write a run, or 0 for none.")],
    )
    selling_fee_percent = _share("Selling fee, % of the price")
    selling_fixed = _money("Fixed fee a sale")
    postage = _money("Postage and packing a sale")
    bulk_below = _money("A single sale must leave at least")
    sale_materials = _money("Sleeve, mailer and tape a sale")
    sale_minutes = _money("Minutes a sale takes", 600)
    hourly = _money("What an hour of yours is worth")
    rip_budget = _money("Rip budget a month", 1_000_000)
    single_postage = _money("Postage when you buy a single")
    fade_half_life = _money("Weeks in which half the release fade is over", 260)
    fade_floor_percent = _share("What singles keep of their release price, %")
    hold_years = _money("Years you would hold a sealed box", 50)
    hold_yearly = _money("Storage and insurance of a sealed box a year")
    hold_growth_percent = _money("Growth a year you reckon with for sealed boxes, %", 1_000)
    grading_cost = _money("Grading one card, with its share of shipping")
    top_grade = StringField("Name of the top grade", validators=[Length(1, 12, "Write the grade as in your prices.")])
    gem_chance_percent = _share("Top grades among the cards you send in, %")
    collected = TextAreaField(
        "People and clubs you collect", validators=[Length(max=4_000, message="Shorten the list.")]
    )

    chase = TextAreaField("What you open boxes for", validators=[Length(max=4_000, message="Shorten the list.")])
    storage_plan = TextAreaField("Where copies are put away", validators=[Length(max=4_000)])
    sleeve_from = _money("Sleeve a card at once from")
    school = SelectField("Hits in a box", choices=[SelectChoice(word, word) for word in (EACH, EVENED)])
    rookie_kinds = SelectMultipleField(
        "Kinds of rookie that count", option_widget=CheckboxInput(), widget=ListWidget(prefix_label=False)
    )
    cost_rule = SelectField(
        "A copy’s share of its box", choices=[SelectChoice(rule.value, rule.value) for rule in CostRule]
    )
    look_minutes = _money("Minutes a closer look takes", 600)
    damage = TextAreaField("What damage leaves of a raw price", validators=[Length(max=4_000), _readable_damage])
    time_zone = StringField("Your time zone", validators=[Length(max=60), _known_zone])
    locale = SelectField(
        "How numbers, amounts and days are written",
        choices=[SelectChoice("" if code == USUAL else code, example(code)) for code in LOCALES],
    )
    my_address = TextAreaField("Your address", validators=[Length(max=400, message="Shorten the address.")])
    authenticate_above = _money("Raw cards above this price go by the authenticator", 1_000_000)
    authenticator_address = TextAreaField(
        "Address of the authenticator", validators=[Length(max=400, message="Shorten the address.")]
    )
    my_name = StringField("Your name", default="me", validators=[Length(1, 40, "Write a name of 1 to 40 letters.")])

    def offer(self, words: list[str]) -> None:
        """Set the rookie words that some checklist uses."""
        self.rookie_kinds.choices = [SelectChoice(word, "rookie mark" if word == "yes" else word) for word in words]

    @staticmethod
    def from_settings(values: dict[str, Any]) -> dict[str, Any]:
        """Shape stored settings for the form: lists of words, one name a line."""
        kinds = list(split_names(values["hit_kinds"]))
        rookies = list(split_names(values["rookie_kinds"]))
        return {
            **values,
            "rookie_kinds": rookies,
            "hit_kinds": kinds,
            "collected": "\n".join(split_names(values["collected"])),
            "chase": "\n".join(split_names(values["chase"])),
        }

    def to_settings(self) -> dict[str, Any]:
        """Return the settings as typed."""
        values = {name: field.data for name, field in self._fields.items() if name != "csrf_token"}
        values["hit_kinds"] = ";".join(self.hit_kinds.data or [])
        values["rookie_kinds"] = ";".join(self.rookie_kinds.data or [])
        lines = (self.collected.data or "").replace("\n", ";")
        values["collected"] = ";".join(split_names(lines))
        values["chase"] = ";".join(split_names((self.chase.data or "").replace("\n", ";")))
        return values
