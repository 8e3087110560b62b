"""Grading orders: sent once, back with grades that teach, taken back when they were not sent."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.errors import BoxStateError, NotFoundError
from botin.core.flags.ways import Tier
from botin.desk.copies.setboard import board
from botin.desk.fees import grading_fees
from botin.desk.flags.board import waiting
from botin.desk.flags.submission import best_mix
from botin.desk.grading import orders
from botin.desk.grading.returns import BadGradeError, calibration
from botin.desk.workbench import Workbench
from botin.store.grading import out_counts
from botin.store.models_copies import CopyRecord, GradingCopyRecord, GradingOrderRecord, ReturnedRecord
from tests.web.test_fees import token

TODAY = date(2026, 11, 24)
TIER = Tier("value", 14.0, days=45, house="House B")


def doubles(session: Session) -> tuple[int, str]:
    """A version of which there are several copies."""
    p = CopyRecord
    row = session.execute(
        select(p.card_id, p.parallel)
        .where(p.card_id.is_not(None), p.parallel == "")
        .group_by(p.card_id, p.parallel)
        .having(func.count() == 2)
    ).first()
    assert row is not None
    return row[0], row[1]


def test_the_demo_has_an_order_out(session: Session) -> None:
    found = orders.orders(session)
    assert [bool(order.out) for order in found] == [True, False]  # one out, one back
    assert found[0].out == len(found[0].copies) > 0
    assert [copy.place for copy in found[0].copies] == list(range(1, found[0].out + 1))
    assert found[0].record.due_on is not None


def test_copies_of_an_order_are_out_until_they_are_back(session: Session, bench: Workbench) -> None:
    version = doubles(session)
    made = orders.send(session, bench, "o1", TIER, TODAY, [version, version])
    assert orders.send(session, bench, "o1", TIER, TODAY, [version]).id == made.id
    assert (made.house, made.due_on) == ("House B", TODAY + timedelta(45))
    assert out_counts(session, still_out=True)[version] == 2
    with pytest.raises(BoxStateError, match="out already"):
        orders.send(session, bench, "o2", TIER, TODAY, [version])
    assert session.scalar(select(func.count()).select_from(GradingOrderRecord)) == 3  # two of the demo and this one
    found = next(order for order in orders.orders(session) if order.record.id == made.id)
    first, second = (copy.id for copy in found.copies)
    assert orders.grades_came_back(session, bench, [orders.Slab(first, "9.5"), orders.Slab(second, "")], TODAY) == 1
    orders.came_back(session, bench, second, "", TODAY)
    assert out_counts(session, still_out=True)[version] == 0
    assert out_counts(session)[version] == 1  # the graded one is spoken for, the refused one is here again
    line = session.get_one(GradingCopyRecord, first)
    copy = session.get_one(CopyRecord, line.copy_id)
    assert (copy.grade, copy.house, copy.state) == ("9.5", "House B", "here")
    assert session.scalar(select(ReturnedRecord.house).order_by(ReturnedRecord.id.desc()).limit(1)) == "House B"
    assert calibration(session).count == 11


def test_a_bad_grade_leaves_the_whole_parcel_out(session: Session, bench: Workbench) -> None:
    copies = [copy.id for copy in orders.orders(session)[0].copies]
    with pytest.raises(BadGradeError):
        orders.grades_came_back(
            session, bench, [orders.Slab(copies[0], "9"), orders.Slab(copies[1], "eleven")], TODAY
        )
    assert orders.orders(session)[0].out == len(copies)
    with pytest.raises(BoxStateError, match="cannot be back before"):
        orders.came_back(session, bench, copies[0], "9", TODAY - timedelta(400))
    with pytest.raises(NotFoundError):
        orders.came_back(session, bench, 99_999, "9", TODAY)


def test_an_order_that_was_not_sent_is_taken_back(session: Session, bench: Workbench) -> None:
    version = doubles(session)
    made = orders.send(session, bench, "o1", TIER, TODAY, [version])
    orders.take_back_order(session, bench, made.id)
    assert out_counts(session)[version] == 0
    orders.send(session, bench, "o2", TIER, TODAY, [version, version])
    again = orders.orders(session)[0]
    orders.came_back(session, bench, again.copies[0].id, "8", TODAY)
    with pytest.raises(BoxStateError, match="it was sent"):
        orders.take_back_order(session, bench, again.record.id)
    with pytest.raises(BoxStateError, match="needs a card"):
        orders.send(session, bench, "o3", TIER, TODAY, [])


def test_what_is_out_is_no_candidate_and_marked_on_the_board(session: Session, bench: Workbench) -> None:
    before = best_mix(session, bench, grading_fees(session, TODAY), None)
    one = before.candidates[0]
    orders.send(session, bench, "o1", TIER, TODAY, [(one.card_id, one.parallel)])
    after = best_mix(session, bench, grading_fees(session, TODAY), None)
    assert waiting(session) <= len({(row.card_id, row.parallel) for row in before.candidates})
    mine = [(row.card_id, row.parallel) for row in after.candidates]
    count = sum((row.card_id, row.parallel) == (one.card_id, one.parallel) for row in before.candidates)
    assert mine.count((one.card_id, one.parallel)) == count - 1
    card, _ = doubles(session)
    orders.send(session, bench, "o2", TIER, TODAY, [(card, "")])
    cells = [
        cell for part in board(session, bench, [(1, "base"), (3, "base"), (2, "base")]).parts for cell in part.cells
    ]
    marked = [cell for cell in cells if cell.grading]
    if card in {cell.card_id for cell in cells}:
        assert card in {cell.card_id for cell in marked}


def test_signed_cards_go_in_orders_of_their_own(session: Session, bench: Workbench) -> None:
    mix = best_mix(session, bench, grading_fees(session, TODAY), None)
    for tier, rows in mix.parcels.items():
        assert {one.signed for one, _ in rows} == {tier.endswith(", signed")}
    assert mix.best.gain >= mix.by_hand.gain - 1e-6


def test_orders_by_the_page(client: FlaskClient, session: Session, bench: Workbench) -> None:
    version = doubles(session)
    fields = {
        "csrf_token": token(client),
        "client_key": "p1",
        "tier": "House B value",
        "copy": f"{version[0]}:{version[1]}",
    }
    assert "due about" in client.post("/flags/grading/send", data=fields, follow_redirects=True).text
    assert (
        "not among your tiers"
        in client.post("/flags/grading/send", data={**fields, "tier": "x"}, follow_redirects=True).text
    )
    bad = client.post(
        "/flags/grading/send", data={**fields, "client_key": "p2", "sent_on": "soon"}, follow_redirects=True
    )
    assert "is no day" in bad.text
    order = next(row for row in orders.orders(session) if row.record.client_key == "p1")
    back = {"csrf_token": fields["csrf_token"], f"grade-{order.copies[0].id}": "none"}
    assert "1 came back" in client.post("/flags/grading/back", data=back, follow_redirects=True).text
    assert (
        "Fill in a grade"
        in client.post("/flags/grading/back", data={"csrf_token": fields["csrf_token"]}, follow_redirects=True).text
    )
    undo = {"csrf_token": fields["csrf_token"], "undo": str(order.record.id)}
    assert "it was sent" in client.post("/flags/grading/back", data=undo, follow_redirects=True).text
