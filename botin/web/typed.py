"""What a form of a desk holds, read as people write it: days, amounts, whole numbers, ticked copies."""

from __future__ import annotations

from datetime import date, timedelta

from flask import request

from botin.core.days import typed_day
from botin.core.money import Money, parse_money
from botin.desk.grading.drafts import OrderError
from botin.desk.grading.moves import Chosen
from botin.web.requests import bench

AHEAD = timedelta(days=3 * 366)


def day_of(name: str, *, ahead: timedelta = timedelta()) -> date:
    """Return a day of the form, today when it is empty.

    Raises
    ------
    DayError
        When it is none, or lies further ahead than it may.
    """
    return typed_day(request.form.get(name, ""), bench().today(), ahead)


def day_or_none(name: str) -> date | None:
    """Return a day of the form that may lie ahead; None when it is left out."""
    return day_of(name, ahead=AHEAD) if request.form.get(name, "").strip() else None


def money_of(name: str, currency: str) -> Money:
    """Return an amount of the form, from 0 on; 0 when it is left out.

    Raises
    ------
    BadAmountError, OrderError
        When it is none, or less than nothing.
    """
    found = parse_money(request.form.get(name, "").strip() or "0", currency)
    if found.minor < 0:
        message = f"“{request.form.get(name, '')}” is less than nothing. Write what was charged, or 0."
        raise OrderError(message)
    return found


def limit_of(name: str) -> float | None:
    """Return the most one would spend, from the address of a page; None when it is left out.

    Raises
    ------
    BadAmountError, OrderError
        When it is no amount, or less than nothing.
    """
    text = request.args.get(name, "").strip()
    if not text:
        return None
    found = parse_money(text, "EUR").major
    if found < 0:
        message = f"“{text}” is less than nothing. Write the most you would spend, or leave it out."
        raise OrderError(message)
    return found


def whole_of(name: str, otherwise: int = 0) -> int:
    """Return a whole number of the form from 0 on; ``otherwise`` when it is left out.

    Raises
    ------
    OrderError
        When it is none.
    """
    text = request.form.get(name, "").strip()
    if not text:
        return otherwise
    if not (text.isascii() and text.isdecimal() and len(text) < 10):
        message = f"“{text[:20]}” is no whole number. Write one from 0 on, without a unit."
        raise OrderError(message)
    return int(text)


def by_line(prefix: str) -> dict[int, str]:
    """Return the fields of a form that stand for a line each, by the id of the line."""
    found = {}
    for name, value in request.form.items():
        rest = name.removeprefix(f"{prefix}-")
        if rest != name and rest.isascii() and rest.isdecimal() and len(rest) < 16:
            found[int(rest)] = value
    return found


def chosen_copies() -> list[Chosen]:
    """Return the copies that are ticked, by their ids."""
    texts = [text.removeprefix("copy:") for text in request.form.getlist("copy")]
    return [int(text) for text in texts if text.isascii() and text.isdecimal() and len(text) < 19]
