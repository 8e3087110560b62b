"""Over all candidates: the best mix of grading tiers, bulk minimum and membership, also with limited cash."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Kind
from botin.core.flags.nets import routes_of
from botin.core.flags.ways import Go
from botin.core.grading.grades import Inspection
from botin.core.grading.tierchoice import BARRED, TierChoice, TierTerms, choose_tiers, greedy
from botin.desk.fees import GradingFees
from botin.desk.flags.judging import FlagInputs, facts_of, kept_inputs
from botin.desk.grading.inspections import looks_at
from botin.desk.workbench import Workbench
from botin.store.grading import out_counts
from botin.store.models import CardRecord, SectionRecord
from botin.store.models_copies import CopyRecord, FlagRecord

MOST = 500
SIGNED = frozenset({Kind.AUTOGRAPH.value, Kind.AUTOGRAPH_RELIC.value})


@dataclass(frozen=True)
class Candidate:
    """A copy that might be sent: what each tier adds over its best other route (major units)."""

    card_id: int
    signed: bool
    number: str
    name: str
    parallel: str
    product: str
    currency: str
    gains: tuple[float, ...]
    fees: tuple[float, ...]
    copy_id: int | None = None

    @property
    def key(self) -> str:
        """What tells it in a form: the very copy, or a card and a finish of which any copy may go."""
        return f"copy:{self.copy_id}" if self.copy_id else f"{self.card_id}:{self.parallel}"


@dataclass(frozen=True)
class Mix:
    """The best choice, and what doing it by hand would bring, in one currency; ``elsewhere`` are in others."""

    candidates: tuple[Candidate, ...]
    best: TierChoice
    by_hand: TierChoice
    tiers: tuple[str, ...]
    currency: str = ""
    elsewhere: int = 0

    @property
    def sent(self) -> tuple[tuple[Candidate, str, float], ...]:
        """Copies that go, with their tier and gain, tier by tier."""
        rows = [
            (candidate, self.tiers[tier], candidate.gains[tier % len(candidate.gains)])
            for candidate, tier in zip(self.candidates, self.best.tiers, strict=True)
            if tier is not None
        ]
        return tuple(sorted(rows, key=lambda row: (row[1], -row[2])))

    @property
    def parcels(self) -> dict[str, list[tuple[Candidate, float]]]:
        """The same by tier: what goes in one order."""
        found: dict[str, list[tuple[Candidate, float]]] = {}
        for one, tier, gain in self.sent:
            found.setdefault(tier, []).append((one, gain))
        return found


def best_mix(session: Session, bench: Workbench, terms: GradingFees, cash: float | None) -> Mix:
    """Choose among the copies whose version is worth grading or a closer look, one by one.

    Signed cards go in orders of their own: each tier stands twice when both kinds are there.
    """
    everything, costs = _candidates(session, bench, terms), terms.costs
    counts = Counter(one.currency for one in everything)
    currency = counts.most_common(1)[0][0] if counts else ""
    candidates = [one for one in everything if one.currency == currency]
    kinds = sorted({one.signed for one in candidates})
    options = [(tier, signed) for signed in kinds for tier in costs.tiers]
    rows = [TierTerms(tier.least, tier.member, costs.shipping) for tier, _ in options]
    shape = (len(candidates), len(options))
    gains = np.array(
        [gain if one.signed == signed else BARRED for one in candidates for signed in kinds for gain in one.gains]
    ).reshape(shape)
    fees = np.array([fee for one in candidates for _ in kinds for fee in one.fees]).reshape(shape)
    best = choose_tiers(gains, rows, costs.membership, fees, cash)
    by_hand = greedy(gains, rows, costs.membership, fees, cash)
    names = tuple(f"{tier.label}, signed" if signed else tier.label for tier, signed in options)
    return Mix(tuple(candidates), best, by_hand, names, currency, len(everything) - len(candidates))


def _candidates(session: Session, bench: Workbench, terms: GradingFees) -> list[Candidate]:
    v, found = FlagRecord, list[Candidate]()
    wanted = session.execute(
        select(v, CardRecord.number, CardRecord.name, SectionRecord.key, SectionRecord.kind)
        .join(CardRecord, CardRecord.id == v.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .outerjoin(CopyRecord, CopyRecord.id == v.copy_id)
        .where(v.go.in_([Go.GRADE.value, Go.LOOK.value]), v.chosen.in_(["", Go.GRADE.value]))
        .where(v.copy_id.is_(None) | CopyRecord.state.in_(("here", "listed")))
        .order_by(v.margin.desc())
        .limit(MOST)
    ).all()
    away, looks = (
        out_counts(session, still_out=True),
        looks_at(session, [row[0].copy_id for row in wanted if row[0].copy_id]),
    )
    for row, number, name, section, kind in wanted:
        record = bench.record(session, row.product_id)
        j = kept_inputs(session, bench, record)
        card = j.product.card_by_number.get((section, number))
        here = row.copies - (away.get((row.card_id, row.parallel), 0) if row.copy_id is None else 0)
        if card is not None and here > 0:
            gains, fees = _gains(j, card, row.parallel, terms, looks.get(row.copy_id or 0))
            one = Candidate(
                card_id=row.card_id, signed=kind in SIGNED, number=number, name=name, parallel=row.parallel,
                product=record.name, currency=record.currency, gains=gains, fees=fees, copy_id=row.copy_id,
            )  # fmt: skip
            found += [one] * min(here, MOST - len(found))
        if len(found) >= MOST:
            break
    return found


def _gains(
    j: FlagInputs, card: Card, parallel: str, terms: GradingFees, look: Inspection | None
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """What each tier adds over the best other route, shipping aside; and its fee."""
    facts, _ = facts_of(j, card, parallel, look)
    routes = routes_of(facts, j.costs, replace(terms.costs, joined=True))  # the mix adds the membership itself
    other = max(route.mean for route in routes if route.go is not Go.GRADE)
    shared = terms.costs.shipping / max(1, terms.costs.together)
    graded = {route.tier: route.mean for route in routes if route.go is Go.GRADE}
    gains = tuple(
        graded[tier.label] + shared - other if tier.label in graded else BARRED for tier in terms.costs.tiers
    )
    return gains, tuple(tier.fee for tier in terms.costs.tiers)
