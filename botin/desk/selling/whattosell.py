"""What to sell, where and when: copies flagged to be sold, their channel, ask and floor, what waiting brings."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from botin.core.catalog.product import Card
from botin.core.flags.nets import left_after, sale_interval
from botin.core.flags.sureness import chance_best
from botin.core.flags.ways import LATER_WEEKS, CopyFacts, Go
from botin.core.grading.grades import Inspection
from botin.core.selling.asking import Waiting, floor_for
from botin.core.selling.costs import Channel, SaleCosts
from botin.core.selling.lots import Common, Lot, LotTerms, lot_of, proposals
from botin.desk.books.booking import cost_of
from botin.desk.flags.judging import FlagInputs, facts_of, inputs_key, kept_inputs
from botin.desk.grading.inspections import looks_at
from botin.desk.pricing.sealedprices import sealed_prices
from botin.desk.selling.sealedgoods import SealedGoods
from botin.desk.workbench import Workbench
from botin.store.copies.copies import copies_of_version
from botin.store.flags.board import commons_here
from botin.store.flags.kept import flags_of, that_sell
from botin.store.grading.orders import promised
from botin.store.models_copies import FlagRecord
from botin.store.selling.sales import SoldCopy, copies_with_cards

MOST = 60
COMMONS = 4_000
ASK_ABOVE = 1.08
"""What is asked to begin with, over the estimate: room for an offer (a choice)."""


@dataclass(frozen=True)
class ToSell:
    """A copy to sell: where, for what, at least for what, and what waiting brings (major units).

    Attributes
    ----------
    sure : float
        Chance that selling it now is the best way, over what is unknown of its prices.
    """

    sold: SoldCopy
    channel: str
    price: float
    net: float
    ask: float
    floor: float
    waiting: Waiting
    low: float
    high: float
    sure: float = 1.0

    @property
    def currency(self) -> str:
        """Its currency."""
        return self.sold.product.currency


def to_sell(session: Session, bench: Workbench, limit: int = MOST) -> list[ToSell]:
    """Return the copies whose flag says *sell now*, the most first, each with its best channel."""
    wanted = that_sell(session, limit)
    copies = [copy for row in wanted for copy in _copies(session, row)]
    cards, busy = copies_with_cards(session, copies), promised(session)
    here = [cards[copy] for copy in copies if copy in cards and copy not in busy]
    each = [_one(session, bench, sold) for sold in here if sold.copy.state == "here"]
    found = [one for one in each if one is not None]
    return sorted(found, key=lambda one: -one.net)[:limit]


def for_copies(session: Session, bench: Workbench, copies: Sequence[int]) -> list[ToSell]:
    """Return the same for some copies, whatever their flag says; those that have no price are left out."""
    cards = copies_with_cards(session, copies)
    found = [_one(session, bench, cards[copy]) for copy in copies if copy in cards]
    return [one for one in found if one is not None]


def _copies(session: Session, row: FlagRecord) -> list[int]:
    if row.copy_id is not None:
        return [row.copy_id]
    return [copy.id for copy in copies_of_version(session, row.card_id, row.parallel)][: row.copies]


def _one(session: Session, bench: Workbench, sold: SoldCopy) -> ToSell | None:
    j = kept_inputs(session, bench, bench.record(session, sold.product.id))
    card = j.product.card_by_number.get((sold.section, sold.card.number))
    if card is None:
        return None
    look = looks_at(session, [sold.copy.id]).get(sold.copy.id)
    facts, _ = facts_of(j, card, sold.copy.parallel, look, sold.copy.grade)
    price = facts.raw.sale
    way = best_way(j.costs, price)
    if price <= 0 or way is None:
        return None
    net = _net(j.costs, way, price)
    later = _net(j.costs, way, price * left_after(facts, LATER_WEEKS))
    estimate = j.model.estimate(card, sold.copy.parallel, sold.copy.grade)
    floor = floor_for(max(j.costs.bulk_each, net * 0.85), way.fee, _each(j.costs, way, price))
    return ToSell(
        sold=sold, channel=way.name, price=price, net=net, ask=round(max(price * ASK_ABOVE, floor), 2), floor=floor,
        waiting=Waiting(net, later, LATER_WEEKS), low=estimate.low, high=estimate.high,
        sure=_sure(session, bench, sold, (j, facts, look)),
    )  # fmt: skip


def _sure(
    session: Session, bench: Workbench, sold: SoldCopy, known: tuple[FlagInputs, CopyFacts, Inspection | None]
) -> float:
    """How sure selling now is; worked out once while what it rests on stays."""
    j, facts, look = known
    record = bench.record(session, sold.product.id)
    key = (
        inputs_key(session, bench, record),
        sold.section,
        sold.card.number,
        sold.copy.parallel,
        look,
        sold.copy.grade,
    )
    return float(bench.keep_small(("sure", key), lambda: chance_best(facts, j.costs, j.terms.costs, Go.SELL)))


def told_of(session: Session, bench: Workbench, copies: Sequence[int]) -> dict[str, dict[str, object]]:
    """Return what is said of copies on a day, by their ids: the flag, and how sure *sell now* is."""
    cards, found = copies_with_cards(session, copies), dict[str, dict[str, object]]()
    flags = flags_of(session, copies)
    for copy, sold in cards.items():
        one = _one(session, bench, sold) if flags.get(copy) == Go.SELL.value else None
        found[str(copy)] = {"flag": flags.get(copy, ""), **({"sure": round(one.sure, 3)} if one is not None else {})}
    return found


def best_way(costs: SaleCosts, price: float) -> Channel | None:
    """Return the channel in which a price leaves most, among those that take it."""
    ways = costs.open_to(price)
    if not ways:
        return None
    nets = [float(left[0]) for left in costs.by_each(ways, np.array([price]))]
    return ways[int(np.argmax(nets))]


def _net(costs: SaleCosts, way: Channel, price: float) -> float:
    return float(costs.single_by(way, np.array([price]))[0])


def _each(costs: SaleCosts, way: Channel, price: float) -> float:
    """What a sale costs beside the share of the price."""
    return price * (1 - way.fee) - _net(costs, way, price)


@dataclass(frozen=True)
class Commons:
    """What becomes of commons: lots that leave something, and what is better given away (by product).

    Attributes
    ----------
    cut : int
        At most so many commons were looked at; 0 when these are all.
    """

    lots: tuple[Lot, ...]
    away: tuple[Lot, ...]
    cut: int = 0


def commons(session: Session, bench: Workbench, limit: int = 12) -> Commons:
    """Return lots of commons that leave more than selling them singly, and the rest, which costs more than it brings.

    What is left over is reckoned as a lot of its product, so that one sees what sending it would cost.
    """
    found, terms = _looked_through(session, bench)
    if terms is None:
        return Commons((), ())
    made = proposals(found, terms)
    taken = {card.copy_id for lot in made for card in lot.cards}
    rest = defaultdict[str, list[Common]](list)
    for card in found:
        if card.copy_id not in taken and card.net <= 0:
            rest[card.product].append(card)
    away = [lot_of(name, "product", cards, terms) for name, cards in rest.items()]
    cut = COMMONS if len(found) >= COMMONS else 0
    return Commons(tuple(made[:limit]), tuple(sorted(away, key=lambda lot: -len(lot.cards))), cut)


def _looked_through(session: Session, bench: Workbench) -> tuple[list[Common], LotTerms | None]:
    found: list[Common] = []
    terms: LotTerms | None = None
    for copy_id, card_key, parallel, product_id in _commons(session):
        j = kept_inputs(session, bench, bench.record(session, product_id))
        card = j.product.card_by_number.get(card_key)
        if card is not None:
            found.append(_common(j, card, parallel, copy_id))
            terms = terms or _lot_terms(j.costs)
    return found, terms


def lots(session: Session, bench: Workbench, limit: int = 12) -> list[Lot]:
    """Return the lots of commons that leave more than selling them singly, after postage and time."""
    return list(commons(session, bench, limit).lots)


def _commons(session: Session) -> list[Any]:
    rows, busy = commons_here(session, COMMONS), promised(session)
    return [
        (copy, (key, number), parallel, product) for copy, key, number, parallel, product in rows if copy not in busy
    ]


def _common(j: FlagInputs, card: Card, parallel: str, copy_id: int) -> Common:
    price = j.model.estimate(card, parallel).amount
    net = float(j.costs.single(np.array([price]))[0]) if price > 0 else 0.0
    return Common(copy_id, j.product.name, card.team, card.name, price=price, net=net, currency=j.product.currency)


def _lot_terms(costs: SaleCosts) -> LotTerms:
    way = costs.ways[0]
    return LotTerms(fee=way.fee, fixed=way.fixed + way.materials, hourly=costs.hourly)


def worth_of(session: Session, bench: Workbench, copies: Sequence[SoldCopy]) -> dict[int, float]:
    """Return what copies are estimated to sell for today, by their ids (major units)."""
    looks = looks_at(session, [one.copy.id for one in copies])
    found: dict[int, float] = {}
    for one in copies:
        j = kept_inputs(session, bench, bench.record(session, one.product.id))
        card = j.product.card_by_number.get((one.section, one.card.number))
        if card is not None:
            facts, _ = facts_of(j, card, one.copy.parallel, looks.get(one.copy.id), one.copy.grade)
            found[one.copy.id] = facts.raw.sale
    return found


def worth_of_goods(session: Session, bench: Workbench, goods: SealedGoods) -> float:
    """Return what a sealed box, or packs, are estimated to sell for; what they cost where no sealed sale is known.

    Packs without a price of their own are taken for their part of the box.
    """
    box, fmt = goods.box, goods.box.format
    prices = sealed_prices(session, bench, bench.record(session, fmt.product_id))
    by = {(row.format, row.what): row.estimate.amount for row in prices}
    whole = by.get((fmt.key, "box"), cost_of(box).major)
    if not goods.packs:
        return whole
    return goods.packs * by.get((fmt.key, "pack"), whole / fmt.packs_per_box)


def next_sale(session: Session, bench: Workbench, copies: Sequence[int]) -> dict[str, float]:
    """Return between what the next sale of a single copy is expected, 8 times of 10; nothing for several copies."""
    found = list(copies_with_cards(session, copies).values())
    if len(found) != 1:
        return {}
    one = found[0]
    j = kept_inputs(session, bench, bench.record(session, one.product.id))
    card = j.product.card_by_number.get((one.section, one.card.number))
    if card is None:
        return {}
    facts, _ = facts_of(j, card, one.copy.parallel, looks_at(session, [one.copy.id]).get(one.copy.id), one.copy.grade)
    low, high = sale_interval(facts.raw)
    return {"low": low, "high": high} if facts.raw.amount > 0 else {}
