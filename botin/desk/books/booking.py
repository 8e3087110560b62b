"""What happens is written into the books: the only way from an event of a desk to postings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books import channelsales
from botin.core.books import posting as rules
from botin.core.books.basis import CostRule
from botin.core.books.posting import About, Account, Basis, Opened, Packs
from botin.core.insight.recap import Pulled
from botin.core.money import Money
from botin.desk.opened import counted_base, opened_packs
from botin.desk.pulled import pulled_copies
from botin.desk.settings import Settings, load_settings
from botin.desk.workbench import Workbench
from botin.store.books.postings import (
    Event,
    bases,
    free_key,
    latest,
    live,
    live_of_box,
    post,
    postings_of,
    sums_where,
    void,
)
from botin.store.books.purchases import went_of_box
from botin.store.books.sums import order_costs_gone, orders_booked_on
from botin.store.copies.copies import copy_words
from botin.store.grading.orders import booked_by_copy, still_out
from botin.store.models import BoxRecord, FormatRecord
from botin.store.models_books import PostingRecord, PurchaseRecord
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.opening.boxes import PullRow, pulls_of

LEFT = {"sold": "sale", "swapped": "swap", "given away": "write-off", "lost": "write-off"}
"""Kind of the transaction by how a copy left."""
OPENING = "opening"
BULK_SHARE = 0.1
"""Of the price below which a card is bulk, so much is what one card of bulk counts in a cost share; a choice."""


def cost_of(box: BoxRecord) -> Money:
    """Return price, shipping and tax of a box together."""
    return Money(box.price_minor + box.shipping_minor + box.tax_minor, box.currency)


def about_box(box: BoxRecord) -> About:
    """Return what a posting for a box is for."""
    return About(box=box.id, product=box.format.product_id, purchase=box.purchase_id)


def take_back(session: Session, bench: Workbench, key: str, words: str = "") -> bool:
    """Take the event of a key back by its mirror, on the day it happened; whether there was one."""
    found = live(session, key)
    if found is not None:
        void(session, bench.now(), found.id, found.day, words)
    return found is not None


def book_box(
    session: Session, bench: Workbench, box: BoxRecord, with_: Money | None = None, party: int | None = None
) -> None:
    """Write down that a box was bought, ``with_`` an amount of another currency when it was paid so."""
    session.flush()
    words = box.label or f"box {box.id}"
    event = Event("purchase", box.bought_on, free_key(session, f"buy-box-{box.id}"), words, party)
    fmt = session.get_one(FormatRecord, box.format_id)
    about = About(box=box.id, product=fmt.product_id, purchase=box.purchase_id)
    post(session, bench.now(), event, rules.paid(cost_of(box), Account.BOXES, about, with_))


def rebook_box(session: Session, bench: Workbench, box: BoxRecord) -> None:
    """Write down anew that a box was bought, of the same seller and paid in the same currency as before."""
    purchase = session.get(PurchaseRecord, box.purchase_id) if box.purchase_id else None
    before = latest(session, f"buy-box-{box.id}")
    rows = postings_of(session, before.id) if before is not None else ()
    cost = sum(row.minor for row in rows if row.account is Account.BOXES)
    foreign = [row for row in rows if row.account is Account.CASH and row.currency != box.currency]
    with_ = None
    if foreign and cost:
        with_ = Money(round(-foreign[0].minor * cost_of(box).minor / cost), foreign[0].currency)
    book_box(session, bench, box, with_, purchase.seller_id if purchase else None)


def unbook_box(session: Session, bench: Workbench, box: BoxRecord) -> None:
    """Take the purchase of a box back."""
    take_back(session, bench, f"buy-box-{box.id}")


def book_acquired(
    session: Session,
    bench: Workbench,
    copy: CopyRecord,
    cost: Money,
    party: int | None = None,
    with_: Money | None = None,
) -> None:
    """Write down what a copy from elsewhere cost, unless that is in the books already.

    ``with_`` is the amount of another currency when it was paid so.
    """
    if live(session, f"acquire-{copy.id}") is not None:
        return
    about = bases(session, [copy.id])[copy.id].about
    words = f"{copy_words(session, copy)} {copy.came}{' · ' + copy.source if copy.source else ''}"
    event = Event(
        "purchase", copy.got_on or bench.today(), free_key(session, f"acquire-{copy.id}"), words, party
    )  # fmt: skip
    post(
        session, bench.now(), event, rules.paid(cost, Account.CARDS, replace(about, purchase=copy.purchase_id), with_)
    )


def unbook_acquired(session: Session, bench: Workbench, copy: CopyRecord) -> None:
    """Take back what a copy from elsewhere cost."""
    take_back(session, bench, f"acquire-{copy.id}")


def basis_of(session: Session, copy: CopyRecord) -> Basis:
    """Return what a copy cost so far; while its box is open, the equal part it is taken to have cost."""
    found = bases(session, [copy.id])[copy.id]
    box = session.get(BoxRecord, copy.box_id) if copy.box_id else None
    if box is None or box.state == "closed" or found.minor or not found.mine:
        return found
    fmt = session.get_one(FormatRecord, box.format_id)
    part = rules.provisional(cost_of(box), fmt.packs_per_box * fmt.cards_per_pack)
    return replace(found, held={Account.CARDS: part}, currency=box.currency)


def book_left(session: Session, bench: Workbench, copy: CopyRecord, gone: DisposalRecord, party: int | None) -> None:
    """Write down that a copy left: what it brought and cost, and its basis against it."""
    price, costs = Money(gone.price_minor, gone.currency), Money(gone.costs_minor, gone.currency)
    basis = basis_of(session, copy)
    rows = rules.sale(price, costs, basis) if gone.went == "sold" else rules.write_off(basis)
    event = Event(
        LEFT.get(gone.went, "write-off"),
        gone.left_on,
        free_key(session, f"leave-{gone.id}"),
        f"{copy_words(session, copy)} {gone.went}",
        party,
    )
    post(session, bench.now(), event, rows)


def unbook_left(session: Session, bench: Workbench, gone: DisposalRecord) -> None:
    """Take back what was written down when a copy left; what its true cost added at closing comes back with it."""
    take_back(session, bench, f"leave-{gone.id}")
    _rest_comes_back(session, bench, gone)


def book_returned(session: Session, bench: Workbench, gone: DisposalRecord, key: str, day: date) -> None:
    """Put a card that was sold and came back onto the books again, at what it had cost; the sale itself stays."""
    made = live(session, f"leave-{gone.id}")
    rows = postings_of(session, made.id) if made is not None else ()
    minor = sum(row.minor for row in rows if row.account is Account.SOLD)
    basis = bases(session, [gone.copy_id])[gone.copy_id]
    copy = session.get_one(CopyRecord, gone.copy_id)
    event = Event("sale", day, free_key(session, key), "a sold card came back")
    post(session, bench.now(), event, channelsales.taken_in_again(minor, basis, graded=bool(copy.grade)))
    _rest_comes_back(session, bench, gone)


def unbook_returned(session: Session, bench: Workbench, gone: DisposalRecord, key: str) -> None:
    """Take it back that a sold card came back."""
    take_back(session, bench, key)
    box = bases(session, [gone.copy_id])[gone.copy_id].about.box
    take_back(session, bench, f"close-{box}-copy-{gone.copy_id}")
    for order in orders_booked_on(session, gone.copy_id):
        take_back(session, bench, f"regain-{gone.id}-{order}")


def _rest_comes_back(session: Session, bench: Workbench, gone: DisposalRecord) -> None:
    """Put back onto a copy what its orders and the closing of its box added while it had left."""
    _orders_come_back(session, bench, gone)
    p = PostingRecord
    sums = {one.currency: one for one in sums_where(session, p.copy_id == gone.copy_id)}
    basis = bases(session, [gone.copy_id])[gone.copy_id]
    for code, found in sums.items():
        rows = [
            row
            for account in (Account.SOLD, Account.FUN)
            for row in rules.move(Money(found[account], code), account, Account.CARDS, basis.about)
        ]
        key = free_key(session, f"close-{basis.about.box}-copy-{gone.copy_id}")
        post(session, bench.now(), Event(OPENING, gone.left_on, key, "its true cost comes back with it"), rows)


def _orders_come_back(session: Session, bench: Workbench, gone: DisposalRecord) -> None:
    """Put back onto a copy what its grading orders turned out to cost more (or less) while it had left."""
    for order, found in order_costs_gone(session, gone.copy_id):
        about = replace(bases(session, [gone.copy_id])[gone.copy_id].about, order=order)
        rows = [
            row
            for account in (Account.SOLD, Account.FUN)
            for row in rules.move(Money(found[account], found.currency), account, Account.CARDS, about)
        ]
        key = free_key(session, f"regain-{gone.id}-{order}")
        post(session, bench.now(), Event("grading", gone.left_on, key, "its order comes back with it"), rows)


def frozen_shares(session: Session, box: BoxRecord) -> dict[int, int]:
    """Return the parts in which a closed box was shared over its copies, as they were frozen."""
    found: dict[int, int] = {}
    for made in live_of_box(session, OPENING, box.id):
        for row in postings_of(session, made.id):
            if row.about.copy is not None:
                found[row.about.copy] = found.get(row.about.copy, 0) + row.minor
    return found


def book_closing(session: Session, bench: Workbench, box: BoxRecord, shares: Mapping[int, int] | None = None) -> None:
    """Share what a box cost over its copies and freeze it there: by the rule, or in the parts of before."""
    copies = _opened(session, bench, box)
    settings = load_settings(session)
    if shares is not None:
        copies = [replace(copy, value=float(max(0, shares.get(copy.basis.about.copy or 0, 0)))) for copy in copies]
    packs = Packs(box.format.packs_per_box, opened_packs(session, box), box.rest, counted_base(session, box.id))
    rule = rule_of(settings) if shares is None else CostRule.BY_VALUE
    bulk = 0.0 if rule is CostRule.HITS or shares is not None else settings.bulk_below * BULK_SHARE
    rows = rules.close_box(cost_of(box), about_box(box), copies, rule, packs, bulk)
    day = bench.day_of(box.closed_at or bench.now())
    event = Event(OPENING, day, free_key(session, f"close-{box.id}"), f"{box.label or f'box {box.id}'} opened")
    post(session, bench.now(), event, rows)


def unbook_closing(session: Session, bench: Workbench, box: BoxRecord) -> None:
    """Take the sharing of a box's cost back: it is open again, and what is here of it lies where it belongs."""
    for made in live_of_box(session, OPENING, box.id):
        void(session, bench.now(), made.id, made.day)
    rows = pulls_of(session, box.id)
    held = bases(session, [row.copy_id for row in rows])
    moved = [
        posting
        for row in rows
        for posting in rules.belong(held[row.copy_id], away=bool(row.grade) or row.state == "out")
    ]
    event = Event("grading", bench.today(), free_key(session, f"tidy-{box.id}"), "lies where it belongs")
    post(session, bench.now(), event, moved)


def rule_of(settings: Settings) -> CostRule:
    """Return how the cost of a box is shared."""
    return CostRule(settings.cost_rule) if settings.cost_rule in set(CostRule) else CostRule.BY_VALUE


def _opened(session: Session, bench: Workbench, box: BoxRecord) -> list[Opened]:
    """All copies of a box with what they are worth today and where they are."""
    rows = pulls_of(session, box.id)
    values = _values(session, bench, box, rows)
    held = bases(session, [row.copy_id for row in rows])
    went = went_of_box(session, box.id)
    return [
        Opened(
            held[row.copy_id], values.get(row.id, 0.0), went.get(row.copy_id), bool(row.grade) or row.state == "out"
        )
        for row in rows
    ]


def _values(session: Session, bench: Workbench, box: BoxRecord, rows: list[PullRow]) -> dict[int, float]:
    record = box.format.product
    known: Sequence[Pulled] = pulled_copies(bench.product(session, record), rows)
    settings, book = load_settings(session), bench.prices(session, record)
    hit, only_hits = settings.hit_rule(), rule_of(settings) is CostRule.HITS
    return {
        copy.id: 0.0
        if only_hits and not hit.is_hit(copy.kind, copy.run)
        else book.estimate(copy.card, copy.parallel).amount
        for copy in known
    }


def book_sent(
    session: Session, bench: Workbench, event: Event, order_id: int, copies: Sequence[CopyRecord], cash: Money
) -> None:
    """Write down that copies went to a grading house, and what was paid for the way there."""
    held = bases(session, [copy.id for copy in copies])
    told = replace(event, key=free_key(session, f"order-{order_id}"))
    post(session, bench.now(), told, rules.sent([cash], order_id, list(held.values())))


def unbook_sent(session: Session, bench: Workbench, order_id: int) -> None:
    """Take back what was written down when an order was sent, and what is owed for it."""
    for name in ("bill", "order"):
        take_back(session, bench, f"{name}-{order_id}")


@dataclass(frozen=True, slots=True)
class CopyBack:
    """A copy that came back from a grading house.

    Attributes
    ----------
    line, order : int
        Its line in the order, and the order.
    part : Money
        What of the order it carries.
    graded : bool
        Whether it is in a slab now.
    """

    line: int
    order: int
    copy: CopyRecord
    day: date
    part: Money
    graded: bool


def book_back(session: Session, bench: Workbench, back: CopyBack) -> None:
    """Write down that a copy is back: its part of its order is added to what it cost.

    An order whose fees were paid ahead in several currencies leaves each copy an equal part of what is left in its
    own.
    """
    basis = bases(session, [back.copy.id])[back.copy.id]
    fee = back.part if back.part.currency == basis.currency else _equal_part(session, back.order, basis)
    words = f"{copy_words(session, back.copy)} back from grading"
    event = Event("grading", back.day, free_key(session, f"back-{back.line}"), words, estimated=True)
    post(session, bench.now(), event, rules.came_back(fee, back.order, basis, graded=back.graded))


def unbook_back(session: Session, bench: Workbench, line: int, order_id: int, copy: CopyRecord) -> None:
    """Take back what was written down when a copy came back, and what was added to it since.

    The latter by what it comes to and not by its mirrors: a sale between may have moved it on.
    """
    take_back(session, bench, f"back-{line}")
    basis = bases(session, [copy.id])[copy.id]
    carried = booked_by_copy(session, order_id, Account.PREPAID, basis.currency)[copy.id]
    if carried:
        event = Event("grading", bench.today(), free_key(session, f"settle-{line}"), "it is out again")
        money = Money(carried, basis.currency)
        post(session, bench.now(), event, rules.trued_up(money, order_id, basis, Account.GRADED))


def book_belonging(session: Session, bench: Workbench, copy: CopyRecord) -> None:
    """Move what a copy cost to where it lies now that it is graded, or is not any more."""
    basis = bases(session, [copy.id])[copy.id]
    rows = rules.belong(basis, away=bool(copy.grade) or copy.state == "out")
    event = Event("grading", bench.today(), free_key(session, f"belongs-{copy.id}"), "lies where it belongs")
    post(session, bench.now(), event, rows)


def _equal_part(session: Session, order_id: int, basis: Basis) -> Money:
    """An equal part of what is still prepaid for the copies of an order that are out."""
    prepaid, copies = still_out(session, order_id, basis.currency)
    return Money(rules.split(prepaid, [1.0] * max(1, copies))[0], basis.currency)
