"""Days as people type them into a form: what cannot be meant is an error of typing, not a date."""

from __future__ import annotations

from datetime import date, timedelta

from botin.core.errors import BotinError

EARLIEST = date(1860, 1, 1)
"""Before the first trading cards; common practice, no source."""
LATEST = date(2100, 1, 1)
"""Nothing that is promised on a card is due after it; a choice."""
PLANNED = timedelta(days=2 * 366)
"""How far ahead something may be written down that is announced or ordered already; a choice."""


class DayError(BotinError):
    """A day that cannot be read, or cannot be meant."""

    status = 422


def typed_day(text: str, today: date, ahead: timedelta = timedelta(0)) -> date:
    """Read a day; empty is today.

    Parameters
    ----------
    ahead : timedelta
        How far after today it may lie.

    Raises
    ------
    DayError
        When it is no day, lies further ahead, or before there were cards.
    """
    if not text.strip():
        return today
    try:
        day = date.fromisoformat(text.strip())
    except ValueError as exc:
        message = f"“{text.strip()[:30]}” is no day. Write it like 2026-03-14."
        raise DayError(message) from exc
    return likely_day(day, today, ahead)


def likely_day(day: date, today: date, ahead: timedelta = timedelta(0)) -> date:
    """Return a day that can be meant.

    Raises
    ------
    DayError
        When it lies further ahead than it may, or before there were cards.
    """
    if day > today + ahead:
        message = f"{day.isoformat()} lies {'too far ' if ahead else ''}ahead. Look at the year, then send it again."
        raise DayError(message)
    if day < EARLIEST:
        message = f"{day.isoformat()} lies before there were cards. Look at the year, then send it again."
        raise DayError(message)
    return day
