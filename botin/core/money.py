"""Money as integer minor units with a currency, and how people write amounts."""

from __future__ import annotations

import re
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, Decimal, InvalidOperation

from botin.core.errors import AmountTooLargeError, BadAmountError, CurrencyMismatchError

# ISO 4217 minor unit exponents that differ from 2 (from memory of ISO 4217 table A.1).
EXPONENTS = {
    **dict.fromkeys(("BIF", "CLP", "DJF", "GNF", "ISK", "JPY", "KMF", "KRW", "PYG"), 0),
    **dict.fromkeys(("RWF", "UGX", "VND", "VUV", "XAF", "XOF", "XPF"), 0),
    **dict.fromkeys(("BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"), 3),
}
_AMOUNT = re.compile(r"[-+]?\d[\d.,' \u00a0\u202f]*")


def exponent(currency: str) -> int:
    """How many decimals the minor unit of a currency has (ISO 4217)."""
    return EXPONENTS.get(currency, 2)


@dataclass(frozen=True, slots=True, order=True)
class Money:
    """An amount: ``minor`` counts the smallest unit of ``currency`` (cents for EUR, yen for JPY)."""

    minor: int
    currency: str

    def __add__(self, other: Money) -> Money:
        if self.currency != other.currency:
            raise CurrencyMismatchError(self.currency, other.currency)
        return Money(self.minor + other.minor, self.currency)

    def __neg__(self) -> Money:
        return Money(-self.minor, self.currency)

    def __sub__(self, other: Money) -> Money:
        return self + -other

    @property
    def major(self) -> float:
        """The amount in major units, for computing expectations; never stored."""
        return float(self.minor / 10 ** exponent(self.currency))

    @classmethod
    def from_major(cls, amount: Decimal | float | str, currency: str) -> Money:
        """Round an amount in major units half-even to the minor unit."""
        scaled = Decimal(str(amount)) * 10 ** exponent(currency)
        return cls(int(scaled.quantize(Decimal(1), rounding=ROUND_HALF_EVEN)), currency)


MOST_MINOR = 10**12
"""Larger amounts are slips of the hand: ten thousand million in a currency with two decimals."""


def parse_money(text: str, currency: str) -> Money:
    """Read an amount as typed: ``39.99``, ``39,99``, ``2,200``, ``1 234.50``.

    The last separator is the decimal one unless three digits follow it and it is a comma, or it occurs twice.

    Raises
    ------
    BadAmountError
        When it is no amount, is finer than the minor unit, can be read in two ways, or is beyond any card.
    """
    bare = text.strip().removesuffix(currency).removeprefix(currency).strip()
    if not _AMOUNT.fullmatch(bare):
        raise BadAmountError(text)
    plain = _decimal_text(re.sub(r"[' \u00a0\u202f]", "", bare), text, exponent(currency))
    try:
        value = Decimal(plain)
    except InvalidOperation as exc:
        raise BadAmountError(text) from exc
    scaled = value * 10 ** exponent(currency)
    if scaled != scaled.to_integral_value():
        raise BadAmountError(text)
    if abs(scaled) > MOST_MINOR:
        raise AmountTooLargeError(text)
    return Money(int(scaled), currency)


def _decimal_text(digits: str, typed: str, decimals: int) -> str:
    """Decide which separator is the decimal one; thousands separators are dropped."""
    last = max(digits.rfind("."), digits.rfind(","))
    if last < 0:
        return digits
    mark, after = digits[last], len(digits) - last - 1
    both = "." in digits and "," in digits
    grouped = digits.count(mark) > 1 or (mark == "," and decimals < 3 and not digits.startswith("0"))
    thousands = not both and after == 3 and grouped
    if thousands:
        return digits.replace(mark, "")
    if after > decimals or digits.count(mark) > 1:
        raise BadAmountError(typed)
    whole = digits[:last].replace(".", "").replace(",", "")
    return f"{whole}.{digits[last + 1 :] or '0'}"
