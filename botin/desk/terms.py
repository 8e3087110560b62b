"""Grading tiers and fees as the user edits them: text with one line a tier, versioned by its day."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.errors import BotinError
from botin.core.routing import GradingCosts, Tier
from botin.store.models_copies import TermsRecord

GRADING = "grading"
EXAMPLE = """economy; 16; 200; 12; 65; 20; member
regular; 22; 500; 25; 20; 1
express; 60; 1500; 60; 5; 1"""
"""Invented figures of no real house: name; fee; ceiling; upcharge; days; fewest cards; member."""


class TermsError(BotinError):
    """A line of tiers that cannot be read."""

    status = 422


@dataclass(frozen=True, slots=True)
class GradingTerms:
    """The grading terms as typed, and as costs; ``valid_from`` is None for the example."""

    tiers: str
    shipping: float
    together: int
    membership: float
    insured: float
    monthly: float
    valid_from: date | None
    costs: GradingCosts


def read_tiers(text: str) -> tuple[Tier, ...]:
    """Read tiers: ``name; fee; ceiling; upcharge; days; fewest; member`` a line, later fields may be left out.

    Raises
    ------
    TermsError
        When a line cannot be read.
    """
    tiers = []
    for number, line in enumerate(filter(None, (row.strip() for row in text.splitlines())), 1):
        cells = [*(cell.strip() for cell in line.split(";")), "", "", "", "", ""]
        try:
            name, fee = cells[0], float(cells[1])
            ceiling = float(cells[2]) if cells[2] else None
            upcharge, days, least = (float(cells[at] or usual) for at, usual in ((3, 0), (4, 30), (5, 1)))
        except ValueError as exc:
            message = f"Tier line {number} is not understood: name; fee; ceiling; upcharge; days; fewest; member."
            raise TermsError(message) from exc
        if not name or min(fee, upcharge, days) < 0 or least < 1:
            message = f"Tier line {number} has a negative figure or no name."
            raise TermsError(message)
        member = cells[6].casefold().startswith("m")
        tiers.append(Tier(name, fee, ceiling, upcharge, days, int(least), member))
    return tuple(tiers)


def grading_terms(session: Session, day: date) -> GradingTerms:
    """Return the terms in force on a day; before any were written, the example."""
    t = TermsRecord
    row = session.scalars(
        select(t).where(t.kind == GRADING, t.valid_from <= day).order_by(t.valid_from.desc()).limit(1)
    ).first()
    body = json.loads(row.body) if row else {}
    text = str(body.get("tiers", EXAMPLE))
    usual = {"shipping": 43.25, "membership": 99.0, "insured": 0.01, "monthly": 0.01}
    shipping, membership, insured, monthly = (float(body.get(name, value)) for name, value in usual.items())
    together = int(body.get("together", 20))
    costs = GradingCosts(read_tiers(text), shipping, insured, together, membership, monthly)
    since = row.valid_from if row else None
    return GradingTerms(text, shipping, together, membership, insured, monthly, since, costs)


def save_grading_terms(session: Session, valid_from: date, body: dict[str, object]) -> None:
    """Keep terms from a day on; the same day again replaces them, older ones stay.

    Raises
    ------
    TermsError
        When the tiers cannot be read.
    """
    read_tiers(str(body.get("tiers", "")))
    t = TermsRecord
    row = session.scalar(select(t).where(t.kind == GRADING, t.valid_from == valid_from))
    if row is None:
        row = t(kind=GRADING, valid_from=valid_from, body="{}")
        session.add(row)
    row.body = json.dumps(body)
    session.commit()
