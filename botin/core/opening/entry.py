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
    orla thorsby      a whole name, with or without its accents
    variation 33      part of a section's label, and a number
    12 /25            the run alone: the finish follows from it
    12 30/70          centering, where no finish of the card is numbered to 70
    13/50!            the card says so although the checklist says otherwise
    12 corner gum     marks: what is seen on the card
    12 ?              not sure which version: logged, to settle later
    12 @mira          whose it is
    12 "a note"       a note, at the end
    12 code:AB-1 by:2027-05-31    a redemption: its code, and when it expires
    + gold 3/9  not on the checklist: logged as it is
"""

from __future__ import annotations

import difflib
import re
from collections import defaultdict
from dataclasses import replace

from botin.core.catalog.naming import chosen, fold
from botin.core.catalog.product import Card, Kind, Product, Section
from botin.core.marks import CENTERING
from botin.core.opening.entryitems import (
    LONGEST_NAME,
    RANGE,
    RUN,
    SERIAL,
    UNSURE,
    WELL_CENTRED,
    Entry,
    EntryItem,
    Problem,
    ask_range,
    begins,
    either,
    run_problem,
    squeeze,
    tokens,
    unlisted,
)
from botin.core.opening.entrywords import Word, described_word, plain_word, take_note


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
        self._whole_names: dict[str, list[Card]] = defaultdict(list)
        for card in product.cards:
            self._numbers[squeeze(card.number)].append(card)
            self._by_name[card.name].append(card)
            for name in dict.fromkeys(fold(one) for one in (card.name, *card.people)):
                self._whole_names[name].append(card)
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
            return unlisted(line.text[1:], line.note)
        items: list[EntryItem] = []
        problems: list[Problem] = []
        section: Section | None = None
        words = tokens(UNSURE.sub(r"\1 ?", line.text))
        at = 0
        while at < len(words):
            size, step = self._phrase(words[at : at + LONGEST_NAME], items, section)
            if not size:
                size, step = 1, self._token(words[at], items, section)
            at += size
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
        if stamp := SERIAL.fullmatch(token) or RUN.fullmatch(token):
            take = self._serial if stamp.re is SERIAL else self._run
            return take(token, stamp, items)
        sure = plain_word(token)
        if sure is not None:
            return self._detail(token, sure, items)
        return self._word(token, squeeze(token), items, section)

    def _word(
        self, token: str, word: str, items: list[EntryItem], section: Section | None
    ) -> Problem | Section | None:
        """Take a word that may be a number, a finish or mark of the card before it, a section, or a name."""
        if word in self._numbers:
            return self._numbered(token, word, items, section)
        if RANGE.fullmatch(token):
            return ask_range(token)
        if items and not word.isdigit():
            known, answer = self._describes(token, word, items)
            if known:
                return answer
        named = self._section(word)
        if named is not None:
            return named
        known, found = self._named(token, word, items, section)
        return found if known else self._unknown(token, word, items)

    def _numbered(self, token: str, word: str, items: list[EntryItem], section: Section | None) -> Problem | None:
        """Take the card of a number; of a section that was named only a card of that section."""
        cards = self._numbers[word]
        if section is not None:
            cards = [card for card in cards if card.section == section.key]
        if not cards and section is not None:
            return Problem(token, f"{section.label} has no card {token}. Look at the back of the card again.")
        items.append(EntryItem(cards[0]))
        return None

    def _phrase(
        self, words: list[str], items: list[EntryItem], section: Section | None
    ) -> tuple[int, Problem | Section | None]:
        """Take several words as one: a finish of the card before them, somebody's whole name, a section's label.

        Returns
        -------
        tuple of (int, step)
            How many words were taken; 0 when they mean nothing together.
        """
        for size in range(len(words), 1, -1):
            part = words[:size]
            if any(re.search(r"[/@…?]|^[x×]?\d+[x×]?$", word) for word in part):
                continue
            text = " ".join(part)
            if items and items[-1].card is not None:
                own = {row.key for row in self.product.parallels_of(items[-1].known)}
                exact = self._parallels.get(squeeze(text), set()) & own
                if len(exact) == 1:
                    items[-1] = replace(items[-1], parallel=next(iter(exact)))
                    return size, None
            cards = self._whole_names.get(fold(text), [])
            if cards:
                return size, self._of_name(text, cards, items, section)
            labels = chosen(text, {one.key: one.label for one in self.product.sections})
            if len(labels) == 1:
                return size, self.product.section_by_key[labels[0]]
        return 0, None

    def _of_name(
        self, text: str, cards: list[Card], items: list[EntryItem], section: Section | None
    ) -> Problem | None:
        """Take the one card of a name; of several one is to be picked."""
        own = [card for card in cards if section is None or card.section == section.key] or cards
        if len(own) == 1:
            items.append(EntryItem(own[0]))
            return None
        numbers = tuple(dict.fromkeys(self._spelled(card) for card in own))[:6]
        more = f" and {len(own) - 6} more" if len(own) > 6 else ""
        return Problem(text, f"“{text}” is on {len(own)} cards: {either(list(numbers))}{more}. Pick one.", numbers)

    def _spelled(self, card: Card) -> str:
        """Return what to type for a card: its number, with its section where another one has the number too."""
        first = self._numbers[squeeze(card.number)][0]
        return (
            card.number
            if first is card
            else f"{squeeze(self.product.section_by_key[card.section].label)} {card.number}"
        )

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
        return Problem(token, f"No section has the back code …{code}. The product’s table has {either(codes)}.")

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

    def _named(
        self, token: str, word: str, items: list[EntryItem], section: Section | None
    ) -> tuple[bool, Problem | None]:
        """Read a name or part of one: one card that has it is meant, of several one is to be picked."""
        if len(word) < 3 or any(letter.isdigit() for letter in word):
            return False, None
        whole = self._whole_names.get(fold(token), [])
        found = whole or [card for name, cards in self._by_name.items() if word in squeeze(name) for card in cards]
        return (True, self._of_name(token, found, items, section)) if found else (False, None)

    def _serial(self, token: str, found: re.Match[str], items: list[EntryItem]) -> Problem | None:
        if not items:
            return Problem(token, f"“{token}” is a serial: type the card’s number before it, like 12 {token}.")
        serial, run = int(found[1]), int(found[2])
        if serial + run == 100 and not found[3] and not self._numbered_to(items[-1].known, run):
            return self._centering(items, serial, run)
        if not 1 <= serial <= run:
            remedy = f"Read the stamp again: the first number runs from 1 to {run}."
            return Problem(token, f"The serial {token} cannot be. {remedy}")
        items[-1] = replace(items[-1], serial=serial, run=run, insisted=bool(found[3]))
        return None

    def _numbered_to(self, card: Card, run: int) -> bool:
        """Whether a finish of a card is numbered to a run."""
        return any(row.stamped == run for row in self.product.parallels_of(card))

    @staticmethod
    def _centering(items: list[EntryItem], left: int, right: int) -> None:
        """Mark a centering like 30/70: two parts of a hundred, and no finish of the card has such a run."""
        before = items[-1].details
        off = ("off-centre",) if max(left, right) > WELL_CENTRED else ()
        marks = tuple(dict.fromkeys((*before.marks, *off, f"{CENTERING}{left}/{right}")))
        items[-1] = replace(items[-1], details=replace(before, marks=marks))

    @staticmethod
    def _run(token: str, found: re.Match[str], items: list[EntryItem]) -> Problem | None:
        """Take the run alone: the finish follows from it."""
        if not items:
            return Problem(token, f"“{token}” is a run: type the card’s number before it, like 12 {token}.")
        items[-1] = replace(items[-1], stamped=int(found[1]), insisted=bool(found[2]) or items[-1].insisted)
        return None

    def _parallel(self, word: str, card: Card) -> str | Problem | None:
        """Return the parallel a word means for this card: its key or label, whole or its beginning."""
        own = {row.key: row for row in self.product.parallels_of(card) if row.key}
        exact = self._parallels.get(word, set()) & own.keys()
        if len(exact) == 1:
            return next(iter(exact))
        starts = sorted(key for key, row in own.items() if word and begins(row, word))
        if len(starts) == 1:
            return starts[0]
        if len(starts) > 1:
            return Problem(word, f"“{word}” could be {either(starts)}: type one letter more.", tuple(starts))
        if word in self._parallels:
            have = f"It has {either(sorted(own))}." if own else "It has no parallels."
            return Problem(word, f"Card {card.number} does not come as {word}. {have}", tuple(sorted(own)))
        return None

    def _section(self, word: str) -> Section | None:
        """Return the section whose name begins so, or one word of whose label or whose kind does."""
        if not word:
            return None
        starts = {section.key: section for name, section in self._sections.items() if name.startswith(word)}
        if not starts and len(word) >= 3:
            bare = word.removesuffix("s") if len(word) > 3 else word
            starts = {
                section.key: section
                for section in self.product.sections
                if any(part.startswith(bare) for part in fold(f"{section.label} {section.kind.value}").split())
            }
        return next(iter(starts.values())) if len(starts) == 1 else None

    def _unknown(self, token: str, word: str, items: list[EntryItem]) -> Problem:
        """Say what could have been meant instead of dropping it."""
        if any(letter.isdigit() for letter in word) or not items:
            near = difflib.get_close_matches(word, self._numbers, n=3, cutoff=0.6)
            numbers = tuple(self._numbers[key][0].number for key in near)
            hint = f"Did you mean {either(list(numbers))}?" if numbers else "Look at the back of the card again."
            return Problem(token, f"There is no card {token} on this checklist. {hint}", numbers)
        names = [row.key for row in self.product.parallels_of(items[-1].known) if row.key]
        near = difflib.get_close_matches(word, names, n=3, cutoff=0.5) or names[:6]
        hint = f"Try {either(near)}." if near else "This card has no parallels."
        return Problem(token, f"“{token}” is no parallel of card {items[-1].known.number}. {hint}", tuple(near))

    def _finish(self, item: EntryItem) -> EntryItem | Problem:
        """Infer the parallel from the run, then hold the serial against what the checklist states."""
        if item.run is None and item.stamped is not None and not item.insisted:
            return self._by_run(item, item.stamped)
        if item.run is None or item.insisted:
            return item
        rows = self.product.parallels_of(item.known)
        if not item.parallel:
            fits = [row.key for row in rows if row.stamped == item.run]
            if len(fits) > 1:
                message = f"/{item.run} is the run of {either(fits)}: name one of them."
                return Problem(f"{item.serial}/{item.run}", message, tuple(fits))
            if fits:
                return replace(item, parallel=fits[0])
        stated = next((row for row in rows if row.key == item.parallel), None)
        if stated is not None and stated.stamped == item.run:
            return item
        return run_problem(item, stated)

    def _by_run(self, item: EntryItem, run: int) -> EntryItem | Problem:
        """Find the finish of a card by its run, or hold the one that was named against it."""
        rows = self.product.parallels_of(item.known)
        fits = [row.key for row in rows if row.stamped == run and item.parallel in ("", row.key)]
        if len(fits) == 1:
            return replace(item, parallel=fits[0])
        if fits:
            return Problem(f"/{run}", f"/{run} is the run of {either(fits)}: name one of them.", tuple(fits))
        name = f"{item.known.number} {item.parallel}".strip()
        runs = sorted({row.stamped for row in rows if row.stamped})
        have = f"It comes numbered to {either([str(one) for one in runs])}." if runs else "Nothing of it is numbered."
        message = f"No finish of card {name} is numbered to {run}. {have} Type /{run}! if the card really says so."
        return Problem(f"/{run}", message, (f"/{run}!",))
