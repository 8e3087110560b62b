"""The reader against sources with a truth: layouts from seeds, and cases written by hand."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from botin.core.catalog.product import Product
from botin.desk.catalog.drafts import look_through, store_view
from botin.desk.workbench import Workbench
from botin.exchange.catalog.build import Reading, build
from botin.exchange.catalog.interpret import About, Draft, interpret
from botin.exchange.catalog.package import product_tables, zip_bytes
from botin.exchange.catalog.sheets import Sources, add_file, text_sheet
from botin.exchange.source import package_from
from botin.exchange.zips import zip_members
from botin.home import DATABASE
from botin.store.catalog.products import load_product
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from tests.corpus import byhand
from tests.corpus.layouts import LAYOUTS, make
from tests.corpus.truth import Case, Score, read_case, score

SEED, FRESH = 1, range(11, 21)
RIGHT, WRONG = 0.95, 0.005
"""Shares of the rows: right without touching, and wrong or invented under a ✓ (asked of the reader, no source)."""


@pytest.fixture(scope="module")
def documents() -> list[tuple[Case, dict[str, Any]]]:
    cases = [make(name, SEED) for name in LAYOUTS] + [byhand.load(name) for name in byhand.names()]
    return [(case, read_case(case)) for case in cases]


def total(read: list[tuple[Case, dict[str, Any]]]) -> Score:
    found = Score(0, 0, 0)
    for case, document in read:
        found += score(case, document)
    return found


def test_the_corpus_is_large_enough(documents: list[tuple[Case, dict[str, Any]]]) -> None:
    assert len(LAYOUTS) >= 15
    assert len(documents) >= 40


def test_rows_come_out_right_and_hardly_any_wrong_under_a_tick(documents: list[tuple[Case, dict[str, Any]]]) -> None:
    found = total(documents)
    assert found.right >= RIGHT * found.rows, found.misses[:40]
    assert found.wrong <= WRONG * found.rows, found.misses[:40]


def test_the_score_sees_what_is_lost_wrong_and_invented() -> None:
    case = byhand.load("two_people")
    document = read_case(case)
    assert score(case, document) == Score(7, 7, 0)
    cards = document["product"]["cards"]
    cards[0]["name"] = "Somebody Else"
    lost = cards.pop(1)
    cards.append({**lost, "number": "99"})
    assert score(case, document).right == 5
    assert score(case, document).wrong == 3
    for line in document["lines"]:
        line["status"] = "guessed"
    assert score(case, document).wrong == 0


def product_of(case: Case) -> Product:
    sources = Sources()
    for name, data in case.files.items():
        add_file(sources, name, data)
    for name, text in case.texts.items():
        sources.add(text_sheet(name, text))
    return interpret(sources, About(name=case.name)).reading.product


ALL = [*LAYOUTS, *byhand.names()]


def packed(product: Product) -> Reading:
    return build(package_from(zip_members(io.BytesIO(zip_bytes(product)))))


def test_what_is_stored_is_what_was_read(tmp_path: Path) -> None:
    """Read, store, export, read: the same rows; a case that cannot be stored as it is comes back from its export."""
    engine = open_engine(tmp_path / DATABASE)
    migrate(engine)
    bench = Workbench(sessions(engine), lambda: datetime(2026, 11, 24, 9, 0, tzinfo=UTC))
    stored = 0
    for name in ALL:
        case = make(name, 3) if name in LAYOUTS else byhand.load(name)
        case.texts.setdefault("formats", "Hobby: 24 packs of 8")
        product = replace(product_of(case), key=f"p-{name.replace('_', '-')}")
        with bench.sessions() as session:
            draft = Draft(Reading(product))
            view = look_through(session, draft, About(name=case.name), bench.today())
            stored += not view.blockers
            kept = product if view.blockers else load_product(session, store_view(session, bench, view).record)
            again = packed(kept)
            assert product_tables(again.product) == product_tables(product), name
            assert not [found for found in again.findings if found.code in ("key-read", "rate-read")], name
            session.rollback()
    assert stored >= 0.8 * len(ALL)


@pytest.mark.slow
@pytest.mark.parametrize("seed", FRESH)
def test_fresh_seeds_are_read_as_well(seed: int) -> None:
    cases = [make(name, seed) for name in LAYOUTS]
    found = total([(case, read_case(case)) for case in cases])
    assert found.right >= RIGHT * found.rows, found.misses[:40]
    assert found.wrong <= WRONG * found.rows, found.misses[:40]


def test_every_line_is_answered_and_every_row_names_its_line(documents: list[tuple[Case, dict[str, Any]]]) -> None:
    for case, document in documents:
        places = {(line["source"], line["line"]) for line in document["lines"]}
        for rows in document["product"].values():
            assert all(row["from"] is None or tuple(row["from"]) in places for row in rows), case.name
        assert all(line["meaning"] for line in document["lines"] if line["status"] != "unread"), case.name
