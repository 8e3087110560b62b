"""The entry line: what a person types for a card, read against the checklist.

Grammar (words in any order after the number they belong to)::

    12                a base card
    12 45 101         several
    12 x3             three of it
    12 copper 13/25   a parallel and a serial
    12 13/25          the parallel follows from the run when only one has it
    12 …308           the back code decides section and finish by the product's table
    signed 12         a section by its name, when several sections have the number
    VK-3  or  vk3     numbers with or without their dash
    thorsby           part of a name, when only one card has it
    13/50!            the card says so although the checklist says otherwise
    12 corner gum     marks: what is seen on the card
    12 ?              not sure which version: logged, to settle later
    12 @mira          whose it is
    12 "a note"       a note, at the end
    12 code:AB-1 by:2027-05-31    a redemption: its code, and when it expires
    + gold rider 3/9  not on the checklist: logged as it is
"""

from __future__ import annotations

import difflib
import re
from collections import defaultdict
from dataclasses import dataclass, field, replace

from botin.core.entrywords import Details, Word, described_word, plain_word, take_note
from botin.core.product import Card, Kind, Parallel, Product, Section

_SERIAL = re.compile(r"(\d+)\s*/\s*(\d+)(!?)")
_SPACED_SERIAL = re.compile(r"(\d+)\s*/\s*(\d+)")
_SQUEEZE = re.compile(r"[^0-9a-z]")
_UNSURE = re.compile(r"([0-9A-Za-z])\?(?=\s|$)")


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
    """Lower case without dashes and blanks, so that ``VK-3``, ``vk3`` and ``VK 3`` are one."""
    return _SQUEEZE.sub("", text.casefold())


def tokens(text: str) -> list[str]:
    """Words of an entry line; commas separate too, and blanks around the stroke of a serial do not matter."""
    return _SPACED_SERIAL.sub(r"\1/\2", text.replace(",", " ").replace(";", " ")).split()


class EntryReader:
    """Reads entry lines for one product.

    Parameters
    ----------
    product : Product
        Its checklist, sections and parallels decide what a word means.
    """

    def __init__(self, product: Product) -> None:
        self.product = product
        self._numbers: dict[str, list[Card]] = defaultdict(list)
        self._by_name: dict[str, list[Card]] = defaultdict(list)
        for card in product.cards:
            self._numbers[squeeze(card.number)].append(card)
            self._by_name[card.name].append(card)
        self._parallels: dict[str, set[str]] = defaultdict(set)
        for row in product.parallels:
            if row.key:
                for name in (row.key, row.label):
                    self._parallels[squeeze(name)].add(row.key)
        self._sections = {
            squeeze(name): section for section in product.sections for name in (section.key, section.label)
        }

    def read(self, text: str) -> Entry:
        """Read one line.

        Parameters
        ----------
        text : str
            As typed.

        Returns
        -------
        Entry
            The cards understood and the problems found; blank text gives neither.
        """
        line = take_note(text)
        if line.text.startswith("+"):
            return _unlisted(line.text[1:], line.note)
        items: list[EntryItem] = []
        problems: list[Problem] = []
        section: Section | None = None
        for token in tokens(_UNSURE.sub(r"\1 ?", line.text)):
            step = self._token(token, items, section)
            if isinstance(step, Problem):
                problems.append(step)
            elif isinstance(step, Section):
                section = step
        if section is not None and not items and not problems:
            problems.append(
                Problem("", f"{section.label} is a section: type a number behind it, like {section.key} 12.")
            )
        if line.note and items:
            items[-1] = replace(items[-1], details=replace(items[-1].details, note=line.note))
        if line.note and not items and not problems:
            problems.append(Problem("", "A note belongs behind a card: type its number first."))
        checked = [self._finish(item) for item in items]
        problems += [found for found in checked if isinstance(found, Problem)]
        good = [item for item in checked if isinstance(item, EntryItem)]
        return Entry(tuple(replace(item, count=1) for item in good for _ in range(item.count)), tuple(problems))

    def _token(self, token: str, items: list[EntryItem], section: Section | None) -> Problem | Section | None:
        """Take one word in: a serial, a number, a parallel, a detail or a section."""
        serial = _SERIAL.fullmatch(token)
        if serial:
            return self._serial(token, serial, items)
        sure = plain_word(token)
        if sure is not None:
            return self._detail(token, sure, items)
        word = squeeze(token)
        if word in self._numbers:
            items.append(EntryItem(self._pick(self._numbers[word], section)))
            return None
        if items and not word.isdigit():
            known, answer = self._describes(token, word, items)
            if known:
                return answer
        return self._section(word) or self._named(token, word, items) or self._unknown(token, word, items)

    def _describes(self, token: str, word: str, items: list[EntryItem]) -> tuple[bool, Problem | None]:
        """Whether a word is a finish or a mark of the card before it, and what is wrong with it."""
        found = self._parallel(word, items[-1].known)
        if isinstance(found, str):
            items[-1] = replace(items[-1], parallel=found)
            return True, None
        if found is not None:
            return True, found
        described = described_word(token)
        return (True, self._detail(token, described, items)) if described is not None else (False, None)

    def _detail(self, token: str, word: Word, items: list[EntryItem]) -> Problem | None:
        """Put a detail on the card before it."""
        if word.wrong:
            return Problem(token, word.wrong)
        if not items:
            return Problem(token, f"“{token}” belongs behind a card: type its number first, like 12 {token}.")
        item = items[-1]
        if word.unsure:
            items[-1] = replace(item, candidates=self.versions(item.known))
        elif word.count:
            items[-1] = replace(item, count=word.count)
        elif word.change is not None:
            items[-1] = replace(item, details=word.change(item.details))
        return self._by_back_code(token, items)

    def _by_back_code(self, token: str, items: list[EntryItem]) -> Problem | None:
        """Let the back code decide section and finish by the product's table."""
        item, code = items[-1], items[-1].details.back_code.casefold()
        if not code or item.run is not None:
            return None
        finish = next(
            (r for r in self.product.parallels_of(item.known) if r.back_code.casefold() == code and r.key), None
        )
        if finish is not None:
            items[-1] = replace(item, parallel=finish.key)
            return None
        sections = {s.key for s in self.product.sections if s.back_code.casefold() == code}
        if item.known.section in sections:
            return None
        same = [card for card in self._twins(item.known) if card.section in sections]
        if same:
            items[-1] = replace(item, card=same[0])
            return None
        codes = sorted({s.back_code for s in self.product.sections if s.back_code})
        if not codes or code in {known.casefold() for known in codes}:
            return None
        return Problem(token, f"No section has the back code …{code}. The product’s table has {_or(codes)}.")

    def _twins(self, card: Card) -> list[Card]:
        """Cards that could be taken for this one: its number, or else its name, in another section."""
        by_number = [other for other in self._numbers[squeeze(card.number)] if other.section != card.section]
        return by_number + [other for other in self._by_name[card.name] if other.section != card.section]

    def versions(self, card: Card) -> tuple[tuple[str, str, str], ...]:
        """Everything a card in hand could be, when one is not sure: its finishes, and variations of it."""
        kinds = self.product.section_by_key
        own = [
            (card.section, card.number, ""),
            *((card.section, card.number, r.key) for r in self.product.parallels_of(card) if r.key),
        ]
        late = [
            (other.section, other.number, "")
            for other in self._twins(card)
            if kinds[other.section].kind in (Kind.VARIATION, Kind.SHORT_PRINT, Kind.BASE)
        ]
        return tuple(dict.fromkeys([*own, *late]))

    def _named(self, token: str, word: str, items: list[EntryItem]) -> Problem | None:
        """Read part of a name: one card that has it is meant, of several one is to be picked."""
        if len(word) < 3 or any(letter.isdigit() for letter in word):
            return None
        found = [card for name, cards in self._by_name.items() if word in squeeze(name) for card in cards]
        if items and not found:
            return None
        if len(found) == 1:
            items.append(EntryItem(found[0]))
            return None
        if not found:
            return None
        numbers = tuple(dict.fromkeys(card.number for card in found))[:6]
        more = f" and {len(found) - 6} more" if len(found) > 6 else ""
        return Problem(token, f"“{token}” is on {len(found)} cards: {_or(list(numbers))}{more}. Pick one.", numbers)

    def _serial(self, token: str, found: re.Match[str], items: list[EntryItem]) -> Problem | None:
        if not items:
            return Problem(token, f"“{token}” is a serial: type the card’s number before it, like 12 {token}.")
        serial, run = int(found[1]), int(found[2])
        if not 1 <= serial <= run:
            remedy = f"Read the stamp again: the first number runs from 1 to {run}."
            return Problem(token, f"The serial {token} cannot be. {remedy}")
        items[-1] = replace(items[-1], serial=serial, run=run, insisted=bool(found[3]))
        return None

    @staticmethod
    def _pick(cards: list[Card], section: Section | None) -> Card:
        """Return the card of the named section when there is one, else the first of the checklist."""
        if section is not None:
            return next((card for card in cards if card.section == section.key), cards[0])
        return cards[0]

    def _parallel(self, word: str, card: Card) -> str | Problem | None:
        """Return the parallel a word means for this card: its key or label, whole or its beginning."""
        own = {row.key: row for row in self.product.parallels_of(card) if row.key}
        exact = self._parallels.get(word, set()) & own.keys()
        if len(exact) == 1:
            return next(iter(exact))
        starts = sorted(key for key, row in own.items() if word and _begins(row, word))
        if len(starts) == 1:
            return starts[0]
        if len(starts) > 1:
            return Problem(word, f"“{word}” could be {_or(starts)}: type one letter more.", tuple(starts))
        if word in self._parallels:
            have = f"It has {_or(sorted(own))}." if own else "It has no parallels."
            return Problem(word, f"Card {card.number} does not come as {word}. {have}", tuple(sorted(own)))
        return None

    def _section(self, word: str) -> Section | None:
        starts = [section for name, section in self._sections.items() if word and name.startswith(word)]
        return starts[0] if len({section.key for section in starts}) == 1 else None

    def _unknown(self, token: str, word: str, items: list[EntryItem]) -> Problem:
        """Say what could have been meant instead of dropping it."""
        if any(letter.isdigit() for letter in word) or not items:
            near = difflib.get_close_matches(word, self._numbers, n=3, cutoff=0.6)
            numbers = tuple(self._numbers[key][0].number for key in near)
            hint = f"Did you mean {_or(list(numbers))}?" if numbers else "Look at the back of the card again."
            return Problem(token, f"There is no card {token} on this checklist. {hint}", numbers)
        names = [row.key for row in self.product.parallels_of(items[-1].known) if row.key]
        near = difflib.get_close_matches(word, names, n=3, cutoff=0.5) or names[:6]
        hint = f"Try {_or(near)}." if near else "This card has no parallels."
        return Problem(token, f"“{token}” is no parallel of card {items[-1].known.number}. {hint}", tuple(near))

    def _finish(self, item: EntryItem) -> EntryItem | Problem:
        """Infer the parallel from the run, then hold the serial against what the checklist states."""
        if item.run is None or item.insisted:
            return item
        rows = self.product.parallels_of(item.known)
        if not item.parallel:
            fits = [row.key for row in rows if row.stamped == item.run]
            if len(fits) > 1:
                message = f"/{item.run} is the run of {_or(fits)}: name one of them."
                return Problem(f"{item.serial}/{item.run}", message, tuple(fits))
            if fits:
                return replace(item, parallel=fits[0])
        stated = next((row for row in rows if row.key == item.parallel), None)
        if stated is not None and stated.stamped == item.run:
            return item
        return _run_problem(item, stated)


def _unlisted(text: str, note: str) -> Entry:
    """Take a card that is not on the checklist as it is typed; a serial in it is read."""
    typed = " ".join(text.split())[:200]
    if not typed:
        return Entry((), (Problem("+", "Write what the card is behind the +, like + gold rider 3/9."),))
    serial = _SERIAL.search(typed)
    details = Details(note=note)
    if serial is None or not 1 <= int(serial[1]) <= int(serial[2]):
        return Entry((EntryItem(None, typed=typed, details=details),), ())
    return Entry((EntryItem(None, serial=int(serial[1]), run=int(serial[2]), typed=typed, details=details),), ())


def _run_problem(item: EntryItem, stated: Parallel | None) -> Problem:
    """Say that the stamp and the checklist disagree, and how to insist."""
    typed = f"{item.serial}/{item.run}"
    name = f"{item.known.number} {item.parallel}".strip()
    says = f"numbered to {stated.stamped}" if stated and stated.stamped else "not numbered"
    message = (
        f"The checklist says {name} is {says}, the serial says /{item.run}. "
        f"Name the right parallel, or type {typed}! if the card really says so."
    )
    return Problem(typed, message, (f"{typed}!",))


def _begins(row: Parallel, word: str) -> bool:
    return squeeze(row.key).startswith(word) or squeeze(row.label).startswith(word)


def _or(words: list[str]) -> str:
    """``a``, ``a or b``, ``a, b or c``."""
    return " or ".join(filter(None, (", ".join(words[:-1]), words[-1]))) if words else ""
