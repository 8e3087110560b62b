"""Swaps against the needs of a set: another's lists, a fair choice, noted with both sides; and commons given away."""

from __future__ import annotations

from datetime import timedelta
from itertools import combinations

import pytest

from botin.core.books.posting import Account
from botin.core.errors import BotinError, BoxStateError
from botin.desk.books.booking import cost_of
from botin.desk.copies.setboard import Board, board
from botin.desk.copies.swapping import Agreed, keep_swap, said, spares_of, swap_table
from botin.desk.pricing.prices import type_comps
from botin.desk.selling.giving import give_away, not_given
from botin.desk.selling.listings import Offering, offer_for_sale
from botin.desk.selling.sales import undo_swap
from tests.builders import DAY, Home, eur, sums


def base(home: Home) -> Board:
    return board(home.session, home.bench, [(home.record.id, "base")])


def priced(home: Home) -> None:
    for number, price in ((1, 4.0), (2, 2.5), (3, 1.0), (7, 3.5), (8, 0.5)):
        made = type_comps(home.session, home.bench, home.record, f"{number} {price}")
        assert not made.wrong


def test_spares_are_what_lies_here_beyond_the_first(built: Home) -> None:
    box = built.opened("1 1 1", "2 2 3", "4 5 6")
    ones = [copy.id for copy in built.copies(box) if copy.card_id == built.copies(box)[0].card_id]
    what = Offering("stall", eur(500), eur(100), (ones[2],), DAY)
    offer_for_sale(built.session, built.bench, "o", what)
    spares = spares_of(built.session, base(built))
    assert next((one.cell.number, one.copy_id) for one in spares) == ("1", ones[1])
    assert sorted(one.cell.number for one in spares) == ["1", "2"]


def test_another_s_lists_are_held_against_mine_and_what_is_not_read_is_said(built: Home) -> None:
    built.opened("1 1 2", "2 3 3", "4 5 6")
    mine = base(built)
    wants = said(built.session, built.bench, mine, "2-3, 99; #1 Osric")
    has = said(built.session, built.bench, mine, "6 7\n8 nine")
    assert (sorted(number for _, _, number in wants.cards), wants.unread) == (["1", "2", "3"], ("99",))
    table = swap_table(mine, spares_of(built.session, mine), wants, has)
    assert [one.cell.number for one in table.could_get] == ["7", "8"]
    assert sorted(one.cell.number for one in table.could_give) == ["1", "2", "3"]
    assert table.unread == ("99",)
    nobody = swap_table(mine, spares_of(built.session, mine), said(built.session, built.bench, mine, "99"), has)
    assert nobody.could_give == ()  # he looks for nothing that is here: that is not "everything"


def test_the_choice_that_comes_nearest_is_proposed_and_noted(built: Home) -> None:
    box = built.opened("1 1 2", "2 3 3", "4 5 6")
    priced(built)
    mine, everything = base(built), ""
    has = said(built.session, built.bench, mine, "7")
    wants = said(built.session, built.bench, mine, everything)
    table = swap_table(mine, spares_of(built.session, mine), wants, has)
    assert sorted(one.cell.number for one in table.given) == ["2", "3"]
    prices = [one.cell.price or 0.0 for one in table.could_give]
    nearest = min(abs(table.gets - sum(some)) for size in range(4) for some in combinations(prices, size))
    assert abs(table.gets - table.gives) == pytest.approx(nearest)
    agreed = Agreed(tuple(one.copy_id for one in table.given), ((built.record.id, "base", "7"),), eur(0), DAY, "Ada")
    books = sums(built)
    assert keep_swap(built.session, built.bench, "k", mine, agreed) == 1
    assert keep_swap(built.session, built.bench, "k", mine, agreed) == 1
    assert sums(built) == books  # what came took over what the given had cost
    after = base(built)
    assert next(cell for cell in after.cells if cell.number == "7").have == 1
    undo_swap(built.session, built.bench, "k")
    assert (sums(built), base(built).have) == (books, mine.have)
    assert cost_of(box).minor == books[Account.CARDS]


@pytest.mark.parametrize(("given", "got"), [((), ("7",)), ((1,), ())])
def test_a_swap_has_two_sides(built: Home, given: tuple[int, ...], got: tuple[str, ...]) -> None:
    built.opened("1 1 2")
    agreed = Agreed(given, tuple((built.record.id, "base", number) for number in got), eur(0), DAY, "")
    with pytest.raises(BotinError, match="two sides"):
        keep_swap(built.session, built.bench, "k", base(built), agreed)


def test_commons_are_given_away_together_and_taken_back_in_one_step(built: Home) -> None:
    copies = [copy.id for copy in built.copies(built.opened("1 2 3"))]
    books = sums(built)
    assert give_away(built.session, built.bench, "give-1", copies[:2], "the club", DAY) == 2
    assert give_away(built.session, built.bench, "give-1", copies[:2], "the club", DAY) == 2
    assert [built.copy(one).state for one in copies] == ["gone", "gone", "here"]
    assert sums(built)[Account.FUN] + sums(built)[Account.CARDS] == books[Account.CARDS]
    assert not_given(built.session, built.bench, "give-1") == 2
    assert ([built.copy(one).state for one in copies], sums(built)) == (["here"] * 3, books)
    with pytest.raises(BoxStateError, match="taken back already"):
        not_given(built.session, built.bench, "give-1")


def test_what_was_taken_back_is_not_given_away_again_by_the_old_page(built: Home) -> None:
    """The browser's way back sends the same form again."""
    copies = [copy.id for copy in built.copies(built.opened("1 2 3"))]
    give_away(built.session, built.bench, "give-1", copies, "", DAY)
    not_given(built.session, built.bench, "give-1")
    with pytest.raises(BoxStateError, match="Reload the page"):
        give_away(built.session, built.bench, "give-1", copies, "", DAY)
    assert {built.copy(one).state for one in copies} == {"here"}


def test_a_card_that_is_on_no_checklist_is_not_left_out_of_a_swap_in_silence(built: Home) -> None:
    copy = built.copies(built.opened("1 1 2"))[0]
    got = ((built.record.id, "base", "7"), (built.record.id, "base", "99"))
    with pytest.raises(BotinError, match="99"):
        keep_swap(built.session, built.bench, "k", base(built), Agreed((copy.id,), got, eur(0), DAY, ""))
    assert built.copy(copy.id).state == "here"


def test_none_is_given_away_when_one_cannot_be(built: Home) -> None:
    copies = [copy.id for copy in built.copies(built.opened("1 2 3"))]
    give_away(built.session, built.bench, "give-1", copies[2:], "", DAY)
    for some, day in ((copies, DAY), (copies[:2], DAY + timedelta(9)), ([], DAY)):
        with pytest.raises(BotinError):
            give_away(built.session, built.bench, "give-2", some, "", day)
        built.session.rollback()
    assert [built.copy(one).state for one in copies] == ["here", "here", "gone"]
