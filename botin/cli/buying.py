"""Commands for scripts before a purchase: ``odds`` and ``worth``; no store is touched."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

import click

from botin.cli import cli
from botin.cli.pricing import LENIENT, Prices, load_prices_for, newest, used_or_refused
from botin.cli.scripts import JSON, PACKAGE, line_keys, scripted
from botin.core.buying.bounds import (
    Asked,
    ChanceBounds,
    WorthBounds,
    chance_bounds,
    unprinted_lines,
    wanted_weights,
    worth_bounds,
)
from botin.core.buying.chance import Chances, chances
from botin.core.catalog.naming import Names
from botin.core.catalog.product import Format, Product
from botin.core.catalog.wants import parse_want, versions
from botin.core.errors import BotinError, NotFoundError
from botin.core.money import exponent
from botin.core.odds.boxlaw import BoxLaw
from botin.core.odds.collation import INDEPENDENT, NO_REPEATS, Repeats
from botin.core.odds.findings import Severity
from botin.core.odds.lines import box_model
from botin.core.pricing.modelbook import ModelBook
from botin.core.pricing.priced import priced_box, without_versions
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceBook, PriceKind
from botin.core.pricing.worth import Worth, worth
from botin.exchange.catalog.package import load
from botin.exchange.selling.fees import read_fees
from botin.exchange.unused import Unused

EXACT_POINTS = 2**18
"""A script can wait: a grid fine enough that prices in cents are hardly ever rounded."""


class RepeatsType(click.ParamType[Repeats]):
    """``independent``, ``none`` or a number."""

    name = "independent|none|RHO"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Repeats:
        """Read the repeat model."""
        if isinstance(value, Repeats):
            return value
        known = {"independent": INDEPENDENT, "none": NO_REPEATS}
        if value in known:
            return known[value]
        try:
            factor = float(value)
        except ValueError:
            factor = -1.0
        if not 0 <= factor <= 2:
            self.fail(f"{value!r} is not independent, none or a factor from 0 to 2", param, ctx)
        return Repeats(factor)


FORMAT = click.option("--format", "format_key", required=True, help="Key of the format.")
SEEDING = click.option(
    "--seeding", type=click.Choice(["learned", "even", "random"]), default="learned", show_default=True
)
BOXES = click.option("--boxes", type=click.IntRange(1, 10_000), default=1, show_default=True)
REPEATS = click.option("--repeats", type=RepeatsType(), default="independent", show_default=True)


def product_and_format(package: Path, format_key: str) -> tuple[Product, Format]:
    """Read a package and find one of its formats.

    Raises
    ------
    BotinError
        When the package has errors that leave out rows, or has no such format.
    """
    reading = load(package)
    lost = [found for found in reading.findings if found.severity is Severity.ERROR]
    if lost:
        message = f"{lost[0].where}: {lost[0].message} Mend it first; botin check lists everything."
        raise BotinError(message)
    fmt = reading.product.format_by_key.get(format_key)
    if fmt is None:
        known = ", ".join(reading.product.format_by_key)
        message = f"There is no format “{format_key}” in {package}. It has {known}."
        raise NotFoundError(message)
    return reading.product, fmt


def price_book(prices: Prices, product: Product, *, model: bool = False) -> PriceBook:
    """Return the given prices as they are, or with ``model`` what the price model makes of them."""
    if not model:
        return PriceBook(prices.rows, newest(prices.rows))
    return ModelBook(PriceModel(product, prices.rows, newest(prices.rows)), prices.rows, rounded=False)


def unused_prices(prices: Prices) -> list[dict[str, str]]:
    """List what of a price file plays no part in a box: what matched nothing, graded and asking prices."""
    found = [one.document() for one in prices.unused]
    for row in prices.rows:
        if row.grade or row.kind is not PriceKind.SOLD:
            text = " ".join(filter(None, (row.section, row.number, row.parallel, row.grade, f"{row.amount:g}")))
            why = "a box holds raw cards" if row.grade else f"a price of the kind {row.kind.value} is no sale"
            found.append(Unused(f"prices.csv:{row.line}", text, why).document())
    return found


@cli.command("odds")
@PACKAGE
@FORMAT
@click.option("--want", "specs", multiple=True, required=True, help="section:number[:parallel], name=…, team=…")
@click.option("--all", "every", is_flag=True, help="All of the wants, not any of them.")
@BOXES
@SEEDING
@REPEATS
@JSON
@scripted
def odds_command(  # noqa: PLR0913  (the options of the contract)
    package: Path,
    format_key: str,
    specs: tuple[str, ...],
    boxes: int,
    seeding: str,
    repeats: Repeats,
    *,
    every: bool,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say the chance of what is wanted, per pack, box, case and in some boxes."""
    wants = [parse_want(spec) for spec in specs]
    product, fmt = product_and_format(package, format_key)
    law = BoxLaw(product)
    box = priced_box(box_model(product, fmt, seeding, law=law), PriceBook([], date.min))
    wanted = [versions(product, want) for want in wants]
    found = chances(box, wanted, every=every, boxes=boxes, repeats=repeats)
    bounds = chance_bounds(law, fmt, wanted, found, every=every, boxes=boxes, repeats=repeats, seeding=seeding)
    of_it = wanted_weights(law, fmt, frozenset().union(*wanted))
    unprinted = [law.system.lines[place].key for place in unprinted_lines(law, fmt) if place in of_it]
    return {**odds_document(found, bounds), "unprinted": [line_keys(key) for key in unprinted]}


def odds_document(found: Chances, bounds: ChanceBounds) -> dict[str, Any]:
    """Shape the chances as the contract has it."""
    return {
        "expected_per_box": found.expected,
        "chance": {"pack": found.pack, "box": found.box, "case": found.case, "boxes": found.boxes},
        "bounds": {
            "pack": list(bounds.pack),
            "box": list(bounds.box),
            "case": None if bounds.case is None else list(bounds.case),
            "boxes": list(bounds.boxes),
        },
        "expected_bounds": list(bounds.expected),
        "boxes_for_even_chance": found.even,
        "boxes_for_95": found.most,
        "assumptions": list(found.assumptions),
    }


@cli.command("worth")
@PACKAGE
@FORMAT
@click.option("--prices", "prices_path", type=click.Path(path_type=Path), required=True, help="prices.csv")
@click.option("--cost", type=click.FloatRange(0, 1e9), required=True, help="Cost of one box, in major units.")
@BOXES
@SEEDING
@REPEATS
@click.option("--net", is_flag=True, help="Net of selling costs.")
@click.option("--fees", type=click.Path(path_type=Path), help="fees.json, for --net")
@click.option("--model", is_flag=True, help="Means of the price model instead of the given prices as they are.")
@click.option(
    "--without", "without", multiple=True, help="What to leave out, like the wants of botin odds: no chase."
)
@LENIENT
@JSON
@scripted
def worth_command(  # noqa: PLR0913, PLR0917  (the options of the contract)
    package: Path,
    format_key: str,
    prices_path: Path,
    cost: float,
    boxes: int,
    seeding: str,
    repeats: Repeats,
    fees: Path | None,
    without: tuple[str, ...],
    *,
    net: bool,
    model: bool,
    lenient: bool,
    as_json: bool,  # noqa: ARG001  (always JSON)
) -> dict[str, Any]:
    """Say what boxes are worth: mean, median, spread, and the chance to break even."""
    if net and fees is None:
        message = "--net needs --fees: what selling costs is yours to say."
        raise click.UsageError(message)
    product, fmt = product_and_format(package, format_key)
    read = read_fees(fees, exponent(product.currency)) if net and fees else None
    costs = read.selling if read else None
    prices = load_prices_for(prices_path, product.currency, Names(product))
    used_or_refused(prices.unused, lenient=lenient)
    book = price_book(prices, product, model=model)
    law = BoxLaw(product)
    box = priced_box(box_model(product, fmt, seeding, law=law), book, costs.nets if costs else None)
    if without:
        box = without_versions(box, frozenset().union(*(versions(product, parse_want(spec)) for spec in without)))
    found = worth(box, cost, boxes, repeats=repeats, points=EXACT_POINTS)
    asked = Asked(boxes, cost * boxes, repeats, seeding)
    prices_of = {priced.line.place: priced.values for priced in box.all_lines}
    document = worth_document(found, product.currency, worth_bounds(law, box, found.curve, asked, prices_of))
    if costs:
        document["assumptions"].append(costs.words())
    if without:
        document["assumptions"].append(f"without {' and '.join(without)}: such cards count 0")
    unused = unused_prices(prices) + ([one.document() for one in read.unused] if read else [])
    return {**document, "unused": unused}


def worth_document(found: Worth, currency: str, bounds: WorthBounds) -> dict[str, Any]:
    """Shape the worth of boxes as the contract has it."""
    curve = found.curve
    return {
        "currency": currency,
        "boxes": curve.boxes,
        "cost": found.cost,
        "mean": curve.mean,
        "mean_bounds": list(bounds.mean),
        "chance_bounds": list(bounds.chance),
        "would_settle": [{"line": one.words, "moves_mean_by": one.moves} for one in bounds.settles[:3]],
        "median": curve.quantile(0.5),
        "sd": curve.sd,
        "p10": curve.quantile(0.1),
        "p90": curve.quantile(0.9),
        "chance_break_even": found.chance_break_even,
        "lines": [
            {**line_keys(row.line.line.key), "expected_count": row.expected, "mean": row.mean, "share": row.share}
            for row in found.lines
        ],
        "share_from_rare": found.share_from_rare,
        "unpriced": [
            {**line_keys(line.line.key), "cards": line.unpriced, "of": len(line.values)} for line in found.unpriced
        ],
        "grid_step": curve.grid.step,
        "error_bound": found.error_bound,
        "assumptions": list(found.assumptions),
    }
