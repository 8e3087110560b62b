"""How copies graded: counts of a product as houses publish them, my own returns; what follows for a sealed box."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from botin.core.buying.gradedbox import GemTerms
from botin.core.catalog.naming import Names
from botin.core.grading.forecast import chances_of, quality_from
from botin.core.grading.grades import Quality
from botin.core.grading.learning import Returned, learn_grader
from botin.desk.fees import grading_fees
from botin.desk.settings import Settings
from botin.desk.workbench import Workbench
from botin.exchange.gradecounts import COUNTS, GradeCountError, counts_of_table, read_grade_counts
from botin.exchange.loosetable import read_loose
from botin.store.catalog.known import known_columns
from botin.store.grading.counts import (
    BORROWED,
    borrowed_from,
    borrowers,
    counts_by_name,
    counts_of,
    counts_stamp,
    replace_counts,
    returned,
)
from botin.store.models import ProductRecord, SettingRecord
from botin.store.unit import finish

ENOUGH = 20
"""From so many graded copies of a product on its own share of top grades is reckoned with; a choice."""


def qualities(session: Session, product_id: int) -> dict[str, Quality]:
    """Fit the prior of quality from counts of graded copies, for the product and for its sections."""
    rows = counts_of(session, product_id)
    if not rows and (lender := borrowed_from(session, product_id)) is not None:
        rows = counts_of(session, lender[0])
    counts: dict[str, dict[float, int]] = {}
    for section, halves, count in rows:
        counts.setdefault(section, {})[halves / 2] = count
    return {section: quality_from(found, sum(found.values())) for section, found in counts.items()}


def borrow_counts(session: Session, record: ProductRecord, sister: ProductRecord | None) -> None:
    """Let a sister product's counts stand in where a product has none of its own; None ends it.

    Raises
    ------
    GradeCountError
        When the sister is the product itself, or has no counts.
    """
    kept = session.get(SettingRecord, BORROWED.format(record.id))
    if sister is None:
        if kept is not None:
            session.delete(kept)
    elif sister.id == record.id or not counts_of(session, sister.id):
        message = f"{sister.name} has no counts to lend. Choose a product whose counts are kept."
        raise GradeCountError(message)
    else:
        session.merge(SettingRecord(key=BORROWED.format(record.id), value=str(sister.id)))
    record.revision += 1  # every forecast of the product rests on them
    finish(session)


def returned_grades(session: Session, house: str = "") -> list[Returned]:
    """Return my own graded copies that I had looked at, with the prior of that time; of one house if it is named."""
    found = []
    for row in returned(session, house, scored=True):
        prior = json.loads(row.forecast).get("prior", [9.0, 0.9])
        found.append(Returned((row.score_halves or 0) / 2, row.grade_halves / 2, Quality(*prior)))
    return found


def gem_terms(session: Session, bench: Workbench, record: ProductRecord, settings: Settings) -> GemTerms:
    """Return what grading costs and promises before a box is open.

    The chance of the top grade from the counts of the product, moved by my own returns, and the cheapest tier open to
    a single card; while there are too few counts or no fees written down, what the settings say.
    """
    terms, costs = settings.grading(), grading_fees(session, bench.today())
    alone = [tier for tier in costs.costs.tiers if not tier.member and tier.least == 1]
    if costs.valid_from is not None and alone:
        terms = replace(terms, cost=min(tier.fee + costs.costs.each(tier.house) for tier in alone))
    key = ("quality", record.id, counts_stamp(session))
    quality, grader = bench.keep(
        key, lambda: (qualities(session, record.id).get(""), learn_grader(returned_grades(session)))
    )
    if quality is None or quality.counted < ENOUGH or not terms.top_grade.isdecimal():
        return terms
    chances = chances_of(quality, grader)
    return replace(terms, gem_chance=chances.get(float(terms.top_grade), 0.0), counted=quality.counted)


def save_counts(session: Session, bench: Workbench, record: ProductRecord, text: str) -> int:
    """Keep the counts of a product as a house publishes them, in place of earlier ones; returns the copies counted.

    Raises
    ------
    GradeCountError
        When a line cannot be read, or none is written; then nothing is changed.
    """
    gone = text.strip().casefold() == "none"
    counts = {} if gone else read_grade_counts(text, Names(bench.product(session, record)))
    if not counts and not gone:
        message = "No line is written. Write one, like 10; 1240, or “none” to take the counts out."
        raise GradeCountError(message)
    return _put(session, record, counts)


def import_counts(session: Session, bench: Workbench, record: ProductRecord, data: bytes, name: str) -> int:
    """Keep the counts of a product from a file, in place of earlier ones; returns the copies counted.

    Raises
    ------
    ColumnsUnclearError
        When no column is surely that of the grades, or of the counts.
    GradeCountError
        When a row cannot be read, or there is none; then nothing is changed.
    """
    table = read_loose(COUNTS, data, name, known_columns(session))
    counts = counts_of_table(table, Names(bench.product(session, record)))
    if not counts:
        message = f"{name} has no row with a grade. Nothing was changed."
        raise GradeCountError(message)
    return _put(session, record, counts)


def _put(session: Session, record: ProductRecord, counts: Mapping[tuple[str, int], int]) -> int:
    replace_counts(session, record.id, counts)
    for one in (record, *borrowers(session, record.id)):
        one.revision += 1  # every forecast of the product rests on them
    finish(session)
    return sum(counts.values())


@dataclass(frozen=True, slots=True)
class Counted:
    """A product with counts: its lines as one types them, and how many copies they are."""

    product_id: int
    name: str
    lines: str
    copies: int


def counted_products(session: Session) -> list[Counted]:
    """Return the products whose grades were counted, by name."""
    found: dict[tuple[int, str], list[tuple[str, int]]] = {}
    for product, name, section, halves, count in counts_by_name(session):
        line = "; ".join(filter(None, (section, f"{halves / 2:g}", str(count))))
        found.setdefault((product, name), []).append((line, count))
    return [
        Counted(product, name, "\n".join(line for line, _ in lines), sum(count for _, count in lines))
        for (product, name), lines in found.items()
    ]
