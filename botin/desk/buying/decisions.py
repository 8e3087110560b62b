"""Decisions of the buy desk, kept with their figures, and held against what really happened."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from botin.core.buying.verdict import Choice
from botin.core.errors import NotFoundError
from botin.core.money import Money
from botin.desk.buying.answer import BuyPage
from botin.desk.buying.myboxes import MyBox, my_boxes
from botin.desk.workbench import Workbench
from botin.store.buying import decisions_made, is_seen
from botin.store.keys import stored_under
from botin.store.models import FormatRecord, ProductRecord
from botin.store.models_copies import DecisionRecord, SeenCopyRecord
from botin.store.unit import finish


@dataclass(frozen=True)
class Happened:
    """Boxes of the format bought from the day of the decision on and opened since."""

    boxes: tuple[MyBox, ...]

    @property
    def mean(self) -> float | None:
        """Mean value of those boxes."""
        return sum(box.value for box in self.boxes) / len(self.boxes) if self.boxes else None

    @property
    def result(self) -> float:
        """What they brought and hold less what they cost, over all of them."""
        return sum(box.result for box in self.boxes)


@dataclass(frozen=True)
class Decision:
    """A decision as it was made, and what came of it."""

    id: int
    product_id: int
    product: str
    format: str
    format_key: str
    made_on: date
    price: Money
    choice: str
    advised: str
    note: str
    figures: dict[str, Any]
    scores: dict[str, int]
    happened: Happened


def save_decision(
    session: Session, bench: Workbench, page: BuyPage, client_key: str, choice: str, note: str
) -> DecisionRecord:
    """Keep a decision with the figures of the moment; the same key again gives the same one.

    Raises
    ------
    NotFoundError
        When the choice is none of those offered.
    """
    if choice not in set(Choice):
        message = f"“{choice}” is no decision. Choose one of {', '.join(Choice)}."
        raise NotFoundError(message)
    known = stored_under(session, DecisionRecord, client_key)
    if known is not None:
        return known
    fmt = next(row for row in page.record.formats if row.key == page.format.key)
    e = page.evidence
    figures = {
        "mean": e.mean,
        "median": e.median,
        "p10": page.curve.quantile(0.1),
        "p90": page.curve.quantile(0.9),
        "pays": e.pays,
        "rare": e.rare,
        "wanted": e.wanted,
        "singles": e.singles,
        "chase": list(page.question.chase),
        "net": page.question.net,
        "notes": {row.name: row.note for card in page.cards for row in card.criteria if row.note},
    }
    scores = {row.name: row.score for card in page.cards for row in card.criteria if row.score is not None}
    made = DecisionRecord(
        client_key=client_key,
        format_id=fmt.id,
        made_on=bench.today(),
        made_at=bench.now(),
        price_minor=Money.from_major(e.cost, page.currency).minor,
        currency=page.currency,
        choice=choice,
        words=page.verdict.choice.value,
        note=note.strip()[:500],
        figures=json.dumps(figures),
        scores=json.dumps(scores),
    )
    session.add(made)
    finish(session)
    return made


def decisions(session: Session, bench: Workbench, product_id: int | None = None, limit: int = 30) -> list[Decision]:
    """Return the latest decisions, of one product or of all."""
    made = decisions_made(session, product_id, limit)
    return [_decision(session, bench, row, fmt, product) for row, fmt, product in made]


def _decision(
    session: Session, bench: Workbench, row: DecisionRecord, fmt: FormatRecord, product: ProductRecord
) -> Decision:
    since = tuple(box for box in my_boxes(session, bench, product, fmt.key) if box.bought_on >= row.made_on)
    return Decision(
        id=row.id,
        product_id=product.id,
        product=product.name,
        format=fmt.label,
        format_key=fmt.key,
        made_on=row.made_on,
        price=Money(row.price_minor, row.currency),
        choice=row.choice,
        advised=row.words,
        note=row.note,
        figures=json.loads(row.figures),
        scores=json.loads(row.scores),
        happened=Happened(since),
    )


def mark_seen(
    session: Session, bench: Workbench, record: ProductRecord, version: tuple[str, str, str], serial: int, note: str
) -> None:
    """Note that a numbered copy was pulled by someone else; twice noted is once stored."""
    section, number, parallel = version
    product = bench.product(session, record)
    card = product.card_by_number.get((section, number))
    row = product.parallel_of(card, parallel) if card else None
    if row is None or product.run_of(row) is None:
        message = f"{section}:{number}:{parallel} is no numbered version. Only numbered copies can run out."
        raise NotFoundError(message)
    if not is_seen(session, record.id, version, serial):
        session.add(
            SeenCopyRecord(
                product_id=record.id,
                section=section,
                number=number,
                parallel=parallel,
                serial=serial,
                made_at=bench.now(),
                note=note.strip()[:200],
            )
        )
        finish(session)


def forget_seen(session: Session, record: ProductRecord, seen_id: int) -> None:
    """Take a copy back into what can come."""
    row = session.get(SeenCopyRecord, seen_id)
    if row is not None and row.product_id == record.id:
        session.delete(row)
        finish(session)
