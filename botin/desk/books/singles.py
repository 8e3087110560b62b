"""Singles of an order, read as one types them at the rip desk."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from botin.core.books.posting import AmountError
from botin.core.errors import NotFoundError
from botin.core.money import Money
from botin.core.opening.entryitems import EntryItem
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord


@dataclass(frozen=True, slots=True)
class SingleLine:
    """One card, as read off the entry line of its product."""

    product_id: int
    item: EntryItem
    price: Money
    grade: str = ""


def known_of(item: EntryItem) -> dict[str, str]:
    """Return what was written of a card beside its version: marks, certificate, and a note of the rest."""
    said = item.details
    words = [said.note, said.signature, said.relic, said.back_code and f"back {said.back_code}"]
    claims = {"code": said.claim_code, "by": said.claim_by, "claimed": said.claimed_on, "received": said.received_on}
    words += [f"{name} {value}" for name, value in claims.items() if value]
    note = "; ".join(word for word in words if word)[:300]
    return {"marks": ";".join(said.marks), "certificate": said.certificate, "note": note}


def read_single(session: Session, bench: Workbench, product_id: int, text: str, price: Money) -> list[SingleLine]:
    """Read a card as one types it at the rip desk (``12 copper 3/25``, ``x2`` for two): a line for each.

    Raises
    ------
    AmountError
        When it is not understood; the message says why.
    """
    record = session.get(ProductRecord, product_id)
    if record is None:
        message = "Choose the product of each single."
        raise NotFoundError(message)
    read = bench.reader(session, record).read(text)
    if read.problems:
        raise AmountError(read.problems[0].message)
    if not read.items or any(item.card is None for item in read.items):
        message = f"“{text}” is not on the checklist of {record.name}."
        raise AmountError(message)
    _check_single(text, read.items)
    one_each = [replace(item, count=1) for item in read.items for _ in range(item.count)]
    return [SingleLine(product_id, item, price) for item in one_each]


def _check_single(text: str, items: Sequence[EntryItem]) -> None:
    if any(item.details.owner or item.candidates for item in items):
        message = f"“{text}”: what is bought is mine, and it is one card. Leave the owner and the question mark away."
        raise AmountError(message)
