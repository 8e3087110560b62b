"""A price book that rests on the price model: robust own sales first, then its fall-backs, card by card."""

from __future__ import annotations

from collections.abc import Iterable

from botin.core.catalog.product import Card
from botin.core.money import exponent
from botin.core.pricing.guess import Found, Guess
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import UNPRICED, Basis, Estimate, PriceBook, PriceRow

_UNKNOWN = (Found.NONE, Found.WIDE)
"""Nothing of the card, its player, or its section and finish is known: it counts as without a price."""


class ModelBook(PriceBook):
    """The same questions as a `PriceBook` answers, by a price model: one estimate of a card on every screen.

    Prices are means, as money is, and rounded to the minor unit, as one would ask: so what is shown adds up to the
    totals that are shown, and boxes of many cheap cards lie on the grid of the value curve.

    Parameters
    ----------
    model : PriceModel
        Fitted to the same prices.
    rows : iterable of PriceRow
        All prices of the product.
    rounded : bool
        To the minor unit; scripts take means as they are.
    """

    def __init__(self, model: PriceModel, rows: Iterable[PriceRow], *, rounded: bool = True) -> None:
        super().__init__(rows, model.as_of)
        self._model = model
        self._places = exponent(model.product.currency) if rounded else 12
        self._cards: dict[tuple[str, str, str, str], Estimate] = {}

    def estimate(self, card: Card, parallel: str = "", grade: str = "") -> Estimate:
        """Price of a copy, by the best fall-back there is."""
        key = (card.section, card.number, parallel, grade)
        if key not in self._cards:
            self._cards[key] = self._estimate(self._model.estimate(card, parallel, grade))
        return self._cards[key]

    def tier(self, section: str, parallel: str, grade: str = "") -> Estimate:
        """Return the usual price of a section and finish: from its own rows, else from the sales of its cards."""
        if not grade:
            return self._estimate(self._model.usual(section, parallel))
        own = self._model.own((section, "", parallel, grade))
        if own is None:
            return UNPRICED
        return Estimate(round(own.amount, self._places), Basis.TIER, len(own.used), own.low, own.high)

    def own_prices(self, section: str, parallel: str, grade: str = "") -> dict[str, Estimate]:
        """Return the estimates of the cards that are told apart, by number."""
        key = (section, parallel, grade)
        if key not in self._own:
            cards = self._model.product.cards_by_section.get(section, ())
            self._model.prepare(cards, parallel)
            if grade:
                self._model.prepare_grades()
            guesses = ((card.number, self._model.estimate(card, parallel, grade)) for card in cards)
            self._own[key] = {
                number: self._estimate(guess) for number, guess in guesses if guess.found not in _UNKNOWN
            }
        return self._own[key]

    def _estimate(self, guess: Guess) -> Estimate:
        if guess.found in _UNKNOWN:
            return UNPRICED
        basis = Basis.COMPS if guess.found is Found.COMPS else Basis.TIER
        amount = round(guess.mean, self._places)
        return Estimate(amount, basis, guess.sales, guess.low, guess.high, guess.newest)
