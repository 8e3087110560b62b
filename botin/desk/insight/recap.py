"""The recap of a box: what came, what it cost, what it is worth, what to do with the best."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.books.results import Result
from botin.core.buying.boxvalue import LineValue, line_values, mean_value
from botin.core.catalog.hits import HitRule
from botin.core.catalog.product import Product
from botin.core.figure import Figure, Input
from botin.core.flags.ways import RouteVerdict
from botin.core.insight.recap import Pulled, Recap, Valued, recap
from botin.core.money import Money
from botin.core.odds.lines import BoxModel
from botin.core.pricing.prices import PriceBook
from botin.desk.flags.judging import kept_verdict
from botin.desk.grading.inspections import looks_at
from botin.desk.odds.learnedmodel import learned_model
from botin.desk.opened import box_cost, counted_base, opened_packs
from botin.desk.pulled import pulled_copies
from botin.desk.settings import Settings, load_settings
from botin.desk.workbench import Workbench
from botin.store.books.postings import results_by_box
from botin.store.models import BoxRecord, ProductRecord
from botin.store.models_copies import PRESENT
from botin.store.opening.boxes import PullRow, get_box, pulls_of

BEST = 10


@dataclass(frozen=True, slots=True)
class BestCard:
    """One of the best cards with its verdict."""

    row: PullRow
    valued: Valued
    verdict: RouteVerdict
    hit: bool


@dataclass(frozen=True, slots=True)
class BoxRecap:
    """All the recap page shows; amounts inside figures are major units of ``currency``."""

    box: BoxRecord
    product: Product
    currency: str
    recap: Recap
    model_mean: Figure
    contributions: tuple[LineValue, ...]
    result: Figure
    best: tuple[BestCard, ...]
    settings: Settings
    counted_at: datetime
    assumptions: tuple[str, ...]
    books: Result
    here: int = 0
    by_rarity: bool = False


def box_recap(session: Session, bench: Workbench, box_id: int, *, by_rarity: bool = False) -> BoxRecap:
    """Work out the recap of a box with today's prices; the best by price, or by kind, run and odds."""
    box = get_box(session, box_id)
    record = box.format.product
    product = bench.product(session, record)
    model = learned_model(session, bench, record, box.format.key)
    prices = bench.prices(session, record)
    settings = load_settings(session)
    rows = pulls_of(session, box.id)
    pulled, opened = pulled_copies(product, rows), opened_packs(session, box)
    counted = counted_base(session, box.id)
    found = recap(model, pulled, prices, box_cost(box), settings.hit_rule(), counted, opened)
    sums = results_by_box(session, [box.id]).get(box.id, ())
    own = next((one for one in sums if one.currency == box.currency), Result(box.currency))
    values, mean = _model_value(bench, record.id, record.revision, model, prices)
    return BoxRecap(
        box=box,
        product=product,
        currency=box.currency,
        recap=found,
        model_mean=mean,
        contributions=values,
        result=_result(box, found, rows, pulled, prices, own),
        books=own,
        here=sum(1 for row in rows if row.mine and row.state in PRESENT),
        best=tuple(_best(session, bench, record, rows, found, settings.hit_rule(), by_rarity=by_rarity)),
        by_rarity=by_rarity or not found.priced,
        settings=settings,
        counted_at=bench.now(),
        assumptions=model.assumptions,
    )


def _model_value(
    bench: Workbench, product_id: int, revision: int, model: BoxModel, prices: PriceBook
) -> tuple[tuple[LineValue, ...], Figure]:
    def make() -> tuple[tuple[LineValue, ...], Figure]:
        values = line_values(model, prices)
        return values, mean_value(values, model.assumptions)

    return bench.keep(("mean", product_id, revision, model.format.key, prices.as_of), make)


def _result(
    box: BoxRecord, found: Recap, rows: Sequence[PullRow], pulled: Sequence[Pulled], book: PriceBook, own: Result
) -> Figure:
    """What the box brought and what is here of it less what it cost: money by the books, cards at today's prices."""
    states = {row.id: row for row in rows}
    here = sum(
        book.estimate(copy.card, copy.parallel, states[copy.id].grade).amount
        for copy in pulled
        if copy.mine and states[copy.id].state in PRESENT
    )
    sealed = own.of([Account.BOXES]) if box.state == "closed" else 0
    parts = {
        "paid, by the books": -own.paid,
        "grading of its cards": -own.grading,
        "sales after their costs": own.sold,
        "owed by others for their cards": own.of([Account.PEOPLE], "opening"),
        "packs kept sealed, at their part": sealed,
    }
    inputs = [Input(words, Money(minor, box.currency).major, "money") for words, minor in parts.items() if minor]
    gain = here + sum(float(one.value or 0.0) for one in inputs) if found.value.value is not None else None
    formula = "what it brought + what is here is worth + what others owe − paid − grading"
    everything = (*inputs, Input("worth of what is here, raw or in its grade", here, "money"))
    return Figure("result of the box", gain, "money", formula, everything)


def _best(
    session: Session,
    bench: Workbench,
    record: ProductRecord,
    rows: list[PullRow],
    found: Recap,
    rule: HitRule,
    *,
    by_rarity: bool,
) -> list[BestCard]:
    ranked = found.rarest if by_rarity or not found.priced else found.best
    by_id, chosen = {row.id: row for row in rows}, ranked[:BEST]
    picked = [by_id[valued.pulled.id] for valued in chosen]
    looks = looks_at(session, [row.copy_id for row in picked])
    copies = [
        (one.pulled.card, one.pulled.parallel, looks.get(row.copy_id), row.grade)
        for one, row in zip(chosen, picked, strict=True)
    ]
    verdicts = kept_verdict(session, bench, record, copies)
    return [
        BestCard(by_id[one.pulled.id], one, verdict, rule.is_hit(one.pulled.kind, one.pulled.run))
        for one, verdict in zip(chosen, verdicts, strict=True)
    ]
