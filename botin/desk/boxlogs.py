"""Logged boxes of a product, read once for everything that is learned from them."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from botin.core.catalog.product import Product
from botin.core.odds.lines import BoxModel
from botin.core.odds.repeats import BoxCounts
from botin.desk.opened import counted_packs, packs_known
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord
from botin.store.once import once
from botin.store.opening.closed import boxes_by_id, latest_closed, logged_versions

LATEST = 200
"""So many of the latest closed boxes of a product are looked at."""


@dataclass(frozen=True)
class BoxLog:
    """One closed box: its copies as (pack, section, number, parallel) in the order they lay.

    Attributes
    ----------
    complete : bool
        Every card was logged; with hits only the base cannot be counted.
    packs : int
        Packs that were opened: what was given away or kept sealed says nothing.
    """

    id: int
    label: str
    format: str
    closed_at: datetime | None
    copies: tuple[tuple[int, str, str, str], ...]
    complete: bool
    packs: int

    def line_counts(self, model: BoxModel, product: Product) -> Counter[tuple[str, str, str]]:
        """Count the copies by line of its format."""
        found: Counter[tuple[str, str, str]] = Counter()
        for _, section, number, parallel in self.copies:
            card = product.card_by_number.get((section, number))
            line = model.line_of(card, parallel) if card else None
            if line is not None:
                found[line.key] += 1
        return found

    def base_counts(self, rest: frozenset[tuple[str, str]]) -> BoxCounts | None:
        """How often base numbers came; None when the base was not logged."""
        plain = ((section, number) for _, section, number, parallel in self.copies if not parallel)
        numbers = Counter(card for card in plain if card in rest)
        if not self.complete or not numbers:
            return None
        times = Counter(numbers.values())
        return BoxCounts(sum(numbers.values()), len(numbers), times[2], times[3])


def box_logs(session: Session, bench: Workbench, record: ProductRecord) -> tuple[BoxLog, ...]:
    """Read the latest closed boxes of a product, the oldest first; kept until one is closed or changed."""
    return once(session, ("box logs", record.id), lambda: _latest(session, bench, record))


def _latest(session: Session, bench: Workbench, record: ProductRecord) -> tuple[BoxLog, ...]:
    state = tuple(latest_closed(session, record.id, LATEST))
    key = ("logs", record.id, record.revision, state)
    return bench.keep(key, lambda: _read(session, record, {box: fmt for box, _, fmt in state}))


def _read(session: Session, record: ProductRecord, formats: dict[int, str]) -> tuple[BoxLog, ...]:
    ids = list(formats)
    found = boxes_by_id(session, ids)
    copies: dict[int, list[tuple[int, str, str, str]]] = defaultdict(list)
    for box_id, pack, section, number, parallel in logged_versions(session, record.id, ids):
        copies[box_id].append((pack, section, number, parallel))
    counted = counted_packs(session, ids)
    return tuple(
        BoxLog(
            id=box.id,
            label=box.label,
            format=formats[box.id],
            closed_at=box.closed_at,
            copies=tuple(copies[box.id]),
            complete=box.mode == "all" and not box.rest,
            packs=packs_known(box, [copy[0] for copy in copies[box.id]], counted.get(box.id, {})),
        )
        for box in (found[one] for one in reversed(ids))
    )
