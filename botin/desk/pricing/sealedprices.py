"""What sealed boxes, packs and empty boxes sell for."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.pricing.compline import SEALED
from botin.core.pricing.comps import CompEstimate, comp_estimate
from botin.core.pricing.prices import PriceRow
from botin.desk.workbench import Workbench
from botin.store.catalog.lists import revision_sum
from botin.store.models import ProductRecord
from botin.store.pricing.prices import products_priced_as


def sealed_values(session: Session, bench: Workbench) -> dict[tuple[int, str], CompEstimate]:
    """Return what sealed boxes sell for, by product and format key; kept until a price changes."""
    stamp = revision_sum(session)

    def make() -> dict[tuple[int, str], CompEstimate]:
        values = {}
        for product_id in products_priced_as(session, SEALED):
            for row in sealed_prices(session, bench, bench.record(session, product_id)):
                if row.what == "box":
                    values[(product_id, row.format)] = row.estimate
        return values

    return bench.keep(("sealed values", stamp, bench.today()), make)


@dataclass(frozen=True, slots=True)
class SealedPrice:
    """What a sealed box, pack or empty box of a format sells for."""

    format: str
    what: str
    estimate: CompEstimate


def sealed_prices(session: Session, bench: Workbench, record: ProductRecord) -> tuple[SealedPrice, ...]:
    """Return the sealed prices of a product."""
    rows: dict[tuple[str, str], list[PriceRow]] = {}
    for row in bench.price_rows(session, record):
        if row.section.startswith(SEALED):
            rows.setdefault((row.section.removeprefix(SEALED), row.parallel), []).append(row)
    found = ((key, comp_estimate(group, bench.today())) for key, group in rows.items())
    return tuple(SealedPrice(fmt, what or "box", estimate) for (fmt, what), estimate in found if estimate)
