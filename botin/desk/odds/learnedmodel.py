"""The lines of a format with what its own boxes say of averages: the logs decide between the schools."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from botin.core.catalog.product import Product
from botin.core.odds.lines import BoxModel, box_model
from botin.desk.boxlogs import BoxLog, box_logs
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord
from botin.store.once import once
from botin.store.opening.closed import stamps_of_formats

LineKey = tuple[str, str, str]


def learned_model(session: Session, bench: Workbench, record: ProductRecord, fmt: str) -> BoxModel:
    """Return the lines of a format, averages weighed by its complete boxes; kept until one is closed or reopened."""
    key = ("learned model", record.id, record.revision, fmt, closed_stamp(session, record, fmt))

    def make() -> BoxModel:
        product = bench.product(session, record)
        counts = whole_counts(session, bench, record, fmt)
        return box_model(product, product.format_by_key[fmt], logged=counts, law=bench.box_law(session, record))

    return bench.keep(key, make)


def whole_counts(
    session: Session, bench: Workbench, record: ProductRecord, fmt: str
) -> dict[LineKey, tuple[int, ...]]:
    """Return what each box that was opened whole held, by line; of promises under ``("promise", label, "")``."""
    model = bench.model(session, record, fmt)
    logs = [
        log
        for log in box_logs(session, bench, record)
        if log.format == fmt and log.packs >= model.format.fewest_packs
    ]
    key = ("whole counts", record.id, record.revision, fmt, tuple((log.id, log.closed_at) for log in logs))
    return bench.keep(key, lambda: _counted(bench.product(session, record), model, logs))


def _counted(product: Product, model: BoxModel, logs: Sequence[BoxLog]) -> dict[LineKey, tuple[int, ...]]:
    counts = [log.line_counts(model, product) for log in logs]
    found = {line.key: tuple(count[line.key] for count in counts) for line in model.lines if not line.is_rest}
    for joint in model.joint:
        sums = (sum(count[key] for key in joint.weights) for count in counts)
        found[("promise", joint.row.label, "")] = tuple(sums)
    return found


def closed_stamp(session: Session, record: ProductRecord, fmt: str) -> tuple[object, ...]:
    """Return the closed boxes of the format and the latest closing: what the counts change with."""
    stamps = once(session, "closed stamps", lambda: stamps_of_formats(session))
    return stamps.get((record.id, fmt), (0, None))
