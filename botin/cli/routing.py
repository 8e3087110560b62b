"""Commands for scripts: ``routes`` says where each copy should go, ``estimate`` what every version sells for."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from datetime import date
from pathlib import Path
from typing import Any

import click

from botin.cli import cli
from botin.cli.pricing import AS_OF, LENIENT, load_prices_for, newest, no_sales, used_or_refused
from botin.cli.scripts import JSON, PACKAGE, scripted
from botin.core.catalog.naming import LooseNames, Namer, Names
from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.flags.verdict import judge_copy
from botin.core.flags.ways import CopyFacts, Priced, RouteVerdict
from botin.core.pricing.damage import damage
from botin.core.pricing.guess import Found, Guess
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceRow
from botin.exchange.catalog.package import load
from botin.exchange.copies.copieslist import CopyRow, read_copies
from botin.exchange.grading import GradeBook, read_grades
from botin.exchange.selling.fees import Fees, read_fees


@cli.command("routes")
@click.option(
    "--copies", "copies_path", type=click.Path(path_type=Path), required=True, help="id, section, number, …"
)
@click.option("--prices", "prices_path", type=click.Path(path_type=Path), required=True, help="prices.csv")
@click.option("--fees", "fees_path", type=click.Path(path_type=Path), required=True, help="fees.json")
@click.option("--grades", "grades_path", type=click.Path(path_type=Path), required=True, help="grades.json")
@click.option("--package", type=click.Path(path_type=Path), help="Product package: players, finishes and runs.")
@AS_OF
@LENIENT
@JSON
@scripted
def routes_command(  # noqa: PLR0913  (the options of the contract)
    copies_path: Path,
    prices_path: Path,
    fees_path: Path,
    grades_path: Path,
    package: Path | None,
    as_of: date | None,
    *,
    lenient: bool,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say for each copy what every route nets, and which one to take."""
    product = load(package).product if package else None
    namer: Namer = Names(product) if product else LooseNames()
    file = load_prices_for(prices_path, product.currency if product else None, namer)
    if isinstance(namer, LooseNames):
        namer.settle()
    copies = read_copies(copies_path, namer)
    fees = read_fees(fees_path, file.places, file.currency)
    grades = read_grades(grades_path, namer.section)
    unused = [*file.unused, *no_sales(file.rows, prices_path), *copies.unused, *fees.unused, *grades.unused]
    used_or_refused(unused, lenient=lenient)
    model = PriceModel(
        product or pseudo_product(file.rows, copies.rows, file.currency), file.rows, as_of or newest(file.rows)
    )
    return {
        "copies": [_judged(copy, model, grades, fees) for copy in copies.rows],
        "unused": [one.document() for one in unused],
    }


def pseudo_product(rows: Iterable[PriceRow], copies: Iterable[CopyRow], currency: str) -> Product:
    """Make a checklist of what prices and copies name, where none is given: each number is its own player."""
    cards: dict[tuple[str, str], None] = {}
    finishes: dict[tuple[str, str], None] = {}
    named = [(row.section, row.number, row.parallel) for row in rows]
    for section, number, parallel in (*named, *((copy.section, copy.number or "", copy.parallel) for copy in copies)):
        finishes[(section, parallel)] = None
        if number:
            cards[(section, number)] = None
    return Product(
        key="listed",
        name="what was listed",
        currency=currency,
        sections=tuple(Section(key, key, Kind.INSERT) for key in dict.fromkeys(section for section, _ in finishes)),
        cards=tuple(Card(section, number, "") for section, number in cards),
        parallels=tuple(Parallel(finish, finish, section) for section, finish in finishes if finish),
    )


def _judged(copy: CopyRow, model: PriceModel, grades: GradeBook, fees: Fees) -> dict[str, Any]:
    card = model.product.card_by_number.get((copy.section, copy.number or ""))
    if card is None:
        return {
            "id": copy.id,
            "verdict": None,
            "reason": "no such card on the checklist",
            "look_gain": None,
            "routes": [],
        }
    raw = model.estimate(card, copy.parallel)
    facts = facts_of(copy, card, raw, model, grades, fees)
    verdict = judge_copy(facts, fees.selling, fees.grading, looking=fees.looking)
    return {"id": copy.id, **verdict_document(verdict), "price": price_document(raw)}


def facts_of(copy: CopyRow, card: Card, raw: Guess, model: PriceModel, grades: GradeBook, fees: Fees) -> CopyFacts:
    """Gather what a verdict on a listed copy needs."""
    houses = tuple(dict.fromkeys(tier.house for tier in fees.grading.tiers)) or ("",)
    by_house: dict[str, dict[float, float]] = {}
    graded: dict[float, Priced] = {}
    if raw.known and model.has_grades and not copy.grade:
        by_house = {house: grades.of(copy.section, copy.inspection, house) for house in houses}
        given = sorted({grade for chances in by_house.values() for grade in chances}, reverse=True)
        graded = {grade: priced(model.estimate(card, copy.parallel, f"{grade:g}")) for grade in given}
    own = model.estimate(card, copy.parallel, copy.grade) if copy.grade else raw
    return CopyFacts(
        raw=priced(own).times(1.0 if copy.grade else damage(copy.marks)),
        graded={grade: price for grade, price in graded.items() if price.amount > 0},
        chances=next(iter(by_house.values()), {}),
        wanted=copy.wanted,
        inspected=copy.inspection is not None,
        by_house=by_house,
        looks=grades.looks(copy.section, houses) if graded and copy.inspection is None else {},
        guessed=own.found is Found.WIDE,
    )


def priced(guess: Guess) -> Priced:
    """Return an estimate as what a verdict reckons with."""
    return Priced(guess.mean, guess.spread, guess.noise)


def verdict_document(found: RouteVerdict) -> dict[str, Any]:
    """Shape a verdict as the contract has it."""
    return {
        "verdict": found.go.value,
        "reason": found.reason,
        "tier": found.tier or None,
        "margin": found.margin,
        "flips": found.flips,
        "top_grade_or_nothing": found.top_only,
        "break_even_gem": found.gem_needed,
        "break_even_price": found.price_needed,
        "look_gain": found.look_gain,
        "routes": [
            {
                "route": route.go.value,
                "tier": route.tier or None,
                "house": route.house or None,
                "channel": route.channel or None,
                "net_mean": route.mean,
                "p10": route.p10,
                "p90": route.p90,
                "chance_of_loss": route.loss,
                "only_with_more": route.more or None,
                "net_alone": route.alone,
            }
            for route in found.routes
        ],
    }


@cli.command("estimate")
@PACKAGE
@click.option("--prices", "prices_path", type=click.Path(path_type=Path), required=True, help="prices.csv")
@AS_OF
@LENIENT
@JSON
@scripted
def estimate_command(
    package: Path,
    prices_path: Path,
    as_of: date | None,
    *,
    lenient: bool,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say what every version of the checklist sells for, raw, and in every grade with evidence."""
    product = load(package).product
    file = load_prices_for(prices_path, product.currency, Names(product))
    used_or_refused(file.unused, lenient=lenient)
    model = PriceModel(product, file.rows, as_of or newest(file.rows))
    return {
        "currency": product.currency,
        "as_of": model.as_of.isoformat(),
        "prices": estimates(model, file.rows),
        "unused": [one.document() for one in (*file.unused, *no_sales(file.rows, prices_path))],
    }


def estimates(model: PriceModel, rows: Sequence[PriceRow]) -> list[dict[str, Any]]:
    """Return the estimate of every version raw, and of every grade that some card of its section was sold in."""
    grades: dict[str, set[str]] = defaultdict(set)
    for row in rows:
        if row.grade:
            grades[row.section].add(row.grade)
    for section in model.product.sections:
        for parallel in (
            "",
            *(row.key for row in model.product.parallels_by_section.get(section.key, ()) if row.key),
        ):
            model.prepare(model.product.cards_by_section.get(section.key, ()), parallel)
    found = []
    for key, number, parallel in model.versions.number_of:
        card = model.product.card_by_number[(key, number)]
        for grade in ("", *sorted(grades[key], key=float, reverse=True)):
            guess = model.estimate(card, parallel, grade)
            names = {"section": key, "number": number, "parallel": parallel, "grade": grade}
            found.append({**names, **price_document(guess)})
    return found


def price_document(guess: Guess) -> dict[str, Any]:
    """Shape an estimate as the contract has it; unknown is null."""
    if guess.found is Found.NONE:
        return {"price": None, "mean": None, "low": None, "high": None, "basis": guess.found.value, "sales": 0}
    return {
        "price": guess.amount,
        "mean": guess.mean,
        "low": guess.low,
        "high": guess.high,
        "basis": guess.found.value,
        "sales": guess.sales,
    }
