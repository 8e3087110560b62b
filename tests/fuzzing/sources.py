"""Spoiled sources of products through the whole door: read, and stored whole or not at all."""

from __future__ import annotations

import io
import time
import traceback
from collections import Counter
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.errors import BotinError
from botin.desk.catalog.library import import_given
from botin.desk.workbench import Workbench
from botin.exchange.catalog.build import build
from botin.exchange.catalog.package import product_tables, zip_bytes
from botin.exchange.catalog.sheets import Sources, add_file, text_sheet
from botin.exchange.source import package_from
from botin.exchange.zips import zip_members
from botin.home import DATABASE
from botin.store.catalog.products import load_product
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from botin.store.models import CardRecord, ProductRecord, SectionRecord
from botin.store.unit import set_edge
from tests.corpus import byhand
from tests.corpus.layouts import LAYOUTS, make
from tests.corpus.truth import Case
from tests.fuzzing.mutate import spoil

MOST_SECONDS = 5.0
NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)


@dataclass
class Answers:
    """How many sources were stored or refused in words, and what went wrong."""

    counts: Counter[str] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)
    slowest: float = 0.0


def spoiled(case: Case, rng: np.random.Generator) -> Case:
    """Return a case one of whose files or texts is spoiled."""
    made = Case(case.name, dict(case.files), {"formats": "Hobby: 24 packs of 8", **case.texts})
    names = [*made.files, *made.texts]
    name = names[int(rng.integers(len(names)))]
    if name in made.files:
        made.files[name] = spoil(made.files[name], rng)
    else:
        made.texts[name] = spoil(made.texts[name].encode(), rng).decode("utf-8", "replace")
    return made


def given(case: Case) -> Sources:
    """Gather what a case gives."""
    sources = Sources()
    for name, data in case.files.items():
        add_file(sources, name, data)
    for name, text in case.texts.items():
        sources.add(text_sheet(name, text))
    return sources


def run_sources(folder: Path, count: int, seed: int) -> Answers:
    """Send so many spoiled sources through the door; each is known by its seed and number."""
    engine = open_engine(folder / DATABASE)
    migrate(engine)
    bench = Workbench(sessions(engine), lambda: NOW)
    cases = [byhand.load(name) for name in byhand.names()] + [make(name, 1) for name in LAYOUTS]
    small = [case for case in cases if sum(map(len, case.truth.values())) < 150]
    found = Answers()
    for number in range(count):
        rng = np.random.default_rng([seed, number])
        case = spoiled(small[int(rng.integers(len(small)))], rng)
        began = time.process_time()
        try:
            with bench.sessions() as session:
                found.counts[_one(session, bench, case)] += 1
        except BotinError:
            found.counts["refused"] += 1
        except Exception:  # noqa: BLE001  (whatever it is, it is what is looked for)
            found.wrong.append(f"{case.name} {seed}/{number}: {traceback.format_exc()[-600:]}")
        took = time.process_time() - began
        found.slowest = max(found.slowest, took)
        if took > MOST_SECONDS:
            found.wrong.append(f"{case.name} {seed}/{number}: {took:.1f} s")
    engine.dispose()
    return found


def _one(session: Session, bench: Workbench, case: Case) -> str:
    """Store a case in a transaction that is taken back; return how it went."""
    set_edge(session)
    try:
        stored = import_given(session, bench, given(case), "Spoiled", guesses=True, leave_out=True)
        product = load_product(session, stored.record)
        again = build(package_from(zip_members(io.BytesIO(zip_bytes(product))))).product
        if product_tables(again) != product_tables(product) or not product.cards:
            return _half(case)
    except BotinError:
        session.rollback()
        left = [
            session.scalar(select(func.count()).select_from(t)) for t in (ProductRecord, SectionRecord, CardRecord)
        ]
        return "refused" if left == [0, 0, 0] else _half(case)
    session.rollback()
    return "stored"


def _half(case: Case) -> str:
    message = f"{case.name} is half stored"
    raise AssertionError(message)
