"""The reader against sources with a truth: layouts from seeds, and cases written by hand."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest

from botin.core.catalog.product import Format, Product
from botin.desk.catalog.drafts import look_through, store_view
from botin.desk.workbench import Workbench
from botin.exchange.catalog.build import Reading, build
from botin.exchange.catalog.interpret import About, Draft
from botin.exchange.catalog.package import product_tables, zip_bytes
from botin.exchange.catalog.readout import read_document
from botin.exchange.source import package_from
from botin.exchange.zips import zip_members
from botin.home import DATABASE
from botin.store.catalog.products import load_product
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from tests.corpus import byhand
from tests.corpus.layouts import LAYOUTS, make
from tests.corpus.truth import Case, Score, draft_of, read_case, score

SEED, FRESH = 1, range(11, 21)
RIGHT, WRONG = 0.95, 0.005
"""Shares of the rows: right without touching, and wrong or invented under a ✓ (asked of the reader, no source)."""


PARTS = 6
"""The corpus is read in parts, each case once for all that is asked of it."""
ALL = [*LAYOUTS, *byhand.names()]
HOBBY = Format("hobby", "Hobby", packs_per_box=24, cards_per_pack=8)


def total(read: list[tuple[Case, dict[str, Any]]]) -> Score:
    found = Score(0, 0, 0)
    for case, document in read:
        found += score(case, document)
    return found


def test_the_corpus_is_large_enough() -> None:
    assert len(LAYOUTS) >= 15
    assert len(ALL) >= 40


@pytest.mark.parametrize("part", range(PARTS))
def test_a_case_comes_out_right_names_its_lines_and_is_stored_as_it_was_read(part: int, tmp_path: Path) -> None:
    """Rows come out right, hardly any wrong under a tick; then read, store, export, read: the same rows.

    A case that cannot be stored as it is comes back from its export.
    """
    names = ALL[part::PARTS]
    cases = {name: make(name, SEED) if name in LAYOUTS else byhand.load(name) for name in names}
    drafts = {name: draft_of(case) for name, case in cases.items()}
    documents = {name: read_document(draft) for name, draft in drafts.items()}
    found = total([(cases[name], documents[name]) for name in names])
    assert found.right >= RIGHT * found.rows, found.misses[:40]
    assert found.wrong <= WRONG * found.rows, found.misses[:40]
    for name in names:
        check_lines(documents[name], name)
    assert stored(tmp_path, drafts) >= 0.75 * len(names)


def check_lines(document: dict[str, Any], name: str) -> None:
    """Every line is answered and every row names its line."""
    places = {(line["source"], line["line"]) for line in document["lines"]}
    for rows in document["product"].values():
        assert all(row["from"] is None or tuple(row["from"]) in places for row in rows), name
    assert all(line["meaning"] for line in document["lines"] if line["status"] != "unread"), name


def stored(home: Path, drafts: dict[str, Draft]) -> int:
    """Store what was read where it can be, export and read it again; return how many could be."""
    engine = open_engine(home / DATABASE)
    migrate(engine)
    bench = Workbench(sessions(engine), lambda: datetime(2026, 11, 24, 9, 0, tzinfo=UTC))
    count = 0
    for name, draft in drafts.items():
        read = draft.reading.product
        own = f"p-{name.replace('_', '-')}"
        product = replace(read, key=own, name=name, formats=read.formats or (HOBBY,))
        with bench.sessions() as session:
            view = look_through(session, Draft(Reading(product)), About(name=name), bench.today())
            count += not view.blockers
            kept = product if view.blockers else load_product(session, store_view(session, bench, view).record)
            again = packed(kept)
            assert product_tables(again.product) == product_tables(product), name
            assert not [found for found in again.findings if found.code in ("key-read", "rate-read")], name
            session.rollback()
    return count


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


def packed(product: Product) -> Reading:
    return build(package_from(zip_members(io.BytesIO(zip_bytes(product)))))


@pytest.mark.slow
@pytest.mark.parametrize("seed", FRESH)
def test_fresh_seeds_are_read_as_well(seed: int) -> None:
    cases = [make(name, seed) for name in LAYOUTS]
    found = total([(case, read_case(case)) for case in cases])
    assert found.right >= RIGHT * found.rows, found.misses[:40]
    assert found.wrong <= WRONG * found.rows, found.misses[:40]
