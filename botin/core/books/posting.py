"""The books: what each event of a collection posts, in double entry.

A posting's amount is positive when it adds to what is owned or was spent (a debit) and negative when it takes from it
or was earned (a credit); the postings of one event add up to zero in each currency. What a copy cost (its basis) lies
with the copy from the day its box is closed, wherever the copy goes.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from botin.core.books.basis import CostRule, share_cost
from botin.core.errors import BotinError
from botin.core.money import Money


class Account(StrEnum):
    """Where money lies, or what it went for."""

    CASH = "cash"
    BOXES = "boxes"
    CARDS = "cards"
    GRADED = "graded and out"
    PREPAID = "grading fees prepaid"
    PEOPLE = "people"
    SALES = "sales"
    SOLD = "cost of what was sold"
    FEES = "fees"
    POSTAGE = "postage"
    MATERIALS = "materials"
    FUN = "the fun"
    EXCHANGE = "exchange"


STOCK = (Account.BOXES, Account.CARDS, Account.GRADED)
"""What is here, at what it cost."""
COPIES = (Account.CARDS, Account.GRADED)
"""Where the basis of a copy lies."""
RESULT = (
    Account.SALES, Account.SOLD, Account.FEES, Account.POSTAGE, Account.MATERIALS, Account.FUN, Account.EXCHANGE,
)  # fmt: skip
"""Their sum, with the sign turned, is what was realised."""
EXPENSES = (Account.POSTAGE, Account.FEES, Account.MATERIALS, Account.FUN)
"""What one may write down by hand as spent."""


class UnbalancedError(BotinError):
    """Postings that do not add up to zero: a fault of the program, nothing is stored."""

    status = 500


class AmountError(BotinError):
    """An amount or a share that cannot be."""

    status = 422


@dataclass(frozen=True, slots=True)
class About:
    """What a posting is for, by the ids of the rows."""

    box: int | None = None
    copy: int | None = None
    order: int | None = None
    party: int | None = None
    product: int | None = None
    purchase: int | None = None


@dataclass(frozen=True, slots=True)
class Posting:
    """One line of an event (minor units)."""

    account: Account
    minor: int
    currency: str
    about: About = About()

    def turned(self) -> Posting:
        """Return its mirror."""
        return replace(self, minor=-self.minor)


Postings = tuple[Posting, ...]


def balanced(postings: Iterable[Posting]) -> Postings:
    """Return postings that count for something, once they add up.

    Raises
    ------
    UnbalancedError
        When they do not add up to zero in each currency.
    """
    kept = tuple(posting for posting in postings if posting.minor)
    sums: Counter[str] = Counter()
    for posting in kept:
        sums[posting.currency] += posting.minor
    if any(sums.values()):
        message = f"The books would not add up ({dict(sums)}); nothing was stored."
        raise UnbalancedError(message)
    return kept


def mirror(postings: Iterable[Posting]) -> Postings:
    """Return what takes an event back."""
    return tuple(posting.turned() for posting in postings)


def move(money: Money, source: Account, target: Account, about: About, source_about: About | None = None) -> Postings:
    """Move an amount from one account to another."""
    return (
        Posting(target, money.minor, money.currency, about),
        Posting(source, -money.minor, money.currency, source_about or about),
    )


def paid(money: Money, target: Account, about: About, with_: Money | None = None) -> Postings:
    """Pay for something in cash, in its own currency or ``with_`` another one, through the exchange account."""
    if with_ is None or with_.currency == money.currency:
        return move(money, Account.CASH, target, about)
    bought = move(money, Account.EXCHANGE, target, about)
    return (*bought, *move(with_, Account.CASH, Account.EXCHANGE, about))


@dataclass(frozen=True, slots=True)
class Basis:
    """What a copy cost so far and where that lies: minor units by account of `COPIES`."""

    about: About
    currency: str
    held: Mapping[Account, int]
    mine: bool = True
    owner: int | None = None

    @property
    def minor(self) -> int:
        """All of it."""
        return sum(self.held.values())

    def leave(self, target: Account) -> list[Posting]:
        """Take all of it off the copy, to where it goes."""
        found = [Posting(account, -minor, self.currency, self.about) for account, minor in self.held.items() if minor]
        return [*found, Posting(target, self.minor, self.currency, self.about)]


def sale(price: Money, costs: Money, basis: Basis) -> Postings:
    """Sell a copy: what came in, what the sale cost, and its basis against it.

    What somebody else's copy brings after costs is owed to its owner.
    """
    about, net = basis.about, price - costs
    if not basis.mine:
        owed = replace(about, party=basis.owner)
        return balanced(move(net, Account.PEOPLE, Account.CASH, about, owed))
    came = (
        Posting(Account.CASH, net.minor, net.currency, about),
        Posting(Account.FEES, costs.minor, costs.currency, about),
        Posting(Account.SALES, -price.minor, price.currency, about),
    )
    return balanced((*came, *basis.leave(Account.SOLD)))


def write_off(basis: Basis) -> Postings:
    """Give a copy away or lose it: what it cost was for the fun."""
    return balanced(basis.leave(Account.FUN)) if basis.mine else ()


def swap(given: Sequence[Basis], got: Sequence[tuple[About, float]], cash: Money) -> Postings:
    """Swap copies: the basis of what is given, and cash added (negative when it came back), goes onto what comes.

    Parameters
    ----------
    got : sequence of (About, float)
        What comes, with the weight by which it shares the basis.
    """
    if not got:
        message = "A swap needs what came in. Say which card, or that it was given away."
        raise AmountError(message)
    total = sum(basis.minor for basis in given) + cash.minor
    shares = split(total, [weight for _, weight in got])
    off = [
        Posting(account, -minor, basis.currency, basis.about)
        for basis in given
        for account, minor in basis.held.items()
    ]
    on = [Posting(Account.CARDS, share, cash.currency, about) for share, (about, _) in zip(shares, got, strict=True)]
    return balanced((*off, *on, Posting(Account.CASH, -cash.minor, cash.currency, given[0].about)))


def split(total: int, weights: Sequence[float]) -> list[int]:
    """Share an amount by weights in whole minor units, also a negative one; the parts add up to it."""
    sign = -1 if total < 0 else 1
    return [sign * part for part in share_cost(abs(total), weights, CostRule.BY_VALUE)]


@dataclass(frozen=True, slots=True)
class Opened:
    """A copy of a box that is closed: where its basis lies so far, and where it went if it left.

    Attributes
    ----------
    went : Account or None
        Account that took its provisional basis when it left; None while it is here.
    away : bool
        Whether it is out for grading or graded.
    """

    basis: Basis
    value: float
    went: Account | None = None
    away: bool = False


@dataclass(frozen=True, slots=True)
class Packs:
    """How much of a box was opened: all its packs, those opened, and what became of the others.

    Attributes
    ----------
    counted : int
        Base cards that were counted and not written down one by one: they lie together, as bulk.
    """

    all: int
    opened: int
    rest: str = ""
    counted: int = 0


def close_box(
    cost: Money, about: About, copies: Sequence[Opened], rule: CostRule, packs: Packs, bulk: float
) -> Postings:
    """Move what a box cost onto its copies and freeze it there.

    Packs that stay sealed keep their part, packs given away and a box without a card were for the fun. Everybody's
    cards carry the same part by their number; what falls on another's is owed by him, what falls on mine is shared by
    the rule, each value being at least ``bulk``. What already left takes its true basis along.
    """
    unopened = max(0, packs.all - packs.opened) if packs.rest else 0
    kept, left = split(cost.minor, [float(unopened), float(max(1, packs.all - unopened))])
    rest = Account.BOXES if packs.rest == "kept" else Account.FUN
    found = [Posting(Account.BOXES, -cost.minor, cost.currency, about), Posting(rest, kept, cost.currency, about)]
    if not copies and not packs.counted:
        found.append(Posting(Account.FUN, left, cost.currency, about))
        return balanced(found)
    *shares, lump = _shares(left, copies, packs.counted, rule, bulk)
    found.append(Posting(Account.CARDS, lump, cost.currency, about))
    for copy, share in zip(copies, shares, strict=True):
        found += _onto(copy, share, cost.currency)
    return balanced(found)


def _shares(minor: int, copies: Sequence[Opened], counted: int, rule: CostRule, bulk: float) -> list[int]:
    """Parts of all copies, and of what was only counted: by number between the people, by the rule among mine."""
    even = split(minor, [*(1.0 for _ in copies), float(counted)])
    mine = [at for at, copy in enumerate(copies) if copy.basis.mine]
    total = sum(even[at] for at in mine) + even[-1]
    if rule is CostRule.EQUAL or not (mine or counted):
        return even
    values = [max(copies[at].value, bulk) for at in mine]
    parts = split(
        total, [*values, counted * bulk] if sum(values) + counted * bulk else [*(1.0 for _ in mine), counted]
    )
    for at, part in zip([*mine, -1], parts, strict=True):
        even[at] = part
    return even


def _onto(copy: Opened, share: int, currency: str) -> list[Posting]:
    about = copy.basis.about
    if not copy.basis.mine:
        return [Posting(Account.PEOPLE, share, currency, replace(about, party=copy.basis.owner))]
    if copy.went is None:
        return [Posting(Account.GRADED if copy.away else Account.CARDS, share, currency, about)]
    off = [Posting(account, -minor, currency, about) for account, minor in copy.basis.held.items()]
    return [*off, Posting(copy.went, share + copy.basis.minor, currency, about)]


def belong(basis: Basis, *, away: bool) -> list[Posting]:
    """Move what a copy cost to where it lies: with the graded and those that are out, or with the raw cards."""
    wrong, right = (Account.CARDS, Account.GRADED) if away else (Account.GRADED, Account.CARDS)
    minor = basis.held.get(wrong, 0)
    return [*move(Money(minor, basis.currency), wrong, right, basis.about)] if minor and basis.mine else []


def provisional(cost: Money, cards: int) -> int:
    """Return what a copy is taken to have cost while its box is open: an equal part of all the cards it holds."""
    return cost.minor // max(1, cards)


def sent(fees: Sequence[Money], order: int, copies: Sequence[Basis]) -> Postings:
    """Send copies to a grading house: their basis goes with them, the fees are paid ahead."""
    found = [row for fee in fees for row in move(fee, Account.CASH, Account.PREPAID, About(order=order))]
    for basis in copies:
        if basis.mine and basis.held.get(Account.CARDS):
            money = Money(basis.held[Account.CARDS], basis.currency)
            found += move(money, Account.CARDS, Account.GRADED, replace(basis.about, order=order))
    return balanced(found)


def billed(bill: Money, order: int, house: int) -> Postings:
    """Owe a grading house what its work costs: it counts as paid ahead for the order until the copies are back."""
    about = About(order=order)
    return balanced(move(bill, Account.PEOPLE, Account.PREPAID, about, replace(about, party=house)))


def bill_paid(bill: Money, order: int, house: int) -> Postings:
    """Pay a grading house what is owed to it."""
    about = About(order=order)
    return balanced(move(bill, Account.CASH, Account.PEOPLE, replace(about, party=house), about))


def joined(cost: Money, order: int | None) -> Postings:
    """Pay for a membership: with an order it is part of what that costs, by itself it is a fee of its month."""
    return balanced(move(cost, Account.CASH, Account.FEES if order is None else Account.PREPAID, About(order=order)))


def trued_up(more: Money, order: int, basis: Basis, where: Account) -> Postings:
    """Add to a copy that is back already what its order turned out to cost more (less, when below nothing).

    Parameters
    ----------
    where : Account
        Where its basis lies, or what it became when it left.
    """
    about = replace(basis.about, order=order)
    if not basis.mine:
        return balanced(move(more, Account.PREPAID, Account.PEOPLE, replace(about, party=basis.owner), about))
    return balanced(move(more, Account.PREPAID, where, about))


def came_back(fee: Money, order: int, basis: Basis, *, graded: bool) -> Postings:
    """Take a copy in again: its part of the fees is added to its basis; without a grade it lies with the raw ones.

    The part of somebody else's copy is owed by its owner.
    """
    about = replace(basis.about, order=order)
    if not basis.mine:
        return balanced(move(fee, Account.PREPAID, Account.PEOPLE, replace(about, party=basis.owner), about))
    found = [*move(fee, Account.PREPAID, Account.GRADED, about)]
    held = basis.held.get(Account.GRADED, 0) + fee.minor
    if not graded and basis.currency == fee.currency:
        found += move(Money(held, basis.currency), Account.GRADED, Account.CARDS, about)
    return balanced(found)
