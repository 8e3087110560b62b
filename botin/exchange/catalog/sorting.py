"""A product in the making: sections, cards, parallels and rates as lines bring them, with a note for every line."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from botin.core.catalog.product import Kind
from botin.exchange.catalog.baseparts import join_parts
from botin.exchange.catalog.cardtext import CardLine
from botin.exchange.catalog.clubheadings import join_clubs, swap_clubs
from botin.exchange.catalog.clubnames import OPEN, settle_clubs
from botin.exchange.catalog.codes import settle_codes
from botin.exchange.catalog.foldfinishes import fold_finishes
from botin.exchange.catalog.formatstext import slug
from botin.exchange.catalog.kinds import guess_kind, is_only_kinds, is_section_word
from botin.exchange.catalog.oddstext import FORMAT_WORDS, Rated
from botin.exchange.catalog.partners import with_partners
from botin.exchange.catalog.questions import Question, Seen
from botin.exchange.catalog.runtext import take_run
from botin.exchange.catalog.strays import drop_small, drop_titles
from botin.exchange.catalog.wholedoubts import doubt_sources
from botin.exchange.notes import Note, Sheet, Status, shown
from botin.exchange.tables import RawRow

_ORDER = (Status.PASSED, Status.UNDERSTOOD, Status.GUESSED, Status.NOT)
CardItem = tuple[int, CardLine, dict[str, str]]


@dataclass
class OpenSection:
    """A section while its cards come in; ``sized`` is a number behind its name: how many cards, or their run."""

    key: str
    label: str
    kind: Kind
    line: int
    expected: int | None = None
    named: bool = True
    back_code: str = ""
    cue: str = ""
    run: str = ""
    sized: str = ""
    by_column: bool = False
    cards: list[CardItem] = field(default_factory=list)
    numbers: set[str] = field(default_factory=set)


@dataclass(frozen=True, slots=True)
class Pending:
    """A rate that is settled when all names are known; a table says section and finish apart from the name."""

    place: int
    rated: Rated
    format: str = ""
    section: str = ""
    parallel: str | None = None


@dataclass(frozen=True, slots=True)
class Later:
    """A line with rates, as written.

    Attributes
    ----------
    format, group : str
        Format and section it stands under.
    order : tuple of str
        Formats that were named side by side above.
    odds : bool
        Whether it was given as odds.
    name : str
        What the line above named, for rates that have no name of their own.
    """

    place: int
    text: str
    format: str
    group: str
    order: tuple[str, ...] = ()
    odds: bool = False
    name: str = ""


@dataclass
class Sorting:
    """Everything read so far.

    Attributes
    ----------
    places : list of (sheet, line)
        Where each row came from; a row's ``line`` is its index here plus one.
    later : list of Later
        Lines with rates, read when all formats are known.
    pending : list of Pending
        Rates whose names are settled when all are known.
    told : mapping
        What the user said of the columns of tables of a shape.
    codes : dict
        Place and section of each code before numbers that a legend explains.
    """

    rows: dict[str, list[RawRow]] = field(default_factory=lambda: defaultdict(list))
    sections: dict[str, OpenSection] = field(default_factory=dict)
    notes: dict[int, Note] = field(default_factory=dict)
    places: list[tuple[str, int]] = field(default_factory=list)
    later: list[Later] = field(default_factory=list)
    pending: list[Pending] = field(default_factory=list)
    rules: list[tuple[int, str, tuple[int, ...]]] = field(default_factory=list)
    titles: list[tuple[int, str]] = field(default_factory=list)
    about: dict[str, str] = field(default_factory=dict)
    finishes: dict[tuple[str, str, str], int] = field(default_factory=dict)
    questions: list[Question] = field(default_factory=list)
    tables: list[Seen] = field(default_factory=list)
    labelled: dict[str, str] = field(default_factory=dict)
    """Keys of sections by their label as written: a column says the same one thousands of times."""
    codes: dict[str, tuple[int, str]] = field(default_factory=dict)
    kinds: Mapping[str, str] = field(default_factory=dict)
    rated: set[tuple[str, str, str]] = field(default_factory=set)
    told: Mapping[str, Mapping[int, str]] = field(default_factory=dict)
    current: str = ""
    home: str = "Base"
    """Section of cards above which no heading stands: what the sheet is named after."""
    current_format: str = ""

    def at(self, sheet: Sheet, line: int, cells: tuple[str, ...]) -> int:
        """Register a source line; return its place, and note it as passed over until something reads it."""
        self.places.append((sheet.place, line))
        place = len(self.places)
        self.notes[place] = Note(sheet.place, line, shown(cells), Status.PASSED, "")
        return place

    def note(self, place: int, status: Status, says: str, others: tuple[tuple[str, str], ...] = ()) -> None:
        """Say what was made of a line, and how else it may be read; a later word never makes it surer."""
        if not place:
            return
        before = self.notes[place]
        worst = max(before.status, status, key=_ORDER.index)
        words = before.says if says in before.says else f"{before.says}; {says}" if before.says else says
        both = (*before.others, *(other for other in others if other not in before.others))
        self.notes[place] = replace(before, status=worst, says=words, others=both)

    def section(self, label: str, place: int, expected: int | None = None, *, says: bool = True) -> OpenSection:
        """Open a section by its heading, or go on with it; without ``says`` a column names it, not a heading."""
        key = self.labelled.get(label, "") if not says else ""
        if key in self.sections:
            self.current = key
            return self.sections[key]
        written = label
        label, run = take_run(label)
        key = self.labelled[written] = slug(label) or "base"
        kind, named = guess_kind(label)
        if key not in self.sections:
            self.sections[key] = OpenSection(key, label, kind, place, expected, named, run=run)
            if says:
                status = Status.UNDERSTOOD if named else Status.GUESSED
                why = "" if named else ", for want of a word that says more"
                self.note(place, status, f"section “{label}”, {kind.value.replace('_', ' ')}{why}")
        if not says and place:
            self.sections[key].by_column = True
        elif says and self.sections[key].line != place:
            self.note(place, Status.UNDERSTOOD, f"more of section “{self.sections[key].label}”")
        self.current = key
        return self.sections[key]

    def card(self, place: int, card: CardLine, more: dict[str, str] | None = None) -> None:
        """Add a card to the section in hand; before any heading that is the base set."""
        if not self.current:
            self.section(self.home, place, says=False).by_column = False
        self.sections[self.current].cards.append((place, card, more or {}))
        self.sections[self.current].numbers.add(card.number)

    def add(self, table: str, place: int, **cells: str) -> None:
        """Add a row of a package table."""
        self.rows[table].append(RawRow(place, cells))

    def has_row(self, table: str, **cells: str) -> bool:
        """Whether a table has a row with these cells."""
        return any(all(row.get(name) == value for name, value in cells.items()) for row in self.rows[table])

    def parallel(self, place: int, section: str, label: str, run: str = "", group: str = "") -> str:
        """Add a finish of a section once; return its key."""
        key = slug(label) or "finish"
        known = self.finishes.get((section, key, group))
        if known is None:
            self.finishes[(section, key, group)] = len(self.rows["parallels"])
            self.add("parallels", place, parallel=key, label=label, section=section, run=run, group=group)
        elif run and not self.rows["parallels"][known].get("run"):
            row = self.rows["parallels"][known]
            self.rows["parallels"][known] = RawRow(row.line, {**row.values, "run": run})
        elif run and run != self.rows["parallels"][known].get("run"):
            says = f"{label} is numbered to {self.rows['parallels'][known].get('run')} elsewhere, to {run} here"
            self.note(place, Status.GUESSED, says)
        return key

    def format_words(self) -> dict[str, str]:
        """Return the words that name a format, and its key."""
        found: dict[str, str] = {}
        for row in self.rows["formats"]:
            key = row.get("format")
            label = row.get("label").casefold()
            for word in (label, label.removesuffix(" box"), label.removesuffix("-box"), key.replace("-", " ")):
                found[word] = key
            for word in FORMAT_WORDS:
                if word in label:
                    found.setdefault(word, key)
        return {word: key for word, key in found.items() if word}

    def finish(self) -> None:
        """Turn open sections into rows: short prints apart, runs of single cards into groups."""
        drop_titles(self)
        drop_small(self)
        swap_clubs(self)
        settle_codes(self)
        join_parts(self)
        self._join_counted()
        join_clubs(self)
        self._settle_clubs()
        for number_place, key, numbers in self.rules:
            self._mark(number_place, key, numbers)
        for key, kind in self.kinds.items():
            if key in self.sections:
                self.sections[key].kind, self.sections[key].named = Kind(kind), True
        self._find_base()
        fold_finishes(self)
        doubt_sources(self)
        for section in list(self.sections.values()):
            self._close(section)

    def _join_counted(self) -> None:
        """A lone name between a heading with a count and as many cards is a finish of that section."""
        for section in list(self.sections.values()):
            below = next((one for one in self.sections.values() if one.line == section.line + 1 > 1), None)
            if below is None or section.cards or not section.expected or below.named or below.expected:
                continue
            if len(below.cards) == section.expected:
                del self.sections[below.key]
                section.cards, section.numbers = below.cards, below.numbers
                self.parallel(below.line, section.key, below.label, below.run)
                self.note(below.line, Status.GUESSED, f"finish {below.label} of {section.label}, whose cards follow")

    def _settle_clubs(self) -> None:
        of_sheet: dict[str, list[tuple[OpenSection, int]]] = defaultdict(list)
        for section in self.sections.values():
            for at, (place, _, _) in enumerate(section.cards):
                of_sheet[self.places[place - 1][0]].append((section, at))
        for spots in of_sheet.values():
            settled = settle_clubs([section.cards[at][1] for section, at in spots])
            for (section, at), card in zip(spots, settled, strict=True):
                place, _, more = section.cards[at]
                section.cards[at] = (place, card, more)
        self._settle_partners()

    def _settle_partners(self) -> None:
        found = with_partners({one.label: [card for _, card, _ in one.cards] for one in self.sections.values()})
        for section in self.sections.values():
            for at, card in enumerate(found[section.label]):
                place, _, more = section.cards[at]
                section.cards[at] = (place, card, more)
                self._say_card(place, card)

    def _say_card(self, place: int, card: CardLine) -> None:
        says = f"card {card.number} · {card.name}" + (f" · {card.team}" if card.team else "")
        marks = [card.rookie and "rookie", card.short and "short print", card.run and f"numbered to {card.run}"]
        says += "".join(f" · {mark}" for mark in marks if mark)
        if is_section_word(card.team):
            card = replace(
                card, guesses=(*card.guesses, f"“{card.team}” stands where the club does: is it the section?")
            )
        status = Status.GUESSED if card.guesses else Status.UNDERSTOOD
        others: tuple[tuple[str, str], ...] = ()
        if OPEN in card.guesses and (text := self.notes[place].text).endswith(" RC"):
            others = (("RC marks a rookie", f"{text.removesuffix(' RC')} (RC)"),)
        self.note(place, status, f"{says} ({', '.join(card.guesses)})" if card.guesses else says, others)

    def _find_base(self) -> None:
        """Where no heading names the base set it is the largest section whose numbers count up from 1."""
        if not self.sections or any(s.kind is Kind.BASE for s in self.sections.values()):
            return
        plain = [
            s for s in self.sections.values()
            if not s.named and "1" in s.numbers and all(number.isdecimal() for number in s.numbers)
        ]  # fmt: skip
        best = max(plain, key=lambda s: len(s.cards), default=None)
        if best is not None and len(best.cards) >= max(len(s.cards) for s in self.sections.values()):
            best.kind = Kind.BASE
            says = f"“{best.label}” is taken as the base set: the most cards, and their numbers count up from 1"
            self.note(best.line, Status.GUESSED, says)

    def _mark(self, place: int, key: str, numbers: tuple[int, ...]) -> None:
        section = self.sections.get(key)
        wanted = {str(number) for number in numbers}
        if section is None:
            self.note(place, Status.NOT, "a rule of numbers before any card: put it below the cards it is about")
            return
        found = [(p, replace(c, short=True) if c.number in wanted else c, more) for p, c, more in section.cards]
        hit = {card.number for _, card, _ in found if card.number in wanted}
        section.cards = found
        missing = len(wanted - hit)
        status = Status.GUESSED if missing else Status.UNDERSTOOD
        more = f"; {missing} of its numbers are not on the list" if missing else ""
        self.note(place, status, f"{len(hit)} short prints of {section.label}{more}")

    def _doubt_prefixes(self, section: OpenSection) -> None:
        """Cards whose numbers begin otherwise than the others’ may belong below a heading that was not read."""
        if section.by_column:
            return
        codes = [card.number for _, card, _ in section.cards]
        starts = [re.split(r"[-\d]", code)[0] if not code.isalpha() else "letters" for code in codes]
        usual = Counter(starts).most_common(1)[0][0] if starts else ""
        for (place, _, _), start in zip(section.cards, starts, strict=True):
            if start != usual:
                says = f"its number begins otherwise than most of {section.label}: is a heading missing?"
                self.note(place, Status.GUESSED, says)

    def _doubt_doubles(self, section: OpenSection) -> None:
        """One number for two people: there may be two sections in one."""
        names: dict[str, set[str]] = defaultdict(set)
        for _, card, _ in section.cards:
            names[card.number].add(card.name.casefold())
        for place, card, _ in section.cards:
            if len(names[card.number]) > 1:
                says = f"number {card.number} stands for several in {section.label}: is a section missing?"
                self.note(place, Status.GUESSED, says)

    def _is_over(self, section: OpenSection) -> bool:
        """Whether a heading of a kind alone has no cards because it stands over those that do."""
        listed = section.expected is not None and not any(one.cards for one in self.sections.values())
        over = (
            not listed
            and not section.cards
            and is_only_kinds(section.label)
            and len(self.sections) > 1
            and section.line > 0
        )
        own = {section.key, section.label.casefold()}
        return over and not any(row.get("section").casefold() in own for row in self.rows["cards"])

    def _close(self, section: OpenSection) -> None:
        if self._is_over(section):
            return
        self._doubt_prefixes(section)
        self._doubt_doubles(section)
        if section.expected is not None and section.expected != len(section.cards) and section.line:
            says = f"the heading says {section.expected} cards, {len(section.cards)} follow"
            self.note(section.line, Status.GUESSED, says)
        apart = section.kind is not Kind.SHORT_PRINT
        short = [item for item in section.cards if item[1].short and apart]
        plain = [item for item in section.cards if not (item[1].short and apart)]
        self._rows(section, plain)
        if short:
            label = f"{section.label} short prints"
            self._rows(OpenSection(f"{section.key}-sp", label, Kind.SHORT_PRINT, short[0][0], cards=short), short)

    def _rows(self, section: OpenSection, cards: list[CardItem]) -> None:
        more = {"back_code": section.back_code, "cue": section.cue}
        cells = {"section": section.key, "label": section.label, "kind": section.kind.value, **more}
        self.add("sections", section.line or (cards[0][0] if cards else 0), **cells)
        runs = dict.fromkeys(card.run for _, card, _ in cards if card.run)
        alike = len(runs) == 1 and all(card.run for _, card, _ in cards)
        if section.run and not runs and cards:
            runs, alike = {section.run: None}, True
        for place, card, extra in cards:
            group = extra.get("group") or (f"of {card.run}" if card.run and not alike else "")
            self.add(
                "cards", place, section=section.key, number=card.number, name=card.name, team=card.team,
                rookie=card.rookie or extra.get("rookie", ""), group=group, note=extra.get("note", ""),
            )  # fmt: skip
        for run in runs:
            place = next((place for place, card, _ in cards if card.run == run), section.line or cards[0][0])
            group = "" if alike else f"of {run}"
            self.add("parallels", place, parallel="", label="plain", section=section.key, run=run, group=group)
