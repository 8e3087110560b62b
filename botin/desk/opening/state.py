"""How an opening stands: what came, what is owed, what it is worth so far, what waits in the trays."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from sqlalchemy.orm import Session

from botin.core.catalog.holders import holder, millimetres, thickness
from botin.core.catalog.product import Card, Kind, Product
from botin.core.insight.recap import Pulled, lines_seen
from botin.core.odds.lines import BoxModel
from botin.core.odds.rowrates import LineKey
from botin.core.opening.entrywords import Details
from botin.core.opening.owed import EACH, EVENED, Owed, School, owed_lines
from botin.core.opening.owedcase import owed_case
from botin.desk.odds.learnedmodel import learned_model
from botin.desk.opened import box_cost, counted_packs, packs_known
from botin.desk.pulled import pulled_copies
from botin.desk.settings import Settings, load_settings
from botin.desk.workbench import Workbench
from botin.store.copies.copies import owned_counts
from botin.store.models import BoxPackRecord, BoxRecord, ProductRecord
from botin.store.opening.boxes import PullRow, pulls_of
from botin.store.opening.packs import opened_of_case, pack_rows

RARE = (Kind.SHORT_PRINT, Kind.VARIATION)


@dataclass(frozen=True, slots=True)
class Copy:
    """A logged copy as the desk shows it.

    Attributes
    ----------
    alerts : tuple of str
        What to do or notice at once: sleeve it, short print, needed, chase.
    """

    row: PullRow
    section: str
    kind: Kind | None
    finish: str
    swatch: str
    hit: bool
    rare: bool
    price: float
    details: Details
    alerts: tuple[str, ...] = ()
    line: LineKey | None = None


@dataclass(frozen=True, slots=True)
class PackFacts:
    """A pack: its copies, base that was only counted, and what is written down of it."""

    number: int
    copies: tuple[Copy, ...]
    base_count: int | None
    flags: tuple[str, ...]
    owner: str
    note: str
    product_id: int | None

    @property
    def cards(self) -> int:
        """Cards in it, logged or counted."""
        return len(self.copies) + (self.base_count or 0)

    @property
    def opened(self) -> bool:
        """Whether anything of it is known."""
        return bool(self.copies) or self.base_count is not None


@dataclass(frozen=True)
class RipState:
    """The whole opening."""

    box: BoxRecord
    product: Product
    packs: tuple[PackFacts, ...]
    outside: PackFacts
    owed: tuple[Owed, ...]
    owed_case: tuple[Owed, ...]
    school: School
    value: float
    cost: float
    best: Copy | None
    unsure: tuple[Copy, ...]
    unlisted: tuple[Copy, ...]
    settings: Settings
    others: dict[int, Product] = field(default_factory=dict)

    @property
    def logged(self) -> int:
        """Cards known, logged or counted."""
        return sum(pack.cards for pack in self.packs) + self.outside.cards

    @property
    def left(self) -> int:
        """Packs of which nothing is known yet."""
        return packs_left(self.box, self.packs)


def packs_left(box: BoxRecord, packs: Sequence[PackFacts]) -> int:
    """Return the packs of which nothing is known; in a stack without packs, what its cards leave of the box."""
    if not box.stacked:
        return sum(1 for pack in packs if not pack.opened)
    size = box.format.cards_per_pack
    return max(0, box.format.packs_per_box - -(-sum(pack.cards for pack in packs) // size))


def in_hand(row: PullRow) -> tuple[str, str, str]:
    """Return a logged card as promises count it: by section and finish, listed or not."""
    return (row.section, row.number, row.parallel)


def rip_state(session: Session, bench: Workbench, box: BoxRecord) -> RipState:
    """Work out how an opening stands, with today's prices."""
    record = box.format.product
    product = bench.product(session, record)
    model = learned_model(session, bench, record, box.format.key)
    settings, rows = load_settings(session), pulls_of(session, box.id)
    facts = pack_rows(session, box.id)
    others = _others(session, bench, rows, record)
    copies = _copies(session, bench, box, {record.id: product, **others}, rows, settings)
    packs = _packs(box, copies, facts)
    seen = Counter(copy.line for copy in copies if copy.line is not None)
    school: School = EVENED if settings.school == EVENED else EACH
    left = packs_left(box, packs[1:])
    return RipState(
        box=box,
        product=product,
        packs=tuple(packs[1:]),
        outside=packs[0],
        owed=owed_lines(model, seen, left, school=school, cards=[in_hand(copy.row) for copy in copies]),
        owed_case=owed_case(product, model, *case_seen(session, bench, box, product)) if box.case_label else (),
        school=school,
        value=sum(copy.price for copy in copies),
        cost=box_cost(box).total.major,
        best=max(copies, key=lambda copy: copy.price, default=None),
        unsure=tuple(copy for copy in copies if copy.row.candidates),
        unlisted=tuple(copy for copy in copies if copy.row.unlisted),
        settings=settings,
        others=others,
    )


def _copies(
    session: Session,
    bench: Workbench,
    box: BoxRecord,
    products: dict[int, Product],
    rows: Sequence[PullRow],
    settings: Settings,
) -> list[Copy]:
    """Return the rows as copies; what was worked out for a row before is kept, so that a card costs only itself."""
    record = box.format.product
    state = ("copies", box.id, record.id, record.revision, bench.today(), settings)
    known: dict[PullRow, Copy] = bench.keep(state, dict)
    for row in rows:
        if row not in known:
            own = products[row.product_id or record.id]
            made = _copy(session, bench, record, own, row, settings)
            known[row] = replace(made, line=_line_of(bench, session, box, own, row))
    return [known[row] for row in rows]


def _line_of(bench: Workbench, session: Session, box: BoxRecord, product: Product, row: PullRow) -> LineKey | None:
    """Return the line of the box's own format that a copy belongs to."""
    card = product.card_by_number.get((row.section, row.number))
    if card is None or row.product_id != box.format.product_id:
        return None
    line = bench.model(session, box.format.product, box.format.key).line_of(card, row.parallel)
    return line.key if line else None


def _others(session: Session, bench: Workbench, rows: Sequence[PullRow], record: ProductRecord) -> dict[int, Product]:
    """Products of a mixed box beside its own."""
    wanted = {row.product_id for row in rows if row.product_id not in (None, record.id)}
    return {key: bench.product(session, session.get_one(ProductRecord, key)) for key in wanted if key is not None}


def _copy(
    session: Session, bench: Workbench, record: ProductRecord, product: Product, row: PullRow, settings: Settings
) -> Copy:
    details = Details.from_dict(json.loads(row.details)) if row.details else Details()
    card = product.card_by_number.get((row.section, row.number))
    if card is None:
        return Copy(row, "not on the checklist", None, "", "", hit=False, rare=False, price=0.0, details=details)
    section = product.section_by_key[card.section]
    finish = product.parallel_of(card, row.parallel) if row.parallel else None
    run = row.run or (product.run_of(finish) if finish else None)
    own = record if row.product_id == record.id else session.get_one(ProductRecord, row.product_id)
    price = bench.prices(session, own).estimate(card, row.parallel).amount
    return Copy(
        row, section.label, section.kind, finish.label if finish else row.parallel, finish.swatch if finish else "",
        hit=settings.hit_rule().is_hit(section.kind, run), rare=section.kind in RARE, price=price, details=details,
        alerts=tuple(_alerts(card, section.kind, price, settings)),
    )  # fmt: skip


def _alerts(card: Card, kind: Kind, price: float, settings: Settings) -> list[str]:
    """What the desk calls out as the card is logged."""
    found = []
    if settings.chases(card):
        found.append("chase")
    if settings.collects(card):
        found.append("yours to keep")
    if kind in RARE:
        found.append("variation" if kind is Kind.VARIATION else "short print")
    points = thickness(kind)
    if price >= settings.sleeve_from or points > HOLDER_FROM:
        size = holder(points)
        thick = f", holder {size} pt ({millimetres(size):.1f} mm)" if size and points > HOLDER_FROM else ""
        found.append(f"sleeve it{thick}")
    return found


HOLDER_FROM = 35
"""Cards thicker than this (points) want a wider holder."""


def _packs(box: BoxRecord, copies: Sequence[Copy], facts: Sequence[BoxPackRecord]) -> list[PackFacts]:
    inside: dict[int, list[Copy]] = {}
    for copy in copies:
        inside.setdefault(copy.row.pack, []).append(copy)
    known = {row.number: row for row in facts}
    made = []
    for number in range(box.format.packs_per_box + 1):
        row = known.get(number)
        made.append(
            PackFacts(
                number=number,
                copies=tuple(inside.get(number, ())),
                base_count=row.base_count if row else None,
                flags=tuple(part for part in row.flags.split(";") if part) if row else (),
                owner=row.owner if row else "",
                note=row.note if row else "",
                product_id=row.product_id if row else None,
            )
        )
    return made


def _seen(model: BoxModel, pulled: Sequence[Pulled]) -> dict[LineKey, int]:
    lines, _ = lines_seen(model, pulled)
    return {line.line.key: line.seen for line in lines}


def case_seen(session: Session, bench: Workbench, box: BoxRecord, product: Product) -> tuple[dict[LineKey, int], int]:
    """Cards seen by line, and packs opened, over the boxes of a case that are known."""
    seen: Counter[LineKey] = Counter()
    opened = 0
    model = bench.model(session, box.format.product, box.format.key)
    for other in opened_of_case(session, box.case_label, box.format_id):
        rows = pulls_of(session, other.id)
        seen.update(_seen(model, pulled_copies(product, rows)))
        opened += packs_known(other, [row.pack for row in rows], counted_packs(session, [other.id]).get(other.id, {}))
    return dict(seen), opened


def already_owned(session: Session, copies: Sequence[Copy]) -> dict[int, int]:
    """How many copies of each card of these are mine and have not left, these included."""
    return owned_counts(session, [copy.row.card_id for copy in copies if copy.row.card_id is not None])
