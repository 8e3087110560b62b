"""Counts of graded copies: pasted, from a file, or borrowed from a sister product and said so."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from sqlalchemy import select

from botin.desk.catalog.library import import_files
from botin.desk.grading.counts import borrow_counts, import_counts, qualities, save_counts
from botin.exchange.catalog.package import write_folder
from botin.exchange.gradecounts import GradeCountError
from botin.exchange.loosetable import ColumnsUnclearError
from botin.store.grading.counts import borrowings
from botin.store.models import ProductRecord
from tests.builders import Home, make_home, small_product


@pytest.fixture
def home(tmp_path: Path) -> Home:
    return make_home(tmp_path)


@pytest.fixture
def sister(home: Home, tmp_path: Path) -> ProductRecord:
    write_folder(replace(small_product(), key="sister", name="The sister"), tmp_path / "sister")
    return import_files(home.session, home.bench, [tmp_path / "sister"]).record


def tens(home: Home, record: ProductRecord) -> float | None:
    found = qualities(home.session, record.id).get("")
    return dict(found.shares).get(10.0) if found else None


@pytest.mark.parametrize(
    "text",
    [
        "Section;Grade;Population\n;10;30\n;9;70\n",
        "pop,grade\n30,10\n70,9\n",
        "Note\tGrade\tTotal\nx\t10\t30\ny\t9\t70\n",
    ],
)
def test_a_file_of_counts_is_read_by_its_words(home: Home, text: str) -> None:
    assert import_counts(home.session, home.bench, home.record, text.encode(), "pop.csv") == 100
    assert tens(home, home.record) == pytest.approx(0.3)


def test_what_cannot_be_read_changes_nothing(home: Home) -> None:
    save_counts(home.session, home.bench, home.record, "10; 5\n9; 5")
    for text, words in (
        ("grade,count\n11,4\n", "11"), ("grade,count\n10,4\n10,5\n", "counted above already"),
        ("grade,count\n", "no row with a grade"), ("section,grade,count\nnight,10,4\n", "no section “night”"),
    ):  # fmt: skip
        with pytest.raises(GradeCountError, match=words):
            import_counts(home.session, home.bench, home.record, text.encode(), "pop.csv")
    with pytest.raises(ColumnsUnclearError):
        import_counts(home.session, home.bench, home.record, b"Stufe x,y\n10,4\n", "pop.csv")
    home.session.rollback()
    assert tens(home, home.record) == pytest.approx(0.5)


def test_a_new_product_borrows_the_counts_of_its_sister_until_it_has_its_own(
    home: Home, sister: ProductRecord
) -> None:
    with pytest.raises(GradeCountError, match="no counts to lend"):
        borrow_counts(home.session, home.record, sister)
    with pytest.raises(GradeCountError, match="no counts to lend"):
        borrow_counts(home.session, sister, sister)
    save_counts(home.session, home.bench, sister, "10; 60\n9; 40")
    assert tens(home, home.record) is None
    before = home.record.revision
    borrow_counts(home.session, home.record, sister)
    assert tens(home, home.record) == pytest.approx(0.6)
    assert borrowings(home.session) == {home.record.id: "The sister"}
    assert home.record.revision > before

    before = home.record.revision
    save_counts(home.session, home.bench, sister, "10; 80\n9; 20")
    assert home.record.revision > before  # its flags follow the lender's counts
    assert tens(home, home.record) == pytest.approx(0.8)

    save_counts(home.session, home.bench, home.record, "10; 10\n9; 90")
    assert tens(home, home.record) == pytest.approx(0.1)
    assert borrowings(home.session) == {}
    save_counts(home.session, home.bench, home.record, "none")
    borrow_counts(home.session, home.record, None)
    assert tens(home, home.record) is None


def test_a_lender_that_is_gone_lends_nothing(home: Home, sister: ProductRecord) -> None:
    save_counts(home.session, home.bench, sister, "10; 60\n9; 40")
    borrow_counts(home.session, home.record, sister)
    home.session.delete(home.session.scalars(select(ProductRecord).where(ProductRecord.id == sister.id)).one())
    home.session.flush()
    assert borrowings(home.session) == {}
    assert tens(home, home.record) is None
