"""Whether flags were right: *sell now* against what the card would leave today, *keep* against selling it then."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.flags.ways import Go, Route
from botin.core.grading.grades import Inspection
from botin.core.money import Money
from botin.desk.flags.judging import kept_verdict
from botin.desk.grading.inspections import looks_at
from botin.desk.insight.salesresults import SaleResult
from botin.desk.selling.salepage import SalePage
from botin.desk.workbench import Workbench
from botin.store.flags.kept import kept, sells_for
from botin.store.selling.sales import SoldCopy

MOST = 200
"""Sold cards that are judged anew; the latest."""
SAME = 0.02
"""Nets that differ by less than this share of the larger one are the same (a choice)."""


@dataclass(frozen=True, slots=True)
class SoldByFlag:
    """A card that was flagged *sell now* and sold: what it left, and what its best way would leave today (minor)."""

    sold: SoldCopy
    sale: int
    day: date
    sure: float
    left: int
    today: int
    way: str

    @property
    def right(self) -> bool:
        """Whether no way would leave more today than the sale did."""
        return self.left >= self.today * (1 - SAME)


@dataclass(frozen=True)
class SaidAndRight:
    """How often *sell now* said to be right, and how often it was so far."""

    rows: tuple[SoldByFlag, ...]

    @property
    def right(self) -> int:
        """How many were right."""
        return sum(row.right for row in self.rows)

    @property
    def said(self) -> float:
        """Mean of how sure it was."""
        return sum(row.sure for row in self.rows) / len(self.rows) if self.rows else 0.0


def sold_by_flag(session: Session, bench: Workbench, rows: Sequence[SaleResult]) -> SaidAndRight:
    """Hold the sold cards that were flagged *sell now* against today's prices; sales that came back aside."""
    wanted = [one for row in rows if row.page.record.over in ("", "lost") for one in _flagged(row.page)][:MOST]
    looks = looks_at(session, [one.copy.id for _, one, _, _ in wanted])
    found = []
    for page, one, sure, left in wanted:
        best = _best_today(session, bench, one, looks)
        if best is not None:
            today = Money.from_major(best.mean, page.record.currency).minor
            found.append(
                SoldByFlag(
                    one, page.record.id, page.record.sold_on, sure=sure, left=left, today=today, way=best.label
                )
            )
    return SaidAndRight(tuple(found))


def _flagged(page: SalePage) -> Iterable[tuple[SalePage, SoldCopy, float, int]]:
    """Copies of a sale that were flagged *sell now*, how sure that was, and each one's part of what it left."""
    told = json.loads(page.record.forecast or "{}").get("copies", {})
    cards, total = {one.copy.id: one for one in page.copies}, max(1, page.record.price_minor)
    for line in page.lines:
        said = told.get(str(line.copy_id), {})
        if said.get("flag") == Go.SELL.value and "sure" in said and line.copy_id in cards:
            yield page, cards[line.copy_id], float(said["sure"]), round(page.net * line.price_minor / total)


def _best_today(session: Session, bench: Workbench, one: SoldCopy, looks: Mapping[int, Inspection]) -> Route | None:
    """The best way of such a copy at today's prices, waiting aside."""
    record = bench.record(session, one.product.id)
    card = bench.product(session, record).card_by_number.get((one.section, one.card.number))
    if card is None:
        return None
    copies = [(card, one.copy.parallel, looks.get(one.copy.id), one.copy.grade)]
    verdict = kept_verdict(session, bench, record, copies)[0]
    ways = [way for way in verdict.routes if way.go is not Go.LATER and not way.more]
    return max(ways, key=lambda way: way.mean, default=None)


@dataclass(frozen=True, slots=True)
class KeptCard:
    """A card that a flag says, or said, to keep: what selling it left then and leaves now or at the end (minor)."""

    name: str
    product: str
    card_id: int
    parallel: str
    go: str
    copies: int
    since: date
    until: date | None
    then: int
    now: int | None
    currency: str

    @property
    def brought(self) -> int | None:
        """What keeping all of them brought or cost so far; None when that is not known."""
        return None if self.now is None else self.copies * (self.now - self.then)


def brought_in_all(rows: Sequence[KeptCard]) -> dict[str, int]:
    """Return what keeping brought or cost in all, by currency; what is not known left out."""
    found: dict[str, int] = {}
    for row in rows:
        found[row.currency] = found.get(row.currency, 0) + (row.brought or 0)
    return found


def kept_cards(session: Session) -> tuple[KeptCard, ...]:
    """Return what is kept, and what was, against selling it when the flag first said so: what moved most first."""
    rows = kept(session)
    now = sells_for(session, [row.card_id for row, _, _ in rows])
    found = (
        KeptCard(
            name=f"{card.number} {card.name} {row.parallel}".strip(), product=product, card_id=card.id,
            parallel=row.parallel, go=row.go, copies=row.copies, since=row.since, until=row.until, then=row.net,
            now=row.net_then if row.until else now.get((row.card_id, row.parallel, row.copy_id)),
            currency=row.currency,
        )
        for row, card, product in rows
    )  # fmt: skip
    return tuple(sorted(found, key=lambda one: -abs(one.brought or 0)))
