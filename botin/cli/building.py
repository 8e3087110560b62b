"""Commands for scripts about sets: ``repeats`` and ``finish``; no store is touched."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import click

from botin.cli import cli
from botin.cli.buying import FORMAT, REPEATS, price_book, product_and_format, unused_prices
from botin.cli.pricing import LENIENT, load_prices_for, used_or_refused
from botin.cli.scripts import JSON, PACKAGE, scripted
from botin.core.catalog.naming import Names
from botin.core.copies.finishing import Finish, Terms, finish
from botin.core.money import exponent
from botin.core.odds.collation import Repeats
from botin.core.odds.lines import box_model
from botin.core.odds.repeats import BoxCounts, Estimated, RepeatFit, fit_repeats
from botin.core.pricing.priced import priced_box
from botin.exchange.copies.have import read_have
from botin.exchange.selling.fees import read_fees


class BoxType(click.ParamType[BoxCounts]):
    """``CARDS:DISTINCT[:TWICE:THRICE]``."""

    name = "CARDS:DISTINCT[:TWICE:THRICE]"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> BoxCounts:
        """Read the counts of a box."""
        if isinstance(value, BoxCounts):
            return value
        if not re.fullmatch(r"\d+:\d+(:\d+:\d+)?", value):
            self.fail(f"{value!r} is not CARDS:DISTINCT, or with :TWICE:THRICE", param, ctx)
        return BoxCounts(*(int(part) for part in value.split(":")))


@cli.command("repeats")
@click.option("--set-size", type=click.IntRange(1, 1_000_000), required=True, help="Cards in the set.")
@click.option("--box", "boxes", type=BoxType(), multiple=True, required=True, help="Once a box.")
@click.option("--union", type=click.IntRange(1), help="Different numbers in all boxes together.")
@JSON
@scripted
def repeats_command(
    set_size: int,
    boxes: tuple[BoxCounts, ...],
    union: int | None,
    *,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say how often base cards repeat in a box and between boxes."""
    read = [box.read() for box in boxes]
    document = repeats_document(fit_repeats(set_size, read, union))
    if any(one != other for one, other in zip(read, boxes, strict=True)):
        document["assumptions"].append("twice and thrice are taken as second and third copies: only so they add up")
    return document


def _estimated(found: Estimated) -> dict[str, float]:
    return {"repeat_factor": found.factor, "low": found.low, "high": found.high}


def repeats_document(found: RepeatFit) -> dict[str, Any]:
    """Shape a repeat fit as the contract has it."""
    notes = ["a number that came c times in a box has weight factor^c; run as a pure birth process"]
    if found.differ:
        notes.append(
            "one factor for all boxes is rejected: low and high span the boxes, fitted is each box by itself"
        )
    if found.between is not None:
        notes.append("between: weight of numbers seen in earlier boxes; 1 is independent boxes")
    return {
        **_estimated(found.pooled),
        "per_box": [_estimated(row) for row in found.per_box],
        "between": found.between,
        "fit_p": found.fit_p,
        "expected_distinct": {
            "independent": list(found.independent),
            "no_repeats": list(found.no_repeats),
            "fitted": list(found.fitted),
        },
        "assumptions": notes,
    }


@cli.command("finish")
@PACKAGE
@FORMAT
@click.option("--section", required=True, help="Section to finish.")
@click.option(
    "--have", "have_path", type=click.Path(path_type=Path), required=True, help="have.csv: section, number, count"
)
@click.option("--prices", "prices_path", type=click.Path(path_type=Path), required=True, help="prices.csv")
@click.option("--box-price", type=click.FloatRange(0, 1e9), required=True)
@REPEATS
@click.option("--max-boxes", type=click.IntRange(0, 200), default=20, show_default=True)
@click.option(
    "--fees", type=click.Path(path_type=Path), help="fees.json: what a box brings beside is then net of selling."
)
@click.option(
    "--model", "with_model", is_flag=True, help="Means of the price model instead of the given prices as they are."
)
@LENIENT
@JSON
@scripted
def finish_command(  # noqa: PLR0913, PLR0917  (the options of the contract)
    package: Path,
    format_key: str,
    section: str,
    have_path: Path,
    prices_path: Path,
    box_price: float,
    repeats: Repeats,
    max_boxes: int,
    fees: Path | None,
    *,
    with_model: bool,
    lenient: bool,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say what finishing a set costs with 0, 1, 2 … more boxes."""
    product, fmt = product_and_format(package, format_key)
    read = read_fees(fees, exponent(product.currency)) if fees else None
    costs = read.selling if read else None
    names = Names(product)
    section = names.section(section) or section
    prices = load_prices_for(prices_path, product.currency, names)
    used_or_refused(prices.unused, lenient=lenient)
    owned = read_have(have_path, section, names)
    book, model = price_book(prices, product, model=with_model), box_model(product, fmt)
    box, singles = priced_box(model, book, costs.nets if costs else None), priced_box(model, book)
    found = finish(box, singles, section, owned.counts, Terms(box_price, max_boxes), repeats)
    document = finish_document(found)
    document["assumptions"].append(costs.words() if costs else "what a box brings beside is at raw prices")
    more = [*owned.unused, *(read.unused if read else ())]
    return {**document, "unused": unused_prices(prices) + [one.document() for one in more]}


def finish_document(found: Finish) -> dict[str, Any]:
    """Shape a finish curve as the contract has it."""
    return {
        "missing": found.curve.missing,
        "curve": [
            {
                "boxes": step.boxes,
                "expected_missing": step.missing,
                "expected_cost": step.cost,
                "p10": step.p10,
                "p90": step.p90,
                "chance_complete": step.complete,
                "expected_cost_with_rare": step.with_rare,
                "expected_spares": step.spares,
            }
            for step in found.curve.steps
        ],
        "best_boxes": found.curve.best,
        "unpriced": list(found.unpriced),
        "assumptions": list(found.assumptions),
    }
