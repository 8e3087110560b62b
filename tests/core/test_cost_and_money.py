"""Cost per card, pack and hit against facts of the trade; money as people type it."""

from __future__ import annotations

import pytest

from botin.core.buying.cost import Cost
from botin.core.errors import BadAmountError, CurrencyMismatchError
from botin.core.money import Money, parse_money


def paid(price: str, shipping: str = "0", tax: str = "0") -> Cost:
    return Cost(*(Money.from_major(part, "EUR") for part in (price, shipping, tax)))


@pytest.mark.parametrize(
    ("price", "what", "count", "each"),
    [
        ("2200", "card", 144, 15.28),
        ("39.99", "pack", 7, 5.71),
        ("765", "card", 540, 1.42),
        ("20", "card", 500, 0.04),
        ("100", "card", 24 * 8, 0.52),
        ("100", "autograph", 4, 25.00),
        ("140", "card", 6 * 24, 0.97),
        ("140", "autograph", 3, 46.67),
        ("250", "card", 144, 1.74),
        ("150", "card", 80, 1.88),
    ],
)
def test_cost_each(price: str, what: str, count: int, each: float) -> None:
    """common practice, no source: the trade's worked divisions."""
    assert round(paid(price).per(what, count).value or 0, 2) == each


def test_shipping_and_tax_are_in_every_cost() -> None:
    cost = paid("100", "6.90", "13.10")
    assert cost.total == Money(12_000, "EUR")
    figure = cost.per("pack", 24)
    assert figure.value == pytest.approx(5.0)
    assert [part.value for part in figure.inputs] == [120.0, 24]


def test_no_hit_no_cost_per_hit() -> None:
    assert paid("100").per("hit", 0).value is None


@pytest.mark.parametrize(
    ("typed", "currency", "minor"),
    [
        ("39.99", "EUR", 3999),
        ("39,99", "EUR", 3999),
        ("2,200", "EUR", 220_000),
        ("2,200.50", "EUR", 220_050),
        ("2.200,50", "EUR", 220_050),
        ("1 234", "EUR", 123_400),
        ("12,345,678", "EUR", 1_234_567_800),
        ("1.234.567", "EUR", 123_456_700),
        ("5.", "EUR", 500),
        ("3500", "JPY", 3500),
        ("1.234", "KWD", 1234),
        ("-4.5", "EUR", -450),
        ("EUR 7", "EUR", 700),
    ],
)
def test_amounts_as_people_type_them(typed: str, currency: str, minor: int) -> None:
    assert parse_money(typed, currency) == Money(minor, currency)


@pytest.mark.parametrize(
    "typed", ["", "free", "1.2.3", "15.275", "0.001", "1e5", "3.50 USD", "--2", "½", "1,2,3", "0,125"]
)
def test_what_is_no_amount_is_refused_in_words(typed: str) -> None:
    with pytest.raises(BadAmountError, match="Write it like"):
        parse_money(typed, "EUR")


def test_currencies_do_not_mix() -> None:
    with pytest.raises(CurrencyMismatchError):
        Money(1, "EUR") + Money(1, "JPY")


def test_rounding_is_half_even() -> None:
    assert [Money.from_major(x, "EUR").minor for x in ("0.125", "0.135", "-0.125")] == [12, 14, -12]
