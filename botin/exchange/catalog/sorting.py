"""A product in the making: sections, cards, parallels and rates as lines bring them, with a note for every line."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field, replace

from botin.core.catalog.product import Kind
from botin.exchange.catalog.cardtext import CardLine
from botin.exchange.catalog.formatstext import slug
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.oddstext import FORMAT_WORDS
from botin.exchange.notes import Note, Sheet, Status, shown
from botin.exchange.tables import RawRow

_ORDER = (Status.PASSED, Status.UNDERSTOOD, Status.GUESSED, Status.NOT)


@dataclass
class OpenSection:
    """A section while its cards come in."""

    key: str
    label: str
    kind: Kind
    line: int
    expected: int | None = None
    back_code: str = ""
    cue: str = ""
    cards: list[tuple[int, CardLine, dict[str, str]]] = field(default_factory=list)
    numbers: set[str] = field(default_factory=set)


@dataclass
class Sorting:
    """Everything read so far.

    Attributes
    ----------
    places : list of (sheet, line)
        Where each row came from; a row's ``line`` is its index here plus one.
    later : list
        Lines with rates, read when all names are known: (row line, text, format).
    """

    rows: dict[str, list[RawRow]] = field(default_factory=lambda: defaultdict(list))
    sections: dict[str, OpenSection] = field(default_factory=dict)
    notes: dict[int, Note] = field(default_factory=dict)
    places: list[tuple[str, int]] = field(default_factory=list)
    later: list[tuple[int, str, str]] = field(default_factory=list)
    rules: list[tuple[int, str, tuple[int, ...]]] = field(default_factory=list)
    titles: list[str] = field(default_factory=list)
    finishes: dict[tuple[str, str, str], int] = field(default_factory=dict)
    current: str = ""
    current_format: str = ""

    def at(self, sheet: Sheet, line: int, cells: tuple[str, ...]) -> int:
        """Register a source line; return its place, and note it as passed over until something reads it."""
        self.places.append((sheet.place, line))
        place = len(self.places)
        self.notes[place] = Note(sheet.place, line, shown(cells), Status.PASSED, "")
        return place

    def note(self, place: int, status: Status, says: str) -> None:
        """Say what was made of a line; a later word on the same line never makes it surer."""
        before = self.notes[place]
        worst = max(before.status, status, key=_ORDER.index)
        words = f"{before.says}; {says}" if before.says and says and says not in before.says else says or before.says
        self.notes[place] = Note(before.sheet, before.line, before.text, worst, words)

    def section(self, label: str, place: int, expected: int | None = None) -> OpenSection:
        """Open a section by its heading, or go on with it."""
        key = slug(label) or "base"
        kind, named = guess_kind(label)
        if key not in self.sections:
            self.sections[key] = OpenSection(key, label, kind, place, expected)
            if place:
                status = Status.UNDERSTOOD if named else Status.GUESSED
                why = "" if named else ", for want of a word that says more"
                self.note(place, status, f"section “{label}”, {kind.value.replace('_', ' ')}{why}")
        self.current = key
        return self.sections[key]

    def card(self, place: int, card: CardLine, more: dict[str, str] | None = None) -> None:
        """Add a card to the section in hand; before any heading that is the base set."""
        if not self.current:
            self.section("Base", 0)
        self.sections[self.current].cards.append((place, card, more or {}))
        self.sections[self.current].numbers.add(card.number)
        says = f"card {card.number} · {card.name}" + (f" · {card.team}" if card.team else "")
        marks = [card.rookie and "rookie", card.short and "short print", card.run and f"numbered to {card.run}"]
        says += "".join(f" · {mark}" for mark in marks if mark)
        status = Status.GUESSED if card.guesses else Status.UNDERSTOOD
        self.note(place, status, f"{says} ({', '.join(card.guesses)})" if card.guesses else says)

    def add(self, table: str, place: int, **cells: str) -> None:
        """Add a row of a package table."""
        self.rows[table].append(RawRow(place, cells))

    def has_row(self, table: str, **cells: str) -> bool:
        """Whether a table has a row with these cells."""
        return any(all(row.get(name) == value for name, value in cells.items()) for row in self.rows[table])

    def parallel(self, place: int, section: str, label: str, run: str = "", group: str = "") -> str:
        """Add a finish of a section once; return its key."""
        key = slug(label)
        known = self.finishes.get((section, key, group))
        if known is None:
            self.finishes[(section, key, group)] = len(self.rows["parallels"])
            self.add("parallels", place, parallel=key, label=label, section=section, run=run, group=group)
        elif run and not self.rows["parallels"][known].get("run"):
            row = self.rows["parallels"][known]
            self.rows["parallels"][known] = RawRow(row.line, {**row.values, "run": run})
        return key

    def format_words(self) -> dict[str, str]:
        """Return the words that name a format, and its key."""
        found: dict[str, str] = {}
        for row in self.rows["formats"]:
            key = row.get("format")
            label = row.get("label").casefold()
            for word in (label, label.removesuffix(" box"), key.replace("-", " ")):
                found[word] = key
            for word in FORMAT_WORDS:
                if word in label:
                    found.setdefault(word, key)
        return {word: key for word, key in found.items() if word}

    def finish(self) -> None:
        """Turn open sections into rows: short prints apart, runs of single cards into groups."""
        for number_place, key, numbers in self.rules:
            self._mark(number_place, key, numbers)
        for section in list(self.sections.values()):
            self._close(section)

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

    def _close(self, section: OpenSection) -> None:
        if section.expected is not None and section.expected != len(section.cards) and section.line:
            says = f"the heading says {section.expected} cards, {len(section.cards)} follow"
            self.note(section.line, Status.GUESSED, says)
        short = [item for item in section.cards if item[1].short and section.kind is not Kind.SHORT_PRINT]
        plain = [item for item in section.cards if item not in short] if short else section.cards
        self._rows(section, plain)
        if short:
            label = f"{section.label} short prints"
            apart = OpenSection(f"{section.key}-sp", label, Kind.SHORT_PRINT, section.line, cards=short)
            self._rows(apart, short)

    def _rows(self, section: OpenSection, cards: list[tuple[int, CardLine, dict[str, str]]]) -> None:
        more = {"back_code": section.back_code, "cue": section.cue}
        cells = {"section": section.key, "label": section.label, "kind": section.kind.value, **more}
        self.add("sections", section.line, **cells)
        runs = dict.fromkeys(card.run for _, card, _ in cards if card.run)
        alike = len(runs) == 1 and all(card.run for _, card, _ in cards)
        for place, card, extra in cards:
            group = extra.get("group") or (f"of {card.run}" if card.run and not alike else "")
            self.add(
                "cards", place, section=section.key, number=card.number, name=card.name, team=card.team,
                rookie=card.rookie, group=group, note=extra.get("note", ""),
            )  # fmt: skip
        for run in runs:
            place = next(place for place, card, _ in cards if card.run == run)
            group = "" if alike else f"of {run}"
            self.add("parallels", place, parallel="", label="plain", section=section.key, run=run, group=group)
