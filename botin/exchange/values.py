"""Grades, numbers, days, amounts and ticks in the forms people write; what can be read in two ways is asked about."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from datetime import date

from botin.core.catalog.naming import fold
from botin.core.errors import BadAmountError, BotinError
from botin.core.money import parse_money

SYMBOLS = {"€": ("EUR",), "£": ("GBP",), "¥": ("JPY", "CNY"), "$": ("USD", "CAD", "AUD", "NZD", "SGD", "HKD", "MXN")}
RAW = frozenset(
    ("", "0", "0 0", "raw", "ungraded", "none", "no", "nm", "near mint", "n a", "na", "not graded", "mint raw")
)
YES = frozenset(
    ("yes", "y", "1", "true", "t", "x", "xx", "ja", "j", "si", "oui", "pc", "keep", "wanted", "mine", "ok", "on")
)
NO = frozenset(("", "no", "n", "0", "false", "f", "nein", "non", "off", "none"))
_TICKS = ("✓", "✔", "☑", "✗", "✘", "*", "+")
_GRADE = re.compile(r"(?:g|gr|grade|gem|mint|pristine|gem mint|nm mt|nm|mt|ex)?\s*(\d{1,2})(?:[.,](\d))?")


class ValueUnclearError(BotinError):
    """A value that is none of its kind, or can be read in two ways."""

    status = 422


def read_amount(text: str, currency: str) -> tuple[float, str]:
    """Read an amount and its currency: ``€ 19``, ``12.-``, ``1,250.50``, ``1.250,50``, ``19 USD``.

    Amounts finer than the minor unit are kept as they are: scripts give prices unrounded.

    Raises
    ------
    BadAmountError
        When it is none, or can be read in two ways like ``1.250``.
    """
    bare, code = text.strip(), currency
    for symbol, codes in SYMBOLS.items():
        if symbol in bare:
            bare, code = bare.replace(symbol, "").strip(), currency if currency in codes else codes[0]
    named = re.fullmatch(
        r"(?:([A-Za-z]{3})\s*)?([-+\d.,'\s\u00a0\u202f]+?(?:[.,][-–—]+)?)\s*(?:([A-Za-z]{3}))?", bare
    )
    if not named or (named[1] and named[3]):
        raise BadAmountError(text)
    code = (named[1] or named[3] or code).upper()
    digits = re.sub(r"[.,][-–—]+$", "", named[2].strip())
    if re.fullmatch(r"\d+\.\d{4,}|0?\.\d+|0\.\d+", digits):
        return float(digits), code
    return parse_money(digits, code).major, code


def read_grade(text: str) -> str:
    """Read a grade: ``10``, ``10.0``, ``g10``, ``Gem 10``, ``9,5``; empty for what means ungraded.

    Raises
    ------
    ValueUnclearError
        When it is a word that is no grade from 1 to 10 in halves.
    """
    words = " ".join(text.casefold().replace("-", " ").split())
    if fold(text) in RAW:
        return ""
    found = _GRADE.fullmatch(words)
    value = float(f"{found[1]}.{found[2] or 0}") if found else math.nan
    if not 1 <= value <= 10 or value * 2 != round(value * 2):
        message = f"“{text}” is no grade. Write 1 to 10, in halves, or leave it empty for a raw card."
        raise ValueUnclearError(message)
    return f"{value:g}"


def read_tick(text: str) -> bool:
    """Read yes or no.

    Raises
    ------
    ValueUnclearError
        When it is neither.
    """
    if any(tick in text for tick in _TICKS):
        return "✗" not in text and "✘" not in text
    word = fold(text)
    if word in YES or word in NO:
        return word in YES
    message = f"“{text}” is neither yes nor no."
    raise ValueUnclearError(message)


def read_count(text: str) -> int:
    """Read a whole number from 0 on: ``3``, ``3.0``, ``3x``, ``x3``.

    Raises
    ------
    ValueUnclearError
        When it is none.
    """
    found = re.fullmatch(r"[x×]?\s*(\d{1,9})(?:[.,]0+)?\s*[x×]?", text.strip(), re.IGNORECASE)
    if not found:
        message = f"“{text}” is no count. Write a whole number."
        raise ValueUnclearError(message)
    return int(found[1])


class Days:
    """Reads the days of a column; ``11/10/2026`` is settled by days of the column that are plain."""

    def __init__(self, texts: Iterable[str]) -> None:
        pairs = [
            (int(one), int(other))
            for text in texts
            for one, other in re.findall(r"^\s*(\d{1,2})/(\d{1,2})/\d{2,4}", text)
        ]
        day_first, month_first = any(one > 12 for one, _ in pairs), any(other > 12 for _, other in pairs)
        self._day_first = None if day_first == month_first else day_first

    def read(self, text: str) -> date | None:
        """Read a day: ``2026-11-10``, ``10.11.2026``, ``10 Nov 2026``; None when it is empty.

        Raises
        ------
        ValueUnclearError
            When it is none, or day and month cannot be told apart.
        """
        bare = re.sub(r"[T ]\d{1,2}:\d{2}.*$", "", text.strip())
        if not bare:
            return None
        try:
            return self._parts(bare, text)
        except ValueError as exc:
            message = f"“{text}” is no day. Write it like 2026-03-02."
            raise ValueUnclearError(message) from exc

    def _parts(self, bare: str, text: str) -> date:
        if found := re.fullmatch(r"(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})", bare):
            return date(int(found[1]), int(found[2]), int(found[3]))
        if found := re.fullmatch(r"(\d{1,2})[.-]\s?(\d{1,2})[.-]\s?(\d{4}|\d{2})", bare):
            return date(_year(found[3]), int(found[2]), int(found[1]))
        if found := re.fullmatch(r"(\d{1,2})/(\d{1,2})/(\d{4}|\d{2})", bare):
            return self._slashed(int(found[1]), int(found[2]), _year(found[3]), text)
        if found := re.fullmatch(r"(\d{1,2})\.?\s+([A-Za-z]{3,9})\.?,?\s+(\d{4})", bare):
            return date(int(found[3]), _month(found[2]), int(found[1]))
        if found := re.fullmatch(r"([A-Za-z]{3,9})\.?\s+(\d{1,2}),?\s+(\d{4})", bare):
            return date(int(found[3]), _month(found[1]), int(found[2]))
        raise ValueError

    def _slashed(self, one: int, other: int, year: int, text: str) -> date:
        if one > 12 or other > 12 or one == other:
            return date(year, *((other, one) if one > 12 else (one, other)))
        if self._day_first is None:
            both = f"{year}-{one:02d}-{other:02d} or {year}-{other:02d}-{one:02d}"
            message = f"“{text}” may be day or month first. Write it like {both}."
            raise ValueUnclearError(message)
        return date(year, *((other, one) if self._day_first else (one, other)))


def _year(text: str) -> int:
    return int(text) + (2000 if len(text) == 2 else 0)


def _month(word: str) -> int:
    months = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
    return months.index(word.casefold()[:3]) + 1
