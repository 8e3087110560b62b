"""Prices of one version of a card in every grade, and where a copy of it should go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.flags.paths import RoutePath, route_paths
from botin.core.flags.ways import RouteVerdict
from botin.core.grading.grades import Inspection
from botin.core.money import exponent
from botin.core.pricing.comps import CompEstimate, comp_estimate
from botin.core.pricing.guess import Found, Guess
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.desk.catalog.cards import find_card
from botin.desk.flags.judging import FlagInputs, facts_of, judged, kept_inputs, verdict_of
from botin.desk.grading.inspections import inspections
from botin.desk.workbench import Workbench
from botin.store.flags.owned import that_differ
from botin.store.models import ProductRecord
from botin.store.models_copies import LookRecord
from botin.store.pricing.prices import price_seen
from botin.store.unit import finish


@dataclass(frozen=True)
class GradePrice:
    """What the version sells for in one grade; the ratio to raw where both are known."""

    grade: str
    guess: Guess
    estimate: CompEstimate | None
    ratio: float | None


@dataclass(frozen=True)
class CopyRoutes:
    """A copy that differs (graded, marked, looked at; 0 for the version as such) with its verdict."""

    copy_id: int
    inspection: Inspection | None
    verdict: RouteVerdict


@dataclass(frozen=True)
class PricePage:
    """Prices and routes of one version of a card (major units)."""

    parallel: str
    guess: Guess
    grades: tuple[GradePrice, ...]
    rows: tuple[PriceRow, ...]
    used: frozenset[PriceRow]
    asking: CompEstimate | None
    guide: CompEstimate | None
    suggested: float | None
    gem: Mapping[str, Mapping[float, float]]
    version: CopyRoutes
    copies: tuple[CopyRoutes, ...]
    paths: tuple[RoutePath, ...]
    judged: FlagInputs


def price_page(session: Session, bench: Workbench, card_id: int, parallel: str) -> PricePage:
    """Read prices and routes of a version, and note that it was looked at."""
    record, _, card = find_card(session, bench, card_id)
    j = kept_inputs(session, bench, record)
    guess = j.model.estimate(card, parallel)
    everything = tuple(row for grade in _grades(j, card, parallel) for row in j.model.rows(card, parallel, grade))
    used = frozenset(row for grade in _grades(j, card, parallel) for row in _used(j, card, parallel, grade))
    facts, _ = facts_of(j, card, parallel, None)
    verdict = judged(j, facts)
    raw = j.model.rows(card, parallel)
    _note_look(session, bench, record, card_id, parallel, guess)
    return PricePage(
        parallel=parallel,
        guess=guess,
        grades=tuple(_grade_price(j, card, parallel, grade, guess) for grade in _grades(j, card, parallel)),
        rows=everything,
        used=used,
        asking=comp_estimate(raw, bench.today(), PriceKind.ASKING),
        guide=comp_estimate(raw, bench.today(), PriceKind.GUIDE),
        suggested=round(guess.high, 2) if guess.found is not Found.NONE else None,
        gem=j.chances(card, None),
        version=CopyRoutes(0, None, verdict),
        copies=tuple(_copy_routes(session, j, card, card_id)),
        paths=route_paths(facts, j.costs, j.terms.costs),
        judged=j,
    )


def _copy_routes(session: Session, j: FlagInputs, card: Card, card_id: int) -> list[CopyRoutes]:
    """Judge each copy of mine that differs from the others of its version."""
    looks = inspections(session, card_id)
    return [
        CopyRoutes(copy, looks.get(copy), verdict_of(j, card, finish, looks.get(copy), grade)[0])
        for copy, finish, grade in that_differ(session, card_id, looks)
    ]


def _grades(j: FlagInputs, card: Card, parallel: str) -> list[str]:
    return ["", *(grade for grade in j.model.grades(card, parallel) if grade)]


def _used(j: FlagInputs, card: Card, parallel: str, grade: str) -> tuple[PriceRow, ...]:
    own = j.model.own((card.section, card.number, parallel, grade))
    return own.used if own else ()


def _grade_price(j: FlagInputs, card: Card, parallel: str, grade: str, raw: Guess) -> GradePrice:
    guess = j.model.estimate(card, parallel, grade)
    ratio = guess.mean / raw.mean if grade and raw.mean else None
    return GradePrice(grade, guess, j.model.own((card.section, card.number, parallel, grade)), ratio)


def _note_look(
    session: Session, bench: Workbench, record: ProductRecord, card_id: int, parallel: str, guess: Guess
) -> None:
    unit = 10 ** exponent(record.currency)
    row = price_seen(session, card_id, parallel)
    if row is None:
        row = LookRecord(card_id=card_id, parallel=parallel, amount=0, low=0, high=0, looked_at=bench.now())
        session.add(row)
    row.amount, row.low, row.high = (round(value * unit) for value in (guess.mean, guess.low, guess.high))
    row.looked_at = bench.now()
    finish(session)
