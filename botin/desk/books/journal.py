"""The books out of the store as entries, for the journal and the ledger."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.money import Money
from botin.exchange.books import Entry, Line, journal, ledger_csv
from botin.store.books.postings import entries_of, names_of_parties, names_of_products
from botin.store.models_books import PostingRecord

TITLE = "The books of a Botin home"


def entries(session: Session) -> Iterator[Entry]:
    """Yield everything in the books, the oldest first."""
    people, products = names_of_parties(session), names_of_products(session)
    for made, rows in entries_of(session):
        lines = tuple(_line(row, people, products) for row in rows)
        party = people.get(made.party_id or 0, "")
        yield Entry(
            id=made.id, day=made.day, kind=made.kind, words=made.words, party=party, estimated=made.estimated,
            takes_back=made.voids_id, lines=lines,
        )  # fmt: skip


def _line(row: PostingRecord, people: dict[int, str], products: dict[int, str]) -> Line:
    person = (row.party_id, people[row.party_id]) if row.party_id in people and row.party_id is not None else None
    about = (
        ("product", products.get(row.product_id or 0, "")),
        ("box", str(row.box_id or "")),
        ("copy", str(row.copy_id or "")),
        ("order", str(row.order_id or "")),
    )
    return Line(Account(row.account), Money(row.minor, row.currency), person, tuple((k, v) for k, v in about if v))


def journal_lines(session: Session) -> Iterator[str]:
    """Yield the books as a plain-text double-entry journal."""
    return journal(entries(session), TITLE)


def ledger(session: Session) -> bytes:
    """Return the books as ``ledger.csv``."""
    return ledger_csv(entries(session))
