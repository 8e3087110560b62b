"""The buy desk: what a box really gives, the chance of what is wanted, and what else the money would do."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from botin.core.buying.bounds import WorthBounds
from botin.core.buying.breakeven import Walk, walk
from botin.core.buying.gradedbox import GemTerms
from botin.core.buying.pricegaps import PriceGap, price_gaps
from botin.core.buying.scorecard import Evidence, Scorecard, scorecards
from botin.core.buying.verdict import BuyVerdict, Case, decide
from botin.core.catalog.product import Format, Product
from botin.core.catalog.wants import read_wish
from botin.core.errors import BotinError, NotFoundError
from botin.core.figure import Figure, Input
from botin.core.pricing.valuecurve import ValueCurve
from botin.core.pricing.worth import LineShare, by_person, line_shares
from botin.desk.books.budget import Month, month_of
from botin.desk.buying.chances import ChanceRow, Wish, chance_rows
from botin.desk.buying.formats import FormatColumn, Season, format_columns, likeliest_season, season_of
from botin.desk.buying.myboxes import MyBox, my_boxes, usual_pack
from botin.desk.buying.otherways import OtherWays, other_ways
from botin.desk.buying.prepared import Prepared, prepared
from botin.desk.buying.question import Question
from botin.desk.grading.counts import gem_terms
from botin.desk.pricing.sealedprices import sealed_values
from botin.desk.settings import Settings, load_settings
from botin.desk.workbench import Workbench
from botin.store.buying import season_choices
from botin.store.models import ProductRecord

GAPS = 10
LOSS = "E[cost − value | value < cost]"


@dataclass(frozen=True)
class Answers:
    """The figures of one box, each with how it came about."""

    cost: Figure
    pays: Figure
    mean: Figure
    median: Figure
    loss: Figure
    at_least: Figure
    net: Figure
    graded: Figure


@dataclass(frozen=True)
class BuyPage:
    """All the buy desk shows; amounts are major units of ``currency``."""

    record: ProductRecord
    product: Product
    format: Format
    question: Question
    currency: str
    answers: Answers
    curve: ValueCurve
    case: ValueCurve | None
    several: ValueCurve
    rare: tuple[float, float | None]
    shares: tuple[LineShare, ...]
    people: tuple[tuple[str, float], ...]
    chances: tuple[ChanceRow, ...]
    walk: Walk
    columns: tuple[FormatColumn, ...]
    seasons: tuple[tuple[int, str], ...]
    season: Season | None
    ways: OtherWays
    gaps: tuple[PriceGap, ...]
    cards: tuple[Scorecard, Scorecard]
    month: Month
    mine: tuple[MyBox, ...]
    verdict: BuyVerdict
    bounds: WorthBounds | None
    """How far mean and chance may lie from what is said, where odds are not printed."""
    evidence: Case
    error_at_cost: float
    assumptions: tuple[str, ...]
    settings: Settings


def read_chase(product: Product, lines: Sequence[str]) -> list[Wish]:
    """Read the chase list: each line with its versions, or with what is wrong with it."""
    found: list[Wish] = []
    for line in lines:
        try:
            found.append((line, read_wish(product, line), ""))
        except BotinError as exc:
            found.append((line, None, exc.message))
    return found


def buy_page(session: Session, bench: Workbench, record: ProductRecord, question: Question) -> BuyPage:
    """Answer everything that is asked about a format before it is bought.

    Raises
    ------
    NotFoundError
        When the product has no such format.
    """
    product, settings = bench.product(session, record), load_settings(session)
    fmt = product.format_by_key.get(question.format)
    if fmt is None:
        message = f"{product.name} has no format “{question.format}”. Pick one of its formats."
        raise NotFoundError(message)
    ready = prepared(session, bench, record, question.how(), settings)
    cost = question.price.total
    curve = ready.curve(cost)
    wishes = read_chase(product, question.chase)
    rows = chance_rows(ready, wishes, cost, question.boxes, settings.hit_rule())
    columns = format_columns(session, bench, record, question, wishes, settings)
    median = curve.quantile(0.5) or 0.0
    ways = other_ways(session, bench, record, wishes, (cost, median), settings, question.wait)
    evidence = _evidence(ready, curve, cost, rows, ways, settings)
    gems = gem_terms(session, bench, record, settings)
    net, graded = (
        prepared(session, bench, record, how, settings) for how in (question.how(net=True), question.how(graded=True))
    )
    scored = _scored(ready, evidence, rows, ways, gems)
    return BuyPage(
        record=record,
        product=product,
        format=fmt,
        question=question,
        currency=product.currency,
        answers=_answers(question, ready, (net, graded), gems),
        curve=curve,
        case=ready.curve(cost, fmt.boxes_per_case, one_case=True) if fmt.boxes_per_case else None,
        several=ready.curve(cost, question.boxes),
        rare=ready.rare,
        shares=line_shares(ready.box),
        people=by_person(ready.box, 8),
        chances=rows,
        walk=walk(ready.box, ready.sample, cost),
        columns=columns,
        seasons=season_choices(session, record),
        season=season_of(session, bench, record, fmt, question.other or likeliest_season(session, record)),
        ways=ways,
        gaps=price_gaps(ready.box)[:GAPS],
        cards=scorecards(
            replace(scored, ratios=_prices_beside(session, bench, record, fmt, cost)),
            question.scores,
            question.notes,
            question.price_by,
        ),
        month=month_of(session, bench.today(), settings, product.currency),
        mine=my_boxes(session, bench, record, question.format),
        verdict=decide(evidence),
        bounds=ready.bounds(cost),
        evidence=evidence,
        error_at_cost=curve.error_at(cost) if cost < curve.grid.reach else 0.0,
        assumptions=(*ready.box.assumptions, ready.repeats.words()),
        settings=settings,
    )


def _answers(question: Question, ready: Prepared, after: tuple[Prepared, Prepared], gems: GemTerms) -> Answers:
    """Put the figures together; ``after`` are the box after selling, and with the best cards graded."""
    cost, x = question.price.total, question.at_least or question.price.total
    curve = ready.curve(max(cost, x / 2))
    price = Input("cost of the box", cost, "money")
    parts = tuple(
        Input(f"{share.expected:.3g} × {_name(share)}", share.mean, "money")
        for share in line_shares(ready.box)
        if share.mean
    )
    notes = (*ready.box.assumptions, ready.repeats.words())
    law = "from the whole distribution: the product of the lines’ characteristic functions, inverted"
    net, graded = (box.curve(cost) for box in after)
    grading = (price, Input("grading a card", gems.cost, "money"))
    return Answers(
        cost=question.price.figure(),
        pays=Figure("chance that it pays", curve.chance_at_least(cost), "share", f"P(value ≥ cost), {law}", (price,)),
        mean=Figure("mean value", curve.mean, "money", "Σ expected count × mean price of the line", parts, notes),
        median=Figure("median value", curve.quantile(0.5), "money", f"half of all boxes give no more; {law}"),
        loss=Figure(
            "loss when it loses", curve.expected_loss(cost), "money", "E[cost − value | value < cost]", (price,)
        ),
        at_least=Figure("chance of at least", curve.chance_at_least(x), "share", f"P(value ≥ {x:,.2f}), {law}"),
        net=Figure(
            "pays after the costs of selling",
            net.chance_at_least(cost),
            "share",
            "what is left of every card after fees, postage and time, or what it brings in bulk",
            (price,),
        ),
        graded=Figure(
            "the same, with the best graded",
            graded.chance_at_least(cost),
            "share",
            "every card that gains by it is sent in; with the gem share it sells as top grade, else as raw; net",
            (*grading, Input("gem share", gems.gem_chance, "share")),
        ),
    )


def _name(share: LineShare) -> str:
    line = share.line.line
    return " ".join(filter(None, (line.section.label, line.parallel, line.group)))


def _evidence(
    ready: Prepared,
    curve: ValueCurve,
    cost: float,
    rows: Sequence[ChanceRow],
    ways: OtherWays,
    settings: Settings,
) -> Case:
    any_of = next((row.found for row in rows if row.label == "any of these"), None) or next(
        (row.found for row in rows if row.wish and row.found), None
    )
    lines = [line for line in ready.box.lines if line.expected]
    copies = sum(line.expected for line in lines)
    blank = sum(line.expected * line.unpriced / len(line.values) for line in lines)
    expected = settings.hold_growth_percent / 100
    return Case(
        cost=cost,
        mean=curve.mean,
        median=curve.quantile(0.5) or 0.0,
        pays=curve.chance_at_least(cost),
        rare=ready.rare[0],
        wanted=any_of.box if any_of else None,
        singles=ways.together,
        even_boxes=any_of.even if any_of else None,
        growth_needed=ways.hold.value,
        growth_expected=expected or None,
        unpriced=blank / copies if copies else 0.0,
    )


def _scored(ready: Prepared, evidence: Case, rows: Sequence[ChanceRow], ways: OtherWays, gems: GemTerms) -> Evidence:
    names = {name for line in ready.box.rest for card in line.line.cards for name in card.people}
    hits = next((row.found.expected for row in rows if row.label == "any hit" and row.found), None)
    return Evidence(
        median_share=evidence.median / evidence.cost if evidence.cost and evidence.unpriced < 1 else None,
        unpriced=evidence.unpriced,
        wanted=evidence.wanted,
        hits_per_name=hits / len(names) if hits is not None and names else None,
        gem_share=gems.gem_chance,
        gem_counted=gems.counted,
        floor=ways.fade.floor if ways.fade.prices else None,
    )


def _prices_beside(
    session: Session, bench: Workbench, record: ProductRecord, fmt: Format, cost: float
) -> dict[str, float]:
    """What else the price of a box can be held against, each ÷ the price; what is not known is left out."""
    market = sealed_values(session, bench).get((record.id, fmt.key))
    usual = usual_pack(session, record.currency)
    known = {
        "list": fmt.list_price.major if fmt.list_price and fmt.list_price.currency == record.currency else None,
        "market": market.amount if market else None,
        "pack": usual * fmt.packs_per_box if usual else None,
    }
    return {name: amount / cost for name, amount in known.items() if amount and cost}
