"""Every card of a box with its worth, its share of the cost and its route; what all were worth when it was closed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.copycost import CostRule
from botin.core.money import Money
from botin.core.pricemodel import PriceModel
from botin.core.prices import Estimate, PriceRow
from botin.core.recap import Pulled
from botin.desk.copies import pull_cost
from botin.desk.recap import pulled_copies
from botin.desk.routing import kept_verdict, looks_at
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.boxes import PullRow, get_box, pulls_of
from botin.store.graded import grades_of
from botin.store.models import BoxRecord, ProductRecord, PullRecord
from botin.store.models_copies import DepartureRecord, GradingCopyRecord, VerdictRecord


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
    gone: DepartureRecord | None


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
    settings, rows = load_settings(session), pulls_of(session, box_id)
    rule = CostRule(settings.cost_rule) if settings.cost_rule in set(CostRule) else CostRule.BY_VALUE
    known = {copy.id: copy for copy in pulled_copies(product, rows)}
    gone, grades, go = _gone(session, box_id), grades_of(session, list(known)), _routes(session, bench, record, known)
    found = []
    for row in rows:
        copy = known.get(row.id)
        label = product.section_by_key[row.section].label if row.section in product.section_by_key else ""
        found.append(
            CardRow(
                row,
                label,
                book.estimate(copy.card, copy.parallel) if copy else None,
                pull_cost(session, bench, box, row.id, rule),
                go.get(row.id, ""),
                grades.get(row.id, ""),
                gone.get(row.id),
            )
        )
    return BoxCards(box, tuple(sorted(found, key=lambda one: -(one.price.amount if one.price else 0.0))))


def _routes(session: Session, bench: Workbench, record: ProductRecord, known: dict[int, Pulled]) -> dict[int, str]:
    """Route of each copy: the user's own, else that of the copy as it was looked at, else that of its version."""
    v, p = VerdictRecord, PullRecord
    rows = session.execute(
        select(p.id, v.chosen, v.go)
        .join(v, (v.card_id == p.card_id) & (v.parallel == p.parallel))
        .where(p.id.in_(list(known)))
    )
    stored = {pull: (chosen, go) for pull, chosen, go in rows}
    looks = looks_at(session, list(known))
    anew = [pull for pull in known if pull in looks or pull not in stored]
    copies = [(known[pull].card, known[pull].parallel, looks.get(pull)) for pull in anew]
    judged = dict(zip(anew, kept_verdict(session, bench, record, copies), strict=True))
    found = {}
    for pull in known:
        chosen, go = stored.get(pull, ("", ""))
        found[pull] = chosen or (judged[pull].go.value if pull in judged else go)
    return found


def _gone(session: Session, box_id: int) -> dict[int, DepartureRecord]:
    d = DepartureRecord
    rows = session.scalars(
        select(d)
        .join(PullRecord, PullRecord.id == d.pull_id)
        .where(PullRecord.box_id == box_id, d.undone_at.is_(None))
    )
    return {row.pull_id or 0: row for row in rows}


def graded_since(session: Session, box_id: int) -> tuple[int, tuple[str, ...]]:
    """Return how many copies of a box are out for grading, and the grades that came back."""
    g, p = GradingCopyRecord, PullRecord
    rows = session.execute(
        select(g.back_on, g.grade_halves).join(p, p.id == g.pull_id).where(p.box_id == box_id).order_by(g.id)
    ).all()
    back = tuple(f"{halves / 2:g}" for _, halves in rows if halves is not None)
    return sum(1 for day, _ in rows if day is None), back


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
    copies = list(pulled)
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
