"""Routes are old as soon as anything changed that they rest on, and say so."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.core.opening.entry import EntryReader
from botin.core.pricing.prices import PriceRow
from botin.desk.boxlogs import box_logs
from botin.desk.catalog.lookagain import settle
from botin.desk.copies.elsewhere import Acquisition, acquire, undo_acquisition
from botin.desk.fees import save_fees
from botin.desk.flags.everything import _state, _write, is_stale
from botin.desk.grading.returns import Back, note_return
from botin.desk.opening.rip import log_entry, open_box
from botin.desk.opening.steps import undo
from botin.desk.pricing.prices import add_prices
from botin.desk.selling.disposals import Disposal, dispose, undo_disposal
from botin.desk.settings import load_settings, save_settings
from botin.desk.workbench import Workbench
from botin.store.models import LookAgainRecord, PullRecord
from botin.store.models_copies import CopyRecord, DisposalRecord

EUR = "EUR"
Change = Callable[[Session, Workbench], object]


def worked_out(session: Session) -> None:
    """As if the routes had been worked out at this moment."""
    _write(session, [], _state(session), date(2026, 11, 24))


def sold(session: Session, bench: Workbench) -> None:
    pull = session.scalars(select(CopyRecord.id).where(CopyRecord.box_id == 2).limit(1)).one()
    dispose(session, bench, "k", Disposal("sold", bench.today(), Money(500, EUR), Money(0, EUR)), copy_id=pull)


def sold_and_taken_back(session: Session, bench: Workbench) -> None:
    sold(session, bench)
    worked_out(session)
    undo_disposal(
        session, bench, session.scalars(select(DisposalRecord.id).order_by(DisposalRecord.id.desc())).first() or 0
    )


def came(session: Session, bench: Workbench) -> None:
    arrival = Acquisition("base", "1", "", "bought", "", bench.today(), Money(100, EUR))
    acquire(session, bench, bench.record(session, 4), "k", arrival)


def came_and_removed(session: Session, bench: Workbench) -> None:
    came(session, bench)
    worked_out(session)
    undo_acquisition(
        session,
        bench,
        session.scalars(
            select(CopyRecord.id).where(CopyRecord.pull_id.is_(None)).order_by(CopyRecord.id.desc())
        ).first()
        or 0,
    )


def logged(session: Session, bench: Workbench) -> None:
    box = open_box(session, bench, 4)
    items = EntryReader(bench.product(session, box.format.product)).read("12").items
    log_entry(session, bench, box, items=items, pack=1, client_key="k")


def logged_and_undone(session: Session, bench: Workbench) -> None:
    logged(session, bench)
    worked_out(session)
    undo(session, bench, open_box(session, bench, 4))


def priced(session: Session, bench: Workbench) -> None:
    add_prices(session, bench.record(session, 1), [PriceRow("base", "1", "", "", 9.0, bench.today())])
    session.commit()


def came_back_graded(session: Session, bench: Workbench) -> None:
    note_return(session, bench, 1, "k", Back(1, "9"))


def fees(session: Session, bench: Workbench) -> None:
    save_fees(session, "limits", bench.today(), {"limits": "10; 55; 75"})


def bulk_line(session: Session, _bench: Workbench) -> None:
    found = load_settings(session)
    save_settings(session, replace(found, bulk_below=found.bulk_below + 1))


@pytest.mark.parametrize(
    "change",
    [
        sold,
        sold_and_taken_back,
        came,
        came_and_removed,
        logged,
        logged_and_undone,
        priced,
        came_back_graded,
        fees,
        bulk_line,
    ],
)
def test_every_change_makes_them_old_until_they_are_worked_out(
    session: Session, bench: Workbench, change: Change
) -> None:
    worked_out(session)
    assert not is_stale(session)
    change(session, bench)
    assert is_stale(session)
    worked_out(session)
    assert not is_stale(session)


def test_a_copy_that_turns_out_to_be_another_card_is_seen_in_the_logs(session: Session, bench: Workbench) -> None:
    pull = session.scalars(select(PullRecord).where(PullRecord.box_id == 2, PullRecord.card_id.is_not(None))).first()
    assert pull is not None
    assert pull.card_id is not None
    records = [bench.record(session, number) for number in range(1, 7)]
    record = next(one for one in records if any(log.id == 2 for log in box_logs(session, bench, one)))
    before = box_logs(session, bench, record)
    look = LookAgainRecord(product_id=record.id, pull_id=pull.id, card_id=pull.card_id + 1, made_at=bench.now())
    session.add(look)
    session.commit()
    settle(session, bench, look.id, it_is=True)
    assert box_logs(session, bench, record) != before
