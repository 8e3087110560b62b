"""Lots, boxes sold as they are, empty boxes, swaps: money and cards agree, and each is taken back whole."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from sqlalchemy import select

from botin.core.books.posting import Account, AmountError
from botin.core.errors import BoxStateError, StaleFormError
from botin.desk.books.accounts import Noted, write_down
from botin.desk.books.purchases import Order, place_order
from botin.desk.books.singles import read_single
from botin.desk.copies.cardpage import card_page
from botin.desk.copies.editing import correct_disposal
from botin.desk.copies.elsewhere import copies_of_card
from botin.desk.opening.boxedit import BoxFacts, correct_box
from botin.desk.opening.steps import require_open
from botin.desk.selling.disposals import Disposal, undo_disposal
from botin.desk.selling.sales import (
    ComesIn,
    Deal,
    Swap,
    sell_empty,
    sell_lot,
    sell_sealed,
    swap,
    undo_empty_sale,
    undo_sealed_sale,
)
from botin.store.books.postings import bases, results_by_box
from botin.store.models_copies import DisposalRecord
from botin.store.opening.boxes import get_box
from tests.builders import DAY, Home, eur, sums


def basis(home: Home, copy_id: int) -> int:
    return bases(home.session, [copy_id])[copy_id].minor


def opened(home: Home) -> list[int]:
    box = home.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    return [copy.id for copy in home.copies(box)]


def test_a_lot_is_shared_to_the_cent_and_sold_whole(built: Home) -> None:
    lot = opened(built)[:3]
    deal = Deal(DAY, eur(1_000), eur(101), "Eva")
    for _ in range(2):
        rows = sell_lot(built.session, built.bench, "lot", deal, lot)
    assert sum(row.price_minor for row in rows) == 1_000
    assert sum(row.costs_minor for row in rows) == 101
    assert sums(built)[Account.CASH] == -4_000 + 899
    assert {built.copy(copy).state for copy in lot} == {"sold"}
    with pytest.raises(StaleFormError):
        sell_lot(built.session, built.bench, "lot", deal, lot[:2])
    undo_disposal(built.session, built.bench, rows[0].id)
    assert sums(built)[Account.SALES] == -(1_000 - rows[0].price_minor)


def test_a_lot_with_a_card_that_left_sells_none(built: Home) -> None:
    first, second, third, *_ = opened(built)
    deal = Deal(DAY, eur(500), eur(0))
    sell_lot(built.session, built.bench, "a", deal, [second])
    before = sums(built)
    with pytest.raises(BoxStateError, match="has left"):
        sell_lot(built.session, built.bench, "b", deal, [first, second, third])
    built.session.rollback()
    assert sums(built) == before
    with pytest.raises(AmountError):
        sell_lot(built.session, built.bench, "c", deal, [])


def test_a_box_sold_as_it_is(built: Home) -> None:
    box = built.box(4_000, shipping=500)
    deal = Deal(DAY, eur(6_000), eur(700), "The fair")
    for _ in range(2):
        sell_sealed(built.session, built.bench, "s", deal, box.id)
    assert sums(built) == {
        Account.CASH: 800, Account.FEES: 700, Account.SALES: -6_000, Account.SOLD: 4_500,
    }  # fmt: skip
    (result,) = results_by_box(built.session, [box.id])[box.id]
    assert result.realised == 6_000 - 700 - 4_500
    assert get_box(built.session, box.id).state == "sold"
    undo_sealed_sale(built.session, built.bench, box.id)
    assert sums(built) == {Account.CASH: -4_500, Account.BOXES: 4_500}
    built.log(box, "1 2 3")
    with pytest.raises(BoxStateError):
        sell_sealed(built.session, built.bench, "t", deal, box.id)


@pytest.mark.parametrize("deal", [Deal(DAY, eur(0), eur(0)), Deal(DAY + timedelta(9), eur(5), eur(0))])
def test_a_sale_that_cannot_be(built: Home, deal: Deal) -> None:
    with pytest.raises(AmountError):
        sell_sealed(built.session, built.bench, "s", deal, built.box().id)


def test_an_empty_box_brings_what_it_brings(built: Home) -> None:
    box = built.opened("1 2 3", "4 5 6", "7 8 9", "10 S-1 1")
    deal = Deal(DAY, eur(300), eur(50))
    for _ in range(2):
        sell_empty(built.session, built.bench, "e", deal, box.id)
    with pytest.raises(BoxStateError, match="sold already"):
        sell_empty(built.session, built.bench, "f", deal, box.id)
    (result,) = results_by_box(built.session, [box.id])[box.id]
    assert result.realised == 250
    undo_empty_sale(built.session, built.bench, box.id)
    (result,) = results_by_box(built.session, [box.id])[box.id]
    assert result.realised == 0
    with pytest.raises(BoxStateError):
        sell_empty(built.session, built.bench, "g", deal, built.box().id)


def test_a_swap_links_both_sides_and_is_taken_back_whole(built: Home) -> None:
    first, second, *_ = opened(built)
    cost = basis(built, first) + basis(built, second)
    items = read_single(built.session, built.bench, built.record.id, "1 copper 7/25, S-3", eur(0))
    got = (ComesIn(built.record.id, items[0].item, 2.0), ComesIn(built.record.id, items[1].item))
    deal = Swap((first, second), got, eur(501), DAY, "Bo")
    for _ in range(2):
        came = swap(built.session, built.bench, "w", deal)
    assert [copy.serial for copy in came] == [7, None]
    assert sum(basis(built, copy.id) for copy in came) == cost + 501
    assert basis(built, came[0].id) > basis(built, came[1].id)
    assert (built.copy(first).state, basis(built, first)) == ("gone", 0)
    assert sums(built)[Account.CASH] == -4_501
    seen = next(c for c in copies_of_card(built.session, built.copy(first).card_id or 0) if c.id == first)
    assert seen.gone is not None
    assert "S-3" in seen.gone.came_in
    with pytest.raises(BoxStateError, match="one side of a swap"):
        correct_disposal(built.session, built.bench, seen.gone.id, "fix", Disposal("lost", DAY, eur(0), eur(0)))
    undo_disposal(built.session, built.bench, seen.gone.id)
    assert [built.copy(copy).state for copy in (first, second)] == ["here", "here"]
    assert {built.copy(copy.id).state for copy in came} == {"void"}
    assert sums(built) == {Account.CASH: -4_000, Account.CARDS: 4_000}


def test_a_used_key_never_passes_for_another_swap_and_what_is_known_comes_along(built: Home) -> None:
    first, second, *_ = opened(built)
    read = lambda text: tuple(  # noqa: E731
        ComesIn(built.record.id, line.item)
        for line in read_single(built.session, built.bench, built.record.id, text, eur(0))
    )
    deal = Swap((first,), read('S-3 corner cert:B2 "ink is faint"'), eur(100), DAY, "Bo")
    (came,) = swap(built.session, built.bench, "w", deal)
    assert (came.marks, came.certificate) == ("soft corner", "B2")
    assert "ink is faint" in came.note
    assert swap(built.session, built.bench, "w", deal) == [came]
    for other in (
        replace(deal, given=(second,)), replace(deal, got=read("S-2")), replace(deal, cash=eur(1)),
        replace(deal, day=DAY - timedelta(1)), replace(deal, to="Ada"),
    ):  # fmt: skip
        with pytest.raises(StaleFormError):
            swap(built.session, built.bench, "w", other)


def test_a_card_with_very_many_copies_counts_them_all_and_says_how_many_are_not_listed(
    built: Home, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, *_ = opened(built)
    card = built.copy(first).card_id or 0
    lines = read_single(built.session, built.bench, built.record.id, "1 x7", eur(100))
    place_order(built.session, built.bench, "k", Order(DAY, "", eur(0), eur(0), "arrived", (), tuple(lines)))
    monkeypatch.setattr("botin.desk.copies.elsewhere.MOST", 3)
    page = card_page(built.session, built.bench, card)
    assert (len(page.copies), page.more) == (3, 6)
    assert page.versions[0].here == 9


def test_a_swap_with_what_was_swapped_in_gone_is_not_taken_back(built: Home) -> None:
    first, *_ = opened(built)
    (item,) = read_single(built.session, built.bench, built.record.id, "S-3", eur(0))
    deal = Swap((first,), (ComesIn(built.record.id, item.item),), eur(0), DAY)
    (came,) = swap(built.session, built.bench, "w", deal)
    sell_lot(built.session, built.bench, "l", Deal(DAY, eur(100), eur(0)), [came.id])
    gone = built.session.scalars(select(DisposalRecord).where(DisposalRecord.copy_id == first)).one()
    with pytest.raises(BoxStateError, match="has left"):
        undo_disposal(built.session, built.bench, gone.id)
    with pytest.raises(AmountError, match="two sides"):
        swap(built.session, built.bench, "x", Swap((), deal.got, eur(0), DAY))


def test_a_sold_box_takes_no_card_and_no_other_price(built: Home) -> None:
    box = built.box().id
    sell_sealed(built.session, built.bench, "s", Deal(DAY, eur(5_000), eur(0)), box)
    before = sums(built)
    with pytest.raises(BoxStateError, match="sold"):
        require_open(get_box(built.session, box))
    found = get_box(built.session, box)
    facts = BoxFacts(DAY, eur(1), eur(0), eur(0), "", found.format_id)
    with pytest.raises(BoxStateError, match="sold"):
        correct_box(built.session, built.bench, box, "c", facts)
    assert sums(built) == before


def test_a_sale_sent_again_with_another_price_is_not_passed_for_the_first(built: Home) -> None:
    box, lot = built.box().id, opened(built)[:2]
    sell_sealed(built.session, built.bench, "s", Deal(DAY, eur(5_000), eur(0)), box)
    sell_lot(built.session, built.bench, "lot", Deal(DAY, eur(500), eur(0)), lot)
    before = sums(built)
    with pytest.raises(StaleFormError):
        sell_sealed(built.session, built.bench, "s", Deal(DAY, eur(5_100), eur(0)), box)
    with pytest.raises(StaleFormError):
        sell_lot(built.session, built.bench, "lot", Deal(DAY, eur(501), eur(0)), lot)
    assert sums(built) == before


def test_an_entry_sent_again_with_another_amount_is_not_passed_for_the_first(built: Home) -> None:
    first = Noted(Account.MATERIALS.value, eur(500), DAY)
    made = write_down(built.session, built.bench, "n", first)
    assert write_down(built.session, built.bench, "n", first).id == made.id
    with pytest.raises(StaleFormError):
        write_down(built.session, built.bench, "n", replace(first, amount=eur(900)))


@pytest.mark.parametrize("person", ["?", "me", " Me "])
def test_money_goes_to_another_person(built: Home, person: str) -> None:
    with pytest.raises(AmountError, match="no other person"):
        write_down(built.session, built.bench, "n", Noted("paid to", eur(500), DAY, person))
