"""Sales as one looks at them: copies, the road with its days, the parcel, what happened beside it, what it left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.money import Money
from botin.core.selling.road import WORDS, Pace, Stop, StopWords, after, expected, is_late, road_of
from botin.desk.selling.changes import CLAIM
from botin.desk.selling.sealedgoods import words_of
from botin.store.models import BoxRecord
from botin.store.models_selling import ParcelRecord, SaleChangeRecord, SaleLineRecord, SaleRecord
from botin.store.selling.sales import (
    SoldCopy,
    boxes_of,
    buyers,
    changes_of,
    copies_with_cards,
    get_sale,
    lines_of,
    open_sales,
    parcels_of,
    sales_in,
    steps_of,
)

PACE = Pace()


@dataclass(frozen=True)
class SalePage:
    """A sale and everything about it."""

    record: SaleRecord
    buyer: str
    lines: tuple[SaleLineRecord, ...]
    copies: tuple[SoldCopy, ...]
    box: BoxRecord | None
    days: dict[Stop, date]
    parcel: ParcelRecord | None
    beside: tuple[SaleRecord, ...]
    changes: tuple[SaleChangeRecord, ...]

    @property
    def stop(self) -> Stop:
        """Where it stands."""
        return Stop(self.record.state)

    @property
    def words(self) -> StopWords:
        """What that is called, and what is to do."""
        return WORDS[self.stop]

    @property
    def stops(self) -> tuple[Stop, ...]:
        """Its road."""
        return road_of(checked=self.record.checked, by_hand=self.record.by_hand)

    @property
    def expected(self) -> dict[Stop, date]:
        """The day of each stop, as it was or as one may expect it."""
        return expected(self.stops, self.days, PACE)

    @property
    def way(self) -> tuple[tuple[Stop, str, date | None, bool], ...]:
        """Every stop with its name, its day as it was or is expected, and whether it is behind."""
        ahead, at = self.expected, self.stops.index(self.stop)
        return tuple((stop, WORDS[stop].name, ahead.get(stop), place <= at) for place, stop in enumerate(self.stops))

    @property
    def next(self) -> tuple[tuple[Stop, str], ...]:
        """Stops it may reach next, with what the button says."""
        return () if self.record.over else tuple((stop, WORDS[stop].button) for stop in after(self.stops, self.stop))

    def late(self, today: date) -> Stop | None:
        """Return the stop it should have reached by now."""
        return None if self.record.over else is_late(self.stops, self.stop, self.days, PACE, today)

    def feedback_missing(self, today: date) -> bool:
        """Whether the buyer has it for three weeks and said nothing."""
        there = self.days.get(Stop.THERE)
        return bool(
            there and not self.record.over and not self.record.feedback_got and (today - there).days >= PACE.feedback
        )

    @property
    def refunds(self) -> int:
        """What was given back (minor units)."""
        return sum(one.amount_minor for one in self.changes if one.kind != CLAIM)

    @property
    def claims(self) -> int:
        """What an insurance paid."""
        return sum(one.amount_minor for one in self.changes if one.kind == CLAIM)

    @property
    def postage(self) -> int:
        """Its part of postage and insurance of its parcel, by its price."""
        if self.parcel is None or self.parcel.sent_on is None:
            return 0
        total = self.parcel.postage_minor + self.parcel.insurance_minor
        prices = self.record.price_minor + sum(one.price_minor for one in self.beside)
        return round(total * self.record.price_minor / max(1, prices))

    @property
    def owed(self) -> int:
        """What the channel owes for it."""
        return self.record.price_minor + self.record.shipping_minor - self.record.fee_minor - self.refunds

    @property
    def net(self) -> int:
        """What it left."""
        return self.owed + self.claims - self.postage

    @property
    def title(self) -> str:
        """What was sold, in a few words."""
        if len(self.copies) == 1:
            return self.copies[0].words
        if self.box is not None:
            return words_of(self.box, self.record.packs)
        return f"{len(self.copies)} cards"

    @property
    def product(self) -> str:
        """Of what product it is; the first when it is of several."""
        if self.copies:
            return self.copies[0].product.name
        return self.box.format.product.name if self.box is not None else ""

    @property
    def paid_out(self) -> int:
        """What the channel paid out on its day, whatever was given back or taken back since (minor units)."""
        told = self.record.payout_minor
        return self.owed if told is None else told

    @property
    def money(self) -> Money:
        """Its price."""
        return Money(self.record.price_minor, self.record.currency)


def sale_pages(session: Session, records: Sequence[SaleRecord]) -> list[SalePage]:
    """Put sales together as one looks at them."""
    ids = [one.id for one in records]
    lines, steps, changes = lines_of(session, ids), steps_of(session, ids), changes_of(session, ids)
    cards = copies_with_cards(session, [line.copy_id for rows in lines.values() for line in rows])
    boxes = boxes_of(session, [one.box_id for one in records if one.box_id is not None])
    parcels = parcels_of(session, [one.parcel_id for one in records if one.parcel_id is not None])
    names = buyers(session)
    return [
        SalePage(
            record=one,
            buyer=names.get(one.buyer_id or 0, ""),
            lines=tuple(lines[one.id]),
            copies=tuple(cards[line.copy_id] for line in lines[one.id] if line.copy_id in cards),
            box=boxes.get(one.box_id or 0),
            days={Stop(step.state): step.day for step in steps[one.id]},
            parcel=parcels.get(one.parcel_id or 0),
            beside=tuple(other for other in sales_in(session, one.parcel_id) if other.id != one.id)
            if one.parcel_id
            else (),
            changes=tuple(changes[one.id]),
        )
        for one in records
    ]


def sale_page(session: Session, sale_id: int) -> SalePage:
    """Read one sale.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    return sale_pages(session, [get_sale(session, sale_id)])[0]


def under_way(session: Session) -> list[SalePage]:
    """Return the sales that are under way."""
    return sale_pages(session, open_sales(session))
