"""Random histories of a collection, and a naive reckoning beside the books: a wallet and a pile of cards.

The reckoning knows nothing of accounts. It remembers what was paid and got, and what each card of the pile cost by the
plainest rule there is: an equal part of its box.
"""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import dataclass, field, replace
from datetime import timedelta

from sqlalchemy import select

from botin.core.books.posting import Account
from botin.core.errors import BotinError
from botin.core.flags.ways import Tier
from botin.core.money import Money
from botin.desk.copies.elsewhere import Acquisition, acquire, undo_acquisition
from botin.desk.grading.orders import Slab, grades_came_back, not_back, send, take_back_order
from botin.desk.opening.rip import reopen_box
from botin.desk.selling.disposals import Disposal, dispose, undo_disposal
from botin.desk.settings import load_settings, save_settings
from botin.store.books import totals
from botin.store.models_copies import CopyRecord, DisposalRecord, GradingCopyRecord
from botin.store.opening import get_box
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
    order: int = 0
    fees: int = 0
    gone: bool = False


@dataclass
class Pile:
    """Everything the naive reckoning remembers."""

    boxes: dict[int, int] = field(default_factory=dict)
    closed: set[int] = field(default_factory=set)
    cards: dict[int, Card] = field(default_factory=dict)

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
            return card.paid + card.fees
        return card.fees + (self.share(card_id) if card.box in self.closed else 0)

    def reckon(self) -> Counter[str]:
        """Wallet, what is here at cost, what is owed, and what was realised."""
        found: Counter[str] = Counter()
        for box, cost in self.boxes.items():
            found["wallet"] -= cost
            found["here"] += cost if box not in self.closed else 0
        for key, card in self.cards.items():
            if not card.gone:
                self._card(found, key, card)
        for card in self.cards.values():
            if card.order:
                found["wallet"] -= FEE
                found["prepaid"] += FEE
            found["wallet"] -= card.fees
        found["realised"] = found["sold"] - found["cost of sold"] - found["fun"] - found["selling"]
        return found

    def _card(self, found: Counter[str], key: int, card: Card) -> None:
        inside = bool(card.box) and card.box in self.closed
        found["wallet"] -= card.paid
        if not card.mine:
            found["owed"] += (self.share(key) if inside else 0) + card.fees
        if card.went == "sold":
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
        true = self.cost_now(key) if inside or not card.box else card.cost
        found["cost of sold" if card.went == "sold" else "fun"] += true
        if card.box and not inside:
            found["here"] -= card.cost - card.fees


class History:
    """A collector who does things at random; what Botin refuses did not happen for him either."""

    def __init__(self, home: Home, seed: int) -> None:
        self.home, self.dice, self.pile = home, random.Random(seed), Pile()
        save_settings(home.session, replace(load_settings(home.session), cost_rule="equal"))
        self.deeds = (
            self.buy, self.open, self.close, self.close, self.reopen, self.sell, self.sell, self.give, self.undo,
            self.acquire, self.drop, self.send, self.send, self.back, self.back, self.back, self.not_back, self.not_sent,
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
                    self.pile.cards[copy.id] = Card(box_id, copy.owner_id == 1)
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
        card.went, card.price, card.costs = went, price, costs

    def sell(self) -> None:
        self._leave("sold", self.dice.randrange(1, 5_000), self.dice.randrange(0, 300))

    def give(self) -> None:
        self._leave(self.dice.choice(("given away", "lost")), 0, 0)

    def undo(self) -> None:
        key = self._some(here=False)
        if key:
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
        if key and not self.pile.cards[key].box and not self.pile.cards[key].fees:
            undo_acquisition(self.home.session, self.home.bench, key)
            self.pile.cards[key].gone = True

    def send(self) -> None:
        keys = {self._some() for _ in range(3)} - {0}
        order = send(self.home.session, self.home.bench, self.home.key(), TIER, START.date(), sorted(keys))
        for key in keys:
            self.pile.cards[key].order = order.id

    def _lines(self, *, out: bool) -> list[GradingCopyRecord]:
        g = GradingCopyRecord
        rows = self.home.session.scalars(select(g).where(g.back_on.is_(None) if out else g.grade_halves.is_not(None)))
        return list(rows)

    def back(self) -> None:
        lines = self._lines(out=True)
        if lines:
            line = self.dice.choice(lines)
            grade = self.dice.choice(("9", "10", "8.5", "none"))
            day = START.date() + timedelta(0)
            grades_came_back(self.home.session, self.home.bench, [Slab(line.id, grade)], day)
            card = self.pile.cards[line.copy_id]
            card.order, card.fees = 0, card.fees + FEE

    def not_back(self) -> None:
        lines = self._lines(out=False)
        if lines:
            line = self.dice.choice(lines)
            not_back(self.home.session, self.home.bench, line.id)
            card = self.pile.cards[line.copy_id]
            card.order, card.fees = line.order_id, card.fees - FEE

    def not_sent(self) -> None:
        lines = self._lines(out=True)
        if lines:
            order = self.dice.choice(lines).order_id
            take_back_order(self.home.session, self.home.bench, order)
            for card in self.pile.cards.values():
                if card.order == order:
                    card.order = 0


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
    found["cost of sold"] = sums[Account.SOLD]
    found["fun"] = sums[Account.FUN]
    found["realised"] = -sums.of(Account.SALES, Account.SOLD, Account.FEES, Account.FUN)
    return found
