"""The books as a page: what went out and came back, where the money lies, realised and on paper apart."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books.posting import EXPENSES, About, Account, AmountError, Posting, balanced, move
from botin.core.books.results import Key, Result
from botin.core.money import Money
from botin.desk.books.budget import Month, month_of
from botin.desk.pricing.sealedprices import sealed_values
from botin.desk.sentagain import same_again, same_things
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.books.postings import (
    Event,
    is_voided,
    known_event,
    month_rows,
    moved,
    names_of_parties,
    names_of_products,
    post,
    void,
)
from botin.store.books.sums import cash_and_volume, flag_sums, latest_entries, owed_by_party, sealed_sums
from botin.store.copies.people import party_named
from botin.store.models_books import MonthSumRecord, TransactionRecord
from botin.store.unit import finish

LATEST = 40
BY_HAND = ("expense", "payment")
"""Kinds of entries that are written down by hand and taken back here; others are taken back where they happened."""


@dataclass(frozen=True, slots=True)
class Part:
    """One month, product or kind with its result (minor units of the page's currency)."""

    name: str
    result: Result
    key: int = 0
    paper: int | None = None


@dataclass(frozen=True, slots=True)
class Balance:
    """What one person owes (positive) or is owed."""

    party: int
    name: str
    minor: int


@dataclass(frozen=True, slots=True)
class Shown:
    """An entry in the list: what it moved in cash, and whether it was taken back or takes one back."""

    made: TransactionRecord
    party: str
    cash: int
    volume: int
    voided: bool

    @property
    def can_go(self) -> bool:
        """Whether it can be taken back here."""
        return self.made.kind in BY_HAND and not self.voided and self.made.voids_id is None


@dataclass(frozen=True)
class Books:
    """Everything the page shows, in one currency.

    Attributes
    ----------
    paper : int
        What is here would bring, by the last flags and sealed sales.
    """

    currency: str
    currencies: tuple[str, ...]
    all: Result
    months: tuple[Part, ...]
    years: tuple[Part, ...]
    products: tuple[Part, ...]
    people: tuple[Balance, ...]
    entries: tuple[Shown, ...]
    paper: int
    month: Month
    more: bool


def books(session: Session, bench: Workbench, currency: str = "", page: int = 1) -> Books:
    """Read the books in one currency: the asked one, else the one most is booked in."""
    rows = month_rows(session)
    codes = _by_use(rows)
    chosen = currency if currency in codes else (codes[0] if codes else "EUR")
    mine = [row for row in rows if row.currency == chosen]
    entries, more = _entries(session, chosen, page)
    paper = on_paper(session, bench, chosen)
    return Books(
        currency=chosen,
        currencies=tuple(codes),
        all=_add(chosen, mine),
        months=tuple(_periods(chosen, mine, len("2026-11"))),
        years=tuple(_periods(chosen, mine, len("2026"))),
        products=tuple(_products(session, chosen, mine, paper)),
        people=tuple(balances(session, chosen, _add(chosen, mine).owed)),
        entries=entries,
        paper=sum(paper.values()),
        month=month_of(session, bench.today(), load_settings(session), chosen),
        more=more,
    )


def _by_use(rows: Iterable[MonthSumRecord]) -> list[str]:
    found: dict[str, int] = defaultdict(int)
    for row in rows:
        found[row.currency] += abs(row.minor)
    return sorted(found, key=lambda code: -found[code])


def _add(currency: str, rows: Iterable[MonthSumRecord]) -> Result:
    sums: dict[Key, int] = defaultdict(int)
    for row in rows:
        sums[(row.kind, Account(row.account))] += row.minor
    return Result(currency, dict(sums))


def _periods(currency: str, rows: Sequence[MonthSumRecord], digits: int) -> list[Part]:
    """Add up months, or the years that their first digits name; the latest first."""
    by: dict[str, list[MonthSumRecord]] = defaultdict(list)
    for row in rows:
        by[row.month[:digits]].append(row)
    return [Part(period, _add(currency, some)) for period, some in sorted(by.items(), reverse=True)]


def _products(session: Session, currency: str, rows: Sequence[MonthSumRecord], paper: dict[int, int]) -> list[Part]:
    by: dict[int, list[MonthSumRecord]] = defaultdict(list)
    for row in rows:
        by[row.product_id].append(row)
    names = names_of_products(session)
    found = [
        Part(names.get(key, "for no product"), _add(currency, some), key, paper.get(key) if key else None)
        for key, some in by.items()
    ]
    told = (
        part for part in found if any((part.result.paid, part.result.sold, part.result.stock, part.result.realised))
    )
    return sorted(told, key=lambda part: -part.result.paid)


def on_paper(session: Session, bench: Workbench, currency: str) -> dict[int, int]:
    """Return by product what is here would sell for: copies by their flags, sealed boxes by what such sold for."""
    found: dict[int, int] = defaultdict(int, flag_sums(session, currency))
    sealed = sealed_values(session, bench)
    for product, key, count, paid in sealed_sums(session, currency):
        sells = sealed.get((product, key))
        found[product] += count * Money.from_major(sells.amount, currency).minor if sells else paid
    return dict(found)


def balances(session: Session, currency: str, owed: int) -> list[Balance]:
    """Return what everybody owes or is owed, the largest first; who is even is left out.

    What of all that is ``owed`` falls on nobody known stands last: cards of which it is not settled whose they are.
    """
    names = names_of_parties(session)
    owes = [(party, money.minor) for party, money in owed_by_party(session) if money.currency == currency]
    found = [Balance(party, names.get(party, ""), minor) for party, minor in owes]
    rest = owed - sum(one.minor for one in found)
    found.sort(key=lambda one: -abs(one.minor))
    return [*found, Balance(0, "not settled whose", rest)] if rest else found


def _entries(session: Session, currency: str, page: int) -> tuple[tuple[Shown, ...], bool]:
    made = latest_entries(session, (max(1, page) - 1) * LATEST, LATEST + 1)
    sums = cash_and_volume(session, [one.id for one, _ in made], currency)
    names = names_of_parties(session)
    found = [
        Shown(one, names.get(one.party_id or 0, ""), *sums[one.id], voided=voided)
        for one, voided in made[:LATEST]
        if one.id in sums
    ]
    return tuple(found), len(made) > LATEST


@dataclass(frozen=True, slots=True)
class Noted:
    """An entry by hand: an expense of some account, or money paid to or got from a person."""

    what: str
    amount: Money
    day: date
    person: str = ""
    words: str = ""


PAID_TO, GOT_FROM = "paid to", "got from"
NOBODY = ("me", "?")
"""Words that stand for an owner elsewhere: myself, and one that is not settled yet. Money goes to neither."""
WHATS = (*(account.value for account in EXPENSES if account is not Account.FUN), PAID_TO, GOT_FROM)


def write_down(session: Session, bench: Workbench, client_key: str, noted: Noted) -> TransactionRecord:
    """Write an entry by hand into the books, once.

    Raises
    ------
    AmountError
        When the amount is nothing or less, lies ahead, or a person is needed and none is named.
    StaleFormError
        When the key was used for another entry.
    """
    _check(noted, bench.today())
    known = known_event(session, client_key)
    if known is not None:
        same_again(known, kind=_kind(noted), day=noted.day)
        same_things(moved(session, known.id), (noted.amount.minor, noted.amount.currency))
        return known
    party = party_named(session, noted.person, bench.now()) if noted.person.strip() else None
    words = noted.words.strip() or f"{noted.what}{' ' + party.name if party else ''}"
    event = Event(_kind(noted), noted.day, client_key, words, party.id if party else None)
    made = post(session, bench.now(), event, _postings(noted, party.id if party else None))
    finish(session)
    assert made is not None  # noqa: S101  (an amount above nothing moves something)
    return made


def _kind(noted: Noted) -> str:
    return "payment" if noted.what in (PAID_TO, GOT_FROM) else "expense"


def _check(noted: Noted, today: date) -> None:
    if noted.what not in WHATS:
        message = f"“{noted.what}” is none of {', '.join(WHATS)}."
        raise AmountError(message)
    if noted.amount.minor <= 0:
        message = "Write an amount above 0; whether it went out or came in is what you choose beside it."
        raise AmountError(message)
    if noted.day > today:
        message = f"{noted.day.isoformat()} lies ahead. Write the day it was paid."
        raise AmountError(message)
    if noted.what in (PAID_TO, GOT_FROM) and not noted.person.strip():
        message = "Write whom it was paid to or got from."
        raise AmountError(message)
    if noted.person.strip().casefold() in NOBODY:
        message = f"“{noted.person.strip()}” is no other person. Write the name of who paid or was paid."
        raise AmountError(message)


def _postings(noted: Noted, party: int | None) -> tuple[Posting, ...]:
    about = About(party=party)
    if noted.what == PAID_TO:
        return balanced(move(noted.amount, Account.CASH, Account.PEOPLE, about))
    if noted.what == GOT_FROM:
        return balanced(move(noted.amount, Account.PEOPLE, Account.CASH, about))
    return balanced(move(noted.amount, Account.CASH, Account(noted.what), about))


def take_back_entry(session: Session, bench: Workbench, transaction_id: int) -> None:
    """Take an entry that was written down by hand back, by its mirror.

    Raises
    ------
    NotFoundError
        When there is none.
    AmountError
        When it belongs to a box, a sale or an order: that is taken back where it happened.
    """
    found = session.get(TransactionRecord, transaction_id)
    if found is not None and found.kind not in BY_HAND:
        message = f"That entry stands for a {found.kind}. Take it back where it happened: on the box, card or order."
        raise AmountError(message)
    if not is_voided(session, transaction_id):
        void(session, bench.now(), transaction_id, found.day if found else bench.today())
        finish(session)
