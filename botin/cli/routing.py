"""Command for scripts: ``routes`` says where each copy should go; no store is touched."""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from pathlib import Path
from typing import Any

import click

from botin.cli import cli
from botin.cli.buying import newest
from botin.cli.scripts import JSON, scripted
from botin.core.comps import comp_estimate
from botin.core.errors import BotinError
from botin.core.prices import PriceRow
from botin.core.routing import CopyFacts, GradingCosts, Priced, RouteVerdict, judge_copy
from botin.core.selling import SaleCosts
from botin.exchange.gradesfile import CopyRow, GradeBook, read_copies, read_fees, read_grades
from botin.exchange.prices import read_prices

TIER_SPREAD = 0.6
"""Spread on the log scale of a card that only has its section's usual price; a choice."""
Rows = dict[tuple[str, str, str, str], list[PriceRow]]


@cli.command("routes")
@click.option(
    "--copies", "copies_path", type=click.Path(path_type=Path), required=True, help="id, section, number, …"
)
@click.option("--prices", "prices_path", type=click.Path(path_type=Path), required=True, help="prices.csv")
@click.option("--fees", "fees_path", type=click.Path(path_type=Path), required=True, help="fees.json")
@click.option("--grades", "grades_path", type=click.Path(path_type=Path), required=True, help="grades.json")
@JSON
@scripted
def routes_command(
    copies_path: Path,
    prices_path: Path,
    fees_path: Path,
    grades_path: Path,
    *,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say for each copy what every route nets, and which one to take."""
    copies = read_copies(copies_path)
    costs, grading = read_fees(fees_path)
    grades = read_grades(grades_path)
    rows, findings = read_prices(prices_path, _currency(prices_path))
    if findings:
        message = f"{findings[0].where}: {findings[0].message}"
        raise BotinError(message)
    by_key: Rows = defaultdict(list)
    for row in rows:
        by_key[(row.section, row.number, row.parallel, row.grade)].append(row)
    day = newest(rows)
    return {"copies": [_judged(copy, by_key, day, grades, costs, grading) for copy in copies]}


def _currency(path: Path) -> str:
    """All prices of a file are in one currency: that of its first row, or euro."""
    from botin.exchange import tables as t  # noqa: PLC0415
    from botin.exchange.source import read_table  # noqa: PLC0415

    try:
        table = read_table(t.PRICES, path.read_bytes(), path.name)
    except OSError:
        return "EUR"
    return next((code for row in table.rows if (code := row.get("currency").upper())), "EUR")


def _judged(
    copy: CopyRow, rows: Rows, day: date, grades: GradeBook, costs: SaleCosts, grading: GradingCosts
) -> dict[str, Any]:
    known = {key[3] for key in rows if key[3]}
    graded = {float(g): _price(rows, copy, g, day) for g in known if g.replace(".", "", 1).isdigit()}
    facts = CopyFacts(
        _price(rows, copy, "", day),
        {grade: price for grade, price in graded.items() if price.amount > 0},
        grades.of(copy.section, copy.inspection),
        copy.wanted,
        copy.inspection is not None,
    )
    return {"id": copy.id, **verdict_document(judge_copy(facts, costs, grading))}


def _price(rows: Rows, copy: CopyRow, grade: str, day: date) -> Priced:
    own = comp_estimate(rows.get((copy.section, copy.number, copy.parallel, grade), []), day)
    if own is not None:
        return Priced(own.amount, own.error)
    usual = comp_estimate(rows.get((copy.section, "", copy.parallel, grade), []), day)
    return Priced(usual.amount, TIER_SPREAD) if usual is not None else Priced(0.0)


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
        "routes": [
            {
                "route": route.go.value,
                "tier": route.tier or None,
                "net_mean": route.mean,
                "p10": route.p10,
                "p90": route.p90,
                "chance_of_loss": route.loss,
            }
            for route in found.routes
        ],
    }
