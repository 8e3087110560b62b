"""How far a box is opened: packs of which something is known, and base that was counted and not typed."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from sqlalchemy.orm import Session

from botin.core.buying.cost import Cost
from botin.core.money import Money
from botin.store.models import BoxRecord
from botin.store.once import once
from botin.store.opening.boxes import pulls_of
from botin.store.opening.packs import counts_by_pack


def opened_packs(session: Session, box: BoxRecord) -> int:
    """Packs of a box of which something is known; in a stack as many as its cards fill."""
    rows = pulls_of(session, box.id)
    return packs_known(box, [row.pack for row in rows], counted_packs(session, [box.id]).get(box.id, {}))


def counted_packs(session: Session, boxes: Collection[int]) -> dict[int, dict[int, int]]:
    """Return base that was counted and not typed: by box, then by pack."""
    return once(session, ("counted", tuple(boxes)), lambda: counts_by_pack(session, boxes))


def packs_known(box: BoxRecord, packs: Sequence[int | None], counted: Mapping[int, int]) -> int:
    """Packs of which something is known, from the pack of every copy and the base that was counted.

    Of a box of which only hits were logged, packs without one leave no trace: closed with nothing left over and no
    base counted, it was opened whole.
    """
    if box.mode == "hits" and box.state == "closed" and not box.rest and not counted and packs:
        return box.format.packs_per_box
    most = int(box.format.packs_range.partition("-")[2] or box.format.packs_per_box)
    if box.stacked:
        return min(most, -(-(len(packs) + sum(counted.values())) // box.format.cards_per_pack))
    return min(most, len({pack for pack in packs if pack} | counted.keys()))


def counted_base(session: Session, box_id: int) -> int:
    """Base cards of a box that were counted and not typed."""
    return sum(counted_packs(session, [box_id]).get(box_id, {}).values())


def box_cost(box: BoxRecord) -> Cost:
    """Return what was paid for a box."""
    parts = (box.price_minor, box.shipping_minor, box.tax_minor)
    return Cost(*(Money(minor, box.currency) for minor in parts))
