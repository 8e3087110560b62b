"""The stack: an order's cards in the order of the form, taken one by one; what is out of order is said at once."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum


@dataclass(frozen=True, slots=True)
class StackCard:
    """A card of the stack: its place on the form, its copy, and what it is told by."""

    place: int
    copy_id: int
    number: str
    name: str
    parallel: str = ""
    serial: str = ""
    packed: bool = False
    certificate: str = ""

    @property
    def code(self) -> str:
        """What the label of a copy says, and its barcode holds."""
        return code_of(self.copy_id)

    @property
    def words(self) -> str:
        """Number, name, finish and serial."""
        return " ".join(word for word in (self.number, self.name, self.parallel, self.serial) if word)


def code_of(copy_id: int) -> str:
    """Return the code of a copy."""
    return f"C{copy_id}"


class Fit(StrEnum):
    """How a card that is offered stands to the stack."""

    RIGHT = "right"
    EARLY = "early"
    TWICE = "twice"
    FOREIGN = "foreign"
    UNREAD = "unread"
    FULL = "full"


@dataclass(frozen=True, slots=True)
class Offer:
    """What came of offering a card: whether it goes on the stack, which one it is, and what to do in words."""

    fit: Fit
    words: str
    card: StackCard | None = None


def next_card(stack: Sequence[StackCard]) -> StackCard | None:
    """Return the card that goes on the stack now; None when all are on it."""
    return next((card for card in stack if not card.packed), None)


def offer(stack: Sequence[StackCard], typed: str) -> Offer:
    """Hold a card against the stack, by its code, its certificate, its place (``#3``), its number or its name.

    A code or certificate tells one copy; a number or a name may fit several cards of the order: the one that is next
    counts then, and if none of them is, it is out of order.
    """
    wanted = next_card(stack)
    if wanted is None:
        return Offer(Fit.FULL, "All cards are on the stack already.")
    found = _meant(stack, typed)
    if found is None:
        return Offer(Fit.UNREAD, f"“{typed.strip()[:40]}” tells no card. Scan its code, or type its number or name.")
    if not found:
        return Offer(
            Fit.FOREIGN, f"“{typed.strip()[:40]}” is not in this order. Put it aside; now comes {_at(wanted)}."
        )
    if wanted in found:
        return Offer(Fit.RIGHT, f"{_at(wanted)} is on the stack.", wanted)
    waiting = [card for card in found if not card.packed]
    if not waiting:
        return Offer(Fit.TWICE, f"{_at(found[0])} is on the stack already. Now comes {_at(wanted)}.", found[0])
    return Offer(
        Fit.EARLY,
        f"Out of order: that is {_at(waiting[0])}, but now comes {_at(wanted)}. Put it back in its place.",
        waiting[0],
    )


def _at(card: StackCard) -> str:
    return f"line {card.place}, {card.words}"


def _meant(stack: Sequence[StackCard], typed: str) -> list[StackCard] | None:
    """Cards that what was typed may mean; None when it says nothing."""
    text = " ".join(typed.split()).casefold()
    if not text:
        return None
    if re.fullmatch(r"c\d{1,18}", text):
        return [card for card in stack if card.code.casefold() == text]
    if re.fullmatch(r"#\d{1,6}", text):
        return [card for card in stack if card.place == int(text[1:])]
    by_number = [card for card in stack if text in (card.number.casefold(), card.certificate.casefold())]
    if by_number:
        return by_number
    return [card for card in stack if _says(card, text.split())]


def _says(card: StackCard, parts: Sequence[str]) -> bool:
    """Whether each word that was typed begins a word of the card."""
    words = card.words.casefold().split()
    return all(any(word.startswith(part) for word in words) for part in parts)


@dataclass(frozen=True, slots=True)
class Check:
    """A step of packing: its key, what to do, and why."""

    key: str
    words: str
    why: str = ""


BEFORE = (
    Check("hands", "Hands are clean and dry, the table is clear"),
    Check(
        "dust", "Dust taken off with a dry, soft cloth or air, or left where it is",
        "No rubbing, no water, nothing else: a card that was worked on comes back refused as altered.",
    ),
    Check("sleeve", "Each card in a soft sleeve, a pull tab on its back"),
    Check(
        "holder", "Each in a semi-rigid holder, nothing stuck or written on it",
        "Hard cases, screw-down cases and snap cases are refused.",
    ),
)  # fmt: skip
"""Before the stack; common practice, no source."""
AFTER = (
    Check("boards", "The stack between two card boards of the same size, no edge sticking out"),
    Check("bands", "Rubber bands both ways, not tight", "A band that bends the boards bends the cards."),
    Check("wrap", "Bubble wrap around it"),
    Check("box", "In a small box, filled on all sides"),
    Check("shake", "Shaken: nothing moves"),
    Check("forms", "Two copies of the form inside, the third stays here"),
    Check(
        "label", "The order's label outside on top, its barcode free",
        "Not under tape, and not under the carrier's label.",
    ),
)  # fmt: skip
"""After the stack."""
CHECKS = (*BEFORE, *AFTER)


def missing(stack: Sequence[StackCard], done: Sequence[str]) -> list[str]:
    """Say what is still to do before a parcel is packed."""
    found = [f"{_at(card)} is not on the stack" for card in stack if not card.packed]
    if len(found) > 3:
        found = [*found[:2], f"and {len(found) - 2} cards more are not on the stack"]
    return found + [check.words for check in CHECKS if check.key not in done]
