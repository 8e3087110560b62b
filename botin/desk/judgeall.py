"""All routes anew: worked out for every version that is here, then written in one short transaction."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict
from typing import Any
from zlib import crc32

from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

from botin.core.money import exponent
from botin.core.product import Card
from botin.core.routenets import plainly_bulk
from botin.core.routing import CopyFacts, Go, RouteVerdict
from botin.core.selling import SaleCosts
from botin.core.verdict import best_route
from botin.desk.routing import Judging, facts_of, judged, judging
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.models import CardRecord, ProductRecord, PullRecord, SectionRecord, SettingRecord, StepRecord
from botin.store.models_copies import (
    ArrivalRecord,
    DepartureRecord,
    GradeCountRecord,
    ReturnedRecord,
    TermsRecord,
    VerdictRecord,
)

Progress = Callable[[int, int], None]


def owned_versions(session: Session, product_id: int) -> list[tuple[int, str, str, str, int]]:
    """Card id, section, number, finish and copies of every version that is here."""
    found: dict[tuple[int, str], list[Any]] = {}
    for model, link in ((PullRecord, DepartureRecord.pull_id), (ArrivalRecord, DepartureRecord.arrival_id)):
        gone = select(link).where(link.is_not(None), DepartureRecord.undone_at.is_(None))
        rows = session.execute(
            select(model.card_id, SectionRecord.key, CardRecord.number, model.parallel, func.count())
            .join(CardRecord, CardRecord.id == model.card_id)
            .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
            .where(SectionRecord.product_id == product_id, model.undone_at.is_(None), model.id.not_in(gone))
            .group_by(model.card_id, model.parallel)
        )
        for card, section, number, parallel, count in rows:
            entry = found.setdefault((card or 0, parallel), [section, number, 0])
            entry[2] += count
    return [(card, section, number, parallel, count) for (card, parallel), (section, number, count) in found.items()]


def judge_all(session: Session, bench: Workbench, progress: Progress | None = None) -> int:
    """Work out every version that is here anew; what the user chose is kept. Returns how many there are.

    Everything is worked out before anything is written: cards are logged meanwhile as at any other time. What
    changes meanwhile makes the routes stale again.
    """
    records = list(session.scalars(select(ProductRecord).order_by(ProductRecord.id)))
    work = [(record, owned_versions(session, record.id)) for record in records]
    state = _state(session)
    total, rows = sum(len(versions) for _, versions in work), list[dict[str, Any]]()
    for record, versions in work:
        if versions:
            before = len(rows)
            rows += _rows_of(session, bench, record, versions, _from(progress, before, total))
    _write(session, rows, state)
    return total


def _from(progress: Progress | None, before: int, total: int) -> Callable[[int], None]:
    """Tell how far a part of the work is as a part of the whole."""

    def tell(done: int) -> None:
        if progress:
            progress(before + done, total)

    return tell


def _rows_of(
    session: Session,
    bench: Workbench,
    record: ProductRecord,
    versions: Sequence[tuple[int, str, str, str, int]],
    progress: Callable[[int], object],
) -> list[dict[str, Any]]:
    """Judge the versions of one product."""
    j = judging(session, bench, record)
    keys = [(section, number, parallel) for _, section, number, parallel, _ in versions]
    j.model.prepare_all(keys)
    j.model.prepare_grades(keys)
    rows = []
    for done, (card_id, section, number, parallel, count) in enumerate(versions):
        card = j.product.card_by_number.get((section, number))
        if card is not None:
            rows.append(_row(bench, j, record, card, (card_id, parallel, count)))
        if done % 50 == 0:
            progress(done)
    return rows


def _write(session: Session, rows: Sequence[dict[str, Any]], state: Sequence[int]) -> None:
    """Put the verdicts in place of the old ones in one short transaction; what was chosen by then is kept."""
    v = VerdictRecord
    session.execute(delete(v).where(v.id < 0))  # takes the right to write before it reads what was chosen
    chosen = {
        (card, parallel): word
        for card, parallel, word in session.execute(select(v.card_id, v.parallel, v.chosen).where(v.chosen != ""))
    }
    session.execute(delete(v))
    if rows:
        session.execute(
            insert(v), [{**row, "chosen": chosen.get((row["card_id"], row["parallel"]), "")} for row in rows]
        )
    session.merge(SettingRecord(key=JUDGED, value=json.dumps(list(state))))
    session.commit()


JUDGED = "judged at"


IDLE = ("my_name", "storage_plan", "rip_budget", "sets", "time_zone", "school", "sleeve_from")
"""Settings that no route rests on."""


LATEST_STEPS = 500
"""Steps at the rip desks among which one may be undone or redone; what lies further back stays as it is."""


def _state(session: Session) -> list[int]:
    """Numbers that change when anything does that a route rests on.

    Prices and checklists (revisions), copies that come, leave or are taken back, steps at the rip desk, returned
    grades and counts, fees and settings. Each is read from an index or a small table: it costs the same with a
    million copies.
    """
    gone = (DepartureRecord, ArrivalRecord)
    newest = (PullRecord, ReturnedRecord, GradeCountRecord, StepRecord, *gone)
    latest = select(StepRecord.turns).order_by(StepRecord.id.desc()).limit(LATEST_STEPS).subquery()
    counts = (
        func.sum(ProductRecord.revision),
        *(select(func.max(row.id)).scalar_subquery() for row in newest),
        *(select(func.count(row.undone_at)).scalar_subquery() for row in gone),
        select(func.sum(latest.c.turns)).scalar_subquery(),
    )
    bodies = session.scalars(select(TermsRecord.body).order_by(TermsRecord.id)).all()
    chosen = {name: value for name, value in asdict(load_settings(session)).items() if name not in IDLE}
    row = session.execute(select(*counts)).one()
    return [*(int(value or 0) for value in row), crc32(json.dumps([list(bodies), chosen], default=str).encode())]


def is_stale(session: Session) -> bool:
    """Whether anything a route rests on changed since the routes were worked out."""
    row = session.get(SettingRecord, JUDGED)
    return row is None or json.loads(row.value) != _state(session)


def _row(
    bench: Workbench, j: Judging, record: ProductRecord, card: Card, version: tuple[int, str, int]
) -> dict[str, Any]:
    card_id, parallel, count = version
    facts, raw = facts_of(j, card, parallel, None)
    own = {
        "product_id": record.id, "card_id": card_id, "parallel": parallel, "copies": count,
        "price": round(raw.mean * 10 ** exponent(record.currency)), "found": raw.found.name, "made_at": bench.now(),
    }  # fmt: skip
    if plainly_bulk(facts, j.costs, j.terms.costs):
        return {**own, **_bulk(j, facts, record)}
    return {
        **own,
        **_judged(judged(j, facts), j.costs, record),
    }


def _bulk(j: Judging, facts: CopyFacts, record: ProductRecord) -> dict[str, Any]:
    net = round(j.costs.bulk_each * 10 ** exponent(record.currency))
    go, why = (Go.KEEP, "it is in your collection") if facts.wanted else (Go.BULK, "no single sale leaves anything")
    return {
        "go": go.value, "tier": "", "net": net, "net_raw": 0, "p10": net, "p90": net, "loss_permille": 0, "margin": 0,
        "flips": False, "top_only": False, "reason": why,
    }  # fmt: skip


def _judged(verdict: RouteVerdict, costs: SaleCosts, record: ProductRecord) -> dict[str, Any]:
    unit = 10 ** exponent(record.currency)
    best = best_route(verdict.routes, costs)
    sale = next((route for route in verdict.routes if route.go is Go.SELL), None)
    return {
        "go": verdict.go.value, "tier": verdict.tier, "net": round(best.mean * unit), "p10": round(best.p10 * unit),
        "net_raw": round(sale.mean * unit) if sale else 0, "p90": round(best.p90 * unit),
        "loss_permille": round(1000 * best.loss), "margin": round(verdict.margin * unit), "flips": verdict.flips,
        "top_only": verdict.top_only, "reason": verdict.reason[:300],
    }  # fmt: skip
