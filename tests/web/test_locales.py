"""Numbers, amounts and days as the user writes them.

The forms of other locales are those of the documentation of Babel, whose data are those of the Unicode CLDR.
"""

from __future__ import annotations

from datetime import date

import pytest
from babel.numbers import get_currency_precision, list_currencies
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from botin.core.money import exponent
from botin.desk.settings import load_settings, save_settings
from botin.web.locales import LOCALES, day_text, example, money_text, number_text
from botin.web.words import amount, with_amounts

HISTORIC_OR_CASH = {
    "ADP", "AFN", "ALL", "BYR", "CLF", "COP", "ESP", "HUF", "IDR", "IQD", "IRR", "ITL", "KPW", "LAK", "LBP", "LUF", "MGA",
    "MGF", "MMK", "MRO", "SLL", "SOS", "STD", "SYP", "TMM", "TRL", "UYI", "UYW", "YER", "ZMK", "ZWD",
}  # fmt: skip
"""Where CLDR gives the digits in use and not those of the minor unit in ISO 4217, which stored amounts rest on."""


def test_amounts_of_the_documentation_of_babel() -> None:
    assert money_text(1099.98, "USD", "en_US") == "$1,099.98"
    assert money_text(1099.98, "USD", "de_DE") == "1.099,98 $"
    assert number_text("1.2345", "sv_SE") == "1,2345"
    assert number_text("1234567.891", "de_DE") == "1.234.567,891"
    assert day_text(date(2007, 4, 1), "en_US") == "Apr 1, 2007"
    assert day_text(date(2007, 4, 1), "de_DE") == "01.04.2007"


@pytest.mark.parametrize("locale", LOCALES)
def test_every_choice_writes_whole_minor_units(locale: str) -> None:
    assert "1" in example(locale)
    assert "50" not in money_text(1234.5, "JPY", locale)
    assert money_text(0.125, "KWD", locale).replace(",", ".").count("0.125") == 1
    assert money_text(1.0, "XQX", locale)


def test_the_digits_of_currencies_are_those_of_cldr_where_it_means_the_minor_unit() -> None:
    differ = {code for code in list_currencies() if len(code) == 3 and exponent(code) != get_currency_precision(code)}
    assert differ == HISTORIC_OR_CASH
    assert all(exponent(code) == get_currency_precision(code) for code in ("EUR", "USD", "GBP", "JPY", "KRW", "KWD"))


def test_a_minus_is_one_and_nothing_has_none() -> None:
    assert amount(-3.5, "EUR") == "−€3.50"
    assert amount(-0.001, "EUR") == "€0.00"
    assert amount(3.5, "EUR", signed=True) == "+€3.50"
    assert amount(None, "EUR") == "–"


def test_amounts_within_the_sentences_of_the_core_are_written_as_everywhere() -> None:
    said = "without a look the best is grade (House B slow 30 DAY), 1321.29 EUR on average, bulk -0.50 EUR; 3 copies"
    assert with_amounts(said, "EUR") == (
        "without a look the best is grade (House B slow 30 DAY), €1,321.29 on average, bulk −€0.50; 3 copies"
    )


def test_pages_follow_what_is_chosen(client: FlaskClient, session: Session) -> None:
    assert "€27.99" in client.get("/recap/3").text
    settings = load_settings(session)
    save_settings(session, type(settings)(**{**vars_of(settings), "locale": "de_DE"}))
    session.commit()
    page = client.get("/recap/3").text
    assert "27,99 €" in page
    assert "12.11.2026" in page
    assert "26.11.2026" not in page
    assert "Order 1 of 18.11.2026" in client.get("/today/").text


def vars_of(settings: object) -> dict[str, object]:
    return {name: getattr(settings, name) for name in settings.__dataclass_fields__}  # type: ignore[attr-defined]
