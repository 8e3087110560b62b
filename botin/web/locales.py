"""Numbers, amounts and days as the user writes them, by Babel; the words around them stay English."""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from functools import lru_cache

from babel import Locale
from babel.dates import format_date
from babel.numbers import format_currency, format_decimal
from flask import g, has_app_context

from botin.core.money import exponent
from botin.desk.settings import load_settings
from botin.web.requests import session

USUAL = "en"
LOCALES = (
    USUAL, "en_US", "en_GB", "en_CA", "de_DE", "de_CH", "fr_FR", "fr_CA", "es_ES", "es_MX", "it_IT", "nl_NL", "pl_PL",
    "pt_BR", "sv_SE", "ja_JP",
)  # fmt: skip
"""What can be chosen in the settings."""
PATTERN = "d MMM y"
KEPT = 16_384


def how_written() -> str:
    """Return the locale of this request: what the settings say, read once."""
    if not has_app_context():
        return USUAL
    if "locale" not in g:
        chosen = load_settings(session()).locale
        g.locale = chosen if chosen in LOCALES else USUAL
    found: str = g.locale
    return found


@lru_cache(KEPT)
def money_text(value: float, currency: str, locale: str) -> str:
    """Return an amount from 0 on in a currency, with the decimals its minor unit has in ISO 4217."""
    places = exponent(currency)
    if not currency:
        return number_text(f"{value:.{places}f}", locale)
    pattern = Locale.parse(locale).currency_formats["standard"].pattern
    exact = pattern.replace("0.00", "0" + ("." + "0" * places if places else ""))
    rounded = Decimal(f"{value:.{places}f}")
    return format_currency(rounded, currency, exact, locale=locale, currency_digits=False).replace("\u00a0", " ")


@lru_cache(KEPT)
def number_text(plain: str, locale: str) -> str:
    """Return a number that is written plainly, with as many decimals as it has."""
    places = len(plain.partition(".")[2].partition("e")[0])
    if "e" in plain or plain in ("inf", "-inf", "nan"):
        return plain
    text = format_decimal(Decimal(plain), "#,##0" + ("." + "0" * places if places else ""), locale=locale)
    return text.replace("\u00a0", " ")


def day_text(value: date | datetime, locale: str) -> str:
    """Return a day: ``3 Oct 2026``, or as a locale has it."""
    if locale == USUAL:
        return f"{value.day} {value:%b %Y}"
    return format_date(value, "medium", locale=locale)


def example(locale: str) -> str:
    """Return how a locale writes, for the choice in the settings."""
    name = "Botin’s own" if locale == USUAL else Locale.parse(locale).get_display_name("en")
    return f"{name}: {money_text(1234.5, 'EUR', locale)}, {day_text(date(2026, 10, 3), locale)}"
