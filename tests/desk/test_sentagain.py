"""A key used again: the same form gives the same answer, another one never passes for it."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.errors import StaleFormError
from botin.core.money import Money
from botin.core.opening.entry import EntryReader
from botin.desk.copies.elsewhere import Acquisition, acquire
from botin.desk.grading.returns import Back, note_return
from botin.desk.opening.rip import log_entry, open_box
from botin.desk.opening.shelf import Purchase, buy_box
from botin.desk.selling.disposals import Disposal, dispose
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord, PullRecord
from botin.store.models_copies import CopyRecord, ReturnedRecord

DAY = date(2026, 11, 20)
EUR = "EUR"


def rows(session: Session, model: type) -> int:
    return session.scalar(select(func.count()).select_from(model)) or 0


def test_a_box(session: Session, bench: Workbench) -> None:
    paid = Purchase(1, DAY, Money(100, EUR), Money(0, EUR), Money(0, EUR))
    first = buy_box(session, bench, "k", paid)
    assert buy_box(session, bench, "k", paid) is first
    before = rows(session, BoxRecord)
    for other in (replace(paid, price=Money(101, EUR)), replace(paid, format_id=2), replace(paid, tax=Money(1, EUR))):
        with pytest.raises(StaleFormError, match="something else"):
            buy_box(session, bench, "k", other)
    assert rows(session, BoxRecord) == before


def test_copies_from_elsewhere(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 4)
    came = Acquisition("base", "1-3", "", "bought", "a fair", DAY, Money(600, EUR))
    assert acquire(session, bench, record, "k", came) == 3
    assert acquire(session, bench, record, "k", came) == 0
    for other in (
        replace(came, numbers="1-4"),
        replace(came, cost=Money(900, EUR)),
        replace(came, numbers="1, 2, 4"),
    ):
        with pytest.raises(StaleFormError):
            acquire(session, bench, record, "k", other)
    assert (
        session.scalar(select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None)))
        == 3
    )


def test_a_copy_that_leaves(session: Session, bench: Workbench) -> None:
    one, two = session.scalars(select(CopyRecord.id).where(CopyRecord.box_id == 2).order_by(CopyRecord.id).limit(2))
    sold = Disposal("sold", bench.today(), Money(500, EUR), Money(60, EUR))
    first = dispose(session, bench, "k", sold, copy_id=one)
    assert dispose(session, bench, "k", sold, copy_id=one) is first
    with pytest.raises(StaleFormError):
        dispose(session, bench, "k", sold, copy_id=two)
    with pytest.raises(StaleFormError):
        dispose(session, bench, "k", replace(sold, price=Money(5000, EUR)), copy_id=one)
    session.refresh(first)
    assert (first.copy_id, first.price_minor) == (one, 500)


def test_a_grade_that_came_back(session: Session, bench: Workbench) -> None:
    back = Back(1, "9.5", "Ash", DAY)
    before = rows(session, ReturnedRecord)
    note_return(session, bench, 1, "k", back)
    note_return(session, bench, 1, "k", back)
    with pytest.raises(StaleFormError):
        note_return(session, bench, 1, "k", replace(back, grade="9"))
    assert rows(session, ReturnedRecord) == before + 1


def test_a_line_of_cards_also_after_it_was_undone(session: Session, bench: Workbench) -> None:
    box = open_box(session, bench, 4)
    reader = EntryReader(bench.product(session, box.format.product))
    first, other = (reader.read(line).items for line in ("12", "45"))
    made = log_entry(session, bench, box, items=first, pack=1, client_key="k")
    session.get_one(PullRecord, made.ids[0]).undone_at = bench.now()
    session.commit()
    assert log_entry(session, bench, box, items=first, pack=1, client_key="k").repeated
    with pytest.raises(StaleFormError, match="other cards"):
        log_entry(session, bench, box, items=other, pack=1, client_key="k")
