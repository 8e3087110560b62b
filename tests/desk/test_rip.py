"""Logging: once, in order, undone and brought back, and never into the wrong state."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError, EntryError, NotFoundError, StaleFormError
from botin.core.money import Money
from botin.desk.insight.recap import box_recap
from botin.desk.opening import rip, steps
from botin.desk.opening.shelf import Purchase, buy_box, shelf
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord, PullRecord
from botin.store.opening.boxes import get_box, pulls_of
from botin.store.opening.steps import version
from tests.desk.test_recaps import booked_fees

SEALED = 4


@pytest.fixture
def box(session: Session, bench: Workbench) -> BoxRecord:
    return rip.open_box(session, bench, SEALED)


def log(session: Session, bench: Workbench, box: BoxRecord, text: str, key: str, pack: int = 1) -> rip.Logged:
    entry = rip.read_entry(session, bench, box, text, pack, key)
    assert entry.problems == ()
    return rip.log_entry(session, bench, box, items=entry.items, pack=pack, client_key=key)


def test_the_same_key_twice_is_once_stored(session: Session, bench: Workbench, box: BoxRecord) -> None:
    first = log(session, bench, box, "12 45 copper", "k1")
    again = log(session, bench, box, "12 45 copper", "k1")
    assert (first.ids, again.ids, again.repeated) == (first.ids, first.ids, True)
    assert len(pulls_of(session, box.id)) == 2


def test_the_same_key_with_other_cards_is_a_stale_form_and_loses_nothing(
    session: Session, bench: Workbench, box: BoxRecord
) -> None:
    log(session, bench, box, "12", "k1")
    with pytest.raises(StaleFormError, match="then log this line"):
        log(session, bench, box, "13", "k1")
    assert [row.number for row in pulls_of(session, box.id)] == ["12"]


def test_a_repeat_after_closing_is_still_answered(session: Session, bench: Workbench, box: BoxRecord) -> None:
    first = log(session, bench, box, "12", "k1")
    rip.close_box(session, bench, box, 1)
    assert log(session, bench, box, "12", "k1").ids == first.ids
    with pytest.raises(BoxStateError, match="nothing was stored"):
        log(session, bench, box, "13", "k2")


def numbers(session: Session, box: BoxRecord) -> list[str]:
    return [row.number for row in pulls_of(session, box.id)]


def test_undo_and_redo_in_order_at_any_depth(session: Session, bench: Workbench, box: BoxRecord) -> None:
    for place, text in enumerate(("1 2", "3", "4 copper")):
        log(session, bench, box, text, f"k{place}")
    assert [steps.undo(session, bench, box).words for _ in range(2)] == ["4", "3"]  # type: ignore[union-attr]
    assert numbers(session, box) == ["1", "2"]
    with bench.sessions() as reloaded:  # undo goes on after a reload
        again = get_box(reloaded, box.id)
        assert steps.undo(reloaded, bench, again).words == "1, 2"  # type: ignore[union-attr]
        assert steps.undo(reloaded, bench, again) is None
        assert [steps.redo(reloaded, bench, again).words for _ in range(2)] == ["1, 2", "3"]  # type: ignore[union-attr]
    session.expire_all()
    assert numbers(session, box) == ["1", "2", "3"]
    log(session, bench, box, "9", "k9")
    assert steps.redo(session, bench, box) is None, "what was logged since is not overwritten"
    everything = select(func.count()).select_from(PullRecord).where(PullRecord.box_id == box.id)
    assert session.scalar(everything) == 5, "taken back is not deleted"


def test_the_same_undo_twice_takes_one_step_back(session: Session, bench: Workbench, box: BoxRecord) -> None:
    for number in "123":
        log(session, bench, box, number, f"k{number}")
    for _ in range(3):
        steps.undo(session, bench, box, "u1")
    assert numbers(session, box) == ["1", "2"]


def test_versions_differ_after_every_step(session: Session, bench: Workbench, box: BoxRecord) -> None:
    seen = [version(session, box.id)]
    log(session, bench, box, "1", "k1")
    seen.append(version(session, box.id))
    for turn in (steps.undo, steps.redo, steps.undo):
        turn(session, bench, box)
        seen.append(version(session, box.id))
    assert len(set(seen)) == len(seen)


def test_box_toppers_go_outside_the_packs(session: Session, bench: Workbench, box: BoxRecord) -> None:
    log(session, bench, box, "BP-3 12", "k1", pack=5)
    assert [(row.number, row.pack) for row in pulls_of(session, box.id)] == [("BP-3", 0), ("12", 5)]


@pytest.mark.parametrize("text", ["", "   ", "1 " * 1500])
def test_nothing_and_too_much_are_refused(session: Session, bench: Workbench, box: BoxRecord, text: str) -> None:
    with pytest.raises(EntryError):
        rip.read_entry(session, bench, box, text, 1, "k")


def test_a_pack_the_box_does_not_have(session: Session, bench: Workbench, box: BoxRecord) -> None:
    with pytest.raises(EntryError, match="packs 1 to 24"):
        log(session, bench, box, "12", "k", pack=25)


def test_closing_on_an_old_screen_is_refused(session: Session, bench: Workbench, box: BoxRecord) -> None:
    log(session, bench, box, "12", "k1")
    with pytest.raises(StaleFormError, match="showed 0 cards, 1 are logged"):
        rip.close_box(session, bench, box, 0)
    rip.close_box(session, bench, box, 1)
    rip.close_box(session, bench, box, 1)
    with pytest.raises(BoxStateError):
        rip.open_box(session, bench, box.id)
    rip.reopen_box(session, bench, box)
    assert get_box(session, box.id).state == "open"


def test_sealed_boxes_take_no_cards(session: Session, bench: Workbench) -> None:
    sealed = get_box(session, SEALED)
    with pytest.raises(BoxStateError, match="still sealed"):
        log(session, bench, sealed, "12", "k")


def test_buying_twice_with_one_key_is_one_box(session: Session, bench: Workbench) -> None:
    paid = Purchase(1, date(2026, 11, 1), Money(100, "EUR"), Money(0, "EUR"), Money(0, "EUR"))
    assert buy_box(session, bench, "k", paid).id == buy_box(session, bench, "k", paid).id
    with pytest.raises(NotFoundError):
        buy_box(
            session,
            bench,
            "k2",
            Purchase(999, *(getattr(paid, n) for n in ("bought_on", "price", "shipping", "tax"))),
        )


def test_the_shelf_of_the_demo(session: Session) -> None:
    found = shelf(session)
    assert found.counts == {"closed": 14, "sealed": 6, "open": 1}
    assert sorted(tile.logged for tile in found.closed if tile.id <= 3) == [42, 180, 193]
    assert sum(tile.boxes for tile in found.products) == 21


def test_the_recap_adds_up(session: Session, bench: Workbench) -> None:
    found = box_recap(session, bench, 1)
    rows = pulls_of(session, 1)
    assert found.recap.cards == len(rows)
    assert sum(line.seen for line in found.recap.lines) + found.recap.unplaced == len(rows)
    total = sum(valued.estimate.amount for valued in found.recap.best)
    assert found.recap.value.value == pytest.approx(total)
    slabs = {row.id: row.grade for row in rows if row.grade}
    book = bench.prices(session, found.box.format.product)
    in_grade = sum(
        book.estimate(one.pulled.card, one.pulled.parallel, slabs[one.pulled.id]).amount - one.estimate.amount
        for one in found.recap.best
        if one.pulled.id in slabs
    )
    fees = sum(booked_fees(session, [row.copy_id for row in rows])) / 100
    assert found.result.value == pytest.approx(total + in_grade - 118.90 - fees)
    assert found.model_mean.value == pytest.approx(sum(row.mean for row in found.contributions))
    assert len(found.best) == 10
    prices = [best.valued.estimate.amount for best in found.best]
    assert prices == sorted(prices, reverse=True)
