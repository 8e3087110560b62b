"""Grading orders from the draft to done: form, stack, steps, money, grades that teach, other people's cards."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.errors import BotinError, BoxStateError, NotFoundError
from botin.core.flags.ways import Tier
from botin.core.grading.stack import CHECKS
from botin.core.grading.steps import WAY, Step
from botin.core.money import Money
from botin.desk.copies.elsewhere import Acquisition, acquire, undo_acquisition
from botin.desk.copies.setboard import board
from botin.desk.fees import GRADING, grading_fees, save_fees
from botin.desk.flags.drafting import add_to_order, begin_order, closing_of, move_to_tier, tier_named
from botin.desk.flags.submission import best_mix
from botin.desk.grading import back, drafts, moves, orders
from botin.desk.grading.billing import Bill, correct_bill, not_paid, pay
from botin.desk.grading.memberships import Given, Joining, drop_voucher, join, leave, take_voucher, vouchers_left
from botin.desk.grading.packing import keep_checks, pack, unpack
from botin.desk.grading.returns import BadGradeError, calibration
from botin.desk.grading.simulated import play
from botin.desk.insight.gradingresults import results
from botin.desk.insight.today import days_ahead, today_lines
from botin.desk.opening.steps import undo
from botin.desk.selling.disposals import Disposal, dispose
from botin.desk.selling.handing import hand_over
from botin.desk.sentagain import StaleFormError
from botin.desk.workbench import Workbench
from botin.store.flags.board import waiting
from botin.store.grading.orders import lines_of, out_counts, promised
from botin.store.models_copies import CopyRecord, ReturnedRecord
from botin.store.models_grading import GradingCopyRecord, GradingOrderRecord
from tests.builders import DAY, EUR, Home, eur, sums

TODAY = date(2026, 11, 24)
TIER = Tier("value", 14.0, ceiling=250.0, upcharge=9.0, days=45, house="House B")


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


def test_the_demo_shows_an_order_in_each_state(session: Session) -> None:
    found = {order.step: order for order in orders.orders(session)}
    assert set(found) == {Step.DONE, Step.GRADED, Step.CLOSED, Step.DRAFT}
    assert found[Step.GRADED].out == len(found[Step.GRADED].copies) > 0
    assert found[Step.GRADED].record.paid_on is None
    closed = found[Step.CLOSED]
    assert [copy.place for copy in closed.copies] == list(range(1, closed.out + 1))
    assert len(closed.shares) == 2
    assert 0 < sum(copy.form.line.packed_at is not None for copy in closed.copies) < closed.out


def test_an_order_that_was_sent_already_is_noted_once(session: Session, bench: Workbench) -> None:
    version = doubles(session)
    made = moves.send(session, bench, "o1", TIER, TODAY, [version, version])
    assert moves.send(session, bench, "o1", TIER, TODAY, [version]).id == made.id
    assert (made.house, made.due_on) == ("House B", TODAY + timedelta(45))
    assert out_counts(session, still_out=True)[version] == 2
    with pytest.raises(BoxStateError, match="in another order"):
        moves.send(session, bench, "o2", TIER, TODAY, [version])
    assert session.scalar(select(func.count()).select_from(GradingOrderRecord)) == 5  # four of the demo and this one
    copies = orders.order_page(session, made.id).copies
    back.grades_came_back(
        session, bench, [back.Slab(copies[0].id, "9.5", "88-1", "slab box"), back.Slab(copies[1].id, "")], TODAY
    )
    line = session.get_one(GradingCopyRecord, copies[0].id)
    copy = session.get_one(CopyRecord, line.copy_id)
    assert (line.grade_halves, copy.grade, copy.certificate, copy.place) == (19, "9.5", "88-1", "slab box")
    assert orders.order_page(session, made.id).out == 1


def test_a_wrong_grade_is_corrected_and_what_it_taught_is_put_right(session: Session, bench: Workbench) -> None:
    before = calibration(session).count
    made = moves.send(session, bench, "o1", TIER, TODAY, [doubles(session)])
    line = orders.order_page(session, made.id).copies[0].id
    back.came_back(session, bench, line, "9", TODAY)
    back.came_back(session, bench, line, "8", TODAY)
    assert [
        row.grade_halves
        for row in session.scalars(select(ReturnedRecord).where(ReturnedRecord.client_key == f"order-copy-{line}"))
    ] == [16]
    back.not_back(session, bench, line)
    assert calibration(session).count == before
    assert orders.order_page(session, made.id).step is Step.SENT
    back.came_back(session, bench, line, "none", TODAY)
    assert orders.order_page(session, made.id).copies[0].outcome == "refused"
    with pytest.raises(BadGradeError):
        back.came_back(session, bench, line, "11", TODAY)
    with pytest.raises(BoxStateError, match="cannot be back before"):
        back.came_back(session, bench, line, "9", TODAY - timedelta(400))
    with pytest.raises(BoxStateError, match="lies ahead"):
        back.came_back(session, bench, line, "9", bench.today() + timedelta(1))
    with pytest.raises(NotFoundError):
        back.came_back(session, bench, 99_999, "9", TODAY)


def test_an_order_that_was_not_sent_is_taken_back(session: Session, bench: Workbench) -> None:
    version = doubles(session)
    made = moves.send(session, bench, "o1", TIER, TODAY, [version])
    moves.remove_order(session, bench, made.id)
    assert out_counts(session)[version] == 0
    made = moves.send(session, bench, "o2", TIER, TODAY, [version, version])
    back.came_back(session, bench, orders.order_page(session, made.id).copies[0].id, "8", TODAY)
    with pytest.raises(BoxStateError, match="it was sent"):
        moves.remove_order(session, bench, made.id)
    with pytest.raises(BoxStateError, match="needs a card"):
        moves.send(session, bench, "o3", TIER, TODAY, [])


def test_what_is_in_an_order_is_no_candidate_and_marked_on_the_board(session: Session, bench: Workbench) -> None:
    before = best_mix(session, bench, grading_fees(session, TODAY), None)
    one = before.candidates[0]
    moves.send(session, bench, "o1", TIER, TODAY, [one.copy_id])
    two = before.candidates[1]
    tier = tier_named(grading_fees(session, TODAY), "House B value")
    begin_order(session, bench, "o2", tier, [two.copy_id])
    after = [row.copy_id for row in best_mix(session, bench, grading_fees(session, TODAY), None).candidates]
    assert {one.copy_id, two.copy_id}.isdisjoint(after)
    assert waiting(session) <= len({(row.card_id, row.parallel) for row in before.candidates})
    cells = [
        cell for part in board(session, bench, [(1, "base"), (3, "base"), (2, "base")]).parts for cell in part.cells
    ]
    assert all(cell.grading for cell in cells if cell.card_id == one.card_id)


def test_signed_cards_go_in_orders_of_their_own(session: Session, bench: Workbench) -> None:
    mix = best_mix(session, bench, grading_fees(session, TODAY), None)
    for tier, rows in mix.parcels.items():
        assert {one.signed for one, _ in rows} == {tier.endswith(", signed")}
    assert mix.best.gain >= mix.by_hand.gain - 1e-6


# A home of one's own: nothing below leans on the demo.

VALUE = Tier("value", 25.0, ceiling=499.0, upcharge=40.0, days=20, house="Ash")


def order_of(
    home: Home, count: int = 4, *, key: str = "o", tier: Tier = VALUE, shipping: int = 1_900
) -> orders.Order:
    """A draft with the first cards of a box, its form filled in."""
    copies = [copy.id for copy in home.copies(home.opened("1 2 3", "4 5 6 @Mira"))][:count]
    made = drafts.new_draft(home.session, home.bench, key, tier, EUR, eur(shipping))
    drafts.add_copies(home.session, made.id, [drafts.Wanted(copy, eur(9_000 + copy)) for copy in copies])
    drafts.fill_form(home.session, home.bench, made.id, drafts.Form("555", agreed=True))
    return orders.order_page(home.session, made.id)


def step(home: Home, order: int, to: Step, told: moves.Told = moves.NOTHING_TOLD, day: date = DAY) -> None:
    """Let an order take a step, packing it where that is asked for."""
    if to is Step.PACKED:
        for copy in orders.order_page(home.session, order).copies:
            pack(home.session, home.bench, order, f"#{copy.place}")
        keep_checks(home.session, order, [check.key for check in CHECKS], 250)
    moves.move_on(home.session, home.bench, order, to, day, home.key(), told)


def sent(home: Home, order: int, postage: int = 0) -> None:
    """Close, pack and send an order."""
    for to in (Step.CLOSED, Step.PACKED):
        step(home, order, to)
    step(home, order, Step.SENT, moves.Told(postage=eur(postage)))


def test_the_whole_way_and_the_books_at_each_step(built: Home) -> None:
    """Four cards at 25 and 19 back are 119 (common practice): owed when sent, paid when due, on the cards when back."""
    order = order_of(built)
    held = sum(sums(built).get(account, 0) for account in (Account.CARDS, Account.GRADED))
    sent(built, order.record.id, 690)
    assert sums(built)[Account.PREPAID] == 11_900 + 690
    assert sums(built)[Account.PEOPLE] + 11_900 == owed_by_mira(built)  # the house is owed, and Mira owes her cards
    cash = sums(built)[Account.CASH]
    for to in (Step.THERE, Step.GRADED):
        step(built, order.record.id, to)
    assert sums(built)[Account.CASH] == cash
    assert pay(built.session, built.bench, order.record.id, DAY) == eur(11_900)
    assert sums(built)[Account.CASH] == cash - 11_900
    step(built, order.record.id, Step.RETURNING)
    slabs = [back.Slab(copy.id, "9", f"c{copy.place}") for copy in order.copies]
    back.grades_came_back(built.session, built.bench, slabs, DAY)
    found = orders.order_page(built.session, order.record.id)
    assert found.step is Step.DONE
    assert Account.PREPAID not in sums(built)
    parts = [copy.part for copy in found.copies]
    assert sum(parts) == 11_900 + 690
    mine = sum(part for part, copy in zip(parts, found.copies, strict=True) if copy.mine)
    assert sum(sums(built).get(account, 0) for account in (Account.CARDS, Account.GRADED)) == held + mine


def owed_by_mira(home: Home) -> int:
    """What Mira owes for her part of the box."""
    return 4_000 // 6 + (1 if 4_000 % 6 > 5 else 0)


def test_a_later_bill_goes_onto_the_cards_that_are_back(built: Home) -> None:
    order = order_of(built, 2)
    sent(built, order.record.id)
    step(built, order.record.id, Step.GRADED)
    first, second = order.copies
    back.grades_came_back(built.session, built.bench, [back.Slab(first.id, "10")], DAY)
    correct_bill(built.session, built.bench, order.record.id, Bill(1_900, 250, {first.id: 4_000}))
    assert orders.order_page(built.session, order.record.id).costs.bill == 2 * 2_500 + 4_000 + 1_900 + 250
    back.grades_came_back(built.session, built.bench, [back.Slab(second.id, "9")], DAY)
    assert Account.PREPAID not in sums(built)
    found = orders.order_page(built.session, order.record.id)
    assert found.step is Step.BACK  # not paid yet
    with pytest.raises(BoxStateError, match="not paid"):
        step(built, order.record.id, Step.DONE)
    pay(built.session, built.bench, order.record.id, DAY)
    with pytest.raises(BoxStateError, match="is paid"):
        correct_bill(built.session, built.bench, order.record.id, Bill(0))
    step(built, order.record.id, Step.DONE)
    not_paid(built.session, built.bench, order.record.id)
    assert orders.order_page(built.session, order.record.id).step is Step.BACK


def test_a_later_bill_follows_a_card_that_was_sold_lost_or_is_another_s(built: Home) -> None:
    order = order_of(built, 6)
    sent(built, order.record.id)
    slabs = [back.Slab(copy.id, "9") for copy in order.copies]
    back.grades_came_back(built.session, built.bench, slabs, DAY)
    sold, lost, _, _, _, hers = order.copies
    dispose(built.session, built.bench, "s", Disposal("sold", DAY, eur(9_000), eur(0)), copy_id=sold.copy_id)
    dispose(built.session, built.bench, "l", Disposal("lost", DAY, eur(0), eur(0)), copy_id=lost.copy_id)
    before = sums(built)
    ups = {sold.id: 4_000, lost.id: 3_000, hers.id: 2_000}
    correct_bill(built.session, built.bench, order.record.id, Bill(1_900, 0, ups))
    after = sums(built)
    moved = {account: after.get(account, 0) - before.get(account, 0) for account in Account}
    assert (moved[Account.SOLD], moved[Account.FUN], moved[Account.PEOPLE]) == (4_000, 3_000, 2_000 - 9_000)
    assert (moved[Account.CARDS], moved[Account.GRADED], moved[Account.PREPAID]) == (0, 0, 0)


def test_what_a_draft_lacks_is_said_and_it_is_not_closed(built: Home) -> None:
    order = order_of(built, 3, tier=replace(VALUE, least=20, member=True))
    drafts.fill_form(
        built.session,
        built.bench,
        order.record.id,
        drafts.Form("", agreed=False, declared={order.copies[0].id: eur(0)}),
    )
    lacks = drafts.not_ready(built.session, order.record, DAY)
    assert [
        any(word in one for one in lacks) for word in ("17 more", "telephone", "terms", "nothing", "members")
    ] == [True] * 5
    with pytest.raises(BoxStateError, match="only with 17 more"):
        step(built, order.record.id, Step.CLOSED)
    joining = Joining("Ash", DAY, DAY + timedelta(365), eur(9_900), order.record.id)
    join(built.session, built.bench, "m1", joining)
    assert not any("members" in one for one in drafts.not_ready(built.session, order.record, DAY))


def test_a_value_below_nothing_is_not_declared(built: Home) -> None:
    order = order_of(built, 1).record.id
    line = lines_of(built.session, order)[0]
    before = line.declared_minor
    with pytest.raises(BotinError, match="less than nothing"):
        drafts.fill_form(
            built.session, built.bench, order, drafts.Form("5", agreed=True, declared={line.id: eur(-1)})
        )
    built.session.rollback()
    assert lines_of(built.session, order)[0].declared_minor == before


def test_a_closed_order_is_as_it_will_be_sent_and_can_be_opened_again(built: Home) -> None:
    order = order_of(built, 3)
    step(built, order.record.id, Step.CLOSED)
    for deed in (
        lambda: drafts.remove_line(built.session, order.record.id, order.copies[0].id),
        lambda: drafts.put_line(built.session, order.record.id, order.copies[0].id, 2),
        lambda: drafts.fill_form(built.session, built.bench, order.record.id, drafts.Form("1", agreed=True)),
    ):
        with pytest.raises(BoxStateError, match="is closed"):
            deed()
    assert moves.step_back(built.session, built.bench, order.record.id) is Step.DRAFT
    drafts.put_line(built.session, order.record.id, order.copies[2].id, 1)
    drafts.remove_line(built.session, order.record.id, order.copies[0].id)
    found = orders.order_page(built.session, order.record.id)
    assert [(copy.place, copy.copy_id) for copy in found.copies] == [
        (1, order.copies[2].copy_id),
        (2, order.copies[1].copy_id),
    ]


def test_a_card_out_of_order_stops_the_stack(built: Home) -> None:
    order = order_of(built, 3).record.id
    with pytest.raises(BoxStateError, match="close it first"):
        pack(built.session, built.bench, order, "#1")
    step(built, order, Step.CLOSED)
    assert pack(built.session, built.bench, order, "#2").fit == "early"
    assert pack(built.session, built.bench, order, "#1").fit == "right"
    with pytest.raises(BoxStateError, match="not on the stack"):
        moves.move_on(built.session, built.bench, order, Step.PACKED, DAY, "p")
    assert unpack(built.session, order) == 1
    assert pack(built.session, built.bench, order, "#1").fit == "right"


def test_every_step_is_taken_back_one_by_one(built: Home) -> None:
    order = order_of(built, 2).record.id
    before = sums(built)
    sent(built, order, 500)
    for to in (Step.THERE, Step.GRADED, Step.RETURNING):
        step(built, order, to)
    steps = [moves.step_back(built.session, built.bench, order) for _ in range(6)]
    assert steps == [Step.GRADED, Step.THERE, Step.SENT, Step.PACKED, Step.CLOSED, Step.DRAFT]
    assert sums(built) == before
    assert all(built.copy(copy.copy_id).state == "here" for copy in orders.order_page(built.session, order).copies)
    with pytest.raises(BoxStateError, match="no step to take back"):
        moves.step_back(built.session, built.bench, order)


def test_a_parcel_that_is_on_its_way_already_is_noted_from_the_draft(built: Home) -> None:
    """Whoever begins with Botin has orders out: they need no stack, and are taken back step by step like any other."""
    order = order_of(built, 3)
    with pytest.raises(BoxStateError, match="does not lie ahead"):
        moves.already_sent(built.session, built.bench, order.record.id, DAY + timedelta(1), "early")
    built.session.rollback()
    told = moves.Told(postage=eur(690), due_on=DAY + timedelta(50))
    moves.already_sent(built.session, built.bench, order.record.id, DAY, "already", told)
    moves.already_sent(built.session, built.bench, order.record.id, DAY, "already", told)
    found = orders.order_page(built.session, order.record.id)
    assert (found.step, found.record.due_on, found.out) == (Step.SENT, DAY + timedelta(50), 3)
    assert sums(built)[Account.PREPAID] == 3 * 2_500 + 1_900 + 690
    assert all(built.copy(copy.copy_id).state == "out" for copy in found.copies)
    assert moves.step_back(built.session, built.bench, order.record.id) is Step.PACKED


def test_a_step_cannot_be_left_out_at_home_nor_lie_before_the_last(built: Home) -> None:
    order = order_of(built, 2).record.id
    for to in WAY[2:]:
        with pytest.raises(BoxStateError, match="cannot be"):
            moves.move_on(built.session, built.bench, order, to, DAY, f"k-{to}")
    step(built, order, Step.CLOSED)
    with pytest.raises(BoxStateError, match="lies before"):
        moves.move_on(built.session, built.bench, order, Step.PACKED, DAY - timedelta(1), "k1")
    with pytest.raises(BoxStateError, match="lies ahead"):
        moves.move_on(built.session, built.bench, order, Step.PACKED, DAY + timedelta(1), "k2")
    moves.move_on(built.session, built.bench, order, Step.CLOSED, DAY, f"built-{built.keys}")  # the same form again
    with pytest.raises(StaleFormError):
        moves.move_on(built.session, built.bench, order, Step.SENT, DAY, f"built-{built.keys}")


def test_a_promised_card_is_not_sold_and_not_promised_twice(built: Home) -> None:
    order = order_of(built, 2)
    copy = order.copies[0].copy_id
    assert copy in promised(built.session)
    gone = Disposal("sold", DAY, eur(500), eur(0))
    with pytest.raises(BoxStateError, match="is in grading order"):
        dispose(built.session, built.bench, "d1", gone, copy_id=copy)
    with pytest.raises(BoxStateError, match="is in grading order"):
        moves.send(built.session, built.bench, "o2", VALUE, DAY, [copy])
    moves.remove_order(built.session, built.bench, order.record.id)
    dispose(built.session, built.bench, "d2", gone, copy_id=copy)


def test_what_does_not_fit_an_order_is_refused(built: Home) -> None:
    copies = built.copies(built.opened("1 2 3", "4 5 6"))
    other = drafts.new_draft(built.session, built.bench, "usd", VALUE, "USD", Money(1_900, "USD"))
    with pytest.raises(drafts.OrderError, match="kept in EUR"):
        drafts.add_copies(built.session, other.id, [drafts.Wanted(copies[0].id)])
    again = drafts.new_draft(built.session, built.bench, "again", replace(VALUE, service="review"), EUR, eur(0))
    with pytest.raises(drafts.OrderError, match="nothing to review"):
        drafts.add_copies(built.session, again.id, [drafts.Wanted(copies[0].id)])
    copies[1].grade, copies[1].house = "9", "Elm"
    built.session.commit()
    plain = drafts.new_draft(built.session, built.bench, "plain", VALUE, EUR, eur(0))
    with pytest.raises(drafts.OrderError, match="graded already"):
        drafts.add_copies(built.session, plain.id, [drafts.Wanted(copies[1].id)])
    with pytest.raises(drafts.OrderError, match="cross over"):
        drafts.add_copies(built.session, again.id, [drafts.Wanted(copies[1].id)])
    assert not orders.order_page(built.session, plain.id).copies


def test_a_new_holder_keeps_the_grade_and_teaches_nothing(built: Home) -> None:
    copy = built.copies(built.opened("1 2 3"))[0]
    copy.grade, copy.house = "9", "Ash"
    built.session.commit()
    taught = calibration(built.session).count
    tier = replace(VALUE, name="holder", service="new holder", fee=8.0)
    order = drafts.new_draft(built.session, built.bench, "h", tier, EUR, eur(900)).id
    drafts.add_copies(built.session, order, [drafts.Wanted(copy.id, eur(4_000), {"slab": ["9", "Ash"]})])
    drafts.fill_form(built.session, built.bench, order, drafts.Form("555", agreed=True))
    sent(built, order)
    line = orders.order_page(built.session, order).copies[0].id
    with pytest.raises(BadGradeError, match="keeps its grade"):
        back.grades_came_back(built.session, built.bench, [back.Slab(line, "refused")], DAY)
    back.grades_came_back(built.session, built.bench, [back.Slab(line, "9", "new-7")], DAY)
    assert (built.copy(copy.id).grade, built.copy(copy.id).certificate) == ("9", "new-7")
    back.not_back(built.session, built.bench, line)
    assert (built.copy(copy.id).grade, built.copy(copy.id).state) == ("9", "out")
    assert calibration(built.session).count == taught


def test_an_altered_card_and_a_wrong_label(built: Home) -> None:
    order = order_of(built, 3)
    sent(built, order.record.id)
    first, second, third = (copy.id for copy in order.copies)
    slabs = [back.Slab(first, "Altered"), back.Slab(second, "8,5", wrong_label=True), back.Slab(third, "10")]
    back.tell_grades(built.session, slabs)
    told = orders.order_page(built.session, order.record.id)
    assert [(copy.told, copy.outcome, copy.grade) for copy in told.copies] == [
        ("", "altered", ""),
        ("8.5", "wrong label", ""),
        ("10", "graded", ""),
    ]
    assert calibration(built.session).count == 0
    back.grades_came_back(built.session, built.bench, slabs, DAY)
    came = orders.order_page(built.session, order.record.id)
    assert [(copy.grade, copy.outcome) for copy in came.copies] == [
        ("", "altered"),
        ("8.5", "wrong label"),
        ("10", "graded"),
    ]
    assert [card.next for card in results(built.session, built.bench).orders[0].cards][
        1
    ] == "send it back for a new label"


def test_a_group_order_each_owes_his_part_and_gets_his_cards(built: Home) -> None:
    order = order_of(built, 6)
    drafts.fill_form(built.session, built.bench, order.record.id, drafts.Form("1", agreed=True, share_by="person"))
    shares = orders.order_page(built.session, order.record.id).shares
    assert [(share.name, len(share.cards)) for share in shares][1] == ("Mira", 1)
    assert shares[1].minor == 2_500 + 950  # half of the return: two people
    sent(built, order.record.id)
    mira = shares[1].owner or 0
    assert hand_over(built.session, built.bench, order.record.id, mira, DAY) == 0
    before = sums(built).get(Account.PEOPLE, 0)
    slabs = [back.Slab(copy.id, "9") for copy in order.copies]
    back.grades_came_back(built.session, built.bench, slabs, DAY)
    assert sums(built)[Account.PEOPLE] - before == shares[1].minor
    assert hand_over(built.session, built.bench, order.record.id, mira, DAY) == 1
    assert hand_over(built.session, built.bench, order.record.id, mira, DAY) == 0
    assert built.copy(shares[1].cards[0].copy_id).state == "gone"
    with pytest.raises(BoxStateError, match="your own"):
        hand_over(built.session, built.bench, order.record.id, 1, DAY)


def test_memberships_and_vouchers(built: Home) -> None:
    save_fees(
        built.session,
        GRADING,
        DAY - timedelta(9),
        {"tiers": "Ash:\nplain; 25; ; ; 20; 1\nclub; 19; ; ; 20; 1; member"},
        {"membership": 99.0, "shipping": 19.0},
    )
    assert grading_fees(built.session, DAY).costs.membership_for("Ash") == 99.0
    made = join(built.session, built.bench, "m", Joining("Ash", DAY - timedelta(30), DAY + timedelta(5), eur(9_900)))
    assert (
        join(built.session, built.bench, "m", Joining("Ash", DAY - timedelta(30), DAY + timedelta(5), eur(9_900))).id
        == made.id
    )
    assert grading_fees(built.session, DAY).costs.membership_for("Ash") == 0
    assert grading_fees(built.session, DAY + timedelta(6)).costs.membership_for("Ash") == 99.0
    assert sums(built)[Account.FEES] == 9_900
    assert any("runs out" in line.words for line in today_lines(built.session, built.bench))
    leave(built.session, built.bench, made.id)
    assert Account.FEES not in sums(built)
    with pytest.raises(drafts.OrderError, match="begins today"):
        join(built.session, built.bench, "m2", Joining("Ash", DAY + timedelta(3), DAY + timedelta(9), eur(1)))
    voucher = take_voucher(built.session, built.bench, "v", Given("Ash", eur(600), 3, until_on=DAY + timedelta(9)))
    order = order_of(built, 4)
    drafts.fill_form(built.session, built.bench, order.record.id, drafts.Form("1", agreed=True, voucher=voucher.id))
    assert orders.order_page(built.session, order.record.id).costs.fees == 4 * 2_500 - 3 * 600
    assert vouchers_left(built.session, DAY) == []
    with pytest.raises(drafts.OrderError, match="is used"):
        drop_voucher(built.session, built.bench, voucher.id)
    moves.remove_order(built.session, built.bench, order.record.id)
    assert [one.left for one in vouchers_left(built.session, DAY)] == [3]
    assert vouchers_left(built.session, DAY + timedelta(10)) == []


def test_a_tier_is_offered_from_a_day_to_a_day_and_takes_cards_of_its_years(built: Home) -> None:
    lines = "Ash:\nsale; 15; ; ; 20; 10; ; ; ; 2026-10-01; 2026-11-05\nold; 12; ; ; 20; 1; ; ; -1999\nagain; 30; ; ; 20; 1; ; review"
    save_fees(built.session, GRADING, DAY - timedelta(90), {"tiers": lines})
    on = {
        day: [tier.name for tier in grading_fees(built.session, day).costs.tiers] for day in (DAY, DAY + timedelta(9))
    }
    assert on == {DAY: ["sale", "old"], DAY + timedelta(9): ["old"]}
    terms = grading_fees(built.session, DAY + timedelta(9))
    assert [tier.name for tier in terms.all_tiers] == ["sale", "old", "again"]
    assert [tier.name for tier in terms.costs.taking(2026).tiers] == []
    assert [tier.name for tier in terms.costs.taking(1988).tiers] == ["old"]
    with pytest.raises(drafts.OrderError, match="not offered today"):
        begin_order(
            built.session, built.bench, "k", replace(tier_named(terms, "Ash sale"), until=DAY - timedelta(1)), []
        )
    with pytest.raises(drafts.OrderError, match="not among your tiers"):
        tier_named(terms, "Elm plain")


def test_return_shipping_follows_the_number_of_cards(built: Home) -> None:
    save_fees(
        built.session,
        GRADING,
        DAY - timedelta(9),
        {"tiers": "Ash:\nplain; 15", "returns": "Ash:\n2; 43.25"},
        {"shipping": 19.0},
    )
    copies = [copy.id for copy in built.copies(built.opened("1 2 3"))]
    tier = tier_named(grading_fees(built.session, DAY), "Ash plain")
    order = begin_order(built.session, built.bench, "k", tier, copies[:2])
    assert order.return_minor == 1_900
    add_to_order(built.session, built.bench, order.id, copies[2:])
    assert orders.order_page(built.session, order.id).record.return_minor == 4_325
    with pytest.raises(BotinError):
        move_to_tier(built.session, built.bench, order.id, "Ash gone")


def test_forgotten_copies_are_asked_about_before_an_order_is_closed(session: Session, bench: Workbench) -> None:
    mix = best_mix(session, bench, grading_fees(session, bench.today()), None)
    label, rows = next((label, rows) for label, rows in mix.parcels.items() if len(rows) > 3)
    option = mix.option(label)
    assert option is not None
    order = begin_order(session, bench, "k", option.tier, [one.copy_id for one, _ in rows[:-2]])
    asked = closing_of(session, bench, order)
    assert {one.copy_id for one, _ in rows[-2:]} <= {one.copy_id for one in asked.forgotten}
    assert all(one.signed is option.signed for one in asked.forgotten)
    assert asked.again.minor > 0
    assert asked.unlooked <= len(rows) - 2
    told = orders.order_page(session, order.id).copies[0]
    assert told.form.line.declared_minor > 0
    assert sum(told.forecast["chances"].values()) == pytest.approx(1, abs=1e-6)
    values = [
        told.forecast["values"][grade] for grade in told.forecast["chances"] if grade in told.forecast["values"]
    ]
    assert min(values) <= told.form.line.declared_minor / 100 <= max(values) + 1


def test_the_simulated_house_plays_an_order_to_its_end(session: Session, bench: Workbench) -> None:
    graded = next(order for order in orders.orders(session) if order.step is Step.GRADED)
    assert all(copy.told or copy.outcome in ("refused", "altered") for copy in graded.copies)
    assert any(line.kind == "money" and str(graded.record.id) in line.words for line in today_lines(session, bench))
    assert play(session, bench) == []  # it waits for payment
    assert {line.key for line in days_ahead(session, bench)} >= {
        f"order-{graded.record.id}-pay",
        f"order-{graded.record.id}-due",
    }
    pay(session, bench, graded.record.id, bench.today())
    bench.let_pass(12)
    assert len(play(session, bench)) == 2
    found = orders.order_page(session, graded.record.id)
    assert found.step is Step.DONE
    assert [copy.grade for copy in found.copies] == [
        copy.told if copy.outcome != "altered" else "" for copy in graded.copies
    ]
    held = results(session, bench)
    assert {one.order.record.id for one in held.orders} >= {graded.record.id}
    assert sum(box.cards for box in held.boxes) <= len(held.outcome.cards)
    assert sum(box.outcome.made for box in held.boxes) == pytest.approx(
        sum(card.came.made for one in held.orders for card in one.cards if card.box is not None)
    )


def test_a_box_says_whether_grading_paid(built: Home) -> None:
    """765 in, five cards sent: what it is now, and what it would be had none been sent, differ by what grading made."""
    box = built.opened("1 2 3", "4 5 6", price=76_500)
    copies = [copy.id for copy in built.copies(box)][:5]
    order = drafts.new_draft(built.session, built.bench, "k", VALUE, EUR, eur(1_900)).id
    drafts.add_copies(built.session, order, [drafts.Wanted(copy, eur(5_000)) for copy in copies])
    drafts.fill_form(built.session, built.bench, order, drafts.Form("1", agreed=True))
    sent(built, order, 1_000)
    slabs = [back.Slab(copy.id, "10") for copy in orders.order_page(built.session, order).copies]
    back.grades_came_back(built.session, built.bench, slabs, DAY)
    dispose(built.session, built.bench, "sold", Disposal("sold", DAY, eur(30_000), eur(2_000)), copy_id=copies[0])
    found = results(built.session, built.bench).boxes[0]
    assert (found.paid, found.cards, found.sold) == (765.0, 5, 280.0)
    assert found.outcome.cost == pytest.approx(5 * 25 + 19 + 10)
    assert found.after - found.before == pytest.approx(found.outcome.made)
    assert found.after == pytest.approx(280.0 + found.here - 765.0 - 154.0)
    assert found.pays is (found.outcome.made > 0)


def test_a_card_in_an_order_cannot_be_taken_out_of_its_log(built: Home) -> None:
    """Undoing what was logged, or an arrival, would leave an order with a card that never was."""
    box = built.box()
    copies = built.log(box, "1 2 3")
    order = drafts.new_draft(built.session, built.bench, "k", VALUE, EUR, eur(0)).id
    drafts.add_copies(built.session, order, [drafts.Wanted(copies[2].id, eur(900))])
    with pytest.raises(BoxStateError, match="in a grading order"):
        undo(built.session, built.bench, box)
    built.session.rollback()
    assert built.copy(copies[2].id).state == "here"
    came = Acquisition("base", "4", "", "bought", "a fair", DAY, eur(500))
    acquire(built.session, built.bench, built.record, "a", came)
    bought = built.session.scalars(select(CopyRecord).where(CopyRecord.client_key.startswith("a:"))).one()
    drafts.add_copies(built.session, order, [drafts.Wanted(bought.id, eur(900))])
    with pytest.raises(BoxStateError, match="in grading order"):
        undo_acquisition(built.session, built.bench, bought.id)
    moves.remove_order(built.session, built.bench, order)
    undo_acquisition(built.session, built.bench, bought.id)


def test_what_is_to_be_paid_later_is_said_before_it_falls_due(built: Home) -> None:
    """Payment comes about two months later and catches people out (common practice): it is in the calendar from the start."""
    order = order_of(built, 2)
    sent(built, order.record.id)
    assert not any(line.kind == "money" for line in today_lines(built.session, built.bench))
    ahead = {line.key: line for line in days_ahead(built.session, built.bench)}
    assert "will be to pay" in ahead[f"order-{order.record.id}-pay"].words
    step(built, order.record.id, Step.GRADED)
    line = next(line for line in today_lines(built.session, built.bench) if line.kind == "money")
    assert (line.action, line.due) == ("Pay it", DAY + moves.PAY_WITHIN)
    assert dict(line.told)["bill"] == eur(6_900)
    pay(built.session, built.bench, order.record.id, DAY)
    assert not any(line.kind == "money" for line in today_lines(built.session, built.bench))
