"""Copies to swap against the needs of a set: what I could give, what I lack, what another has and looks for."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from botin.core.books.posting import AmountError
from botin.core.catalog.naming import Names
from botin.core.copies.swapping import Balance, balanced
from botin.core.money import Money
from botin.core.opening.entryitems import EntryItem
from botin.desk.copies.setboard import Board, Cell
from botin.desk.selling.sales import ComesIn, Swap, swap
from botin.desk.workbench import Workbench
from botin.exchange.copies.have import numbers_of
from botin.store.copies.copies import spare_copies

Where = tuple[int, str]
"""A section of a product."""


@dataclass(frozen=True)
class Spare:
    """A copy beyond the first of its number, that is here and promised to nobody."""

    copy_id: int
    product_id: int
    cell: Cell


@dataclass(frozen=True)
class Need:
    """A number that is missing."""

    product_id: int
    cell: Cell


@dataclass(frozen=True)
class Said:
    """Numbers that another wrote, by section; what could not be read is said back. ``given``: he wrote something."""

    cards: frozenset[tuple[int, str, str]]
    unread: tuple[str, ...]
    given: bool


@dataclass(frozen=True)
class SwapTable:
    """What a swap could be: what he looks for of my spares, what he has of my needs, and a fair choice.

    Attributes
    ----------
    unpriced : int
        How many of the cards on both sides have no price and count nothing.
    """

    could_give: tuple[Spare, ...]
    could_get: tuple[Need, ...]
    balance: Balance
    unread: tuple[str, ...]
    unpriced: int

    @property
    def given(self) -> tuple[Spare, ...]:
        """What is proposed to give."""
        return tuple(self.could_give[at] for at in self.balance.given)

    @property
    def gets(self) -> float:
        """Prices of what would come."""
        return sum(one.cell.price or 0.0 for one in self.could_get)

    @property
    def gives(self) -> float:
        """Prices of what is proposed to give."""
        return sum(one.cell.price or 0.0 for one in self.given)


def spares_of(session: Session, board: Board) -> tuple[Spare, ...]:
    """Return the copies of a board that one could give: one beyond the first of each number, the dearest first."""
    cells = {cell.card_id: (part.record.id, cell) for part in board.parts for cell in part.cells if cell.have > 1}
    found = spare_copies(session, list(cells))
    spares = [Spare(copies[0], *cells[card]) for card, copies in found.items()]
    return tuple(sorted(spares, key=lambda one: (-(one.cell.price or 0.0), one.cell.section, one.cell.number)))


def needs_of(board: Board) -> tuple[Need, ...]:
    """Return the numbers that are missing, in the order of the board."""
    return tuple(Need(part.record.id, cell) for part in board.parts for cell in part.cells if not cell.have)


def said(session: Session, bench: Workbench, board: Board, text: str) -> Said:
    """Read a list of numbers and ranges as people write them, against all sections of a board."""
    cards, unread = set[tuple[int, str, str]](), list[str]()
    where: list[tuple[Where, Names]] = [
        ((part.record.id, part.section.key), Names(bench.product(session, part.record))) for part in board.parts
    ]
    for word in _words(text):
        found = [
            (product, section, number)
            for (product, section), names in where
            for number in numbers_of(word, section, names)
        ]
        cards.update(found)
        unread += [] if found else [word]
    return Said(frozenset(cards), tuple(unread), bool(text.strip()))


def _words(text: str) -> list[str]:
    """Numbers and ranges of a list: at commas, semicolons, ends of lines; at blanks where nothing else parts them."""
    parts = [part.strip() for part in re.split(r"[,;\n\t]+", text[:20_000]) if part.strip()]
    return [word for part in parts for word in _parted(part)]


def _parted(part: str) -> list[str]:
    """Split “3 5 8”, but leave “3 - 8” and “12 Osric Eskeland” as they are (a name behind a number is dropped)."""
    if re.fullmatch(r"#?\S*\d\s*(?:-|–|to|\.\.)\s*#?\S*\d", part):
        return [part]
    words = part.split()
    numbers = [word for word in words if any(letter.isdigit() for letter in word)]
    return numbers or [part]


@dataclass(frozen=True, slots=True)
class Agreed:
    """A swap as it was agreed: copies that went, numbers that came, cash added (below nothing: it came back)."""

    given: tuple[int, ...]
    got: tuple[tuple[int, str, str], ...]
    cash: Money
    day: date
    to: str


def keep_swap(session: Session, bench: Workbench, client_key: str, board: Board, agreed: Agreed) -> int:
    """Note a swap, both sides linked; returns how many cards came.

    Raises
    ------
    AmountError
        When a side is empty, or a card that came is on no checklist.
    BoxStateError
        When one of the given is not here or not mine.
    """
    prices = {(part.record.id, cell.section, cell.number): cell.price for part in board.parts for cell in part.cells}
    got = []
    for product_id, section, number in agreed.got:
        card = bench.product(session, bench.record(session, product_id)).card_by_number.get((section, number))
        if card is None:
            message = f"“{section} {number}” is on no checklist of this set. Hold the lists against mine again."
            raise AmountError(message)
        got.append(ComesIn(product_id, EntryItem(card), prices.get((product_id, section, number)) or 0.01))
    deal = Swap(agreed.given, tuple(got), agreed.cash, agreed.day, agreed.to)
    return len(swap(session, bench, client_key, deal))


def swap_table(board: Board, spares: Sequence[Spare], wants: Said, has: Said) -> SwapTable:
    """Hold another's lists against mine; with none of his, what I could give and lack as it is."""

    def named(product: int, cell: Cell, by: Said) -> bool:
        return not by.given or (product, cell.section, cell.number) in by.cards

    give = tuple(one for one in spares if named(one.product_id, one.cell, wants))
    get = tuple(one for one in needs_of(board) if named(one.product_id, one.cell, has))
    gets = sum(one.cell.price or 0.0 for one in get)
    balance = balanced([one.cell.price or 0.0 for one in give], gets) if has.given else Balance((), 0.0)
    cells = [*(spare.cell for spare in give), *(need.cell for need in get)]
    unpriced = sum(1 for cell in cells if cell.price is None)
    return SwapTable(give, get, balance, (*wants.unread, *has.unread), unpriced)
