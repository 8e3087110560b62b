"""Where every copy should go: verdicts by version, kept in the store, worked out anew after prices change."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Product
from botin.core.flags.verdict import judge_copy
from botin.core.flags.ways import CopyFacts, Go, Priced, RouteVerdict
from botin.core.grading.forecast import Forecaster, House, compared, house_of
from botin.core.grading.grades import COMMON, Grader, Inspection, Quality, Standard
from botin.core.grading.learning import learn_grader
from botin.core.money import exponent
from botin.core.pricing.damage import damage
from botin.core.pricing.fade import Fade
from botin.core.pricing.guess import Found, Guess
from botin.core.pricing.pricemodel import PriceModel
from botin.core.selling.costs import SaleCosts
from botin.desk.fees import GradingFees, grading_fees, sale_costs, standards
from botin.desk.grading.counts import qualities, returned_grades
from botin.desk.pricing.fading import product_fade, weeks_since
from botin.desk.settings import Settings, load_settings
from botin.desk.workbench import Workbench
from botin.store.fees import all_fees
from botin.store.grading.counts import taught
from botin.store.models import ProductRecord
from botin.store.once import once


@dataclass(frozen=True)
class FlagInputs:
    """Everything a verdict of a product needs, made once."""

    product: Product
    model: PriceModel
    fade: Fade
    age: float
    costs: SaleCosts
    terms: GradingFees
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


def judging(session: Session, bench: Workbench, record: ProductRecord) -> FlagInputs:
    """Gather what verdicts on a product's copies need."""
    settings, product = load_settings(session), bench.product(session, record)
    terms, grader = grading_fees(session, bench.today()), learn_grader(returned_grades(session))
    return FlagInputs(
        product=product,
        model=bench.price_model(session, record),
        fade=product_fade(session, bench, record, settings),
        age=weeks_since(record.released_on, bench.today()),
        costs=replace(
            sale_costs(session, bench.today(), settings), places=exponent(record.currency), currency=record.currency
        ),
        terms=terms,
        qualities=qualities(session, record.id),
        grader=grader,
        settings=settings,
        houses=_houses(session, terms, grader, standards(session, bench.today())),
    )


def _houses(
    session: Session, terms: GradingFees, grader: Grader, limits: Mapping[str, Standard]
) -> dict[str, tuple[Grader, Standard]]:
    """Grader and limits of each house of the tiers; one without a name learns from all returns."""
    return {
        house: (
            learn_grader(returned_grades(session, house)) if house else grader,
            limits.get(house, limits.get("", COMMON)),
        )
        for house in terms.houses or ("",)
    }


def kept_inputs(session: Session, bench: Workbench, record: ProductRecord) -> FlagInputs:
    """Return the same, made once while prices, returned grades, fees and settings stay."""
    return bench.keep(inputs_key(session, bench, record), lambda: judging(session, bench, record))


def inputs_key(session: Session, bench: Workbench, record: ProductRecord) -> Hashable:
    """Return what a verdict rests on: prices, day, settings, returned grades and fees."""
    return once(session, ("judging key", record.id, record.revision), lambda: _judging_key(session, bench, record))


def _judging_key(session: Session, bench: Workbench, record: ProductRecord) -> Hashable:
    settings = load_settings(session)
    bodies = tuple(body for *_, body in all_fees(session))
    return ("judging", record.id, record.revision, bench.today(), settings, taught(session), bodies)


def facts_of(
    j: FlagInputs, card: Card, parallel: str, inspection: Inspection | None, grade: str = ""
) -> tuple[CopyFacts, Guess]:
    """Gather prices and chances of a copy; one with marks is worth less raw, a graded one sells as what it is."""
    if grade:
        return _slab_facts(j, card, parallel, grade)
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


def _slab_facts(j: FlagInputs, card: Card, parallel: str, grade: str) -> tuple[CopyFacts, Guess]:
    """A graded copy is sold as it is or kept: nobody grades or looks at it again."""
    price = j.model.estimate(card, parallel, grade)
    wanted, guessed = j.settings.collects(card), price.found is Found.WIDE
    facts = CopyFacts(
        raw=_priced(price), wanted=wanted, inspected=True, fade=j.fade, age_weeks=j.age, guessed=guessed
    )
    return facts, price


def _priced(guess: Guess) -> Priced:
    return Priced(guess.mean, guess.spread, guess.noise)


def verdict_of(
    j: FlagInputs, card: Card, parallel: str, inspection: Inspection | None = None, grade: str = ""
) -> tuple[RouteVerdict, Guess]:
    """Judge one version, or one copy that was looked at or graded."""
    facts, raw = facts_of(j, card, parallel, inspection, grade)
    return judged(j, facts), raw


def judged(j: FlagInputs, facts: CopyFacts) -> RouteVerdict:
    """Judge a copy; what rests on fees that nobody wrote down says so."""
    found = judge_copy(facts, j.costs, j.terms.costs, looking=j.settings.looking())
    if j.terms.valid_from is not None or found.go not in (Go.GRADE, Go.LOOK):
        return found
    return replace(found, reason=f"{found.reason}. By example fees: write yours down under Fees and rates")


def kept_verdict(
    session: Session,
    bench: Workbench,
    record: ProductRecord,
    copies: Sequence[tuple[Card, str, Inspection | None, str]],
) -> list[RouteVerdict]:
    """Judge some copies (card, finish, look, grade); each verdict is made once while what it rests on stays."""
    key, j = inputs_key(session, bench, record), kept_inputs(session, bench, record)
    return [
        bench.keep_small(
            ("verdict", key, card.section, card.number, parallel, look, grade),
            partial(_verdict, j, card, parallel, look, grade),
        )
        for card, parallel, look, grade in copies
    ]


def _verdict(j: FlagInputs, card: Card, parallel: str, look: Inspection | None, grade: str) -> RouteVerdict:
    return verdict_of(j, card, parallel, look, grade)[0]


def flag_of(
    session: Session, bench: Workbench, record: ProductRecord, version: tuple[str, str, str], key: Hashable
) -> str:
    """Return the route of a version as soon as it is pulled; ``key`` is the `inputs_key` of its product."""

    def judge() -> str:
        j = bench.keep(key, lambda: judging(session, bench, record))
        card = j.product.card_by_number.get(version[:2])
        return verdict_of(j, card, version[2])[0].go.value if card else ""

    return bench.keep_small(("flag", key, version), judge)
