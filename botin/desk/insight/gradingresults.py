"""What grading brought: by card, by order and by box, held against what was expected."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.grading.outcome import Came, Outcome
from botin.core.money import Money, exponent
from botin.core.selling.costs import SaleCosts
from botin.desk.books.booking import cost_of
from botin.desk.fees import sale_costs
from botin.desk.grading.back import REFUSED
from botin.desk.grading.orders import Order, OrderCopy, orders
from botin.desk.workbench import Workbench
from botin.store.copies.left import left_copies
from botin.store.models import BoxRecord
from botin.store.models_copies import PRESENT, DisposalRecord
from botin.store.opening.boxes import PullRow, get_box, pulls_of

SELL, KEEP, CROSS, BACK_TO_IT, AS_RAW = (
    "sell it", "keep it", "look at a cross over", "send it back for a new label", "sell it as a raw card",
)  # fmt: skip
CLOSE = 0.03
"""What a grade adds beyond raw, as a share, below which a slab is no better sold than kept."""


@dataclass(frozen=True)
class CameCard:
    """A copy of mine that came back: its line, what came of it, and what to do next."""

    copy: OrderCopy
    came: Came
    next: str
    sold: bool = False
    box: int | None = None


@dataclass(frozen=True)
class OrderResult:
    """An order of which copies are back."""

    order: Order
    cards: tuple[CameCard, ...]

    @property
    def outcome(self) -> Outcome:
        """All of it together."""
        return Outcome(tuple(card.came for card in self.cards))


@dataclass(frozen=True)
class BoxResult:
    """A box some of whose cards were sent: what went in, what it stands at, and what it would without grading.

    All amounts in major units of the box's currency; ``here`` is what lies here at today's prices, selling paid.
    """

    box: BoxRecord
    name: str
    paid: float
    sold: float
    here: float
    outcome: Outcome
    cards: int

    @property
    def after(self) -> float:
        """Made or lost so far, grading in it."""
        return self.sold + self.here - self.paid - self.outcome.cost

    @property
    def before(self) -> float:
        """What it would be had nothing been sent."""
        return self.after - self.outcome.made

    @property
    def pays(self) -> bool:
        """Whether sending those cards paid."""
        return self.outcome.made > 0


@dataclass(frozen=True)
class Results:
    """Everything that came back, in one currency."""

    orders: tuple[OrderResult, ...]
    boxes: tuple[BoxResult, ...]
    currency: str

    @property
    def outcome(self) -> Outcome:
        """All orders together."""
        return Outcome(tuple(card.came for one in self.orders for card in one.cards))


def results(session: Session, bench: Workbench) -> Results:
    """Hold all orders that came back against what was expected, in the currency most of them are kept in."""
    found = [_order(session, bench, one) for one in orders(session, 200)]
    found = [one for one in found if one.cards]
    codes = [one.order.record.currency for one in found]
    code = max(set(codes), key=codes.count) if codes else "EUR"
    mine = tuple(one for one in found if one.order.record.currency == code)
    by_box: dict[int, list[CameCard]] = {}
    for card in (card for one in mine for card in one.cards):
        if card.box is not None:
            by_box.setdefault(card.box, []).append(card)
    boxes = [_box(session, bench, box, cards) for box, cards in by_box.items()]
    return Results(mine, tuple(sorted(boxes, key=lambda one: -abs(one.outcome.made))), code)


def order_result(session: Session, bench: Workbench, order: Order) -> OrderResult:
    """Hold one order against what was expected."""
    return _order(session, bench, order)


def _order(session: Session, bench: Workbench, order: Order) -> OrderResult:
    back = [copy for copy in order.copies if copy.back_on is not None and copy.mine]
    gone = left_copies(session, [copy.copy_id for copy in back])
    return OrderResult(order, tuple(_card(session, bench, order, copy, gone.get(copy.copy_id)) for copy in back))


class Prices:
    """What copies of a product leave when they are sold, by grade."""

    def __init__(self, session: Session, bench: Workbench, product_id: int, currency: str) -> None:
        record = bench.record(session, product_id)
        self.book, self.product = bench.prices(session, record), bench.product(session, record)
        self.costs: SaleCosts = sale_costs(session, bench.today())
        self.places = exponent(currency)

    def left(self, card: Card, parallel: str, grade: str = "") -> float:
        """Return what a copy leaves sold today, costs paid (major units)."""
        return self.net(self.book.estimate(card, parallel, grade).amount)

    def net(self, price: float) -> float:
        """Return what a price leaves."""
        return max(float(self.costs.single(np.array([price]))[0]), self.costs.bulk_each) if price > 0 else 0.0


def _card(session: Session, bench: Workbench, order: Order, copy: OrderCopy, gone: DisposalRecord | None) -> CameCard:
    form = copy.form
    prices = Prices(session, bench, form.product.id, order.record.currency)
    card = prices.product.card_by_number[(form.section, form.card.number)]
    raw = prices.left(card, copy.parallel)
    sold = gone is not None and gone.went == "sold"
    now = prices.left(card, copy.parallel, copy.grade)
    came = Money(gone.price_minor - gone.costs_minor, gone.currency).major if gone and sold else now
    told = copy.forecast
    chances = {float(grade): float(share) for grade, share in (told.get("chances") or {}).items()}
    values = {float(grade): float(value) for grade, value in (told.get("values") or {}).items()}
    hopes = [(share, prices.net(values.get(grade, 0.0))) for grade, share in chances.items()]
    found = Came(
        grade=float(copy.grade) if copy.grade else None,
        raw=raw,
        came=came if gone is None or sold else 0.0,
        cost=Money(copy.part, order.record.currency).major,
        expected=sum(share * net for share, net in hopes) / sum(chances.values()) if values and chances else None,
        chances=chances,
        again=_again(hopes, now, sum(chances.values())),
    )
    return CameCard(copy, found, _next(copy, found, gone), sold, form.copy.box_id)


def _again(hopes: Sequence[tuple[float, float]], now: float, total: float) -> float:
    """What another house would add on average, by the same chances, when it keeps its hands off a lower grade."""
    return sum(share * max(0.0, net - now) for share, net in hopes) / total if total else 0.0


def _next(copy: OrderCopy, came: Came, gone: DisposalRecord | None) -> str:
    """Say what to do next with a card that came back."""
    if gone is not None:
        return gone.went
    if copy.outcome == "wrong label":
        return BACK_TO_IT
    if came.grade is None:
        return AS_RAW if copy.outcome == REFUSED else "keep it: what was altered hardly sells"
    if came.again > came.cost:
        return CROSS
    return SELL if came.came > came.raw * (1 + CLOSE) else KEEP


def _box(session: Session, bench: Workbench, box_id: int, cards: Sequence[CameCard]) -> BoxResult:
    box = get_box(session, box_id)
    rows = [row for row in pulls_of(session, box_id) if row.mine]
    gone = left_copies(session, [row.copy_id for row in rows])
    sold = sum(
        Money(one.price_minor - one.costs_minor, one.currency).major for one in gone.values() if one.went == "sold"
    )
    return BoxResult(
        box=box,
        name=f"{box.format.product.name} {box.format.label}{', ' + box.label if box.label else ''}",
        paid=cost_of(box).major,
        sold=sold,
        here=_here(session, bench, box, [row for row in rows if row.state in PRESENT]),
        outcome=Outcome(tuple(card.came for card in cards)),
        cards=len(cards),
    )


def _here(session: Session, bench: Workbench, box: BoxRecord, rows: Iterable[PullRow]) -> float:
    """What the copies of a box that are here would leave sold today."""
    prices = Prices(session, bench, box.format.product_id, box.currency)
    total = 0.0
    for row in rows:
        card = prices.product.card_by_number.get((row.section, row.number))
        if card is not None:
            total += prices.left(card, row.parallel, row.grade)
    return total
