"""The posting rules by hand: a wallet and a pile of cards, reckoned beside them."""

from __future__ import annotations

import pytest

from botin.core.books.basis import CostRule
from botin.core.books.posting import (
    About,
    Account,
    AmountError,
    Basis,
    Opened,
    Packs,
    Posting,
    UnbalancedError,
    balanced,
    came_back,
    close_box,
    mirror,
    paid,
    provisional,
    sale,
    sent,
    split,
    swap,
    write_off,
)
from botin.core.money import Money

EUR = "EUR"


def eur(minor: int) -> Money:
    return Money(minor, EUR)


def sums(postings: tuple[Posting, ...]) -> dict[Account, int]:
    found: dict[Account, int] = {}
    for row in postings:
        found[row.account] = found.get(row.account, 0) + row.minor
    return {account: minor for account, minor in found.items() if minor}


def basis(copy: int, minor: int = 0, *, owner: int = 1, account: Account = Account.CARDS) -> Basis:
    return Basis(About(box=1, copy=copy), EUR, {account: minor} if minor else {}, owner == 1, owner)


def test_a_box_is_bought_opened_and_a_card_sold() -> None:
    """112.00 + 6.90 for a box of three cards worth 60, 30 and 10; the dearest is sold for 55.00, 8.00 of it costs."""
    bought = paid(eur(11_890), Account.BOXES, About(box=1))
    assert sums(bought) == {Account.BOXES: 11_890, Account.CASH: -11_890}
    copies = [Opened(basis(n), value) for n, value in ((1, 60.0), (2, 30.0), (3, 10.0))]
    closed = close_box(eur(11_890), About(box=1), copies, CostRule.BY_VALUE, Packs(1, 1), 0.0)
    shares = {row.about.copy: row.minor for row in closed if row.account is Account.CARDS}
    assert shares == {1: 7_134, 2: 3_567, 3: 1_189}
    sold = sale(eur(5_500), eur(800), basis(1, 7_134))
    assert sums(sold) == {
        Account.CASH: 4_700, Account.FEES: 800, Account.SALES: -5_500, Account.CARDS: -7_134, Account.SOLD: 7_134,
    }  # fmt: skip
    assert sums(bought + closed + sold + mirror(sold))[Account.CASH] == -11_890


def test_every_card_counts_at_least_as_bulk() -> None:
    """A numbered card without a price does not cost nothing (W22)."""
    copies = [Opened(basis(1), 9.5), Opened(basis(2), 0.0)]
    closed = close_box(eur(1_000), About(box=1), copies, CostRule.BY_VALUE, Packs(1, 1), 0.5)
    assert [row.minor for row in closed if row.account is Account.CARDS] == [950, 50]


def test_another_s_cards_carry_their_number_and_he_owes_it() -> None:
    """Four cards, one of them Mira's: a quarter of the box is hers, whatever her card is worth."""
    copies = [Opened(basis(1), 90.0), Opened(basis(2), 10.0), Opened(basis(3), 0.0), Opened(basis(4, owner=7), 500.0)]
    closed = close_box(eur(4_000), About(box=1), copies, CostRule.BY_VALUE, Packs(1, 1), 0.0)
    assert sums(closed) == {Account.BOXES: -4_000, Account.PEOPLE: 1_000, Account.CARDS: 3_000}
    assert next(row.about.party for row in closed if row.account is Account.PEOPLE) == 7
    sold = sale(eur(2_000), eur(300), basis(4, owner=7))
    assert sums(sold) == {Account.CASH: 1_700, Account.PEOPLE: -1_700}
    assert write_off(basis(4, owner=7)) == ()


@pytest.mark.parametrize(
    ("rest", "left"), [("kept", Account.BOXES), ("given away", Account.FUN), ("sold", Account.FUN)]
)
def test_packs_that_were_not_opened(rest: str, left: Account) -> None:
    """Six of 24 packs stay sealed: a quarter of the cost is not on the cards."""
    closed = close_box(eur(2_400), About(box=1), [Opened(basis(1), 1.0)], CostRule.EQUAL, Packs(24, 18, rest), 0.0)
    found = sums(closed)
    assert found[Account.CARDS] == 1_800
    assert found[left] == (600 - 2_400 if left is Account.BOXES else 600)


def test_what_was_only_counted_lies_together_as_bulk() -> None:
    """One hit of 9.00 and 10 counted commons at 0.10."""
    packs = Packs(1, 1, counted=10)
    closed = close_box(eur(1_000), About(box=1), [Opened(basis(1), 9.0)], CostRule.BY_VALUE, packs, 0.1)
    assert {row.about.copy: row.minor for row in closed if row.account is Account.CARDS} == {1: 900, None: 100}
    nothing = close_box(eur(1_000), About(box=1), [], CostRule.BY_VALUE, Packs(1, 1), 0.1)
    assert sums(nothing) == {Account.BOXES: -1_000, Account.FUN: 1_000}


def test_a_card_sold_before_its_box_is_closed_gets_its_true_cost() -> None:
    """Taken to have cost 50 (5.00 over 10 cards); its true share is 300."""
    assert provisional(eur(500), 10) == 50
    early = sale(eur(900), eur(100), basis(1, 50))
    gone = Opened(basis(1, -50), 6.0, Account.SOLD)
    closed = close_box(eur(500), About(box=1), [gone, Opened(basis(2), 4.0)], CostRule.BY_VALUE, Packs(1, 1), 0.0)
    found = sums(early + closed)
    assert found[Account.SOLD] == 300
    assert found[Account.CARDS] == 200


def test_grading_adds_its_fees_to_what_a_card_cost() -> None:
    out = sent([eur(3_000)], 5, [basis(1, 700), basis(2, 300, owner=7)])
    assert sums(out) == {Account.CASH: -3_000, Account.PREPAID: 3_000, Account.CARDS: -700, Account.GRADED: 700}
    back = came_back(eur(1_500), 5, basis(1, 700, account=Account.GRADED), graded=True)
    assert sums(back) == {Account.GRADED: 1_500, Account.PREPAID: -1_500}
    refused = came_back(eur(1_500), 5, basis(1, 700, account=Account.GRADED), graded=False)
    assert sums(refused) == {Account.GRADED: -700, Account.CARDS: 2_200, Account.PREPAID: -1_500}
    hers = came_back(eur(1_500), 5, basis(2, owner=7), graded=True)
    assert sums(hers) == {Account.PEOPLE: 1_500, Account.PREPAID: -1_500}


def test_a_swap_carries_the_cost_over() -> None:
    """Two cards that cost 7.00 and 3.01, and 5.00 in cash, for two cards of which one is worth twice the other."""
    got = [(About(copy=8), 2.0), (About(copy=9), 1.0)]
    swapped = swap([basis(1, 700), basis(2, 301)], got, eur(500))
    on = {row.about.copy: row.minor for row in swapped if row.account is Account.CARDS and row.minor > 0}
    assert on == {8: 1_001, 9: 500}
    assert sums(swapped) == {Account.CARDS: 500, Account.CASH: -500}
    with pytest.raises(AmountError):
        swap([basis(1, 700)], [], eur(0))


def test_another_currency_goes_through_the_exchange_account() -> None:
    found = paid(eur(9_200), Account.BOXES, About(box=1), with_=Money(10_000, "USD"))
    by_currency = {(row.account, row.currency): row.minor for row in found}
    assert by_currency == {
        (Account.BOXES, EUR): 9_200, (Account.EXCHANGE, EUR): -9_200,
        (Account.EXCHANGE, "USD"): 10_000, (Account.CASH, "USD"): -10_000,
    }  # fmt: skip


def test_what_does_not_add_up_is_no_entry() -> None:
    with pytest.raises(UnbalancedError):
        balanced([Posting(Account.CASH, 1, EUR)])
    with pytest.raises(UnbalancedError):
        balanced([Posting(Account.CASH, 1, EUR), Posting(Account.SALES, -1, "USD")])


def test_parts_add_up_also_below_nothing() -> None:
    assert split(-100, [1, 1, 1]) == [-34, -33, -33]
    assert split(0, [1.0, 2.0]) == [0, 0]
