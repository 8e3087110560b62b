"""Rates of exchange by day: typed in or pasted, and looked up for a price in another currency."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from botin.core.errors import BotinError
from botin.exchange.selling.feestext import Rate, known_currency, read_rates
from botin.store.models_copies import ExchangeRateRecord
from botin.store.pricing.rates import newest_rate, rate_of_day, rates_kept
from botin.store.unit import finish


class NoRateError(BotinError):
    """No rate of exchange is known for a day."""

    status = 422


def save_rates(session: Session, text: str, today: date) -> int:
    """Store lines of rates, all or none; the same day and pair again replaces the rate.

    Raises
    ------
    TermsError
        When a line cannot be read.
    """
    rows = read_rates(text, today)
    for rate in rows:
        known = rate_of_day(session, rate.base, rate.quote, rate.day)
        if known is None:
            session.add(ExchangeRateRecord(day=rate.day, base=rate.base, quote=rate.quote, rate=rate.rate))
        else:
            known.rate = rate.rate
    finish(session)
    return len(rows)


def rate_on(session: Session, base: str, quote: str, day: date) -> float:
    """Return what one ``base`` was worth in ``quote`` on a day: the newest rate that is not later, either way round.

    Raises
    ------
    NoRateError
        When none is known; the message says what to write down.
    """
    base, quote = known_currency(base), known_currency(quote)
    if base == quote:
        return 1.0
    row = newest_rate(session, base, quote, day)
    if row is None:
        message = (
            f"No rate of {base} in {quote} is known for {day.isoformat()}. "
            f"Write it down under Fees, like {day.isoformat()}; {base}; {quote}; 0.92, or {base}*0.92 on the line."
        )
        raise NoRateError(message)
    found = Decimal(row.rate)
    return float(found if row.base == base else 1 / found)


def latest_rates(session: Session, limit: int = 60) -> Sequence[Rate]:
    """Return the rates that are written down, the newest first."""
    return [Rate(row.day, row.base, row.quote, row.rate) for row in rates_kept(session, limit)]
