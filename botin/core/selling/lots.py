"""Lots of commons: which cards go together, and whether a lot leaves more than selling them singly."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

BY = ("product", "club", "person")
HUNDRED = 100
FEWEST = 5
"""A lot of fewer cards is none."""


@dataclass(frozen=True, slots=True)
class Common:
    """A copy that may go in a lot: what it sells for singly, before and after costs (major units)."""

    copy_id: int
    product: str
    club: str
    person: str
    price: float
    net: float
    currency: str = ""


@dataclass(frozen=True, slots=True)
class LotTerms:
    """What a lot brings and costs (major units).

    Attributes
    ----------
    keeps : float
        Share of the single prices that a lot brings (a choice).
    fee, fixed : float
        Of the channel.
    minutes, hourly : float
        The time a lot takes in all, and a card of it; what an hour is worth.
    postage : sequence of (int, float)
        Up to so many cards costs so much.
    """

    keeps: float = 0.5
    fee: float = 0.0
    fixed: float = 0.0
    minutes: float = 10.0
    minutes_a_card: float = 0.2
    hourly: float = 0.0
    postage: tuple[tuple[int, float], ...] = ((10, 2.0), (100, 6.0), (800, 12.0))

    def ship(self, cards: int) -> float:
        """Return what sending so many cards costs; beyond the last step in several parcels of its size."""
        for most, cost in self.postage:
            if cards <= most:
                return cost
        most, cost = self.postage[-1]
        return cost * -(-cards // most)


@dataclass(frozen=True)
class Lot:
    """Cards that go together, what they would bring as a lot and singly, after everything.

    Attributes
    ----------
    singly : float
        Net of selling each that sells singly for more than nothing; the others are left out, as one would.
    """

    name: str
    by: str
    cards: tuple[Common, ...]
    price: float
    shipping: float
    net: float
    singly: float

    @property
    def currency(self) -> str:
        """Currency of its cards."""
        return self.cards[0].currency if self.cards else ""

    @property
    def better(self) -> bool:
        """Whether the lot leaves more than selling singly, and more than nothing."""
        return self.net > max(0.0, self.singly)


def lot_of(name: str, by: str, cards: Sequence[Common], terms: LotTerms) -> Lot:
    """Reckon a lot: 20.00 of base cards that cost more to ship than they bring leave less than nothing."""
    price = terms.keeps * sum(card.price for card in cards)
    time = terms.hourly * (terms.minutes + terms.minutes_a_card * len(cards)) / 60
    shipping = terms.ship(len(cards))
    net = price * (1 - terms.fee) - terms.fixed - shipping - time
    singly = sum(max(0.0, card.net) for card in cards)
    return Lot(name, by, tuple(cards), price=price, shipping=shipping, net=net, singly=singly)


def proposals(cards: Iterable[Common], terms: LotTerms) -> list[Lot]:
    """Return the lots that leave more than their cards singly, the best first, each card in one of them.

    Tried are all cards of a club, of a person, of a product, and those of a product by the hundred.
    """
    left = {card.copy_id: card for card in cards}
    tried = sorted(
        (lot_of(name, by, group, terms) for by, name, group in _groups(left.values())), key=lambda lot: -lot.net
    )
    found: list[Lot] = []
    for lot in tried:
        still = [card for card in lot.cards if card.copy_id in left]
        again = lot if len(still) == len(lot.cards) else lot_of(lot.name, lot.by, still, terms)
        if len(still) >= FEWEST and again.better:
            found.append(again)
            for card in still:
                del left[card.copy_id]
    return found


def _groups(cards: Iterable[Common]) -> Iterable[tuple[str, str, list[Common]]]:
    everything = list(cards)
    for by in BY:
        groups: dict[tuple[str, str], list[Common]] = defaultdict(list)
        for card in everything:
            groups[card.product, getattr(card, by)].append(card)
        for (product, name), group in groups.items():
            if name:
                yield by, name if by == "product" else f"{name}, {product}", group
                if by == "product" and len(group) >= 2 * HUNDRED:
                    for start in range(0, len(group) - HUNDRED + 1, HUNDRED):
                        yield "hundred", f"{name}, a hundred", group[start : start + HUNDRED]
