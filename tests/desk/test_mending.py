"""What was done wrongly is put right: boxes, sales, grades, prices, owners, products; and what another desk guards."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.catalog.product import Card
from botin.core.errors import BoxStateError, EntryError, NotFoundError, StaleFormError
from botin.core.flags.ways import Tier
from botin.core.money import Money
from botin.desk.catalog.productedit import remove_product, set_aside
from botin.desk.copies.editing import CopyFacts, correct_copy, correct_disposal
from botin.desk.grading import back, moves, orders
from botin.desk.grading.back import Slab
from botin.desk.opening import editing as ripedit
from botin.desk.opening import steps
from botin.desk.opening.boxedit import (
    before_closing,
    bring_back_box,
    correct_box,
    facts_of_box,
    remove_box,
    seal_again,
)
from botin.desk.opening.rip import close_box, reopen_box
from botin.desk.opening.shelf import kept_packs, product_tiles
from botin.desk.pricing.editing import bring_back_price, remove_price, removed_prices
from botin.desk.pricing.prices import type_comps
from botin.desk.selling.disposals import Disposal, DisposalError, dispose, undo_disposal
from botin.desk.selling.sales import Deal, sell_sealed
from botin.desk.workbench import Workbench
from botin.store.books.postings import bases, sums_by_box, totals
from botin.store.catalog.lists import format_choices, hangs_on
from botin.store.models import BoxRecord, PriceRecord, ProductRecord
from botin.store.models_copies import ReturnedRecord
from botin.store.opening.boxes import get_box, pulls_of, state_counts
from botin.store.opening.packs import count_logged
from botin.store.pricing.prices import prices_of
from tests.builders import DAY, EUR, Home, eur

TIER = Tier("value", 14.0, days=20, house="Ash")


def sold(price: int = 1_000, went: str = "sold") -> Disposal:
    return Disposal(went, DAY, Money(price, EUR), Money(100, EUR))


def all_sums(home: Home) -> dict[Account, int]:
    return next(iter(totals(home.session))).by_account


# What was bought.


def test_what_was_paid_is_corrected_and_the_books_follow(built: Home) -> None:
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    before = [basis.minor for basis in bases(built.session, [c.id for c in built.copies(box)]).values()]
    facts = replace(facts_of_box(box), price=Money(8_000, EUR), label="the fair")
    for _ in range(2):
        correct_box(built.session, built.bench, box.id, "fix", facts)
    after = [basis.minor for basis in bases(built.session, [c.id for c in built.copies(box)]).values()]
    assert sum(before) == 4_000
    assert sum(after) == 8_000
    assert all(abs(new - 2 * old) <= 1 for old, new in zip(before, after, strict=True)), "in the frozen parts"
    assert all_sums(built)[Account.CASH] == -8_000
    assert get_box(built.session, box.id).label == "the fair"


def test_the_frozen_parts_stay_when_prices_moved_meanwhile(built: Home) -> None:
    """W22: a cost share never follows the price of today."""
    type_comps(built.session, built.bench, built.record, "S-1 40 41 42")
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    before = {c.id: bases(built.session, [c.id])[c.id].minor for c in built.copies(box)}
    type_comps(built.session, built.bench, built.record, "1 500 510 520")
    facts = replace(facts_of_box(box), price=Money(4_000, EUR), bought_on=DAY - timedelta(3))
    correct_box(built.session, built.bench, box.id, "fix", facts)
    assert {c.id: bases(built.session, [c.id])[c.id].minor for c in built.copies(box)} == before


def test_a_box_opened_by_accident_goes_back(built: Home) -> None:
    box = built.box()
    built.log(box)
    assert get_box(built.session, box.id).state == "open"
    assert seal_again(built.session, built.bench, box.id).state == "sealed"
    built.log(box, "1 2 3")
    with pytest.raises(BoxStateError, match="was opened"):
        seal_again(built.session, built.bench, box.id)
    assert all_sums(built)[Account.BOXES] == 4_000


def test_a_box_that_was_never_bought_is_removed_and_comes_back(built: Home) -> None:
    box = built.box()
    remove_box(built.session, built.bench, box.id)
    assert state_counts(built.session).get("sealed", 0) == 0
    assert not any(all_sums(built).values())
    bring_back_box(built.session, built.bench, box.id)
    assert state_counts(built.session)["sealed"] == 1
    assert all_sums(built)[Account.CASH] == -4_000
    built.log(box, "1")
    with pytest.raises(BoxStateError, match="Only a sealed box"):
        remove_box(built.session, built.bench, box.id)


def test_packs_kept_sealed_stay_on_the_shelf_with_their_part_of_the_cost(built: Home) -> None:
    box = built.box()
    built.log(box, "1 2 3")
    built.close(box, "kept")
    (kept,) = kept_packs(built.session)
    assert (kept.packs, kept.cost) == (3, Money(3_000, EUR))
    assert sum(basis.minor for basis in bases(built.session, [c.id for c in built.copies(box)]).values()) == 1_000
    reopen_box(built.session, built.bench, get_box(built.session, box.id))
    assert kept_packs(built.session) == ()
    assert all_sums(built)[Account.BOXES] == 4_000


# Before a box is closed.


def test_a_miscounted_pack_is_asked_about(built: Home) -> None:
    """Two cards in one pack and four in another make the right sum and two wrong packs."""
    box = built.box()
    built.log(box, "1 2", "4 5 6 7", "7 8 9", "10 S-1 1")
    (asked,) = before_closing(built.session, built.bench, box)
    assert "Pack 1 has 2" in asked
    assert "pack 2 has 4" in asked
    for number, flag in ((1, "short"), (2, "over")):
        ripedit.set_pack(built.session, built.bench, box, number, after={"flags": flag}, client_key=f"f{number}")
    assert before_closing(built.session, built.bench, box) == ()


def test_what_is_unsettled_is_asked_about(built: Home) -> None:
    box = built.box()
    ripedit_owners = {"owners": "Rider 4: Mira\nRider 4: Bo"}
    built.log(box)
    ripedit.set_box(built.session, built.bench, box, after=ripedit_owners, client_key="o")
    built.log(box, "1 2 3", "4 5 6", "7 8 9", "+ an odd one")
    asked = before_closing(built.session, built.bench, box)
    assert any(line.startswith("It is not settled whose these are: 4") for line in asked)
    assert any("checklist" in line for line in asked)


def test_an_unlisted_card_keeps_its_finish(built: Home) -> None:
    """U4: a 3/25 that is put on the checklist is a copper, not a base card."""
    box = built.box()
    built.log(box, "+ Rider 11 3/25")
    (line,) = pulls_of(built.session, box.id)
    pull = ripedit.get_pull(built.session, box, line.id)
    assert (pull.serial, pull.run) == (3, 25)
    ripedit.add_to_checklist(built.session, built.bench, box, pull, Card("base", "11", "Rider 11"), "add")
    assert pulls_of(built.session, box.id)[0].parallel == "copper"
    built.log(box, "+ Rider 12 3/77")
    other = ripedit.get_pull(built.session, box, max(row.id for row in pulls_of(built.session, box.id)))
    with pytest.raises(EntryError, match="numbered to 77"):
        ripedit.add_to_checklist(built.session, built.bench, box, other, Card("base", "12", "Rider 12"), "add2")


# What one desk does, another respects.


def test_a_copy_that_is_out_is_not_sold_and_a_sold_one_not_sent(built: Home) -> None:
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    first, second, *_ = built.copies(box)
    moves.send(built.session, built.bench, "o", TIER, DAY, [first.id])
    with pytest.raises(BoxStateError, match="out for grading"):
        dispose(built.session, built.bench, "s", sold(), copy_id=first.id)
    dispose(built.session, built.bench, "t", sold(), copy_id=second.id)
    with pytest.raises(BoxStateError, match="has left"):
        moves.send(built.session, built.bench, "p", TIER, DAY, [second.id])
    with pytest.raises(BoxStateError, match="has left"):
        dispose(built.session, built.bench, "u", sold(), copy_id=second.id)


def test_a_sold_card_is_not_undone_at_the_rip_desk(built: Home) -> None:
    box = built.box()
    (copy,) = built.log(box, "S-1")
    dispose(built.session, built.bench, "s", sold(), copy_id=copy.id)
    with pytest.raises(BoxStateError, match="S-1"):
        steps.undo(built.session, built.bench, box)
    built.session.rollback()
    assert copy.pull_id is not None
    with pytest.raises(BoxStateError, match="take its sale back"):
        ripedit.remove_pull(built.session, built.bench, box, copy.pull_id, "rm")
    built.session.rollback()
    assert built.copy(copy.id).state == "sold"


def test_a_bad_second_grade_leaves_the_first_out(built: Home) -> None:
    """S5: all or none, also when what is wrong is the day."""
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    first, second, *_ = built.copies(box)
    made = moves.send(built.session, built.bench, "o", TIER, DAY, [first.id, second.id])
    lines = [copy.id for copy in orders.orders(built.session)[0].copies]
    with pytest.raises(NotFoundError):
        back.grades_came_back(built.session, built.bench, [Slab(lines[0], "9"), Slab(10**6, "9")], DAY)
    with pytest.raises(BoxStateError):
        back.grades_came_back(
            built.session, built.bench, [Slab(lines[0], "9"), Slab(lines[1], "9")], made.sent_on - timedelta(1)
        )
    built.session.rollback()
    assert [built.copy(copy.id).state for copy in (first, second)] == ["out", "out"]


def test_a_mistyped_grade_is_corrected_and_teaches_no_more(built: Home) -> None:
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    first = built.copies(box)[0]
    moves.send(built.session, built.bench, "o", TIER, DAY, [first.id])
    (line,) = [copy.id for copy in orders.orders(built.session)[0].copies]
    back.grades_came_back(built.session, built.bench, [Slab(line, "1", "A 1")], DAY)
    back.grades_came_back(built.session, built.bench, [Slab(line, "10")], DAY)
    copy = built.copy(first.id)
    assert (copy.grade, copy.house, copy.certificate) == ("10", "Ash", "A 1")
    assert built.session.scalars(select(ReturnedRecord.grade_halves)).all() == [20]
    assert all_sums(built)[Account.PREPAID] == 0
    back.not_back(built.session, built.bench, line)
    assert built.copy(first.id).state == "out"
    assert built.session.scalars(select(ReturnedRecord)).all() == []
    assert all_sums(built)[Account.PREPAID] == 1_400


# Sales, owners, prices, products.


def test_how_a_copy_left_is_corrected(built: Home) -> None:
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    copy = built.copies(box)[0]
    made = dispose(built.session, built.bench, "s", sold(1_000), copy_id=copy.id)
    right = replace(sold(10_000), to="Eva")
    for _ in range(2):
        correct_disposal(built.session, built.bench, made.id, "fix", right)
    assert all_sums(built)[Account.SALES] == -10_000
    assert built.copy(copy.id).state == "sold"
    with pytest.raises(DisposalError):
        correct_disposal(built.session, built.bench, made.id, "fix2", replace(right, left_on=DAY - timedelta(400)))
    correct_disposal(built.session, built.bench, made.id, "fix3", replace(right, went="lost", price=Money(0, EUR)))
    assert built.copy(copy.id).state == "gone"
    assert all_sums(built)[Account.SALES] == 0
    undo_disposal(built.session, built.bench, made.id)
    assert built.copy(copy.id).state == "here"
    assert all_sums(built)[Account.FUN] == 0


def test_another_owner_takes_his_part_of_the_cost_along(built: Home) -> None:
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    copy = built.copies(box)[0]
    facts = CopyFacts("Mira", "Top box", "", "")
    for _ in range(2):
        correct_copy(built.session, built.bench, copy.id, "fix", facts)
    sums = all_sums(built)
    assert sums[Account.PEOPLE] == 333 or sums[Account.PEOPLE] == 334
    assert sums[Account.PEOPLE] + sums[Account.CARDS] == 4_000
    correct_copy(built.session, built.bench, copy.id, "fix2", CopyFacts("me", "Top box", "C-1", ""))
    assert all_sums(built)[Account.CARDS] == 4_000
    assert built.copy(copy.id).certificate == "C-1", "a certificate without a grade"


def test_a_mistyped_price_is_taken_out_and_comes_back(built: Home) -> None:
    type_comps(built.session, built.bench, built.record, "1 5 6 700")
    rows = prices_of(built.session, built.record.id, "base", "1", "")
    before = built.bench.record(built.session, built.record.id).revision
    gone = remove_price(built.session, built.bench, built.record.id, max(rows, key=lambda row: row.amount_minor).id)
    assert len(prices_of(built.session, built.record.id, "base", "1", "")) == 2
    assert built.session.get_one(ProductRecord, built.record.id).revision > before
    (removed,) = removed_prices(built.session, built.record.id, "base", "1", "")
    assert removed.amount == 70_000
    for _ in range(2):
        bring_back_price(built.session, built.bench, built.record.id, gone.id)
    assert built.session.scalar(select(func.count()).select_from(PriceRecord)) == 3
    assert removed_prices(built.session, built.record.id, "base", "1", "") == []
    with pytest.raises(NotFoundError):
        remove_price(built.session, built.bench, built.record.id, 10**6)


def test_a_product_is_removed_while_nothing_hangs_on_it_else_set_aside(built: Home) -> None:
    box = built.box()
    assert hangs_on(built.session, built.record) == ("1 box",)
    with pytest.raises(BoxStateError, match="Set it aside"):
        remove_product(built.session, built.bench, built.record)
    set_aside(built.session, built.bench, built.record, aside=True)
    assert format_choices(built.session) == []
    assert product_tiles(built.session) == ()
    assert len(product_tiles(built.session, aside=True)) == 1
    built.log(box, "1 2 3")
    set_aside(built.session, built.bench, built.record, aside=False)
    assert len(format_choices(built.session)) == 1


def test_a_product_with_nothing_logged_goes(built: Home) -> None:
    type_comps(built.session, built.bench, built.record, "1 5 6")
    remove_product(built.session, built.bench, built.record)
    assert built.session.scalar(select(func.count()).select_from(ProductRecord)) == 0


# Whose it is, and what came of it.


def test_a_pack_of_somebody_else_is_nowhere_mine(built: Home) -> None:
    box = built.box()
    built.log(box, "1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    ripedit.set_pack(built.session, built.bench, box, 2, after={"owner": "Mira"}, client_key="p")
    assert [row.owner for row in pulls_of(built.session, box.id, 2)] == ["Mira"] * 3
    steps.undo(built.session, built.bench, box)
    assert [row.owner for row in pulls_of(built.session, box.id, 2)] == [""] * 3
    steps.redo(built.session, built.bench, box)
    close_box(built.session, built.bench, box, count_logged(built.session, box.id))
    (sums,) = sums_by_box(built.session, [box.id])[box.id]
    assert sums[Account.PEOPLE] == 1_000
    assert sums[Account.CARDS] == 3_000


def test_a_sale_enters_the_result_of_its_box(built: Home) -> None:
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    copy = built.copies(box)[0]
    cost = bases(built.session, [copy.id])[copy.id].minor
    dispose(built.session, built.bench, "s", sold(1_000), copy_id=copy.id)
    (sums,) = sums_by_box(built.session, [box.id])[box.id]
    realised = -sums.of(Account.SALES, Account.SOLD, Account.FEES, Account.FUN)
    assert realised == 1_000 - 100 - cost
    here = sums.of(Account.BOXES, Account.CARDS, Account.GRADED)
    assert here + sums[Account.SOLD] == 4_000, "cost = what is here + what left"


def test_a_used_key_never_passes_for_another_correction(built: Home) -> None:
    box = built.box()
    facts = facts_of_box(box)
    right = replace(facts, price=eur(4_200))
    correct_box(built.session, built.bench, box.id, "c", right)
    correct_box(built.session, built.bench, box.id, "c", right)
    for other in (replace(facts, price=eur(4_300)), facts, replace(right, label="x")):
        with pytest.raises(StaleFormError):
            correct_box(built.session, built.bench, box.id, "c", other)
    with pytest.raises(StaleFormError):
        correct_box(built.session, built.bench, built.box().id, "c", right)
    assert get_box(built.session, box.id).price_minor == 4_200


def test_a_used_key_never_passes_for_another_correction_of_a_copy(built: Home) -> None:
    copy = built.copies(built.opened("1 2 3"))[0].id
    facts = CopyFacts("", "drawer", "", "")
    correct_copy(built.session, built.bench, copy, "c", facts)
    correct_copy(built.session, built.bench, copy, "c", facts)
    with pytest.raises(StaleFormError):
        correct_copy(built.session, built.bench, copy, "c", replace(facts, place="album"))
    gone = dispose(built.session, built.bench, "d", sold(), copy_id=copy)
    correct_disposal(built.session, built.bench, gone.id, "e", sold(1_100))
    correct_disposal(built.session, built.bench, gone.id, "e", sold(1_100))
    with pytest.raises(StaleFormError):
        correct_disposal(built.session, built.bench, gone.id, "e", sold(1_200))


def test_sealing_a_sold_box_again_says_that_it_was_sold(built: Home) -> None:
    box = built.box()
    sell_sealed(built.session, built.bench, "s", Deal(DAY, eur(5_000), eur(0)), box.id)
    with pytest.raises(BoxStateError, match="was sold"):
        seal_again(built.session, built.bench, box.id)


@pytest.mark.parametrize("path", ["/rip/{}", "/recap/{}", "/boxes/{}/check"])
def test_the_pages_of_a_box_that_was_sold_or_never_bought_say_so(
    client: FlaskClient, session: Session, bench: Workbench, path: str
) -> None:
    sold_one, never = session.scalars(select(BoxRecord.id).where(BoxRecord.state == "sealed").limit(2))
    currency = get_box(session, sold_one).currency
    sell_sealed(session, bench, "s", Deal(bench.today(), Money(5_000, currency), Money(0, currency)), sold_one)
    remove_box(session, bench, never)
    for box, words in ((sold_one, "was sold"), (never, "never bought")):
        page = client.get(path.format(box), follow_redirects=True)
        assert page.status_code == 200
        assert words in page.text
