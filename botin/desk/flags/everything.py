"""All routes anew: worked out for every version that is here, then written in one short transaction."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any
from zlib import crc32

from sqlalchemy import ColumnElement, delete, func, insert, select
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.flags.nets import plainly_bulk
from botin.core.flags.verdict import best_route
from botin.core.flags.ways import CopyFacts, Go, RouteVerdict
from botin.core.grading.grades import Inspection
from botin.core.money import exponent
from botin.core.selling.costs import SaleCosts
from botin.desk.fees import all_fees
from botin.desk.flags.judging import FlagInputs, facts_of, judged, judging, kept_inputs
from botin.desk.grading.inspections import looks_at
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.copies.copies import mine_present
from botin.store.copies.stamp import copies_stamp
from botin.store.engine import patiently
from botin.store.flags import note_kept
from botin.store.models import CardRecord, ProductRecord, SectionRecord, SettingRecord
from botin.store.models_copies import (
    CopyRecord,
    FlagRecord,
    GradeCountRecord,
    InspectionRecord,
    PinRecord,
)
from botin.store.unit import finish

Progress = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class Owned:
    """What gets one flag: my copies of a version that differ in nothing, or one copy that does.

    Attributes
    ----------
    copy_id : int or None
        None for the copies that differ in nothing.
    """

    card_id: int
    section: str
    number: str
    parallel: str
    copies: int = 1
    copy_id: int | None = None
    grade: str = ""


def _differs() -> ColumnElement[bool]:
    """Whether a copy is more than one of its version: graded, marked, looked at, or decided by itself."""
    c = CopyRecord
    decided = select(FlagRecord.copy_id).where(FlagRecord.copy_id.is_not(None), FlagRecord.chosen != "")
    pinned = select(PinRecord.copy_id).where(PinRecord.removed_at.is_(None))
    looked = select(InspectionRecord.copy_id)
    return (c.grade != "") | (c.marks != "") | c.id.in_(looked) | c.id.in_(pinned) | c.id.in_(decided)


def owned_versions(session: Session, product_id: int) -> list[Owned]:
    """Return every version of a product of which I have copies that differ in nothing."""
    c = CopyRecord
    rows = session.execute(
        select(c.card_id, SectionRecord.key, CardRecord.number, c.parallel, func.count())
        .join(CardRecord, CardRecord.id == c.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id, mine_present(), ~_differs())
        .group_by(c.card_id, c.parallel)
    )
    return [Owned(card or 0, section, number, parallel, copies) for card, section, number, parallel, copies in rows]


def single_copies(session: Session, product_id: int) -> list[Owned]:
    """Return my copies of a product that differ from the others of their version."""
    c = CopyRecord
    rows = session.execute(
        select(c.card_id, SectionRecord.key, CardRecord.number, c.parallel, c.id, c.grade)
        .join(CardRecord, CardRecord.id == c.card_id)
        .join(SectionRecord, SectionRecord.id == CardRecord.section_id)
        .where(SectionRecord.product_id == product_id, mine_present(), _differs())
    )
    return [
        Owned(card or 0, section, number, parallel, copy_id=copy, grade=grade)
        for card, section, number, parallel, copy, grade in rows
    ]


def judge_all(session: Session, bench: Workbench, progress: Progress | None = None) -> int:
    """Work out the flag of every copy of mine anew; what the user chose is kept. Returns how many flags there are.

    Everything is worked out before anything is written: cards are logged meanwhile as at any other time. What
    changes meanwhile makes the routes stale again.
    """
    records = list(session.scalars(select(ProductRecord).order_by(ProductRecord.id)))
    work = [(record, [*owned_versions(session, record.id), *single_copies(session, record.id)]) for record in records]
    state = _state(session)
    total, rows = sum(len(versions) for _, versions in work), list[dict[str, Any]]()
    for record, versions in work:
        if versions:
            before = len(rows)
            rows += _rows_of(session, bench, record, versions, _from(progress, before, total))
    _write(session, rows, state, bench.today())
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
    versions: Sequence[Owned],
    progress: Callable[[int], object],
) -> list[dict[str, Any]]:
    """Judge the versions and single copies of one product."""
    j = judging(session, bench, record)
    keys = list(dict.fromkeys((one.section, one.number, one.parallel) for one in versions))
    j.model.prepare_all(keys)
    j.model.prepare_grades(keys)
    looks = looks_at(session, [one.copy_id for one in versions if one.copy_id is not None])
    rows = []
    for done, one in enumerate(versions):
        card = j.product.card_by_number.get((one.section, one.number))
        if card is not None:
            rows.append(_row(bench, j, record, card, one, looks.get(one.copy_id or 0)))
        if done % 50 == 0:
            progress(done)
    return rows


def judge_one(session: Session, bench: Workbench, record: ProductRecord, copy_id: int) -> FlagRecord | None:
    """Work out the flag of one copy that differs and put it in place of its old one; what was chosen is kept.

    The others stay as they are, as old as they were.
    """
    one = next((found for found in single_copies(session, record.id) if found.copy_id == copy_id), None)
    if one is None:
        return None
    card = bench.product(session, record).card_by_number[one.section, one.number]
    look = looks_at(session, [copy_id]).get(copy_id)
    row = _row(bench, kept_inputs(session, bench, record), record, card, one, look)
    flag = session.scalar(select(FlagRecord).where(FlagRecord.copy_id == copy_id))
    if flag is None:
        flag = FlagRecord(**row)
        session.add(flag)
        _one_less(session, one)
    else:
        for name, value in row.items():
            setattr(flag, name, value)
    session.flush()
    note_kept(session, bench.today(), [one.card_id])
    return flag


def _one_less(session: Session, one: Owned) -> None:
    """A copy with a flag of its own is no longer counted with those of its version."""
    version = session.scalar(
        select(FlagRecord).where(
            FlagRecord.card_id == one.card_id, FlagRecord.parallel == one.parallel, FlagRecord.copy_id.is_(None)
        )
    )
    if version is not None and version.copies > 1:
        version.copies -= 1
    elif version is not None:
        session.delete(version)


def _write(session: Session, rows: Sequence[dict[str, Any]], state: Sequence[int], day: date) -> None:
    """Put the verdicts in place of the old ones in one short transaction; what was chosen by then is kept."""
    v = FlagRecord
    with patiently(session):
        session.execute(delete(v).where(v.id < 0))  # takes the right to write before it reads what was chosen
    chosen = {
        (card, parallel, copy): word
        for card, parallel, copy, word in session.execute(
            select(v.card_id, v.parallel, v.copy_id, v.chosen).where(v.chosen != "")
        )
    }
    session.execute(delete(v))
    if rows:
        session.execute(
            insert(v),
            [{**row, "chosen": chosen.get((row["card_id"], row["parallel"], row["copy_id"]), "")} for row in rows],
        )
    note_kept(session, day)
    session.merge(SettingRecord(key=JUDGED, value=json.dumps(list(state))))
    finish(session)


JUDGED = "judged at"


IDLE = ("my_name", "locale", "storage_plan", "rip_budget", "sets", "time_zone", "school", "sleeve_from")
"""Settings that no route rests on."""


def _state(session: Session) -> list[int]:
    """Numbers that change when anything does that a route rests on: prices, checklists, copies, fees, settings."""
    counts = session.execute(
        select(func.sum(ProductRecord.revision), select(func.max(GradeCountRecord.id)).scalar_subquery())
    ).one()
    bodies = [body for *_, body in all_fees(session)]
    chosen = {name: value for name, value in asdict(load_settings(session)).items() if name not in IDLE}
    told = crc32(json.dumps([bodies, chosen], default=str).encode())
    return [*(int(value or 0) for value in counts), *copies_stamp(session), told]


def is_stale(session: Session) -> bool:
    """Whether anything a flag rests on changed since the flags were worked out; without a card there is none to."""
    row = session.get(SettingRecord, JUDGED)
    if row is None:
        return session.scalar(select(CopyRecord.id).limit(1)) is not None
    return bool(json.loads(row.value) != _state(session))


def _row(
    bench: Workbench, j: FlagInputs, record: ProductRecord, card: Card, one: Owned, look: Inspection | None
) -> dict[str, Any]:
    facts, raw = facts_of(j, card, one.parallel, look, one.grade)
    own = {
        "product_id": record.id, "card_id": one.card_id, "parallel": one.parallel, "copies": one.copies,
        "copy_id": one.copy_id,
        "price": round(raw.mean * 10 ** exponent(record.currency)), "found": raw.found.name, "made_at": bench.now(),
    }  # fmt: skip
    if plainly_bulk(facts, j.costs, j.terms.costs):
        return {**own, **_bulk(j, facts, record)}
    return {
        **own,
        **_judged(judged(j, facts), j.costs, record),
    }


def _bulk(j: FlagInputs, facts: CopyFacts, record: ProductRecord) -> dict[str, Any]:
    net = round(j.costs.bulk_each * 10 ** exponent(record.currency))
    go, why = (Go.KEEP, "it is in your collection") if facts.wanted else (Go.BULK, "no single sale leaves anything")
    return {
        "go": go.value, "tier": "", "net": net, "net_raw": 0, "p10": net, "p90": net, "loss_permille": 0, "margin": 0,
        "flips": False, "top_only": False, "reason": why, "look_gain": 0,
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
        "look_gain": round(verdict.look_gain * unit),
    }  # fmt: skip
