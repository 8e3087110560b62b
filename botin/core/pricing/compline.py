"""A line of sold prices as one types it: ``12 copper 14.50 14.00 17.25 @2026-03-02``."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from botin.core.catalog.naming import Names
from botin.core.catalog.product import Card, Product
from botin.core.errors import BotinError
from botin.core.money import exponent
from botin.core.pricing.prices import PriceKind, PriceRow

_PRICE = re.compile(r"\d{1,3}(?:,\d{3})+(?:\.\d{1,3})?|\d+(?:[.,]\d{1,3})?")
_FOREIGN = re.compile(r"([A-Z]{3})[*×](\d+(?:\.\d+)?)")
SEALED = "sealed:"
"""Section under which sealed boxes (and packs, and empty boxes) of a format keep their prices."""

WHOLE = "set:"
"""Section under which complete sets of a section keep their prices."""
Rates = Callable[[str, date], float]
"""Rate of a currency into the product's on a day."""


class CompLineError(BotinError):
    """A line of prices that is not understood."""

    status = 422


class UnknownCardError(CompLineError):
    """A line of prices that begins with no card of its product; ``word`` is what stands there."""

    def __init__(self, word: str, product: str) -> None:
        super().__init__(f"There is no card “{word}” on the checklist of {product}.")
        self.word = word


@dataclass(frozen=True, slots=True)
class CompLine:
    """What a line said."""

    rows: tuple[PriceRow, ...]
    words: str


def read_comp_line(
    product: Product, text: str, today: date, source: str = "typed", rates: Rates | None = None
) -> CompLine:
    """Read one line: number, finish, ``g10`` for a grade, prices, ``@date``, ``asking`` or ``guide``.

    ``USD*0.92`` on the line turns its prices into the product's currency at the rate of the day, ``USD`` alone at the
    rate that is written down. ``sealed hobby 118 121`` prices boxes, ``sealed hobby pack 6`` packs, ``sealed hobby
    empty 4`` empty ones; ``set base 45 48`` prices complete sets.

    Raises
    ------
    CompLineError
        When it is not understood; the message says which word.
    """
    words = text.split()
    day, kind, grade, rate, code = today, PriceKind.SOLD, "", 1.0, ""
    rest: list[str] = []
    for word in words:
        if word.startswith("@"):
            day = _day(word)
        elif word.casefold() in (PriceKind.ASKING, PriceKind.GUIDE):
            kind = PriceKind(word.casefold())
        elif re.fullmatch(r"g\d{1,2}(\.5)?", word, re.IGNORECASE):
            grade = word[1:]
        elif found := _FOREIGN.fullmatch(word):
            rate, source = float(found[2]), f"{source}, {found[1]} at {found[2]}"
        elif rates is not None and re.fullmatch(r"[A-Z]{3}", word) and not _is_finish(product, word):
            code = word
        else:
            rest.append(word)
    if day > today:
        message = f"{day.isoformat()} lies ahead. A sale has happened already."
        raise CompLineError(message)
    if code and rates is not None and code != product.currency:
        rate = rates(code, day)
        source = f"{source}, {code} at {rate:.6g}"
    section, number, parallel, left = _what(product, rest)
    prices = [round(rate * _amount(word, exponent(code or product.currency)), 4) for word in left]
    if not prices:
        message = "There is no price on the line. Write it like 12 copper 14.50 14.00 @2026-03-02."
        raise CompLineError(message)
    rows = tuple(
        PriceRow(
            section=section,
            number=number,
            parallel=parallel,
            grade=grade,
            amount=price,
            sold_on=day,
            source=source,
            kind=kind,
        )
        for price in prices
    )
    name = " ".join(filter(None, (section, number, parallel, f"grade {grade}" if grade else "")))
    return CompLine(rows, name)


def _is_finish(product: Product, word: str) -> bool:
    """Whether a word of three capitals is a card or a finish of the product rather than a currency."""
    wanted = word.casefold()
    numbers = any(card.number.casefold() == wanted for card in product.cards)
    return numbers or any(wanted in (row.key.casefold(), row.label.casefold()) for row in product.parallels)


def _day(word: str) -> date:
    try:
        return date.fromisoformat(word[1:])
    except ValueError as exc:
        message = f"“{word}” is no day. Write it like @2026-03-02."
        raise CompLineError(message) from exc


def _amount(word: str, decimals: int) -> float:
    if not _PRICE.fullmatch(word):
        message = f"“{word}” is neither a finish of this card nor a price."
        raise CompLineError(message)
    if decimals < 3 and re.fullmatch(r"[1-9]\d{0,2}\.\d{3}", word):
        message = f"“{word}” can be read in two ways. Write {word.replace('.', '')} or {float(word):.2f}."
        raise CompLineError(message)
    plain = word.replace(",", "") if re.fullmatch(r"\d{1,3}(,\d{3})+(\.\d+)?", word) else word.replace(",", ".")
    return float(plain)


def _what(product: Product, words: list[str]) -> tuple[str, str, str, list[str]]:
    """Section, number and finish, and the words left for prices."""
    if not words:
        message = "The line is empty. Write it like 12 copper 14.50 14.00 @2026-03-02."
        raise CompLineError(message)
    if words[0].casefold() == "sealed":
        return _sealed(product, words[1:])
    if words[0].casefold() == "set" and len(words) > 1 and words[1] in product.section_by_key:
        return f"{WHOLE}{words[1]}", "", "", words[2:]
    cards, words = _cards(product, words)
    finishes = {row.key.casefold(): row.key for card in cards for row in product.parallels_of(card)}
    finishes |= {row.label.casefold(): row.key for card in cards for row in product.parallels_of(card)}
    for size in (3, 2, 1):
        label = " ".join(words[1 : 1 + size]).casefold()
        if label in finishes and len(words) > size:
            holders = [card for card in cards if product.parallel_of(card, finishes[label])]
            return (holders or cards)[0].section, cards[0].number, finishes[label], words[1 + size :]
    return cards[0].section, cards[0].number, "", words[1:]


def _cards(product: Product, words: list[str]) -> tuple[list[Card], list[str]]:
    """Cards that the first words mean, and the words from the number on; a section's label may come first."""
    names = Names(product)
    first, colon, exact = words[0].partition(":")
    within = {names.section(first)} if colon else set(product.section_by_key)
    wanted = (exact if colon else first).casefold()
    cards = [card for card in product.cards if card.number.casefold() == wanted and card.section in within]
    if cards:
        return cards, words
    for size in range(min(4, len(words) - 1), 0, -1):
        section = names.section(" ".join(words[:size]))
        number = names.number(section, words[size]) if section else None
        if section and number:
            return [product.card_by_number[(section, number)]], words[size:]
    raise UnknownCardError(words[0], product.name)


def _sealed(product: Product, words: list[str]) -> tuple[str, str, str, list[str]]:
    fmt = product.format_by_key.get(words[0]) if words else None
    if fmt is None:
        message = f"Which format is it? {product.name} has {', '.join(product.format_by_key)}."
        raise CompLineError(message)
    what = words[1].casefold() if len(words) > 1 and words[1].casefold() in ("pack", "empty", "case") else ""
    return f"{SEALED}{fmt.key}", "", what, words[2 if what else 1 :]
