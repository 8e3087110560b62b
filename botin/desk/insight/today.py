"""Today: what needs doing, each a line with its one action; a desk adds its lines by a question of its own."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date, timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from botin.core.money import Money
from botin.desk.books.accounts import balances
from botin.desk.books.budget import month_of
from botin.desk.books.purchases import ORDERED, open_orders
from botin.desk.flags.board import waiting
from botin.desk.flags.everything import is_stale
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.books import totals
from botin.store.models import BoxRecord, FormatRecord, LookAgainRecord
from botin.store.models_copies import GradingCopyRecord, GradingOrderRecord

SOON = timedelta(days=3)
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
    """

    kind: str
    words: str
    action: str
    place: tuple[str, tuple[tuple[str, object], ...]]
    due: date | None = None
    told: Told = ()

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
    boxes = session.scalars(
        select(BoxRecord)
        .where(BoxRecord.state == "open")
        .options(joinedload(BoxRecord.format).joinedload(FormatRecord.product))
        .order_by(BoxRecord.opened_at)
        .limit(MOST)
    )
    for box in boxes:
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


def _out_for_grading(session: Session, bench: Workbench) -> Iterator[Line]:
    g, o = GradingCopyRecord, GradingOrderRecord
    rows = session.execute(
        select(o, func.count(g.id))
        .join(g, g.order_id == o.id)
        .where(o.undone_at.is_(None), g.back_on.is_(None))
        .group_by(o.id)
        .order_by(o.due_on)
        .limit(MOST)
    )
    for order, count in rows:
        due = order.due_on
        if due is None or due - bench.today() > SOON:
            continue
        words = f"{count} cards at {order.house or 'a grading house'} since {{sent}}, due about {{due}}"
        late = " and late" if due < bench.today() else ""
        told = (("sent", order.sent_on), ("due", due))
        yield Line("grading", words + late, "Note what came back", _at("flags.grading"), due, told)


def _flags(session: Session, _bench: Workbench) -> Iterator[Line]:
    if is_stale(session):
        words = "Prices, fees or copies changed since the flags were worked out"
        yield Line("cards", words, "Work them out anew", _at("flags.index"))
    count = waiting(session)
    if count:
        words = f"{count} card{'' if count == 1 else 's'} to grade or to look at closely"
        yield Line("cards", words, "See which", _at("flags.index", go="grade"))


def _look_again(session: Session, _bench: Workbench) -> Iterator[Line]:
    rows = session.execute(
        select(LookAgainRecord.product_id, func.count())
        .where(LookAgainRecord.done_at.is_(None))
        .group_by(LookAgainRecord.product_id)
        .limit(MOST)
    )
    for product, count in rows:
        words = f"{count} logged cards could be a variation or a short print that became known later"
        yield Line("cards", words, "Look at them", _at("library.product", product_id=product, _anchor="look-again"))


def _people(session: Session, _bench: Workbench) -> Iterator[Line]:
    for sums in totals(session):
        owed = balances(session, sums.currency, 0)
        for one in [row for row in owed if row.party][:MOST]:
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
LINES: list[Question] = [_half_open, _on_the_way, _out_for_grading, _flags, _look_again, _people, _budget]
"""One question for each kind of work; a desk adds its own here."""


def today_lines(session: Session, bench: Workbench) -> list[Line]:
    """Return everything that needs doing: what is late first, then what falls due, then as the bench goes."""
    found = [line for question in LINES for line in question(session, bench)]
    return sorted(found, key=lambda line: (not line.late(bench.today()), line.due is None, line.due or date.max))
