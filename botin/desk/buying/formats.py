"""Formats of a product side by side, and this product against another season's."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.buying.boxcosts import Counts, cost_figures, counts_in, rank_score
from botin.core.buying.chance import Versions, chances
from botin.core.buying.seasons import Change, season_changes
from botin.core.catalog.product import Format
from botin.core.figure import Figure
from botin.desk.buying.prepared import prepared
from botin.desk.buying.question import Question
from botin.desk.settings import Settings
from botin.desk.workbench import Workbench
from botin.store.buying import names_and_days
from botin.store.models import ProductRecord


@dataclass(frozen=True)
class FormatColumn:
    """A format beside the others; None where no price is known."""

    format: Format
    cost: float | None
    counts: Counts
    figures: tuple[Figure, ...]
    mean: float
    median: float | None
    pays: float | None
    wanted: float | None
    rank: float
    chosen: bool


@dataclass(frozen=True)
class Season:
    """Another season's product, and what changed since."""

    product_id: int
    name: str
    format: str
    changes: tuple[Change, ...]


def format_columns(
    session: Session,
    bench: Workbench,
    record: ProductRecord,
    question: Question,
    wishes: Sequence[tuple[str, Versions | None, str]],
    settings: Settings,
) -> tuple[FormatColumn, ...]:
    """Compare all formats: the one asked about at the price typed, the others at their list price; best first."""
    product = bench.product(session, record)
    known = [found for _, found, _ in wishes if found]
    columns = []
    for fmt in product.formats:
        chosen = fmt.key == question.format
        listed = fmt.list_price.major if fmt.list_price else None
        cost = question.price.total if chosen else listed
        ready = prepared(session, bench, record, question.how(fmt.key), settings)
        curve = ready.curve(cost or 0.0)
        counts = counts_in(ready.box.model, settings.hit_rule(), question.numbered_to or None)
        wanted = chances(ready.box, known, repeats=ready.repeats).box if known else None
        columns.append(
            FormatColumn(
                format=fmt,
                cost=cost,
                counts=counts,
                figures=cost_figures(cost, counts) if cost else (),
                mean=curve.mean,
                median=curve.quantile(0.5),
                pays=curve.chance_at_least(cost) if cost else None,
                wanted=wanted,
                rank=rank_score(cost, counts, curve.mean, question.weights) if cost else 0.0,
                chosen=chosen,
            )
        )
    return tuple(sorted(columns, key=lambda column: -column.rank))


def likeliest_season(session: Session, record: ProductRecord) -> int:
    """The earlier product whose name shares most words with this one, the latest of them; 0 when none does."""
    rows = names_and_days(session, record.id)
    words, today = set(record.name.casefold().split()), record.released_on
    earlier = [row for row in rows if today and row[2] and row[2] < today] or rows
    scored = [(len(words & set(name.casefold().split())), str(day or ""), key) for key, name, day in earlier]
    shared, _, found = max(scored, default=(0, "", 0))
    return int(found) if shared else 0


def season_of(session: Session, bench: Workbench, record: ProductRecord, fmt: Format, other: int) -> Season | None:
    """Compare with another product's like format; None when there is nothing to compare with."""
    before = session.get(ProductRecord, other) if other else None
    if before is None:
        return None
    old, new = bench.product(session, before), bench.product(session, record)
    if not old.formats:
        return None
    like = old.format_by_key.get(fmt.key, old.formats[0])
    return Season(before.id, before.name, like.label, season_changes(old, new, like, fmt))
