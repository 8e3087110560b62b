"""What a sale by a channel posts: it owes the money until it pays out; postage, refunds, returns, claims."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from botin.core.books.posting import About, Account, Basis, Posting, Postings, balanced, move
from botin.core.money import Money


def sold_on_account(price: Money, fee: Money, basis: Basis, payer: int | None) -> Postings:
    """Sell a copy through a channel that pays out later: what is left of the price is owed by it.

    Without a payer it came in cash. What somebody else's copy leaves is owed to its owner.
    """
    about, net = basis.about, price - fee
    where, owed = (Account.CASH, about) if payer is None else (Account.PEOPLE, replace(about, party=payer))
    if not basis.mine:
        return balanced(move(net, Account.PEOPLE, where, owed, replace(about, party=basis.owner)))
    came = (
        Posting(where, net.minor, net.currency, owed),
        Posting(Account.FEES, fee.minor, fee.currency, about),
        Posting(Account.SALES, -price.minor, price.currency, about),
    )
    return balanced((*came, *basis.leave(Account.SOLD)))


def paid_out(money: Money, payer: int) -> Postings:
    """Take what a channel pays out; below nothing when it takes money back."""
    return balanced(move(money, Account.PEOPLE, Account.CASH, About(), About(party=payer)))


def shipping_charged(money: Money, about: About, payer: int | None) -> Postings:
    """Book what a buyer paid for shipping: it makes the postage smaller."""
    where, owed = (Account.CASH, about) if payer is None else (Account.PEOPLE, replace(about, party=payer))
    return balanced(move(money, Account.POSTAGE, where, owed, about))


def posted(shares: Sequence[tuple[About, Money]]) -> Postings:
    """Pay postage and insurance of a parcel, shared over what is in it."""
    return balanced(row for about, money in shares for row in move(money, Account.CASH, Account.POSTAGE, about))


def refunded(shares: Sequence[tuple[Basis, Money]], payer: int | None) -> Postings:
    """Give a buyer money back: sales are that much smaller, and the channel owes less (or cash goes out)."""
    found: list[Posting] = []
    for basis, money in shares:
        about = basis.about
        where, owed = (Account.CASH, about) if payer is None else (Account.PEOPLE, replace(about, party=payer))
        if basis.mine:
            found += move(money, where, Account.SALES, about, owed)
        else:
            found += move(money, where, Account.PEOPLE, replace(about, party=basis.owner), owed)
    return balanced(found)


def fee_given_back(money: Money, about: About, payer: int | None) -> Postings:
    """Book that a channel gives its fee back."""
    where, owed = (Account.CASH, about) if payer is None else (Account.PEOPLE, replace(about, party=payer))
    return balanced(move(money, Account.FEES, where, owed, about))


def taken_in_again(minor: int, basis: Basis, *, graded: bool) -> Postings:
    """Put back onto a returned copy what it had cost when it was sold."""
    account = Account.GRADED if graded else Account.CARDS
    return balanced(move(Money(minor, basis.currency), Account.SOLD, account, basis.about)) if basis.mine else ()


def sealed_again(cost: Money, about: About) -> Postings:
    """Put a returned sealed box back among the boxes, at what it had cost when it was sold."""
    return balanced(move(cost, Account.SOLD, Account.BOXES, about))


def claim_paid(money: Money, about: About) -> Postings:
    """Book what an insurance pays for a parcel that was lost: it stands in for the sale."""
    return balanced(move(money, Account.SALES, Account.CASH, about))
