"""The rest of a recap: luck line by line and in one figure, claims, doubles, who and what came, what left since."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise

from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.books.results import Result
from botin.core.catalog.product import Product
from botin.core.insight.luck import Claim, LineLuck, claims, line_luck
from botin.core.insight.recap import Pulled
from botin.core.money import Money
from botin.core.odds.lines import BoxModel
from botin.core.opening.owedcase import case_claims
from botin.core.pricing.valuecurve import ValueCurve, mid_percentile
from botin.desk.boxlogs import BoxLog, box_logs
from botin.desk.buying.myboxes import MyBox, value_boxes
from botin.desk.buying.prepared import Valuation, prepared
from botin.desk.odds.learnedmodel import learned_model
from botin.desk.odds.learning import measured_repeats
from botin.desk.opened import opened_packs
from botin.desk.opening.state import case_seen
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.books.postings import results_by_box
from botin.store.models import BoxRecord, ProductRecord
from botin.store.opening.boxes import pulls_of


@dataclass(frozen=True)
class Luck:
    """How the value of some boxes stands on its own curve.

    Attributes
    ----------
    percentile : float
        0.5 is neither lucky nor unlucky.
    low, high : float or None
        8 of 10 such boxes lie between these (one box only).
    """

    percentile: float
    low: float | None = None
    high: float | None = None

    @property
    def words(self) -> str:
        """The figure in words."""
        share = 100 * self.percentile
        if share >= 50:
            return f"luckier than {share:.0f} in 100"
        return f"unluckier than {100 - share:.0f} in 100"


@dataclass(frozen=True)
class BoxMore:
    """Everything beside the money of one box."""

    lines: tuple[LineLuck, ...]
    claims: tuple[Claim, ...]
    luck: Luck | None
    doubles: tuple[tuple[str, str, int], ...]
    kinds: tuple[tuple[str, int], ...]
    rookies: tuple[tuple[str, int], ...]
    groups: tuple[tuple[str, int], ...]
    teams: tuple[tuple[str, int], ...]
    sold: tuple[int, Money, Money]
    minutes: float | None


def box_more(session: Session, bench: Workbench, box: BoxRecord, pulled: Sequence[Pulled], value: float) -> BoxMore:
    """Work out the rest of a box's recap."""
    record = box.format.product
    product = bench.product(session, record)
    model = learned_model(session, bench, record, box.format.key)
    counts: Counter[tuple[str, str, str]] = Counter()
    for copy in pulled:
        line = model.line_of(copy.card, copy.parallel)
        if line is not None:
            counts[line.key] += 1
    found = opened_packs(session, box)
    opened = found if found < model.format.fewest_packs else None
    rows = pulls_of(session, box.id)
    cards = [(row.section, row.number, row.parallel) for row in rows]
    strange = sum(1 for row in rows if row.section not in product.section_by_key)
    mine = [copy for copy in pulled if copy.mine]
    curve = curve_of(session, bench, record, box.format.key, value)
    luck = Luck(mid_percentile([curve], value), curve.quantile(0.1), curve.quantile(0.9)) if value else None
    return BoxMore(
        lines=line_luck(model, counts, opened=opened),
        claims=(
            *claims(model, counts, opened=opened, cards=cards, unlisted=strange),
            *_case_claims(session, bench, box, product, model),
        ),
        luck=luck,
        doubles=_doubles(mine),
        kinds=_counted(product.section_by_key[copy.card.section].label for copy in mine),
        rookies=_counted(copy.card.rookie for copy in mine if copy.card.rookie),
        groups=_counted(copy.card.group for copy in mine if copy.card.group),
        teams=_counted(team for copy in mine for team in copy.card.teams),
        sold=_sold(session, box),
        minutes=_minutes(session, box),
    )


def _case_claims(
    session: Session, bench: Workbench, box: BoxRecord, product: Product, model: BoxModel
) -> tuple[Claim, ...]:
    """What the whole case of a box promised and did not hold."""
    return case_claims(product, model, *case_seen(session, bench, box, product)) if box.case_label else ()


def curve_of(session: Session, bench: Workbench, record: ProductRecord, fmt: str, reach: float) -> ValueCurve:
    """Return the value curve of one box, with the repeats that the logs show."""
    measured = measured_repeats(session, bench, record, fmt)
    repeats = f"{measured.factor:.4f}" if measured else "independent"
    settings = load_settings(session)
    return prepared(session, bench, record, Valuation(fmt, repeats=repeats), settings).curve(reach)


def _doubles(pulled: Sequence[Pulled]) -> tuple[tuple[str, str, int], ...]:
    times = Counter((copy.card.number, copy.card.name, copy.parallel, copy.card.section) for copy in pulled)
    rows = (
        (f"{number} {name}", parallel, count) for (number, name, parallel, _), count in times.items() if count > 1
    )
    return tuple(sorted(rows, key=lambda row: (-row[2], row[0])))


def _counted(words: Iterable[str]) -> tuple[tuple[str, int], ...]:
    return tuple(Counter(words).most_common(40))


def _sold(session: Session, box: BoxRecord) -> tuple[int, Money, Money]:
    """Copies of the box that left, what they sold for, and what that cost."""
    rows = [row for row in pulls_of(session, box.id) if row.mine and row.state in ("sold", "gone")]
    sums = results_by_box(session, [box.id]).get(box.id, [])
    own = next((one for one in sums if one.currency == box.currency), Result(box.currency))
    price, costs = -own.of([Account.SALES]), own.of([Account.FEES, Account.POSTAGE], "sale")
    return len(rows), Money(price, box.currency), Money(costs, box.currency)


def _minutes(session: Session, box: BoxRecord) -> float | None:
    """Minutes from the first to the last card logged, without pauses of more than ten minutes."""
    times = sorted(row.logged_at for row in pulls_of(session, box.id))
    if len(times) < 2:
        return None
    gaps = [(after - before).total_seconds() for before, after in pairwise(times)]
    return sum(gap for gap in gaps if gap <= 600) / 60


@dataclass(frozen=True)
class Row:
    """One box in a table of boxes."""

    box: MyBox
    product: str
    product_id: int
    format: str
    currency: str
    closed_on: date | None
    percentile: float


@dataclass(frozen=True, slots=True)
class Sum:
    """Boxes in one currency together, as in `MyBox`."""

    currency: str
    cost: float
    value: float
    here: float
    brought: float
    result: float


@dataclass(frozen=True)
class Period:
    """Boxes of a product, a purchase or a year, with their sums by currency and one figure of luck."""

    name: str
    rows: tuple[Row, ...]
    sums: tuple[Sum, ...]
    luck: Luck | None


def period(session: Session, bench: Workbench, name: str, boxes: Sequence[BoxRecord]) -> Period:
    """Add up some closed boxes: cost, value, luck of each and of all together, at today's prices."""
    by_product: dict[int, list[BoxRecord]] = defaultdict(list)
    for box in boxes:
        by_product[box.format.product_id].append(box)
    rows: list[Row] = []
    pooled: list[ValueCurve] = []
    results = results_by_box(session, [box.id for box in boxes])
    for product_id, some in by_product.items():
        record = bench.record(session, product_id)
        valued = {row.id: row for row in value_boxes(session, bench, record, some, results)}
        formats = Counter(box.format.key for box in some)
        for box in some:
            mine = valued[box.id]
            curve = curve_of(session, bench, record, box.format.key, mine.value)
            closed = box.closed_at.date() if box.closed_at else None
            place = mid_percentile([curve], mine.value)
            rows.append(
                Row(
                    box=mine, product=record.name, product_id=record.id, format=box.format.label,
                    currency=box.currency, closed_on=closed, percentile=place,
                )
            )  # fmt: skip
        for fmt, count in formats.items():
            pooled.append(many_boxes(session, bench, record, fmt, count))
    total = sum(row.box.value for row in rows)
    luck = Luck(mid_percentile(pooled, total)) if rows else None
    ordered = tuple(sorted(rows, key=lambda row: (row.closed_on or date.min, row.box.id), reverse=True))
    return Period(name, ordered, _sums(rows), luck)


def many_boxes(session: Session, bench: Workbench, record: ProductRecord, fmt: str, count: int) -> ValueCurve:
    """Return the curve of several boxes of a format."""
    measured = measured_repeats(session, bench, record, fmt)
    repeats = f"{measured.factor:.4f}" if measured else "independent"
    ready = prepared(session, bench, record, Valuation(fmt, repeats=repeats), load_settings(session))
    return ready.curve(0.0, count)


def _sums(rows: Sequence[Row]) -> tuple[Sum, ...]:
    found: dict[str, list[MyBox]] = defaultdict(list)
    for row in rows:
        found[row.currency].append(row.box)
    return tuple(
        Sum(
            code,
            *(sum(getattr(box, name) for box in boxes) for name in ("cost", "value", "here", "brought", "result")),
        )
        for code, boxes in sorted(found.items())
    )


@dataclass(frozen=True)
class Told:
    """What the logs of some boxes say, for comparing them side by side."""

    log: BoxLog
    lines: dict[tuple[str, str, str], int]
    distinct: int
    cards: int


def told(session: Session, bench: Workbench, box: BoxRecord) -> Told | None:
    """Return the counts of one box by line."""
    record = box.format.product
    product: Product = bench.product(session, record)
    log = next((row for row in box_logs(session, bench, record) if row.id == box.id), None)
    if log is None:
        return None
    model = bench.model(session, record, box.format.key)
    numbers = {(section, number) for _, section, number, parallel in log.copies if not parallel}
    return Told(log, dict(log.line_counts(model, product)), len(numbers), len(log.copies))
