"""Every card of a box with its worth, its share of the cost and its route; what all were worth when it was closed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books.posting import Basis
from botin.core.insight.recap import Pulled
from botin.core.money import Money
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import Estimate, PriceRow
from botin.desk.flags.judging import kept_verdict
from botin.desk.grading.inspections import looks_at
from botin.desk.pulled import pulled_copies
from botin.desk.workbench import Workbench
from botin.store.books.postings import bases
from botin.store.copies.left import left_box
from botin.store.flags.kept import said_of
from botin.store.models import BoxRecord, ProductRecord
from botin.store.models_copies import PRESENT, DisposalRecord
from botin.store.opening.boxes import PullRow, get_box, pulls_of


@dataclass(frozen=True, slots=True)
class CardRow:
    """One copy of a box.

    Attributes
    ----------
    go : str
        The user's own route, else the one that was worked out; empty for what is not on the checklist.
    """

    row: PullRow
    label: str
    price: Estimate | None
    cost: Money | None
    go: str
    grade: str
    gone: DisposalRecord | None


@dataclass(frozen=True)
class BoxCards:
    """All copies of a box, the dearest first."""

    box: BoxRecord
    rows: tuple[CardRow, ...]


def box_cards(session: Session, bench: Workbench, box_id: int) -> BoxCards:
    """Read every copy of a box with what it is worth and where it should go."""
    box = get_box(session, box_id)
    record = box.format.product
    product, book = bench.product(session, record), bench.prices(session, record)
    rows = pulls_of(session, box_id)
    known = {copy.id: copy for copy in pulled_copies(product, rows)}
    gone, go = left_box(session, box_id), _routes(session, bench, record, rows, known)
    held = bases(session, [row.copy_id for row in rows]) if box.state == "closed" else {}
    found = []
    for row in rows:
        copy = known.get(row.id)
        label = product.section_by_key[row.section].label if row.section in product.section_by_key else ""
        found.append(
            CardRow(
                row=row,
                label=label,
                price=book.estimate(copy.card, copy.parallel, row.grade) if copy else None,
                cost=_cost(row, held),
                go=go.get(row.id, ""),
                grade=row.grade,
                gone=gone.get(row.copy_id),
            )
        )
    return BoxCards(box, tuple(sorted(found, key=lambda one: -(one.price.amount if one.price else 0.0))))


def _cost(row: PullRow, held: Mapping[int, Basis]) -> Money | None:
    """What a copy cost so far; nothing once it left, and nothing for another's."""
    basis = held.get(row.copy_id)
    return Money(basis.minor, basis.currency) if basis is not None and row.mine and row.state in PRESENT else None


def _routes(
    session: Session, bench: Workbench, record: ProductRecord, rows: Sequence[PullRow], known: Mapping[int, Pulled]
) -> dict[int, str]:
    """Route of each copy of mine that is here: the user's own, else its own, else that of its version."""
    mine = [row for row in rows if row.id in known and row.mine and row.state in PRESENT]
    looks = looks_at(session, [row.copy_id for row in mine])
    chosen, stored = said_of(session, [row.copy_id for row in mine])
    anew = [row for row in mine if row.copy_id in looks or row.grade or row.copy_id not in stored]
    copies = [(known[row.id].card, row.parallel, looks.get(row.copy_id), row.grade) for row in anew]
    judged = dict(zip((row.id for row in anew), kept_verdict(session, bench, record, copies), strict=True))
    return {
        row.id: chosen.get(row.copy_id)
        or (judged[row.id].go.value if row.id in judged else stored.get(row.copy_id, ""))
        for row in mine
    }


@dataclass(frozen=True, slots=True)
class AtOpening:
    """What the cards were worth on the day the box was closed (major units).

    Attributes
    ----------
    later : int
        Cards of which nothing had sold by then: they stand at what is known today.
    """

    day: date
    value: float
    later: int


def at_opening(session: Session, bench: Workbench, box: BoxRecord, pulled: Iterable[Pulled]) -> AtOpening | None:
    """Value the copies of a box by the sales until it was closed; None while it is open."""
    if box.closed_at is None:
        return None
    day, record = box.closed_at.date(), box.format.product
    model, later = bench.keep(
        ("prices of", record.id, record.revision, day), lambda: _model_of(session, bench, box, day)
    )
    copies = [copy for copy in pulled if copy.mine]
    value = sum(model.estimate(copy.card, copy.parallel).amount for copy in copies)
    unknown = sum((copy.card.section, copy.card.number, copy.parallel) in later for copy in copies)
    return AtOpening(day, value, unknown)


Version = tuple[str, str, str]


def _model_of(session: Session, bench: Workbench, box: BoxRecord, day: date) -> tuple[PriceModel, frozenset[Version]]:
    """Fit the price model to the sales until a day; versions that had none by then keep their later ones."""
    record = box.format.product
    by_version: dict[tuple[Version, str, str], list[PriceRow]] = defaultdict(list)
    for row in bench.price_rows(session, record):
        by_version[((row.section, row.number, row.parallel), row.grade, row.kind.value)].append(row)
    rows: list[PriceRow] = []
    later: set[Version] = set()
    for (version, grade, _), found in by_version.items():
        before = [row for row in found if row.sold_on is None or row.sold_on <= day]
        rows += before or found
        if not before and not grade:
            later.add(version)
    return PriceModel(bench.product(session, record), rows, day), frozenset(later)
