"""Boxes that are still sealed: what selling them unopened nets, against what opening them gives on average."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from botin.core.money import Money, exponent
from botin.core.pricing.priced import mean_of
from botin.desk.buying.prepared import Valuation, prepared
from botin.desk.fees import sale_costs
from botin.desk.pricing.sealedprices import sealed_values
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord
from botin.store.opening.boxes import boxes_in_state

MOST = 500


@dataclass(frozen=True, slots=True)
class SealedRoute:
    """Sealed boxes of one format (major units, a box).

    Attributes
    ----------
    paid : float
        What they cost on average.
    sold : float or None
        What selling one unopened nets; None while no sealed price is known.
    ripped : float
        What the cards of one net on average.
    """

    product_id: int
    product: str
    format_key: str
    format: str
    boxes: int
    currency: str
    paid: float
    sold: float | None
    ripped: float

    @property
    def go(self) -> str:
        """The better route in words."""
        if self.sold is None:
            return "no sealed price"
        return "sell sealed" if self.sold > self.ripped else "rip"


def sealed_ways(session: Session, bench: Workbench) -> tuple[SealedRoute, ...]:
    """Work out the routes of all sealed boxes, format by format."""
    grouped: dict[int, list[BoxRecord]] = defaultdict(list)
    for box in boxes_in_state(session, "sealed", MOST):
        grouped[box.format_id].append(box)
    settings = load_settings(session)
    costs, sales = sale_costs(session, bench.today(), settings), sealed_values(session, bench)

    def route(some: list[BoxRecord]) -> SealedRoute:
        fmt = some[0].format
        ready = prepared(session, bench, fmt.product, Valuation(fmt.key, net=True), settings)
        estimate = sales.get((fmt.product.id, fmt.key))
        return _route(
            some,
            replace(costs, places=exponent(fmt.product.currency)).net(estimate.amount) if estimate else None,
            mean_of(ready.box),
        )

    return tuple(route(some) for some in grouped.values())


def _route(boxes: list[BoxRecord], sold: float | None, ripped: float) -> SealedRoute:
    fmt = boxes[0].format
    record = fmt.product
    paid = sum(Money(box.price_minor + box.shipping_minor + box.tax_minor, box.currency).major for box in boxes)
    return SealedRoute(
        product_id=record.id,
        product=record.name,
        format_key=fmt.key,
        format=fmt.label,
        boxes=len(boxes),
        currency=record.currency,
        paid=paid / len(boxes),
        sold=sold,
        ripped=ripped,
    )
