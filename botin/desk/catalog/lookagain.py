"""Copies to look at again: a variation or short-print list became known after they were logged."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Kind, Product
from botin.core.errors import NotFoundError
from botin.desk.workbench import Workbench
from botin.store.catalog.lookagain import add_to_look_at, base_pulls, ids_of_cards, waiting_rows
from botin.store.copies.copies import follow
from botin.store.models import LookAgainRecord, ProductRecord, PullRecord
from botin.store.unit import finish

LATE = (Kind.VARIATION, Kind.SHORT_PRINT)


MOST = 500
"""Copies to look at again that a page lists."""


@dataclass(frozen=True, slots=True)
class ToLookAt:
    """A copy and what it could be after all."""

    id: int
    box_id: int
    box_label: str
    pack: int
    logged: str
    name: str
    could_be: str
    cue: str
    same: bool


def to_look_at(session: Session, now: datetime, record: ProductRecord, before: Product, after: Product) -> int:
    """List the logged copies that cards new in variation and short-print sections concern; return how many.

    A copy of a base card is concerned when a new variation has its number, or else its name; a card that was moved
    into a short-print section concerns its own copies.
    """
    fresh = _new_cards(before, after)
    if not fresh:
        return 0
    ids = ids_of_cards(session, record.id)
    pulls = base_pulls(session, record.id)
    rows = []
    for card in fresh:
        target = ids.get((card.section, card.number))
        logged = pulls.get(("number", card.number)) or pulls.get(("name", card.name)) or []
        rows += [
            {"product_id": record.id, "pull_id": pull, "card_id": target, "made_at": now, "outcome": ""}
            for pull in dict.fromkeys([*logged, *pulls.get(("card", str(target)), [])])
            if target is not None
        ]
    return add_to_look_at(session, rows)


def _new_cards(before: Product, after: Product) -> list[Card]:
    kinds = after.section_by_key
    return [
        card
        for card in after.cards
        if (card.section, card.number) not in before.card_by_number
        and card.section in kinds
        and kinds[card.section].kind in LATE
    ]


def waiting(session: Session, product_id: int) -> list[ToLookAt]:
    """Return the copies of a product that still wait to be looked at."""
    return [
        ToLookAt(
            id=row, box_id=box, box_label=label, pack=pack, logged=f"{own_label} {card.number}", name=card.name,
            could_be=f"{where.label} {other.number}", cue=where.cue, same=card.id == other.id,
        )
        for row, box, label, pack, card, other, where, own_label in waiting_rows(session, product_id, MOST)
    ]  # fmt: skip


def settle(session: Session, bench: Workbench, look_id: int, *, it_is: bool) -> int:
    """Settle one: the copy is the late card, or it is what was logged; return its product."""
    found = session.get(LookAgainRecord, look_id)
    if found is None:
        message = "That copy is not on the list any more. Reload the page."
        raise NotFoundError(message)
    if found.done_at is None:
        pull = session.get_one(PullRecord, found.pull_id)
        if it_is:
            pull.card_id = found.card_id
            follow(session, [pull.id])
            session.get_one(ProductRecord, found.product_id).revision += 1  # what was made of its logs is old now
        found.done_at, found.outcome = bench.now(), "it is" if it_is else "as logged"
        finish(session)
    return found.product_id
