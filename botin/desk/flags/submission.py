"""Over all candidates: the best mix of grading tiers, minimums, memberships and vouchers, also with limited cash."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.flags.nets import routes_of
from botin.core.flags.ways import Go, Tier
from botin.core.grading.grades import Inspection
from botin.core.grading.tierchoice import (
    BARRED,
    Left,
    Limits,
    TierChoice,
    TierTerms,
    Voucher,
    choose_tiers,
    greedy,
    why_left,
)
from botin.core.money import Money
from botin.desk.fees import GradingFees
from botin.desk.flags.judging import FlagInputs, facts_of, kept_inputs
from botin.desk.grading.drafts import SIGNED
from botin.desk.grading.inspections import looks_at
from botin.desk.grading.memberships import vouchers_left
from botin.desk.workbench import Workbench
from botin.store.copies.copies import copies_of_version
from botin.store.flags.board import wanted_for_grading
from botin.store.grading.orders import promised
from botin.store.models_copies import FlagRecord

MOST = 500


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
    copy_id: int
    looked: bool = False


@dataclass(frozen=True, slots=True)
class Option:
    """A tier as one parcel of the choice: signed cards go by themselves."""

    tier: Tier
    signed: bool

    @property
    def label(self) -> str:
        """What the parcel is called."""
        return f"{self.tier.label}, signed" if self.signed else self.tier.label


@dataclass(frozen=True)
class Mix:
    """The best choice, and what doing it by hand would bring, in one currency; ``elsewhere`` are in others."""

    candidates: tuple[Candidate, ...]
    best: TierChoice
    by_hand: TierChoice
    options: tuple[Option, ...]
    left: tuple[Left | None, ...]
    terms: tuple[TierTerms, ...]
    currency: str = ""
    elsewhere: int = 0

    @property
    def tiers(self) -> tuple[str, ...]:
        """What the parcels are called."""
        return tuple(option.label for option in self.options)

    @property
    def sent(self) -> tuple[tuple[Candidate, str, float], ...]:
        """Copies that go, with their tier and gain, tier by tier."""
        per = len(self.candidates[0].gains) if self.candidates else 1
        rows = [
            (candidate, self.tiers[tier], candidate.gains[tier % per])
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

    def option(self, label: str) -> Option | None:
        """Return the parcel of a name."""
        return next((one for one in self.options if one.label == label), None)

    def shipping(self, label: str) -> float:
        """Return what shipping a parcel of the choice costs."""
        at = self.tiers.index(label)
        return self.terms[at].shipping_for(sum(1 for tier in self.best.tiers if tier == at))

    @property
    def home(self) -> list[tuple[Candidate, str]]:
        """Copies that stay although a tier would add something, with the reason in words."""
        rows = zip(self.candidates, self.left, strict=True)
        return [(one, self._words(left)) for one, left in rows if left is not None and self._told(one, left)]

    @staticmethod
    def _told(one: Candidate, left: Left) -> bool:
        return max(one.gains, default=BARRED) > 0 or left.more > 0 or left.tier is not None

    def _words(self, left: Left) -> str:
        tier = "" if left.tier is None else f" ({self.tiers[left.tier]})"
        return f"only with {left.more} more{tier}" if left.more else f"{left.why}{tier}"

    @property
    def missing(self) -> list[tuple[str, int, int]]:
        """Parcels that too few cards gain from: name, cards that would gain, how many more it takes."""
        found: dict[int, tuple[int, int]] = {}
        for left in self.left:
            if left is not None and left.more and left.tier is not None:
                count, _ = found.get(left.tier, (0, 0))
                found[left.tier] = (count + 1, left.more)
        return [(self.tiers[tier], count, more) for tier, (count, more) in found.items()]


def best_mix(session: Session, bench: Workbench, terms: GradingFees, cash: float | None) -> Mix:
    """Choose among the copies whose version is worth grading or a closer look, one by one.

    Signed cards go in orders of their own: each tier stands twice when both kinds are there.
    """
    everything = list(_candidates(session, bench, terms))
    counts = Counter(one.currency for one in everything)
    currency = counts.most_common(1)[0][0] if counts else ""
    candidates = [one for one in everything if one.currency == currency]
    kinds = sorted({one.signed for one in candidates})
    options = tuple(Option(tier, signed) for signed in kinds for tier in terms.costs.tiers)
    rows = tuple(_terms(terms, option.tier) for option in options)
    shape = (len(candidates), len(options))
    gains = np.array(
        [gain if one.signed == signed else BARRED for one in candidates for signed in kinds for gain in one.gains]
    ).reshape(shape)
    fees = np.array([fee for one in candidates for _ in kinds for fee in one.fees]).reshape(shape)
    limits = _limits(session, bench.today(), terms, options, cash, currency)
    best = choose_tiers(gains, rows, limits, fees)
    by_hand = greedy(gains, rows, limits, fees)
    left = tuple(why_left(best, gains, rows, limits, fees)) if options else (None,) * len(candidates)
    elsewhere = len(everything) - len(candidates)
    return Mix(
        candidates=tuple(candidates), best=best, by_hand=by_hand, options=options, left=left, terms=rows,
        currency=currency, elsewhere=elsewhere,
    )  # fmt: skip


def _terms(terms: GradingFees, tier: Tier) -> TierTerms:
    costs = terms.costs
    return TierTerms(tier.least, tier.member, costs.shipping_for(tier.house, 0), tier.house, costs.steps(tier.house))


def _limits(
    session: Session, day: date, terms: GradingFees, options: Sequence[Option], cash: float | None, currency: str
) -> Limits:
    houses = {option.tier.house for option in options}
    membership = {house: terms.costs.membership_for(house) for house in houses}
    found: list[Voucher] = []
    for one in vouchers_left(session, day):
        row = one.voucher
        off = Money(row.off_minor, row.currency).major
        at = (
            [None] if not row.tier else [t for t, option in enumerate(options) if _names(option, row.house, row.tier)]
        )
        if row.currency == currency and row.house in houses:
            found += [Voucher(row.house, off, one.left, tier) for tier in at[:1]]
    return Limits(membership, tuple(found), cash)


def _names(option: Option, house: str, tier: str) -> bool:
    return (option.tier.house, option.tier.name) == (house, tier)


def _candidates(session: Session, bench: Workbench, terms: GradingFees) -> Iterator[Candidate]:
    wanted = wanted_for_grading(session, MOST)
    looks = looks_at(session, [row[0].copy_id for row in wanted if row[0].copy_id])
    apart, booked = {row[0].copy_id for row in wanted if row[0].copy_id}, promised(session)
    count = 0
    for row, number, name, section, kind in wanted:
        record = bench.record(session, row.product_id)
        j = kept_inputs(session, bench, record)
        card = j.product.card_by_number.get((section, number))
        copies = _copies(session, row, apart, booked)[: MOST - count]
        if card is None or not copies:
            continue
        look = looks.get(row.copy_id or 0)
        gains, fees = _gains(j, card, row.parallel, terms, look)
        count += len(copies)
        for copy in copies:
            yield Candidate(
                card_id=row.card_id, signed=kind in SIGNED, number=number, name=name, parallel=row.parallel,
                product=record.name, currency=record.currency, gains=gains, fees=fees, copy_id=copy,
                looked=look is not None,
            )  # fmt: skip
        if count >= MOST:
            return


def _copies(session: Session, row: FlagRecord, apart: set[int], booked: set[int]) -> list[int]:
    """Copies that a flag stands for, which are here and in no order."""
    if row.copy_id is not None:
        return [] if row.copy_id in booked else [row.copy_id]
    alike = [copy.id for copy in copies_of_version(session, row.card_id, row.parallel)]
    return [copy for copy in alike if copy not in apart][: row.copies]


def _gains(
    j: FlagInputs, card: Card, parallel: str, terms: GradingFees, look: Inspection | None
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """What each tier adds over the best other route, shipping aside; and its fee."""
    facts, _ = facts_of(j, card, parallel, look)
    costs = terms.costs
    routes = routes_of(facts, j.costs, replace(costs, joined=True))  # the mix adds the membership itself
    other = max(route.mean for route in routes if route.go is not Go.GRADE)
    graded = {route.tier: route.mean for route in routes if route.go is Go.GRADE}
    gains = tuple(
        graded[tier.label] + costs.shipping_for(tier.house, costs.together) / costs.together - other
        if tier.label in graded and tier.takes(j.product.year)
        else BARRED
        for tier in costs.tiers
    )
    return gains, tuple(tier.fee for tier in costs.tiers)
