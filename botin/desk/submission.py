"""Over all candidates: the best mix of grading tiers, bulk minimum and membership, also with limited cash."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.routing import Go, routes_of
from botin.core.tierchoice import TierChoice, TierTerms, choose_tiers, greedy
from botin.desk.routing import facts_of, judging
from botin.desk.terms import GradingTerms
from botin.desk.workbench import Workbench
from botin.store.models import CardRecord, SectionRecord
from botin.store.models_copies import VerdictRecord

MOST = 500


@dataclass(frozen=True)
class Candidate:
    """A copy that might be sent: what each tier adds over its best other route (major units)."""

    card_id: int
    number: str
    name: str
    parallel: str
    product: str
    gains: tuple[float, ...]
    fees: tuple[float, ...]


@dataclass(frozen=True)
class Mix:
    """The best choice, and what doing it by hand would bring."""

    candidates: tuple[Candidate, ...]
    best: TierChoice
    by_hand: TierChoice
    tiers: tuple[str, ...]

    @property
    def sent(self) -> tuple[tuple[Candidate, str, float], ...]:
        """Copies that go, with their tier and gain, tier by tier."""
        rows = [
            (candidate, self.tiers[tier], candidate.gains[tier])
            for candidate, tier in zip(self.candidates, self.best.tiers, strict=True)
            if tier is not None
        ]
        return tuple(sorted(rows, key=lambda row: (row[1], -row[2])))


def best_mix(session: Session, bench: Workbench, terms: GradingTerms, cash: float | None) -> Mix:
    """Choose among the copies whose version is worth grading or a closer look, one by one."""
    candidates = _candidates(session, bench, terms)
    costs = terms.costs
    rows = [TierTerms(tier.least, tier.member, costs.shipping) for tier in costs.tiers]
    gains = np.array([candidate.gains for candidate in candidates]).reshape(len(candidates), len(rows))
    fees = np.array([candidate.fees for candidate in candidates]).reshape(len(candidates), len(rows))
    best = choose_tiers(gains, rows, costs.membership, fees, cash)
    by_hand = greedy(gains, rows, costs.membership, fees, cash)
    return Mix(tuple(candidates), best, by_hand, tuple(tier.name for tier in costs.tiers))


def _candidates(session: Session, bench: Workbench, terms: GradingTerms) -> list[Candidate]:
    v = VerdictRecord
    wanted = session.execute(
        select(v, CardRecord.number, CardRecord.name, SectionRecord.key)
        .join(CardRecord, CardRecord.id == v.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(v.go.in_([Go.GRADE.value, Go.LOOK.value]), v.chosen.in_(["", Go.GRADE.value]))
        .order_by(v.margin.desc())
        .limit(MOST)
    ).all()
    found: list[Candidate] = []
    for row, number, name, section in wanted:
        record = bench.record(session, row.product_id)
        j = judging(session, bench, record)
        card = j.product.card_by_number.get((section, number))
        if card is None:
            continue
        facts, _ = facts_of(j, card, row.parallel, None)
        routes = routes_of(facts, j.costs, terms.costs)
        other = max(route.mean for route in routes if route.go is not Go.GRADE)
        shared = terms.costs.shipping / max(1, terms.costs.together)
        graded = {route.tier: route.mean for route in routes if route.go is Go.GRADE}
        gains = tuple(graded.get(tier.name, -1e6) + shared - other for tier in terms.costs.tiers)
        fees = tuple(tier.fee for tier in terms.costs.tiers)
        one = Candidate(row.card_id, number, name, row.parallel, record.name, gains, fees)
        found += [one] * min(row.copies, MOST - len(found))
        if len(found) >= MOST:
            break
    return found
