"""What the rip desk shows, shaped for its templates."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from botin.core.entry import Problem
from botin.core.product import Product
from botin.core.recap import LineSeen, lines_seen
from botin.desk.recap import pulled_copies
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.boxes import PullRow, pulls_of
from botin.store.models import BoxRecord


@dataclass(frozen=True, slots=True)
class Tile:
    """A card as a 5:7 tile."""

    row: PullRow
    section: str
    finish: str
    swatch: str
    hit: bool


@dataclass(frozen=True, slots=True)
class PackTile:
    """A pack of the strip: how full it is, and whether a hit lies in it."""

    number: int
    cards: int
    hits: int
    current: bool


@dataclass(frozen=True, slots=True)
class PromiseTally:
    """A promise over several lines: how many are in, how many are owed."""

    label: str
    seen: int
    owed: float
    per: str


@dataclass(frozen=True, slots=True)
class DeskView:
    """The whole rip desk."""

    box: BoxRecord
    pack: int
    tiles: tuple[Tile, ...]
    empty: int
    packs: tuple[PackTile, ...]
    toppers: int
    logged: int
    lines: tuple[LineSeen, ...]
    promises: tuple[PromiseTally, ...]
    form_key: str
    typed: str = ""
    problems: tuple[Problem, ...] = field(default=())
    said: str = ""


def desk_view(session: Session, bench: Workbench, box: BoxRecord, pack: int, form_key: str) -> DeskView:
    """Read everything the desk shows for the pack in hand."""
    record = box.format.product
    product = bench.product(session, record)
    model = bench.model(session, record, box.format.key)
    rows = pulls_of(session, box.id)
    copies = pulled_copies(product, rows)
    rule = load_settings(session).hit_rule()
    hits = {copy.id for copy in copies if rule.is_hit(copy.kind, copy.run)}
    seen, _ = lines_seen(model, copies)
    here = [row for row in rows if row.pack == pack]
    return DeskView(
        box=box,
        pack=pack,
        tiles=tuple(_tile(product, row, row.id in hits) for row in here),
        empty=max(0, box.format.cards_per_pack - len(here)) if pack else 0,
        packs=_packs(box, rows, hits, pack),
        toppers=sum(1 for row in rows if row.pack == 0),
        logged=len(rows),
        lines=tuple(line for line in seen if not line.line.is_rest),
        promises=_promises(seen, [(joint.row.label, joint.weights, joint.law.fixed) for joint in model.joint]),
        form_key=form_key,
    )


def _tile(product: Product, row: PullRow, hit: bool) -> Tile:
    card = product.card_by_number[(row.section, row.number)]
    finish = product.parallel_of(card, row.parallel) if row.parallel else None
    section = product.section_by_key[row.section].label
    return Tile(row, section, finish.label if finish else row.parallel, finish.swatch if finish else "", hit)


def _packs(box: BoxRecord, rows: list[PullRow], hits: set[int], current: int) -> tuple[PackTile, ...]:
    cards: dict[int, int] = defaultdict(int)
    found: dict[int, int] = defaultdict(int)
    for row in rows:
        cards[row.pack] += 1
        found[row.pack] += row.id in hits
    numbers = range(1, box.format.packs_per_box + 1)
    return tuple(PackTile(number, cards[number], found[number], number == current) for number in numbers)


def _promises(
    seen: tuple[LineSeen, ...], joint: list[tuple[str, dict[tuple[str, str, str], float], int]]
) -> tuple[PromiseTally, ...]:
    return tuple(
        PromiseTally(label, sum(row.seen for row in seen if row.line.key in weights), fixed, "box")
        for label, weights, fixed in joint
        if fixed
    )
