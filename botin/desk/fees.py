"""Fees as the user edits them, versioned by their day: channels and postage, grading tiers, limits of houses."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.flags.ways import GradingCosts
from botin.core.grading.grades import COMMON, Standard
from botin.core.selling.costs import SaleCosts
from botin.desk.settings import Settings, load_settings
from botin.exchange.selling.feestext import read_channels, read_postage, read_standards, read_tiers
from botin.store.models_copies import TermsRecord
from botin.store.once import once

GRADING, SELLING, LIMITS = "grading", "selling", "limits"
TIERS_EXAMPLE = """economy; 16; 200; 12; 65; 20; member
regular; 22; 500; 25; 20; 1
express; 60; 1500; 60; 5; 1"""
"""Invented figures of no real house: name; fee; ceiling; upcharge; days; fewest cards; member."""
LIMITS_EXAMPLE = "10; 55; 75\n9; 60; 90\n8; 65; 90\n7; 70; 90\n6; 80; 90"
"""Usual limits of centering, from memory; houses differ and change them."""


@dataclass(frozen=True, slots=True)
class Kept:
    """Terms of a kind as they were typed; ``since`` is None while the example stands."""

    body: Mapping[str, str]
    since: date | None


def in_force(session: Session, kind: str, day: date) -> Kept:
    """Return the terms of a kind on a day, as typed."""
    rows = [(since, body) for of, since, body in all_fees(session) if of == kind and since <= day]
    if not rows:
        return Kept({}, None)
    since, body = max(rows)
    return Kept({name: str(value) for name, value in json.loads(body).items()}, since)


def all_fees(session: Session) -> list[tuple[str, date, str]]:
    """Return kind, first day and text of all terms that were ever written down: there are few."""
    t = TermsRecord

    def read() -> list[tuple[str, date, str]]:
        rows = session.execute(select(t.kind, t.valid_from, t.body).order_by(t.id))
        return [(kind, since, body) for kind, since, body in rows]

    return once(session, "terms", read)


def versions(session: Session, kind: str) -> Sequence[date]:
    """Return the days from which terms of a kind were written down, the latest first."""
    t = TermsRecord
    return session.scalars(select(t.valid_from).where(t.kind == kind).order_by(t.valid_from.desc())).all()


def save_terms(session: Session, kind: str, valid_from: date, body: Mapping[str, object]) -> None:
    """Keep terms from a day on; the same day again replaces them, older ones stay.

    Raises
    ------
    TermsError
        When a table cannot be read.
    """
    readers = {"tiers": read_tiers, "channels": read_channels, "postage": read_postage, "limits": read_standards}
    for name, read in readers.items():
        if name in body:
            read(str(body[name]))
    t = TermsRecord
    row = session.scalar(select(t).where(t.kind == kind, t.valid_from == valid_from))
    if row is None:
        row = t(kind=kind, valid_from=valid_from, body="{}")
        session.add(row)
    row.body = json.dumps(dict(body))
    session.commit()


@dataclass(frozen=True, slots=True)
class GradingFees:
    """The grading terms as typed, and as costs; ``valid_from`` is None for the example."""

    tiers: str
    shipping: float
    together: int
    membership: float
    insured: float
    monthly: float
    valid_from: date | None
    costs: GradingCosts

    @property
    def houses(self) -> tuple[str, ...]:
        """Houses of the tiers, in their order; one without a name is empty."""
        return tuple(dict.fromkeys(tier.house for tier in self.costs.tiers))


def grading_fees(session: Session, day: date) -> GradingFees:
    """Return the grading terms in force on a day; before any were written, the example."""
    kept = in_force(session, GRADING, day)
    text = kept.body.get("tiers", TIERS_EXAMPLE)
    usual = {"shipping": 43.25, "membership": 99.0, "insured": 0.01, "monthly": 0.01, "together": 20.0}
    shipping, membership, insured, monthly, number = (float(kept.body.get(name, usual[name])) for name in usual)
    together = max(1, int(number))
    costs = GradingCosts(read_tiers(text), shipping, insured, together, membership, monthly)
    return GradingFees(text, shipping, together, membership, insured, monthly, kept.since, costs)


@dataclass(frozen=True, slots=True)
class SellingTable:
    """Channels and postage as typed, and since when; while none were written they follow from the settings."""

    channels: str
    postage: str
    since: date | None
    costs: SaleCosts


def selling_table(session: Session, day: date, settings: Settings | None = None) -> SellingTable:
    """Return what selling costs on a day: the channels written down, or the one of the settings."""
    settings = settings or load_settings(session)
    kept, plain = in_force(session, SELLING, day), settings.sale_costs()
    if kept.since is None:
        way = f"usual; {100 * plain.fee:g} %; {plain.fixed:g}; {plain.materials:g}; {plain.minutes:g}"
        return SellingTable(way, f"; {plain.postage:g}", None, plain)
    channels, postage = kept.body.get("channels", ""), kept.body.get("postage", "")
    costs = replace(plain, channels=read_channels(channels), steps=read_postage(postage))
    return SellingTable(channels, postage, kept.since, costs)


def sale_costs(session: Session, day: date, settings: Settings | None = None) -> SaleCosts:
    """Return what a sale costs on a day."""
    return selling_table(session, day, settings).costs


def standards(session: Session, day: date) -> dict[str, Standard]:
    """Return the limits of each house on a day; the empty house has the common ones, from memory."""
    kept = in_force(session, LIMITS, day)
    return {"": COMMON, **read_standards(kept.body.get("limits", ""))}


def limits_text(session: Session, day: date) -> Kept:
    """Return the limits as typed, or the common ones."""
    kept = in_force(session, LIMITS, day)
    return kept if kept.since else Kept({"limits": LIMITS_EXAMPLE}, None)
