"""All routes anew: worked out for every version that is here, then written in one short transaction."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict
from datetime import date
from typing import Any
from zlib import crc32

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.flags.nets import plainly_bulk
from botin.core.flags.verdict import best_route
from botin.core.flags.ways import CopyFacts, Go, RouteVerdict
from botin.core.grading.grades import Inspection
from botin.core.money import exponent
from botin.core.selling.costs import SaleCosts
from botin.desk.flags.judging import FlagInputs, facts_of, judged, judging, kept_inputs
from botin.desk.grading.inspections import looks_at
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.catalog.lists import all_products
from botin.store.copies.copies import any_copy
from botin.store.copies.stamp import copies_stamp
from botin.store.engine import patiently
from botin.store.fees import all_fees
from botin.store.flags.board import flag_of_copy, flag_of_version, replace_flags, take_the_right_to_write
from botin.store.flags.kept import note_kept
from botin.store.flags.owned import Owned, owned_versions, rests_on, single_copies
from botin.store.models import ProductRecord, SettingRecord
from botin.store.models_copies import (
    FlagRecord,
)
from botin.store.unit import finish

Progress = Callable[[int, int], None]


def judge_all(session: Session, bench: Workbench, progress: Progress | None = None) -> int:
    """Work out the flag of every copy of mine anew; what the user chose is kept. Returns how many flags there are.

    Everything is worked out before anything is written: cards are logged meanwhile as at any other time. What
    changes meanwhile makes the routes stale again.
    """
    records = all_products(session)
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
    flag = flag_of_copy(session, copy_id)
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
    version = flag_of_version(session, one.card_id, one.parallel)
    if version is not None and version.copies > 1:
        version.copies -= 1
    elif version is not None:
        session.delete(version)


def _write(session: Session, rows: Sequence[dict[str, Any]], state: Sequence[int], day: date) -> None:
    """Put the verdicts in place of the old ones in one short transaction; what was chosen by then is kept."""
    with patiently(session):
        take_the_right_to_write(session)
    replace_flags(session, rows)
    note_kept(session, day)
    session.merge(SettingRecord(key=JUDGED, value=json.dumps(list(state))))
    finish(session)


JUDGED = "judged at"


IDLE = ("my_name", "locale", "storage_plan", "rip_budget", "sets", "time_zone", "school", "sleeve_from")
"""Settings that no route rests on."""


def _state(session: Session) -> list[int]:
    """Numbers that change when anything does that a route rests on: prices, checklists, copies, fees, settings."""
    bodies = [body for *_, body in all_fees(session)]
    chosen = {name: value for name, value in asdict(load_settings(session)).items() if name not in IDLE}
    told = crc32(json.dumps([bodies, chosen], default=str).encode())
    return [*rests_on(session), *copies_stamp(session), told]


def is_stale(session: Session) -> bool:
    """Whether anything a flag rests on changed since the flags were worked out; without a card there is none to."""
    row = session.get(SettingRecord, JUDGED)
    if row is None:
        return any_copy(session)
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
