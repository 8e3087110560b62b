"""Today: what needs doing, each a line with its one action; a desk adds its lines by a question of its own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy.orm import Session

from botin.core.books.orders import ORDERED
from botin.core.grading.steps import Step
from botin.core.money import Money
from botin.core.selling.road import WORDS as ROAD
from botin.core.selling.road import Stop
from botin.desk.books.accounts import balances
from botin.desk.books.budget import month_of
from botin.desk.flags.everything import is_stale
from botin.desk.grading.billing import NAMELESS
from botin.desk.grading.orders import Order, view
from botin.desk.selling.salepage import SalePage
from botin.desk.selling.salepage import under_way as sales_on_the_road
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.books.postings import totals
from botin.store.books.purchases import open_orders
from botin.store.catalog.lookagain import waiting_by_product
from botin.store.flags.board import waiting
from botin.store.grading.orders import house_names, memberships, under_way
from botin.store.opening.boxes import boxes_in_state

SOON = timedelta(days=3)
MEMBERSHIP_SOON = timedelta(days=30)
PAY_IT = "Pay it"
MOST = 12
"""Lines of one kind; what is more is said in the last."""


Told = tuple[tuple[str, date | Money], ...]


@dataclass(frozen=True, slots=True)
class Line:
    """One thing to do.

    Attributes
    ----------
    kind : str
        Which desk asks: box, order, grading, cards, people, money.
    place : tuple
        Endpoint and values of the page where it is done.
    due : date or None
        Day it falls due; late when that is past.
    told : tuple of (name, day or amount)
        What stands in the words in braces, for whoever shows them to write as the user does.
    key : str
        What tells a day apart in a calendar, so that it is there once however often it is taken along.
    """

    kind: str
    words: str
    action: str
    place: tuple[str, tuple[tuple[str, object], ...]]
    due: date | None = None
    told: Told = ()
    key: str = ""

    @property
    def values(self) -> dict[str, object]:
        """Return the values of its page."""
        return dict(self.place[1])

    def late(self, today: date) -> bool:
        """Whether its day is past."""
        return self.due is not None and self.due < today


def _at(endpoint: str, **values: object) -> tuple[str, tuple[tuple[str, object], ...]]:
    return endpoint, tuple(values.items())


def _half_open(session: Session, _bench: Workbench) -> Iterator[Line]:
    for box in boxes_in_state(session, "open", MOST):
        fmt = box.format
        name = f"{fmt.product.name} {fmt.label}{', ' + box.label if box.label else ''}"
        words = f"{name}: pack {box.pack} of {fmt.packs_per_box} in hand"
        yield Line("box", words, "Go on ripping", _at("rip.desk", box_id=box.id))


def _on_the_way(session: Session, bench: Workbench) -> Iterator[Line]:
    for order in open_orders(session, MOST):
        place = _at("purchases.show", purchase_id=order.id)
        bought, told = f"Order {order.id} of {{bought}}", Told((("bought", order.bought_on),))
        if order.state == ORDERED:
            words = f"{bought} is pre-ordered and not paid"
            yield Line("order", words, "Say it is paid", place, order.bought_on, told)
            continue
        due = ", due {due}" if order.due_on else ""
        late = " and late" if order.due_on and order.due_on < bench.today() else ""
        told += (("due", order.due_on),) if order.due_on else ()
        yield Line("order", f"{bought} is {order.state}{due}{late}", "Say what arrived", place, order.due_on, told)


def _grading(session: Session, bench: Workbench) -> Iterator[Line]:
    for record in under_way(session)[:MOST]:
        order = view(session, record)
        if order.copies:
            yield from _to_do(order)
            lines = [line for line in _days_of(order, bench.today()) if _falls_due(line, bench.today())]
            waits = any(line.action == PAY_IT for line in lines)  # then the house waits for me, not I for the house
            yield from (line for line in lines if line.action == PAY_IT or not waits)


def _falls_due(line: Line, today: date) -> bool:
    """Whether a day of an order belongs on today's list: payment at once, what is due back shortly before."""
    return line.due is not None and (line.action == PAY_IT or line.due - today <= SOON)


def _to_do(order: Order) -> Iterator[Line]:
    """What an order asks for before it is sent, and when its cards are back."""
    if order.at_home or (order.step is Step.BACK and order.record.paid_on is not None):
        words = f"{_name(order)}: {order.words.name}"
        yield Line("grading", words, order.words.to_do, _at("grading.order", order_id=order.record.id))


def _name(order: Order) -> str:
    count = len(order.copies)
    return f"Grading order {order.record.id}, {count} card{'' if count == 1 else 's'} for {order.label}"


def _days_of(order: Order, today: date) -> Iterator[Line]:
    """Days of an order that must not be forgotten: payment, with its upcharges, and when the cards are due back."""
    record, place = order.record, _at("grading.order", order_id=order.record.id)
    if record.sent_on is not None and order.out and record.due_on is not None:
        late = ": ask the house" if record.due_on < today else ""
        count = f"{order.out} card{'' if order.out == 1 else 's'}"
        words = f"{count} at {record.house or 'a grading house'} since {{sent}}, due about {{due}}{late}"
        told: Told = (("sent", record.sent_on), ("due", record.due_on))
        yield Line("grading", words, "Note what came back", place, record.due_on, told, key=f"order-{record.id}-due")
    if record.sent_on is not None and record.paid_on is None and record.pay_on is not None:
        bill = Money(order.costs.bill, record.currency)
        words = f"{_name(order)}: {{bill}} to pay by {{until}}"
        told = (("bill", bill), ("until", record.pay_on))
        if order.costs.upcharges:
            words, told = (
                f"{words}, {{up}} of it upcharges",
                (*told, ("up", Money(order.costs.upcharges, record.currency))),
            )
        yield Line("money", words, PAY_IT, place, record.pay_on, told, key=f"order-{record.id}-pay")
    if record.sent_on is not None and record.paid_on is None and record.pay_on is None and record.due_on is not None:
        yield _payment_ahead(order, record.due_on)


def _payment_ahead(order: Order, due: date) -> Line:
    """What will be to pay once grading is done: nobody says when, so it is expected shortly before the cards are."""
    record, up = order.record, order.upcharge_expected
    words = f"{_name(order)}: {{bill}} will be to pay when grading is done"
    told: Told = (("bill", Money(order.costs.bill, record.currency)),)
    if up:
        words, told = f"{words}, and {{up}} of upcharges to expect", (*told, ("up", Money(up, record.currency)))
    place = _at("grading.order", order_id=record.id)
    return Line("money", words, "See the bill", place, due, told, key=f"order-{record.id}-pay")


def _memberships(session: Session, bench: Workbench) -> Iterator[Line]:
    latest: dict[str, date] = {}
    for one in memberships(session):
        latest[one.house] = max(latest.get(one.house, one.until_on), one.until_on)
    for house, until in latest.items():
        if until - bench.today() <= MEMBERSHIP_SOON and until >= bench.today() - MEMBERSHIP_SOON:
            words = f"The membership of {house} {'runs' if until >= bench.today() else 'ran'} out on {{until}}"
            yield Line(
                "grading", words, "Send what needs it", _at("grading.index"), until, (("until", until),),
                key=f"member-{house}-{until.isoformat()}",
            )  # fmt: skip


def _sales(session: Session, bench: Workbench) -> Iterator[Line]:
    today = bench.today()
    for page in sales_on_the_road(session)[:MOST]:
        place = _at("sales.sale", sale_id=page.record.id)
        name = f"Sale {page.record.id}, {page.title}{f' to {page.buyer}' if page.buyer else ''}"
        late, due = page.late(today), page.expected.get(Stop.PACKED)
        key = f"sale-{page.record.id}"
        if page.stop is Stop.PAID and not page.record.by_hand:
            yield Line("sales", f"{name}: paid", "Pack it", place, due, key=f"{key}-pack")
        elif page.stop is Stop.PACKED:
            yield Line("sales", f"{name}: packed", "Send it", place, due, key=f"{key}-send")
        elif late is not None:
            words = f"{name}: {page.words.name}, and was to be {ROAD[late].name} by {{until}}"
            told: Told = (("until", page.expected[late]),)
            yield Line("sales", words, "Ask after it", place, page.expected[late], told, key=f"{key}-late")
        elif page.feedback_missing(today):
            yield Line(
                "sales", f"{name}: no feedback for three weeks", "Remind the buyer", place, key=f"{key}-feedback"
            )


def _sale_ahead(page: SalePage, today: date) -> Iterator[Line]:
    """The days of a sale that lie ahead: to be sent, and with the buyer."""
    place, name = _at("sales.sale", sale_id=page.record.id), f"Sale {page.record.id}, {page.title}"
    for stop, words in ((Stop.SENT, "to be sent"), (Stop.THERE, "to be with the buyer")):
        day = page.expected.get(stop)
        if day is not None and day >= today and stop not in page.days:
            yield Line("sales", f"{name}: {words}", "Look at it", place, day, key=f"sale-{page.record.id}-{stop}")


def _flags(session: Session, _bench: Workbench) -> Iterator[Line]:
    if is_stale(session):
        words = "Prices, fees or copies changed since the flags were worked out"
        yield Line("cards", words, "Work them out anew", _at("flags.index"))
    count = waiting(session)
    if count:
        words = f"{count} card{'' if count == 1 else 's'} to grade or to look at closely"
        yield Line("cards", words, "See which", _at("flags.index", go="grade"))


def _look_again(session: Session, _bench: Workbench) -> Iterator[Line]:
    for product, count in waiting_by_product(session, MOST):
        words = f"{count} logged cards could be a variation or a short print that became known later"
        yield Line("cards", words, "Look at them", _at("library.product", product_id=product, _anchor="look-again"))


def _people(session: Session, _bench: Workbench) -> Iterator[Line]:
    paid_by_order = {name or NAMELESS for name in house_names(session)}
    for sums in totals(session):
        owed = balances(session, sums.currency, 0)
        for one in [row for row in owed if row.party and row.name not in paid_by_order][:MOST]:
            money = Money(abs(one.minor), sums.currency)
            words = f"{one.name} owes you" if one.minor > 0 else f"You owe {one.name}"
            place, told = _at("people.one", party_id=one.party), (("sum", money),)
            yield Line("people", f"{words} {{sum}}", "Settle it", place, None, told)


def _budget(session: Session, bench: Workbench) -> Iterator[Line]:
    settings = load_settings(session)
    if not settings.rip_budget:
        return
    for sums in totals(session)[:1]:
        month = month_of(session, bench.today(), settings, sums.currency)
        over = month.over(Money(0, sums.currency))
        if over is not None:
            words = f"The rip budget of {bench.today():%B} is passed by {{over}}"
            yield Line("money", words, "See the books", _at("books.index"), None, (("over", over),))


Question = Callable[[Session, Workbench], Iterator[Line]]
LINES: list[Question] = [
    _half_open,
    _on_the_way,
    _grading,
    _memberships,
    _sales,
    _flags,
    _look_again,
    _people,
    _budget,
]
"""One question for each kind of work; a desk adds its own here."""


def today_lines(session: Session, bench: Workbench) -> list[Line]:
    """Return everything that needs doing: what is late first, then what falls due, then as the bench goes."""
    found = [line for question in LINES for line in question(session, bench)]
    return sorted(found, key=lambda line: (not line.late(bench.today()), line.due is None, line.due or date.max))


def days_ahead(session: Session, bench: Workbench) -> list[Line]:
    """Return the days to take along: what is due back, to be paid, to arrive, and what runs out, also far ahead."""
    found = [line for line in today_lines(session, bench) if line.due is not None]
    for record in under_way(session):
        found += list(_days_of(view(session, record), bench.today()))
    for page in sales_on_the_road(session):
        found += list(_sale_ahead(page, bench.today()))
    for one in memberships(session):
        words, told = (
            "The membership of " + (one.house or "the house") + " runs out on {until}",
            (("until", one.until_on),),
        )
        key = f"member-{one.house}-{one.until_on.isoformat()}"
        found.append(Line("grading", words, "", _at("grading.index"), one.until_on, told, key=key))
    once = {line.key or (line.words, line.due): line for line in found}
    return sorted(once.values(), key=lambda line: line.due or date.max)
