"""Random histories of a collection, and a naive reckoning beside the books: a wallet and a pile of cards.

The reckoning knows nothing of accounts. It remembers what was paid and got, and what each card of the pile cost by the
plainest rule there is: an equal part of its box.
"""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import dataclass, field, replace
from datetime import timedelta
from fractions import Fraction
from typing import Any

from sqlalchemy import select

from botin.core.books.posting import Account
from botin.core.errors import BotinError
from botin.core.flags.ways import Tier
from botin.core.grading.stack import CHECKS
from botin.core.grading.steps import Step
from botin.core.money import Money
from botin.core.selling.road import Stop
from botin.desk.copies.elsewhere import Acquisition, acquire, undo_acquisition
from botin.desk.grading.back import Slab, grades_came_back, not_back
from botin.desk.grading.billing import Bill, correct_bill, not_paid, pay
from botin.desk.grading.drafts import Form, Wanted, add_copies, fill_form, new_draft
from botin.desk.grading.memberships import Joining, join, leave
from botin.desk.grading.moves import Told, move_on, remove_order, step_back
from botin.desk.grading.packing import keep_checks, pack
from botin.desk.opening.rip import reopen_box
from botin.desk.selling.changes import Change, note_change, undo_change
from botin.desk.selling.disposals import Disposal, dispose, undo_disposal
from botin.desk.selling.roads import (
    Posting,
    keep_packing,
    move_sale,
    not_paid_out,
    pay_out,
    put_in_parcel,
    steps_of_packing,
)
from botin.desk.selling.selling import Sold, cancel_sale, note_sale
from botin.desk.settings import load_settings, save_settings
from botin.store.books.postings import totals
from botin.store.models_copies import CopyRecord, DisposalRecord
from botin.store.models_grading import GradingCopyRecord, MembershipRecord
from botin.store.opening.boxes import get_box
from botin.store.selling.sales import get_sale
from tests.builders import EUR, START, Home

PACKS, CARDS = 4, 3
FEE = 1_450
TIER = Tier("value", FEE / 100, days=20, house="Ash")


@dataclass
class Card:
    """A card of the pile: ``cost`` is what it is taken to have cost when it left."""

    box: int
    mine: bool
    paid: int = 0
    went: str = ""
    price: int = 0
    costs: int = 0
    cost: int = 0
    fees_then: int = 0
    order: int = 0
    owner: str = "me"
    gone: bool = False


@dataclass
class Sent:
    """An order as the reckoning knows it: who of its cards is where, and what everything costs."""

    cards: list[int]
    person: bool = False
    postage: int = 0
    back: int = 0
    surcharge: int = 0
    ups: dict[int, int] = field(default_factory=dict)
    paid: bool = False
    sent: bool = False
    home: set[int] = field(default_factory=set)
    joined: int = 0

    @property
    def bill(self) -> int:
        """What the house wants."""
        return len(self.cards) * FEE + sum(self.ups.values()) + self.back + self.surcharge


@dataclass
class Market:
    """A sale by a channel, as the reckoning knows it; parts by card, of a sealed box by its number below nothing."""

    prices: dict[int, int]
    fees: dict[int, int]
    shipping: int = 0
    postage: int = 0
    paid_out: bool = False
    paid: int = 0
    back: list[tuple[int, int, bool]] = field(default_factory=list)
    """Money given back: number of the change, amount, whether it went out in cash."""
    claims: int = 0
    over: str = ""
    cancelled: bool = False

    @property
    def net(self) -> int:
        """What the channel owes in the end, refunds in cash aside."""
        given = sum(amount for _, amount, cash in self.back if not cash)
        return sum(self.prices.values()) + self.shipping - sum(self.fees.values()) - given


@dataclass
class Pile:
    """Everything the naive reckoning remembers."""

    boxes: dict[int, int] = field(default_factory=dict)
    closed: set[int] = field(default_factory=set)
    away: set[int] = field(default_factory=set)
    """Boxes that were sold sealed."""
    cards: dict[int, Card] = field(default_factory=dict)
    orders: dict[int, Sent] = field(default_factory=dict)
    memberships: int = 0
    sales: dict[int, Market] = field(default_factory=dict)

    def part(self, order: Sent, card_id: int) -> int:
        """What a card carries of an order: its own fees, and an equal part of the rest by cards or by people."""
        rest = order.postage + order.back + order.surcharge
        owners = [self.cards[key].owner for key in order.cards]
        mine = [key for key in order.cards if self.cards[key].mine] or order.cards
        join = dealt(order.joined, mine).get(card_id, 0)
        if not order.person:
            return FEE + order.ups.get(card_id, 0) + dealt(rest, order.cards)[card_id] + join
        of_people = dealt(rest, list(dict.fromkeys(owners)))
        his = [key for key in order.cards if self.cards[key].owner == self.cards[card_id].owner]
        return FEE + order.ups.get(card_id, 0) + dealt(of_people[self.cards[card_id].owner], his)[card_id] + join

    def fees(self, card_id: int) -> int:
        """What orders added to a card that is back."""
        return sum(self.part(one, card_id) for one in self.orders.values() if card_id in one.home)

    def share(self, card_id: int) -> int:
        """Equal part of a closed box; what is left over goes to the first cards."""
        card = self.cards[card_id]
        inside = sorted(key for key, one in self.cards.items() if one.box == card.box and not one.gone)
        each, over = divmod(self.boxes[card.box], len(inside))
        return each + (inside.index(card_id) < over)

    def cost_now(self, card_id: int) -> int:
        """What a card of mine costs as things stand, fees included."""
        card = self.cards[card_id]
        if not card.box:
            return card.paid + self.fees(card_id)
        return self.fees(card_id) + (self.share(card_id) if card.box in self.closed else 0)

    def reckon(self) -> Counter[str]:
        """Wallet, what is here at cost, what is owed, and what was realised."""
        found: Counter[str] = Counter()
        for box, cost in self.boxes.items():
            found["wallet"] -= cost
            found["here"] += cost if box not in self.closed | self.away else 0
            found["cost of sold"] += cost if box in self.away else 0
        for key, card in self.cards.items():
            if not card.gone:
                self._card(found, key, card)
        found["wallet"] -= self.memberships
        found["selling"] += self.memberships
        for order in self.orders.values():
            found["wallet"] -= order.joined
            found["prepaid"] += 0 if order.sent else order.joined
            if order.sent:
                found["wallet"] -= order.postage + (order.bill if order.paid else 0)
                found["owed"] -= 0 if order.paid else order.bill
                found["prepaid"] += sum(self.part(order, key) for key in order.cards if key not in order.home)
        for sale in self.sales.values():
            self._sale(found, sale)
        found["realised"] = found["sold"] - found["cost of sold"] - found["fun"] - found["selling"] - found["postage"]
        return found

    def _sale(self, found: Counter[str], sale: Market) -> None:
        """What a sale by a channel moved, what its cards had cost aside."""
        if sale.cancelled:
            return
        found["wallet"] += sale.paid - sale.postage + sale.claims
        found["owed"] += sale.net - sale.paid
        found["postage"] += sale.postage - sale.shipping
        found["sold"] += sale.claims
        for key, price in sale.prices.items():
            if self._mine(key):
                found["sold"] += price
                found["selling"] += sale.fees[key]
            else:
                found["owed"] -= price - sale.fees[key]
        for _, amount, cash in sale.back:
            found["wallet"] -= amount if cash else 0
            for key, part in dealt_by(amount, sale.prices).items():
                found["sold" if self._mine(key) else "owed"] += -part if self._mine(key) else part

    def _mine(self, key: int) -> bool:
        return key < 0 or self.cards[key].mine

    def _card(self, found: Counter[str], key: int, card: Card) -> None:
        inside = bool(card.box) and card.box in self.closed
        found["wallet"] -= card.paid
        if not card.mine:
            found["owed"] += (self.share(key) if inside else 0) + self.fees(key)
        if card.went == "sold" and card.price < 0:
            if not card.mine:
                return
        elif card.went == "sold":
            found["wallet"] += card.price - card.costs
            if not card.mine:
                found["owed"] -= card.price - card.costs
                return
            found["sold"] += card.price
            found["selling"] += card.costs
        if not card.mine:
            return
        if not card.went:
            found["here"] += self.cost_now(key)
            return
        true = self.cost_now(key) if inside or not card.box else card.cost + self.fees(key) - card.fees_then
        found["cost of sold" if card.went == "sold" else "fun"] += true
        if card.box and not inside:
            found["here"] -= card.cost - card.fees_then


def dealt_by(minor: int, by: dict[int, int]) -> dict[int, int]:
    """Deal an amount out in proportion, what is left to the largest remainders, the first ones first."""
    weights = {key: max(1, price) for key, price in by.items()}
    total = sum(weights.values())
    exact = {key: Fraction(minor * weight, total) for key, weight in weights.items()}
    parts = {key: int(value) for key, value in exact.items()}
    order = sorted(parts, key=lambda key: parts[key] - exact[key])
    for key in order[: minor - sum(parts.values())]:
        parts[key] += 1
    return parts


def dealt(minor: int, to: list[Any]) -> dict[Any, int]:
    """Deal cents out one by one until none is left; the first get what is over."""
    each, over = divmod(minor, len(to))
    return {one: each + (at < over) for at, one in enumerate(to)}


class History:
    """A collector who does things at random; what Botin refuses did not happen for him either."""

    def __init__(self, home: Home, seed: int) -> None:
        self.home, self.dice, self.pile = home, random.Random(seed), Pile()
        save_settings(home.session, replace(load_settings(home.session), cost_rule="equal"))
        self.deeds = (
            self.buy, self.open, self.close, self.close, self.reopen, self.sell, self.sell, self.give, self.undo,
            self.acquire, self.drop, self.send, self.send, self.back, self.back, self.back, self.not_back, self.not_sent,
            self.market, self.market, self.market_box, self.payout, self.not_out, self.go_on, self.go_on, self.refund, self.comes_back, self.loses,
            self.claim, self.takes_back, self.cancel, self.bill, self.graded, self.pay, self.pay, self.not_paid, self.join, self.leave, self.a_step_back,
        )  # fmt: skip

    def step(self) -> None:
        """Do one thing."""
        deed = self.dice.choice(self.deeds)
        try:
            deed()
        except BotinError:
            self.home.session.rollback()

    def _some(self, *, here: bool = True) -> int:
        cards = [key for key, card in self.pile.cards.items() if not card.gone and not card.order]
        cards = [key for key in cards if bool(self.pile.cards[key].went) != here]
        return self.dice.choice(cards) if cards else 0

    def buy(self) -> None:
        price, shipping = self.dice.randrange(0, 9_000), self.dice.choice((0, 690))
        box = self.home.box(price, shipping=shipping)
        self.pile.boxes[box.id] = price + shipping

    def open(self) -> None:
        for box_id in self.pile.boxes:
            box = get_box(self.home.session, box_id)
            if box.state == "sealed":
                lines = [
                    " ".join(
                        f"{self.dice.randrange(1, 11)}{self.dice.choice(('', '', ' @Mira'))}"
                        for _ in range(self.dice.randrange(2, CARDS + 1))
                    )
                    for _ in range(PACKS)
                ]
                for copy in self.home.log(box, *lines):
                    self.pile.cards[copy.id] = Card(
                        box_id, copy.owner_id == 1, owner="me" if copy.owner_id == 1 else "Mira"
                    )
                return

    def close(self) -> None:
        for box_id in self.dice.sample(sorted(self.pile.boxes), len(self.pile.boxes)):
            if get_box(self.home.session, box_id).state == "open":
                self.home.close(get_box(self.home.session, box_id))
                self.pile.closed.add(box_id)
                return

    def reopen(self) -> None:
        if self.pile.closed:
            box_id = self.dice.choice(sorted(self.pile.closed))
            reopen_box(self.home.session, self.home.bench, get_box(self.home.session, box_id))
            self.pile.closed.discard(box_id)

    def _leave(self, went: str, price: int, costs: int) -> None:
        key = self._some()
        if not key:
            return
        card = self.pile.cards[key]
        day = self.home.bench.today()
        gone = Disposal(went, day, Money(price, EUR), Money(costs, EUR), "", self.dice.choice(("", "Eva")))
        dispose(self.home.session, self.home.bench, self.home.key(), gone, copy_id=key)
        card.cost = self.pile.cost_now(key)
        if card.box and card.box not in self.pile.closed and not card.cost:
            card.cost = self.pile.boxes[card.box] // (PACKS * CARDS)
        card.went, card.price, card.costs, card.fees_then = went, price, costs, self.pile.fees(key)

    def sell(self) -> None:
        self._leave("sold", self.dice.randrange(1, 5_000), self.dice.randrange(0, 300))

    def market(self) -> None:
        """Sell by a channel that pays out later."""
        keys = sorted({self._some() for _ in range(self.dice.choice((1, 1, 3)))} - {0})
        price, home = self.dice.randrange(3, 9_000), self.home
        fee, shipping = self.dice.randrange(0, price // 3 + 1), self.dice.choice((0, 490))
        sold = Sold(
            "stall", "Eva", START.date(), Money(price, EUR), Money(shipping, EUR), Money(fee, EUR), tuple(keys), "x"
        )
        fees = [(self.pile.cost_now(key), self.pile.fees(key)) for key in keys]
        sale = note_sale(home.session, home.bench, home.key(), sold)
        self.pile.sales[sale.id] = Market(dealt(price, keys), dealt(fee, keys), shipping)
        for key, (cost, then) in zip(keys, fees, strict=True):
            card = self.pile.cards[key]
            card.cost = cost
            if card.box and card.box not in self.pile.closed and not cost:
                card.cost = self.pile.boxes[card.box] // (PACKS * CARDS)
            card.went, card.price, card.costs, card.fees_then = "sold", -1, 0, then

    def market_box(self) -> None:
        """Sell a sealed box by a channel that pays out later."""
        sealed = [box for box in self.pile.boxes if get_box(self.home.session, box).state == "sealed"]
        price, home = self.dice.randrange(3, 9_000), self.home
        if sealed:
            box, shipping, fee = (
                self.dice.choice(sealed),
                self.dice.choice((0, 490)),
                self.dice.randrange(0, price // 3 + 1),
            )
            paid = (Money(minor, EUR) for minor in (price, shipping, fee))
            sold = Sold("stall", "Eva", START.date(), *paid, box=box, address="x")
            sale = note_sale(home.session, home.bench, home.key(), sold)
            self.pile.sales[sale.id] = Market({-box: price}, {-box: fee}, shipping)
            self.pile.away.add(box)

    def _sale(self) -> int:
        found = [key for key, one in self.pile.sales.items() if not one.cancelled]
        return self.dice.choice(found) if found else 0

    def payout(self) -> None:
        if sale := self._sale():
            pay_out(self.home.session, self.home.bench, sale, START.date())
            if not self.pile.sales[sale].paid_out:
                self.pile.sales[sale].paid_out, self.pile.sales[sale].paid = True, self.pile.sales[sale].net

    def not_out(self) -> None:
        """Take a payout back: only where nothing was given back in cash since."""
        sale = self._sale()
        if sale and not any(cash for _, _, cash in self.pile.sales[sale].back):
            not_paid_out(self.home.session, self.home.bench, sale)
            self.pile.sales[sale].paid_out, self.pile.sales[sale].paid = False, 0

    def go_on(self) -> None:
        """Pay, pack and send, as far as it goes."""
        sale, home = self._at(Stop.SOLD) or self._sale(), self.home
        if not sale:
            return
        postage = self.dice.choice((0, 531))
        for to in (Stop.PAID, Stop.PACKED, Stop.SENT):
            if to is Stop.PACKED:
                parcel = put_in_parcel(home.session, home.bench, home.key(), [sale])
                keep_packing(
                    home.session, parcel.id, [step.key for step in steps_of_packing(home.session, parcel.id)]
                )
            move_sale(
                home.session, home.bench, sale, to, START.date(), home.key(), Posting(postage=Money(postage, EUR))
            )
        self.pile.sales[sale].postage = postage

    def _changed(self, kind: str, amount: int, sale: int) -> None:
        told = Change(kind, START.date(), Money(amount, EUR))
        made = note_change(self.home.session, self.home.bench, self.home.key(), sale, told)
        one = self.pile.sales[sale]
        if kind == "claim":
            one.claims += amount
        else:
            one.back.append((made.id, amount, one.paid_out))

    def refund(self) -> None:
        if sale := self._sale():
            self._changed("refund", self.dice.randrange(1, 900), sale)

    def _sent(self) -> int:
        """A sale that is on its way, else any: returns would be too rare otherwise."""
        return self._at(Stop.SENT) or self._sale()

    def _at(self, stop: Stop) -> int:
        found = [key for key, one in self.pile.sales.items() if not one.over and not one.cancelled]
        found = [key for key in found if get_sale(self.home.session, key).state == stop]
        return self.dice.choice(found) if found else 0

    def comes_back(self) -> None:
        sale = self._sent()
        if sale:
            left = sum(self.pile.sales[sale].prices.values()) - sum(one[1] for one in self.pile.sales[sale].back)
            self._changed("return", self.dice.choice((left, left // 2)), sale)
            self.pile.sales[sale].over = "return"
            for key in self.pile.sales[sale].prices:
                self._here(key)

    def _here(self, key: int) -> None:
        if key < 0:
            self.pile.away.discard(-key)
            return
        card = self.pile.cards[key]
        card.went, card.price, card.costs, card.cost, card.fees_then = "", 0, 0, 0, 0

    def loses(self) -> None:
        if sale := self._sale():
            self._changed("lost", self.dice.choice((0, 50)), sale)
            self.pile.sales[sale].over = "lost"

    def claim(self) -> None:
        if sale := self._sale():
            self._changed("claim", self.dice.randrange(1, 5_000), sale)

    def takes_back(self) -> None:
        """Take back the last money that was given back, but for a return."""
        sale = self._sale()
        one = self.pile.sales.get(sale)
        if one and one.back and not one.over:
            undo_change(self.home.session, self.home.bench, one.back[-1][0])
            one.back.pop()

    def cancel(self) -> None:
        sale = self._sale()
        if sale and not self.pile.sales[sale].back:
            cancel_sale(self.home.session, self.home.bench, sale)
            if get_sale(self.home.session, sale).over == "cancelled":
                self.pile.sales[sale].cancelled = True
                for key in self.pile.sales[sale].prices:
                    self._here(key)

    def give(self) -> None:
        self._leave(self.dice.choice(("given away", "lost")), 0, 0)

    def undo(self) -> None:
        key = self._some(here=False)
        if key and self.pile.cards[key].price >= 0:
            d = DisposalRecord
            row = self.home.session.scalars(select(d.id).where(d.copy_id == key, d.undone_at.is_(None))).one()
            undo_disposal(self.home.session, self.home.bench, row)
            card = self.pile.cards[key]
            card.went, card.price, card.costs, card.cost = "", 0, 0, 0

    def acquire(self) -> None:
        cost, key = self.dice.randrange(0, 3_000), self.home.key()
        came = Acquisition("base", "4, 5", "", "bought", "a fair", START.date(), Money(cost, EUR))
        acquire(self.home.session, self.home.bench, self.home.record, key, came)
        c = CopyRecord
        for place, copy in enumerate(
            self.home.session.scalars(select(c.id).where(c.client_key.startswith(f"{key}:")))
        ):
            self.pile.cards[copy] = Card(0, mine=True, paid=cost // 2 + (place < cost % 2))

    def drop(self) -> None:
        key = self._some()
        if key and not self.pile.cards[key].box and not self.pile.fees(key):
            undo_acquisition(self.home.session, self.home.bench, key)
            self.pile.cards[key].gone = True

    def send(self) -> None:
        """A whole order from the draft until it is sent: form, stack, checks, postage."""
        home, day = self.home, START.date()
        keys = sorted({self._some() for _ in range(3)} - {0})
        order = new_draft(home.session, home.bench, home.key(), TIER, EUR, Money(self.dice.choice((0, 1_901)), EUR))
        sent = Sent(keys, self.dice.random() < 0.5, self.dice.choice((0, 999)), order.return_minor)
        add_copies(home.session, order.id, [Wanted(key, Money(2_000, EUR)) for key in keys])
        share = "person" if sent.person else "card"
        fill_form(home.session, home.bench, order.id, Form("555 01", agreed=True, share_by=share))
        move_on(home.session, home.bench, order.id, Step.CLOSED, day, home.key())
        for place in range(1, len(keys) + 1):
            pack(home.session, home.bench, order.id, f"#{place}")
        keep_checks(home.session, order.id, [check.key for check in CHECKS])
        move_on(home.session, home.bench, order.id, Step.PACKED, day, home.key())
        told = Told(postage=Money(sent.postage, EUR))
        move_on(home.session, home.bench, order.id, Step.SENT, day, home.key(), told)
        sent.sent = True
        self.pile.orders[order.id] = sent
        for key in keys:
            self.pile.cards[key].order = order.id

    def _order(self, *, sent: bool = True) -> int:
        found = [key for key, one in self.pile.orders.items() if one.sent is sent]
        return self.dice.choice(found) if found else 0

    def bill(self) -> None:
        order = self._order()
        if order:
            g = GradingCopyRecord
            rows = self.home.session.execute(select(g.id, g.copy_id).where(g.order_id == order)).all()
            ups = {line: self.dice.choice((0, 0, 1_200)) for line, _ in rows}
            bill = Bill(self.dice.randrange(0, 4_400), self.dice.choice((0, 73)), ups)
            correct_bill(self.home.session, self.home.bench, order, bill)
            one = self.pile.orders[order]
            one.back, one.surcharge, one.ups = bill.back, bill.surcharge, {copy: ups[line] for line, copy in rows}

    def graded(self) -> None:
        order = self._order()
        if order:
            to = self.dice.choice((Step.THERE, Step.GRADED, Step.RETURNING))
            move_on(self.home.session, self.home.bench, order, to, START.date(), self.home.key())

    def pay(self) -> None:
        order = self._order()
        if order:
            pay(self.home.session, self.home.bench, order, START.date())
            self.pile.orders[order].paid = True

    def not_paid(self) -> None:
        order = self._order()
        if order:
            not_paid(self.home.session, self.home.bench, order)
            self.pile.orders[order].paid = False

    def join(self) -> None:
        order = self._order()
        if order:
            joining = Joining("Ash", START.date(), START.date() + timedelta(365), Money(9_901, EUR), order)
            join(self.home.session, self.home.bench, self.home.key(), joining)
            self.pile.orders[order].joined += 9_901

    def leave(self) -> None:
        m = MembershipRecord
        for made, order in self.home.session.execute(select(m.id, m.order_id).where(m.undone_at.is_(None))).all():
            if order in self.pile.orders and self.dice.random() < 0.5:
                leave(self.home.session, self.home.bench, made)
                self.pile.orders[order].joined -= 9_901

    def a_step_back(self) -> None:
        """Take the last step of an order back; once it is not sent any more, send it again a cent dearer."""
        order = self._order()
        if order and step_back(self.home.session, self.home.bench, order) is Step.PACKED:
            told = Told(postage=Money(self.pile.orders[order].postage + 1, EUR))
            move_on(self.home.session, self.home.bench, order, Step.SENT, START.date(), self.home.key(), told)
            self.pile.orders[order].postage += 1

    def _lines(self, *, out: bool) -> list[GradingCopyRecord]:
        g = GradingCopyRecord
        rows = self.home.session.scalars(select(g).where(g.back_on.is_(None) if out else g.grade_halves.is_not(None)))
        return [row for row in rows if row.order_id in self.pile.orders]

    def back(self) -> None:
        lines = self._lines(out=True)
        if lines:
            line = self.dice.choice(lines)
            grade = self.dice.choice(("9", "10", "8.5", "none"))
            grades_came_back(self.home.session, self.home.bench, [Slab(line.id, grade)], START.date())
            self.pile.cards[line.copy_id].order = 0
            self.pile.orders[line.order_id].home.add(line.copy_id)

    def not_back(self) -> None:
        lines = self._lines(out=False)
        if lines:
            line = self.dice.choice(lines)
            not_back(self.home.session, self.home.bench, line.id)
            self.pile.cards[line.copy_id].order = line.order_id
            self.pile.orders[line.order_id].home.discard(line.copy_id)

    def not_sent(self) -> None:
        lines = self._lines(out=True)
        if lines:
            order = self.dice.choice(lines).order_id
            remove_order(self.home.session, self.home.bench, order)
            gone = self.pile.orders.pop(order)
            self.pile.memberships += gone.joined
            for key in gone.cards:
                self.pile.cards[key].order = 0


def of_the_books(home: Home) -> Counter[str]:
    """The same figures as sums over postings."""
    sums = {one.currency: one for one in totals(home.session)}.get(EUR)
    found: Counter[str] = Counter()
    if sums is None:
        return found
    found["wallet"] = sums[Account.CASH]
    found["here"] = sums.of(Account.BOXES, Account.CARDS, Account.GRADED)
    found["prepaid"] = sums[Account.PREPAID]
    found["owed"] = sums[Account.PEOPLE]
    found["sold"] = -sums[Account.SALES]
    found["selling"] = sums[Account.FEES]
    found["postage"] = sums[Account.POSTAGE]
    found["cost of sold"] = sums[Account.SOLD]
    found["fun"] = sums[Account.FUN]
    found["realised"] = -sums.of(Account.SALES, Account.SOLD, Account.FEES, Account.FUN, Account.POSTAGE)
    return found
