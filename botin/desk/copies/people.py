"""People: whose cards lie here, what they are worth, what they owe or are owed."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books.results import Result
from botin.core.money import Money
from botin.desk.workbench import Workbench
from botin.store.books.postings import results_with
from botin.store.books.sums import entries_with, owed_by_party
from botin.store.copies.people import copies_by_owner, copies_of_owner, everybody_else, get_party
from botin.store.models import ProductRecord
from botin.store.models_books import TransactionRecord
from botin.store.models_copies import CopyRecord, PartyRecord

MOST = 300
"""Cards of one person, and entries with him, that his page lists."""


@dataclass(frozen=True, slots=True)
class PersonRow:
    """A person in the list."""

    id: int
    name: str
    copies: int
    owes: tuple[Money, ...]


def people(session: Session) -> list[PersonRow]:
    """Return everybody but me: those with cards here first, then by name."""
    counts = copies_by_owner(session)
    owes: dict[int, list[Money]] = defaultdict(list)
    for party, money in owed_by_party(session):
        owes[party].append(money)
    found = [
        PersonRow(row.id, row.name, counts.get(row.id, 0), tuple(owes[row.id])) for row in everybody_else(session)
    ]
    return sorted(found, key=lambda one: (not one.copies, not one.owes))


@dataclass(frozen=True, slots=True)
class HisCopy:
    """A card of somebody else that lies here or went through my hands."""

    copy: CopyRecord
    number: str
    name: str
    product: str
    box: str
    price: Money | None


@dataclass(frozen=True, slots=True)
class HisEntry:
    """What an entry of the books changed of what he owes, and what was bought from or sold to him."""

    made: TransactionRecord
    owes: int
    cash: int
    currency: str


@dataclass(frozen=True)
class Person:
    """Everything his page shows; ``worth`` is of the cards that are here, by currency."""

    party: PartyRecord
    copies: tuple[HisCopy, ...]
    worth: tuple[Money, ...]
    owes: tuple[Money, ...]
    entries: tuple[HisEntry, ...]
    results: tuple[Result, ...]
    today: date


def person(session: Session, bench: Workbench, party_id: int) -> Person:
    """Read everything about a person.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    party = get_party(session, party_id)
    copies = _copies(session, bench, party_id)
    worth: dict[str, int] = defaultdict(int)
    for one in copies:
        if one.price is not None and one.copy.state not in ("sold", "gone"):
            worth[one.price.currency] += one.price.minor
    return Person(
        party=party,
        copies=tuple(copies),
        worth=tuple(Money(minor, code) for code, minor in worth.items()),
        owes=tuple(money for _, money in owed_by_party(session, party_id)),
        entries=tuple(_entries(session, party_id)),
        results=tuple(results_with(session, party_id)),
        today=bench.today(),
    )


def _copies(session: Session, bench: Workbench, party_id: int) -> list[HisCopy]:
    found = []
    for copy, number, name, section, product_id, box in copies_of_owner(session, party_id, MOST):
        record = bench.record(session, product_id) if product_id else None
        price = _price(session, bench, record, (section, number), copy) if record else None
        words = (box.label or f"box {box.id}") if box is not None else copy.source
        found.append(HisCopy(copy, number or "", name or "", record.name if record else "", words, price))
    return found


def _price(
    session: Session, bench: Workbench, record: ProductRecord, which: tuple[str, str], copy: CopyRecord
) -> Money | None:
    card = bench.product(session, record).card_by_number.get(which)
    if card is None:
        return None
    amount = bench.prices(session, record).estimate(card, copy.parallel, copy.grade).amount
    return Money.from_major(round(amount, 2), record.currency)


def _entries(session: Session, party_id: int) -> list[HisEntry]:
    rows = entries_with(session, party_id, MOST)
    return [HisEntry(made, owes.minor, cash.minor, owes.currency) for made, owes, cash in rows]
