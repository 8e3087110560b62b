"""Rates of currencies by day, in the store."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.store.models_copies import ExchangeRateRecord


def rate_of_day(session: Session, base: str, quote: str, day: date) -> ExchangeRateRecord | None:
    """Return the rate that was written down for a pair of currencies on a day."""
    r = ExchangeRateRecord
    return session.scalar(select(r).where(r.base == base, r.quote == quote, r.day == day))


def newest_rate(session: Session, base: str, quote: str, day: date) -> ExchangeRateRecord | None:
    """Return the newest rate of a pair that is not later than a day, either way round."""
    r = ExchangeRateRecord
    pairs = ((r.base == base) & (r.quote == quote)) | ((r.base == quote) & (r.quote == base))
    wanted = select(r).where(pairs, r.day <= day).order_by(r.day.desc(), r.base != base).limit(1)
    return session.scalars(wanted).first()


def rates_kept(session: Session, limit: int) -> Sequence[ExchangeRateRecord]:
    """Return the rates that are written down, the newest first."""
    r = ExchangeRateRecord
    return session.scalars(select(r).order_by(r.day.desc(), r.base, r.quote).limit(limit)).all()
