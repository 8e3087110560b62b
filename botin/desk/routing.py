"""Where every copy should go: verdicts by version, kept in the store, worked out anew after prices change."""

from __future__ import annotations

import json
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.damage import damage
from botin.core.entrywords import Details
from botin.core.fade import Fade
from botin.core.gradeforecast import Forecaster, House, compared, house_of
from botin.core.gradelearning import learn_grader
from botin.core.grading import COMMON, Grader, Inspection, Quality, Standard, noted_look
from botin.core.money import exponent
from botin.core.priceguess import Found, Guess
from botin.core.pricemodel import PriceModel
from botin.core.product import Card, Product
from botin.core.routing import CopyFacts, Go, Priced, RouteVerdict
from botin.core.selling import SaleCosts
from botin.core.verdict import judge_copy
from botin.desk.gradecounts import qualities, returned_grades
from botin.desk.otherways import product_fade, weeks_since
from botin.desk.settings import Settings, load_settings
from botin.desk.terms import GradingTerms, grading_terms, sale_costs, standards
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord, PullRecord
from botin.store.models_copies import (
    GradeCountRecord,
    InspectionRecord,
    ReturnedRecord,
    TermsRecord,
)


@dataclass(frozen=True)
class Judging:
    """Everything a verdict of a product needs, made once."""

    product: Product
    model: PriceModel
    fade: Fade
    age: float
    costs: SaleCosts
    terms: GradingTerms
    qualities: dict[str, Quality]
    grader: Grader
    settings: Settings
    houses: Mapping[str, tuple[Grader, Standard]]
    unseen: dict[str, Mapping[str, Mapping[float, float]]] = field(default_factory=dict)

    def chances(self, card: Card, inspection: Inspection | None) -> Mapping[str, Mapping[float, float]]:
        """Chance of each grade of a copy at each house; what nobody looked at shares its section's forecast."""
        if inspection is not None:
            return {house: self.house(card.section, house).forecast(inspection) for house in self.houses}
        if card.section not in self.unseen:
            self.unseen[card.section] = {h: self.house(card.section, h).forecast(None) for h in self.houses}
        return self.unseen[card.section]

    def house(self, section: str, house: str = "") -> House:
        """Return a house ready to forecast the cards of a section."""
        quality = self.qualities.get(section) or self.qualities.get("") or Quality()
        grader, standard = self.houses.get(house, (self.grader, COMMON))
        return house_of(quality, grader, standard)

    def looks(self, section: str) -> dict[str, Forecaster]:
        """Return what a closer look at a card of a section can show at each house."""
        return compared(tuple((house, self.house(section, house)) for house in self.houses))


def judging(session: Session, bench: Workbench, record: ProductRecord) -> Judging:
    """Gather what verdicts on a product's copies need."""
    settings, product = load_settings(session), bench.product(session, record)
    terms, grader = grading_terms(session, bench.today()), learn_grader(returned_grades(session))
    return Judging(
        product,
        bench.price_model(session, record),
        product_fade(session, bench, record, settings),
        weeks_since(record.released_on, bench.today()),
        replace(sale_costs(session, bench.today(), settings), places=exponent(record.currency)),
        terms,
        qualities(session, record.id),
        grader,
        settings,
        _houses(session, terms, grader, standards(session, bench.today())),
    )


def _houses(
    session: Session, terms: GradingTerms, grader: Grader, limits: Mapping[str, Standard]
) -> dict[str, tuple[Grader, Standard]]:
    """Grader and limits of each house of the tiers; one without a name learns from all returns."""
    return {
        house: (
            learn_grader(returned_grades(session, house)) if house else grader,
            limits.get(house, limits.get("", COMMON)),
        )
        for house in terms.houses or ("",)
    }


def kept_judging(session: Session, bench: Workbench, record: ProductRecord) -> Judging:
    """Return the same, made once while prices, returned grades, fees and settings stay."""
    return bench.keep(judging_key(session, bench, record), lambda: judging(session, bench, record))


def judging_key(session: Session, bench: Workbench, record: ProductRecord) -> Hashable:
    """Return what a verdict rests on: prices, day, settings, returned grades and fees."""
    settings = load_settings(session)
    taught = [select(func.count(model.id)).scalar_subquery() for model in (ReturnedRecord, GradeCountRecord)]
    counts = tuple(session.execute(select(*taught)).one())
    bodies = tuple(session.scalars(select(TermsRecord.body).order_by(TermsRecord.id)))
    return ("judging", record.id, record.revision, bench.today(), settings, tuple(counts), bodies)


def facts_of(j: Judging, card: Card, parallel: str, inspection: Inspection | None) -> tuple[CopyFacts, Guess]:
    """Gather prices and chances of a copy; a copy with marks is worth less raw."""
    raw = j.model.estimate(card, parallel)
    by_house: Mapping[str, Mapping[float, float]] = {}
    graded: dict[float, Priced] = {}
    if raw.known and j.model.has_grades:
        by_house = j.chances(card, inspection)
        grades = sorted({grade for chances in by_house.values() for grade in chances}, reverse=True)
        graded = {grade: _priced(j.model.estimate(card, parallel, f"{grade:g}")) for grade in grades}
    facts = CopyFacts(
        raw=_priced(raw).times(damage(inspection.marks if inspection else (), j.settings.damage_table())),
        graded={grade: price for grade, price in graded.items() if price.amount > 0},
        chances=next(iter(by_house.values()), {}),
        wanted=j.settings.collects(card),
        inspected=inspection is not None,
        fade=j.fade,
        age_weeks=j.age,
        by_house=by_house,
        looks=j.looks(card.section) if graded and inspection is None else {},
        guessed=raw.found is Found.WIDE,
    )
    return facts, raw


def _priced(guess: Guess) -> Priced:
    return Priced(guess.mean, guess.spread, guess.noise)


def verdict_of(
    j: Judging, card: Card, parallel: str, inspection: Inspection | None = None
) -> tuple[RouteVerdict, Guess]:
    """Judge one version, or one copy that was looked at."""
    facts, raw = facts_of(j, card, parallel, inspection)
    return judged(j, facts), raw


def judged(j: Judging, facts: CopyFacts) -> RouteVerdict:
    """Judge a copy; what rests on fees that nobody wrote down says so."""
    found = judge_copy(facts, j.costs, j.terms.costs, looking=j.settings.looking())
    if j.terms.valid_from is not None or found.go not in (Go.GRADE, Go.LOOK):
        return found
    return replace(found, reason=f"{found.reason}. By example fees: write yours down under Fees and rates")


def kept_verdict(
    session: Session, bench: Workbench, record: ProductRecord, copies: Sequence[tuple[Card, str, Inspection | None]]
) -> list[RouteVerdict]:
    """Judge some copies; each verdict is made once while what it rests on stays."""
    key, j = judging_key(session, bench, record), kept_judging(session, bench, record)
    return [
        bench.keep_small(
            ("verdict", key, card.section, card.number, parallel, look),
            partial(_verdict, j, card, parallel, look),
        )
        for card, parallel, look in copies
    ]


def _verdict(j: Judging, card: Card, parallel: str, look: Inspection | None) -> RouteVerdict:
    return verdict_of(j, card, parallel, look)[0]


def flag_of(
    session: Session, bench: Workbench, record: ProductRecord, version: tuple[str, str, str], key: Hashable
) -> str:
    """Return the route of a version as soon as it is pulled; ``key`` is the `judging_key` of its product."""

    def judge() -> str:
        j = bench.keep(key, lambda: judging(session, bench, record))
        card = j.product.card_by_number.get(version[:2])
        return verdict_of(j, card, version[2])[0].go.value if card else ""

    return bench.keep_small(("flag", key, version), judge)


def read_inspection(text: str) -> Inspection:
    """Read a stored inspection."""
    values = json.loads(text)
    return Inspection(**{**values, "marks": tuple(values.get("marks", ()))})


def save_inspection(
    session: Session, bench: Workbench, card_id: int, copy: str, parallel: str, inspection: Inspection
) -> None:
    """Keep my look at a copy; a new look replaces the old one."""
    row = session.scalar(select(InspectionRecord).where(InspectionRecord.copy == copy))
    if row is None:
        row = InspectionRecord(copy=copy, card_id=card_id, parallel=parallel, made_at=bench.now(), values="{}")
        session.add(row)
    values = {
        name: getattr(inspection, name) for name in ("centering", "corners", "edges", "surface", "front", "back")
    }
    row.values, row.made_at = json.dumps(values), bench.now()
    session.commit()


def inspections(session: Session, card_id: int) -> dict[str, Inspection]:
    """Return the looks at the copies of a card; a copy nobody looked at has the marks noted while it was opened."""
    i, p = InspectionRecord, PullRecord
    looks = session.execute(select(i.copy, i.values).where(i.card_id == card_id))
    marked = session.execute(
        select(p.id, p.details).where(p.card_id == card_id, p.undone_at.is_(None), p.details.contains("marks"))
    )
    return _together(marked, looks)


def _together(marked: Iterable[Any], looks: Iterable[Any]) -> dict[str, Inspection]:
    """Closer looks by copy, the marks noted while opening kept with them; where there is none, the marks alone."""
    noted, found = _noted(marked), {copy: read_inspection(values) for copy, values in looks}
    for copy, look in found.items():
        before = noted[copy].marks if copy in noted else ()
        found[copy] = replace(look, marks=tuple(dict.fromkeys((*before, *look.marks))))
    return {**noted, **found}


def looks_at(session: Session, pull_ids: Sequence[int]) -> dict[int, Inspection]:
    """Return the looks at some copies of boxes, by pull; marks noted while opening stand in for a missing one."""
    i, p = InspectionRecord, PullRecord
    looks = session.execute(select(i.copy, i.values).where(i.copy.in_([f"pull-{key}" for key in pull_ids])))
    marked = session.execute(select(p.id, p.details).where(p.id.in_(list(pull_ids)), p.details.contains("marks")))
    found = _together(marked, looks)
    return {int(copy.removeprefix("pull-")): look for copy, look in found.items()}


def _noted(rows: Iterable[Any]) -> dict[str, Inspection]:
    """Looks that the marks of some copies stand for, by their names."""
    looks = ((pull, noted_look(Details.from_dict(json.loads(details)).marks)) for pull, details in rows)
    return {f"pull-{pull}": look for pull, look in looks if look is not None}
