"""A have-list: every row becomes copies, or none does."""

from __future__ import annotations

from pathlib import Path

import pytest
from sqlalchemy import func, select

from botin.core.errors import ImportRefusedError
from botin.desk.copies.havelist import import_have
from botin.exchange.loosetable import ColumnsUnclearError
from botin.store.models import CardRecord, SectionRecord
from botin.store.models_copies import CopyRecord
from tests.builders import Home, make_home, sums


@pytest.fixture
def home(tmp_path: Path) -> Home:
    return make_home(tmp_path)


def take(home: Home, text: str) -> tuple[int, int]:
    taken = import_have(home.session, home.bench, home.record, text.encode(), "mine.csv")
    return taken.came, taken.here


def here(home: Home) -> list[tuple[str, str, str]]:
    y, c, s = CopyRecord, CardRecord, SectionRecord
    rows = home.session.execute(
        select(s.key, c.number, y.parallel)
        .join(c, c.id == y.card_id).join(s, s.id == c.section_id)
        .where(y.state == "here").order_by(s.key, y.id)
    )  # fmt: skip
    return [tuple(row) for row in rows]


def test_ranges_counts_and_finishes_become_copies_at_no_cost(home: Home) -> None:
    before = sums(home)
    assert take(home, "Set;Nr;Anzahl;Finish\nbase;1-3;;\nbase;4;2;Copper\nBase;5;0;\n") == (5, 0)
    assert here(home) == [
        ("base", "1", ""), ("base", "2", ""), ("base", "3", ""), ("base", "4", "copper"), ("base", "4", "copper"),
    ]  # fmt: skip
    assert sums(home) == before


def test_the_same_list_again_stores_nothing_more(home: Home) -> None:
    text = "section,number\nbase,1\nbase,1\n"
    assert take(home, text) == (2, 0)
    assert take(home, text) == (0, 2)
    assert len(here(home)) == 2


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("section,number\nbase,1\nbase,99\n", "line 3: base has no card “99”"),
        ("section,number\nbase,1\nnight,1\n", "line 3: “night” is no section"),
        ("section,number,parallel\nbase,1,\nbase,2,ruby\n", "line 3: “ruby” is no finish of base"),
        ("section,number,count\nbase,1,1\nbase,2,many\n", "line 3: “many” is no count"),
        ("section,number,count\nbase,1,20001\n", "more than 20,000 copies"),
        ("number\n1\n", "sections have the number “1”"),
        ("section,number,count\nbase,1,1,000\n", "quotes around amounts"),
        ("section,number\n", "has no row"),
        ("", "No file was given"),
    ],
)
def test_one_row_that_cannot_be_used_refuses_the_list(home: Home, text: str, words: str) -> None:
    with pytest.raises(ImportRefusedError, match=words):
        take(home, text)
    home.session.rollback()
    assert home.session.scalar(select(func.count(CopyRecord.id))) == 0


def test_a_column_nobody_can_be_sure_of_is_asked_for(home: Home) -> None:
    with pytest.raises(ColumnsUnclearError) as raised:
        take(home, "Which set;Stück im Ordner;Ding\nbase;2;4\n")
    assert raised.value.missing == "number"
