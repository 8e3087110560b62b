"""The reader against sources with a truth: layouts from seeds, and cases written by hand."""

from __future__ import annotations

from tests.corpus import byhand
from tests.corpus.layouts import LAYOUTS, make
from tests.corpus.truth import Case, Score, read_case, score

SEEDS = (1, 2)
RIGHT, WRONG = 0.95, 0.005
"""Shares of the rows: right without touching, and wrong or invented under a ✓ (asked of the reader, no source)."""


def all_cases() -> list[Case]:
    made = [make(name, seed) for name in LAYOUTS for seed in SEEDS]
    return made + [byhand.load(name) for name in byhand.names()]


def total(cases: list[Case]) -> Score:
    found = Score(0, 0, 0)
    for case in cases:
        found += score(case, read_case(case))
    return found


def test_the_corpus_is_large_enough() -> None:
    assert len(LAYOUTS) >= 15
    assert len(all_cases()) >= 40


def test_rows_come_out_right_and_hardly_any_wrong_under_a_tick() -> None:
    found = total(all_cases())
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
