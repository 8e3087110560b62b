"""What the buy desk needs of a format, made once: lines with prices, their curves, a sample of simulated boxes."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from botin.core.buying.bounds import Asked, WorthBounds, unprinted_lines, worth_bounds
from botin.core.buying.breakeven import Sample, sample_boxes
from botin.core.buying.gradedbox import graded_box
from botin.core.insight.measured import Measured, measured_model
from botin.core.money import exponent
from botin.core.odds.collation import INDEPENDENT, NO_REPEATS, Repeats
from botin.core.odds.lines import LEARNED, box_model
from botin.core.pricing.priced import PricedBox, Seen, priced_box
from botin.core.pricing.valuecurve import POINTS, ValueCurve, value_curve
from botin.core.pricing.worth import rare_share
from botin.desk.fees import sale_costs
from botin.desk.grading.counts import gem_terms
from botin.desk.odds.learnedmodel import closed_stamp, whole_counts
from botin.desk.odds.learning import measured_lines
from botin.desk.settings import Settings
from botin.desk.workbench import Workbench
from botin.store.buying import seen_of_all
from botin.store.models import ProductRecord
from botin.store.once import once

SAMPLE = 8_000
SIDE_POINTS = 2**14
"""Grid of the curves that only stand beside the main one: cases, other formats, graded."""
FEW_LINES = 40
SAMPLE_SEED = 20_261_124
REPEATS: dict[str, Repeats] = {"independent": INDEPENDENT, "none": NO_REPEATS}


@dataclass
class Prepared:
    """A format with prices; curves are kept while they reach far enough for the cost asked about."""

    box: PricedBox
    repeats: Repeats
    fine: bool = True
    _curves: dict[tuple[int, bool], ValueCurve] = field(default_factory=dict)
    _made: dict[str, Any] = field(default_factory=dict)

    def curve(self, cost: float, boxes: int = 1, *, one_case: bool = False) -> ValueCurve:
        """Return the curve of some boxes, good for questions up to four times the cost of them."""
        key = (boxes, one_case)
        found = self._curves.get(key)
        if found is None or found.grid.reach < 4 * cost * boxes:
            cost *= 1.6  # so that a price typed a little higher needs no other grid
            points = self._points() if self.fine and boxes == 1 else SIDE_POINTS
            found = value_curve(self.box, cost * boxes, boxes, one_case=one_case, repeats=self.repeats, points=points)
            self._curves[key] = found
        return found

    def _points(self) -> int:
        """A finer grid where it costs little: prices then lie nearer to it."""
        return 2 * POINTS if len(self.box.lines) <= FEW_LINES else POINTS

    @property
    def sample(self) -> Sample:
        """Simulated boxes for the break-even walk, always the same ones."""
        if "sample" not in self._made:
            self._made["sample"] = sample_boxes(self.box, SAMPLE, np.random.default_rng(SAMPLE_SEED))
        found: Sample = self._made["sample"]
        return found

    def bounds(self, cost: float) -> WorthBounds | None:
        """Return how far the worth may lie from what is said, where odds are not printed; None where all are."""
        law, fmt = self.box.model.box_law, self.box.model.format
        if law is None or not unprinted_lines(law, fmt):
            return None
        key = f"bounds {cost}"
        if key not in self._made:
            price = {line.line.place: line.values for line in self.box.all_lines if line.line.place >= 0}
            asked = Asked(1, cost, self.repeats, LEARNED)
            self._made[key] = worth_bounds(law, self.box, self.curve(cost), asked, price)
        found: WorthBounds = self._made[key]
        return found

    @property
    def rare(self) -> tuple[float, float | None]:
        """Share of the mean in rare cards, and the price they begin at."""
        if "rare" not in self._made:
            self._made["rare"] = rare_share(self.box)
        found: tuple[float, float | None] = self._made["rare"]
        return found


@dataclass(frozen=True, slots=True)
class Valuation:
    """The choices that change what a format is worth."""

    format: str
    net: bool = False
    graded: bool = False
    repeats: str = "independent"
    seeding: str = LEARNED
    measured: bool = False


def _told(lines: Mapping[tuple[str, str, str], Measured]) -> Hashable:
    """What measured lines say, as part of a key."""
    return tuple(
        (key, one.average.mean, one.average.boxes, one.seeding, one.contradicts) for key, one in lines.items()
    )


def repeats_of(text: str) -> Repeats:
    """Return the repeat model by its name, or by its factor as text."""
    return REPEATS.get(text) or Repeats(float(text))


def seen_copies(session: Session, product_id: int) -> Seen:
    """Count the copies known to be pulled elsewhere, by version."""
    return once(session, "seen copies", lambda: seen_of_all(session)).get(product_id, {})


def prepared(
    session: Session, bench: Workbench, record: ProductRecord, how: Valuation, settings: Settings
) -> Prepared:
    """Return a format ready for questions; kept until the product, its prices or the settings change."""
    seen = seen_copies(session, record.id)
    costs = replace(sale_costs(session, bench.today(), settings), places=exponent(record.currency))
    grading = gem_terms(session, bench, record, settings) if how.graded else None
    rest: Hashable = (costs, grading) if how.net or how.graded else None
    today = bench.today()
    lines = measured_lines(session, bench, record, how.format) if how.measured else {}
    closed = closed_stamp(session, record, how.format) if how.measured and how.seeding == LEARNED else ()
    state = (today, tuple(sorted(seen.items())), _told(lines), closed)
    key = ("prepared", record.id, record.revision, how, rest, *state)

    def make() -> Prepared:
        product = bench.product(session, record)
        fmt, counts = (
            product.format_by_key[how.format],
            whole_counts(session, bench, record, how.format) if closed else {},
        )
        model = box_model(product, fmt, how.seeding, counts, bench.box_law(session, record))
        model = measured_model(model, lines) if lines else model
        book = bench.prices(session, record)
        box = priced_box(model, book, costs.nets if how.net else None, seen)
        if grading is not None:
            box = graded_box(box, book, costs, grading)
        return Prepared(box, repeats_of(how.repeats), fine=not how.graded)

    return bench.keep(key, make)
