"""Copies from elsewhere and copies that leave, the set board, copies.csv, learning from the demo's boxes."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.books.basis import CostRule, share_cost
from botin.core.catalog.numberlist import NumberListError, read_numbers
from botin.core.errors import BoxStateError, ImportRefusedError
from botin.core.money import Money
from botin.desk.books.budget import month_of
from botin.desk.copies.cardpage import card_page
from botin.desk.copies.elsewhere import Acquisition, acquire, copies_of_card
from botin.desk.copies.files import copies_csv, import_copies, needs_csv
from botin.desk.copies.setboard import board, history, named_sets
from botin.desk.insight.aftermath import period
from botin.desk.odds.learning import learned, measured_fit
from botin.desk.opening.rip import close_box, reopen_box
from botin.desk.pricing.prices import type_comps
from botin.desk.selling.disposals import Disposal, dispose, undo_disposal
from botin.desk.settings import Settings, load_settings, save_settings
from botin.desk.workbench import Workbench
from botin.store.models_books import PostingRecord
from botin.store.models_copies import CopyRecord
from botin.store.opening.boxes import get_box
from botin.store.opening.closed import closed_boxes
from botin.store.opening.packs import count_logged

TODAY = date(2026, 11, 24)


def bought(numbers: str, cost: int = 1000, **more: object) -> Acquisition:
    fields = {"parallel": "", "came": "bought", "source": "fair", "got_on": TODAY, "cost": Money(cost, "EUR"), **more}
    return Acquisition("base", numbers, **fields)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("1-3, 7", {"1": 1, "2": 1, "3": 1, "7": 1}),
        ("30x2; 31 × 3\n5", {"30": 2, "31": 3, "5": 1}),
        ("SP-1–SP-3", {"SP-1": 1, "SP-2": 1, "SP-3": 1}),
        ("SB-7", {"SB-7": 1}),
        ("", {}),
    ],
)
def test_lists_of_numbers(text: str, found: dict[str, int]) -> None:
    assert dict(read_numbers(text)) == found


@pytest.mark.parametrize("text", ["9-3", "1-99999", "12 13", "1x999, 2x999, 3x999, 4x999, 5x999, 6x999"])
def test_lists_that_cannot_be_read(text: str) -> None:
    with pytest.raises(NumberListError):
        read_numbers(text)


def test_shares_of_a_cost_add_up_exactly() -> None:
    assert share_cost(1000, [1, 1, 1], CostRule.EQUAL) == [334, 333, 333]
    assert share_cost(1000, [30.0, 10.0, 0.0], CostRule.BY_VALUE) == [750, 250, 0]
    assert share_cost(7, [0.0, 0.0], CostRule.BY_VALUE) == [4, 3]
    assert share_cost(5, [], CostRule.EQUAL) == []


def test_copies_from_elsewhere_are_all_or_nothing_and_once(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 4)
    before = len(board(session, bench, [(4, "base")]).missing)
    need = [cell.number for cell in board(session, bench, [(4, "base")]).missing[:3]]
    with pytest.raises(NumberListError, match="9999"):
        acquire(session, bench, record, "k1", bought(f"{need[0]}, 9999"))
    assert (
        session.scalar(select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None)))
        == 0
    )
    for _ in range(2):
        acquire(session, bench, record, "k2", bought(", ".join(need)))
    assert (
        session.scalar(select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None)))
        == 3
    )
    assert (
        session.scalar(
            select(func.sum(PostingRecord.minor)).where(
                PostingRecord.account == "cards", PostingRecord.box_id.is_(None), PostingRecord.purchase_id.is_(None)
            )
        )
        == 1000
    )
    assert len(board(session, bench, [(4, "base")]).missing) == before - 3


def test_a_copy_leaves_once_and_comes_back(session: Session, bench: Workbench) -> None:
    pull = session.scalars(select(CopyRecord).where(CopyRecord.card_id.is_not(None)).limit(1)).one()
    sold = Disposal("sold", TODAY, Money(1250, "EUR"), Money(180, "EUR"))
    before = month_of(session, TODAY, Settings(), "EUR").back
    made = dispose(session, bench, "d1", sold, copy_id=pull.id)
    assert dispose(session, bench, "d1", sold, copy_id=pull.id).id == made.id
    with pytest.raises(BoxStateError):
        dispose(session, bench, "d2", sold, copy_id=pull.id)
    copies = copies_of_card(session, pull.card_id or 0)
    assert next(copy for copy in copies if copy.id == pull.id).gone is not None
    assert month_of(session, TODAY, Settings(), "EUR").back - before == Money(1070, "EUR")
    undo_disposal(session, bench, made.id)
    assert dispose(session, bench, "d3", sold, copy_id=pull.id).id != made.id


def test_a_copys_cost_is_its_share_of_the_box(session: Session, bench: Workbench) -> None:
    """Frozen when the box was closed: the price of today changes nothing of it (W22)."""
    box = get_box(session, 1)
    save_settings(session, replace(load_settings(session), cost_rule="equal"))
    reopen_box(session, bench, box)
    close_box(session, bench, box, count_logged(session, 1))
    pull = session.scalars(select(CopyRecord).where(CopyRecord.box_id == 1).limit(1)).one()
    copy = next(c for c in copies_of_card(session, pull.card_id or 0) if c.box_id == 1)
    count = session.scalar(select(func.count()).select_from(CopyRecord).where(CopyRecord.box_id == 1)) or 1
    assert copy.cost is not None
    assert abs(copy.cost.minor - 11_890 / count) <= 1
    assert card_page(session, bench, pull.card_id or 0).copies
    type_comps(session, bench, box.format.product, "1 500 510 505")
    assert next(c for c in copies_of_card(session, pull.card_id or 0) if c.box_id == 1).cost == copy.cost


def test_copies_csv_out_and_in_gives_the_same(session: Session, bench: Workbench) -> None:
    record = bench.record(session, 4)
    acquire(session, bench, record, "k", bought("1-3, 5x2", 1999, source="=cmd"))
    first = session.scalars(
        select(CopyRecord)
        .where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None))
        .order_by(CopyRecord.id)
    ).first()
    assert first is not None
    dispose(
        session,
        bench,
        "gone",
        Disposal("swapped", TODAY, Money(0, "EUR"), Money(0, "EUR"), "two others"),
        copy_id=first.id,
    )
    pull = session.scalars(select(CopyRecord).where(CopyRecord.box_id == 2).limit(1)).one()
    dispose(session, bench, "box copy", Disposal("sold", TODAY, Money(500, "EUR"), Money(60, "EUR")), copy_id=pull.id)
    data = copies_csv(session)
    assert b"\n=cmd" not in data
    assert b",=cmd" not in data
    assert import_copies(session, bench, data) == 0, "my own file changes nothing"
    elsewhere = data.replace(b"bought", b"gift")
    assert elsewhere != data
    assert import_copies(session, bench, elsewhere) == 0, "a copy is known by its key, not by its row"
    for row in session.scalars(
        select(CopyRecord).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None))
    ):
        row.state, row.void_at = "void", bench.now()
    session.commit()
    assert import_copies(session, bench, data) == 5
    assert import_copies(session, bench, data) == 0
    again = [line for line in copies_csv(session).splitlines() if b",box," not in line]
    assert again == [line for line in data.splitlines() if b",box," not in line]


def test_a_copies_file_of_another_home_is_stored_once(session: Session, bench: Workbench) -> None:
    rows = b"product,section,number,came,cost,went,price,copy\ntrackside-1988,base,1,bought,2,sold,3,theirs:1\n"
    assert import_copies(session, bench, rows) == 1
    assert import_copies(session, bench, rows.replace(b"bought,2", b"bought,2.00")) == 0
    with pytest.raises(ImportRefusedError, match="too long"):
        import_copies(session, bench, rows.replace(b"theirs", b"x" * 200))


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        (
            "trackside-1988,base,1,bought,2,mine:1\ntrackside-1988,base,1,bought,2,mine:1\n",
            "says the same copy as line 2",
        ),
        ("trackside-1988,base,2,bought,2,k:0\n", "is here already as base 1"),
    ],
)
def test_a_row_that_would_be_lost_behind_another_copy_is_named(
    session: Session, bench: Workbench, rows: str, words: str
) -> None:
    """A row copied in a spreadsheet to add a second copy keeps the first one's key."""
    acquire(session, bench, bench.record(session, 4), "k", bought("1", 100))
    before = session.scalar(
        select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None))
    )
    with pytest.raises(ImportRefusedError, match=words):
        import_copies(session, bench, f"product,section,number,came,cost,copy\n{rows}".encode())
    assert (
        session.scalar(select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None)))
        == before
    )


@pytest.mark.parametrize("stamp", ["26,25", "0,25", "3,", "\u00b2,25", "99999999999999999999,25"])
def test_a_serial_that_cannot_be_is_refused(session: Session, bench: Workbench, stamp: str) -> None:
    rows = f"product,section,number,came,cost,serial,run\ntrackside-1988,base,1,bought,2,{stamp}\n"
    with pytest.raises(ImportRefusedError, match=r"copies\.csv:2"):
        import_copies(session, bench, rows.encode())


def test_a_copies_file_with_a_bad_row_stores_nothing(session: Session, bench: Workbench) -> None:
    good = b"product,section,number,came,cost\ntrackside-1988,base,1,bought,2\n"
    for bad in (
        b"trackside-1988,base,9999,bought,2\n",
        b"trackside-1988,base,2,stolen,2\n",
        b"trackside-1988,base,2,bought,x\n",
        b"trackside-1988,base,2,bought,-2\n",
    ):
        with pytest.raises(ImportRefusedError, match=r"copies\.csv:3"):
            import_copies(session, bench, good + bad)
    assert (
        session.scalar(select(func.count()).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None)))
        == 0
    )
    with pytest.raises(ImportRefusedError):
        import_copies(session, bench, b"")


def test_the_board_adds_up(session: Session, bench: Workbench) -> None:
    found = board(session, bench, [(4, "base")])
    assert len(found.cells) == 792
    assert found.have + len(found.missing) == 792
    pulls = session.scalar(select(func.count()).select_from(CopyRecord).where(CopyRecord.box_id.in_([7, 8])))
    assert found.have + found.spares == pulls
    assert needs_csv(found, spares=False).count(b"\n") == len(found.missing) + 1
    grown = history(session, [(4, "base")])
    assert grown[-1][1] == found.have


def test_sets_of_several_products(session: Session, bench: Workbench) -> None:
    settings = Settings(sets="Complete = banked-2026:base + banked-two-2026:base\nbroken line\nnone = nope:base")
    named = named_sets(session, settings)
    assert [name for name, _ in named] == ["Complete"]
    assert len(board(session, bench, named[0][1]).cells) == 450


def test_what_the_boxes_of_the_demo_say(session: Session, bench: Workbench) -> None:
    fmt = next(row for row in learned(session, bench, bench.record(session, 1)) if row.format.key == "hobby")
    assert len(fmt.boxes) == 5
    assert all(row.average.low <= row.average.mean <= row.average.high for row in fmt.lines)
    assert fmt.repeats is not None
    assert fmt.slots[0].packs == 120
    fit = measured_fit(session, bench, bench.record(session, 4), "cello")
    assert fit is not None
    assert fit.between is not None


def test_the_luck_of_all_boxes_is_one_figure(session: Session, bench: Workbench) -> None:
    found = period(session, bench, "all", closed_boxes(session))
    assert len(found.rows) == 14
    assert found.luck is not None
    assert 0 <= found.luck.percentile <= 1
    assert found.sums[0].cost == pytest.approx(sum(row.box.cost for row in found.rows))
