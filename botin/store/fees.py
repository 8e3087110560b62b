"""Fees from a day on, in the store."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.store.models import SettingRecord
from botin.store.models_copies import TermsRecord
from botin.store.once import once


def all_fees(session: Session) -> list[tuple[str, date, str]]:
    """Return kind, first day and text of all fees that were ever written down: there are few."""
    t = TermsRecord

    def read() -> list[tuple[str, date, str]]:
        rows = session.execute(select(t.kind, t.valid_from, t.body).order_by(t.id))
        return [(kind, since, body) for kind, since, body in rows]

    return once(session, "terms", read)


def versions(session: Session, kind: str) -> Sequence[date]:
    """Return the days from which fees of a kind were written down, the latest first."""
    t = TermsRecord
    return session.scalars(select(t.valid_from).where(t.kind == kind).order_by(t.valid_from.desc())).all()


def fees_of_day(session: Session, kind: str, valid_from: date) -> TermsRecord:
    """Return the fees of a kind from a day on; made, and empty, when none were written down for that day."""
    t = TermsRecord
    row = session.scalar(select(t).where(t.kind == kind, t.valid_from == valid_from))
    if row is None:
        row = t(kind=kind, valid_from=valid_from, body="{}")
        session.add(row)
    return row


def settings_kept(session: Session) -> tuple[tuple[str, str], ...]:
    """Return everything that was ever set, by its key."""
    return tuple((key, value) for key, value in session.execute(_SETTINGS))


_SETTINGS = select(SettingRecord.key, SettingRecord.value).order_by(SettingRecord.key)
