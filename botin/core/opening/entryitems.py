"""What an entry line becomes: cards with their details, problems with their remedies; its words taken apart."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from botin.core.catalog.naming import unaccented
from botin.core.catalog.product import Card, Parallel
from botin.core.opening.entrywords import Details

SERIAL = re.compile(r"#?(\d+)\s*/\s*(\d+)(!?)")
SPACED_SERIAL = re.compile(r"(?<![\w/])#?(\d{1,6})(?:/|\s{0,3}/\s{1,3}|\s{1,3}of\s{1,3})(\d{1,6})", re.IGNORECASE)
"""A serial with blanks in it; ``12 /25``, with a blank before the stroke alone, is a card and a run."""
RUN = re.compile(r"#?/(\d{1,6})(!?)")
BETWEEN = re.compile(r"(?<=[0-9])[\W_]+(?=[0-9])")
RANGE = re.compile(r"(\d{1,4})\s?[-–]\s?(\d{1,4})")
UNSURE = re.compile(r"([0-9A-Za-z])\?(?=\s|$)")
LONGEST_NAME = 6
"""Words of a line that are tried as one name, finish or label."""


@dataclass(frozen=True, slots=True)
class EntryItem:
    """One card as understood.

    Attributes
    ----------
    card : Card or None
        None when it is not on the checklist; ``typed`` says what it is.
    candidates : tuple of (section, number, parallel)
        The versions it could be, when it was logged as not sure.
    """

    card: Card | None
    parallel: str = ""
    serial: int | None = None
    run: int | None = None
    insisted: bool = False
    stamped: int | None = None
    """The run alone, as typed like ``/25``."""
    details: Details = field(default=Details())
    typed: str = ""
    candidates: tuple[tuple[str, str, str], ...] = ()
    count: int = 1

    @property
    def known(self) -> Card:
        """The card of an item that is on the checklist."""
        if self.card is None:
            raise LookupError(self.typed)
        return self.card


@dataclass(frozen=True, slots=True)
class Problem:
    """What was not understood, with the remedy in words and what could be typed instead."""

    token: str
    message: str
    suggestions: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Entry:
    """The reading of one line; it is logged only when there are no problems."""

    items: tuple[EntryItem, ...]
    problems: tuple[Problem, ...]


def squeeze(text: str) -> str:
    """Lower case without accents, dashes and blanks: ``VK-3``, ``vk3`` and ``VK 3`` are one, but 1-5 is never 15."""
    kept = BETWEEN.sub("\x00", unaccented(text))
    return "".join(char if char.isalnum() else "-" * (char == "\x00") for char in kept)


def tokens(text: str) -> list[str]:
    """Words of an entry line; commas separate too, and blanks around the stroke of a serial do not matter."""
    return SPACED_SERIAL.sub(r"\1/\2", text.replace(",", " ").replace(";", " ")).split()


WELL_CENTRED = 60
"""A larger border above this is noted as off-centre; a choice."""


def ask_range(token: str) -> Problem:
    """Ask what two numbers with a dash mean: a run of cards, and no card of that number."""
    first, last = (int(part) for part in re.split(r"\s?[-–]\s?", token))
    if first < last <= first + 9:
        each = " ".join(str(number) for number in range(first, last + 1))
        return Problem(
            token, f"There is no card {token}. If you mean {last - first + 1} cards, type {each}.", (each,)
        )
    return Problem(token, f"There is no card {token} on this checklist. Type the numbers one by one.")


def unlisted(text: str, note: str) -> Entry:
    """Take a card that is not on the checklist as it is typed; a serial in it is read."""
    typed = " ".join(text.split())[:200]
    if not typed:
        return Entry((), (Problem("+", "Write what the card is behind the +, like + gold 3/9."),))
    serial = SERIAL.search(typed)
    details = Details(note=note)
    if serial is None or not 1 <= int(serial[1]) <= int(serial[2]):
        return Entry((EntryItem(None, typed=typed, details=details),), ())
    return Entry((EntryItem(None, serial=int(serial[1]), run=int(serial[2]), typed=typed, details=details),), ())


def run_problem(item: EntryItem, stated: Parallel | None) -> Problem:
    """Say that the stamp and the checklist disagree, and how to insist."""
    typed = f"{item.serial}/{item.run}"
    name = f"{item.known.number} {item.parallel}".strip()
    says = f"numbered to {stated.stamped}" if stated and stated.stamped else "not numbered"
    message = (
        f"The checklist says {name} is {says}, the serial says /{item.run}. "
        f"Name the right parallel, or type {typed}! if the card really says so."
    )
    return Problem(typed, message, (f"{typed}!",))


def begins(row: Parallel, word: str) -> bool:
    """Whether the key or the label of a finish begins with a word."""
    return squeeze(row.key).startswith(word) or squeeze(row.label).startswith(word)


def either(words: list[str]) -> str:
    """``a``, ``a or b``, ``a, b or c``."""
    return " or ".join(filter(None, (", ".join(words[:-1]), words[-1]))) if words else ""
