"""One card: all its versions, the copies of it, what they cost, and how they left."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.books.basis import CostRule
from botin.core.catalog.product import Card, Parallel, Product, Section
from botin.core.pricing.prices import Estimate
from botin.desk.books.booking import rule_of
from botin.desk.catalog.cards import find_card
from botin.desk.copies.elsewhere import OwnedCopy, copies_of_card
from botin.desk.settings import Settings, load_settings
from botin.desk.workbench import Workbench
from botin.store.copies.copies import copies_ever, here_by_finish
from botin.store.models import ProductRecord


@dataclass(frozen=True)
class Version:
    """One finish of the card with what it sells for raw, and the copies that are here."""

    parallel: str
    label: str
    row: Parallel | None
    run: int | None
    estimate: Estimate
    here: int


@dataclass(frozen=True)
class CardPage:
    """All that is known of a card."""

    record: ProductRecord
    product: Product
    section: Section
    card: Card
    card_id: int
    versions: tuple[Version, ...]
    copies: tuple[OwnedCopy, ...]
    more: int
    settings: Settings
    rule: CostRule


def card_page(session: Session, bench: Workbench, card_id: int) -> CardPage:
    """Read everything about a card."""
    record, product, card = find_card(session, bench, card_id)
    settings = load_settings(session)
    rule = rule_of(settings)
    copies = copies_of_card(session, card_id)
    here = here_by_finish(session, card_id)
    finishes = product.finishes(card.section, card.group)
    keys = list(dict.fromkeys(("", *finishes, *here, *(copy.parallel for copy in copies))))
    book = bench.prices(session, record)
    versions = tuple(
        Version(
            key,
            finishes[key].label if key in finishes and key else (key or "plain"),
            finishes.get(key),
            product.run_of(finishes[key]) if key in finishes else None,
            book.estimate(card, key),
            here.get(key, 0),
        )
        for key in keys
    )
    section = product.section_by_key[card.section]
    return CardPage(
        record=record,
        product=product,
        section=section,
        card=card,
        card_id=card_id,
        versions=versions,
        copies=copies,
        more=max(0, copies_ever(session, card_id) - len(copies)),
        settings=settings,
        rule=rule,
    )
