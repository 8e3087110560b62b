"""Headings that go on: with a description in brackets, or with sentences behind them."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace

from botin.core.catalog.numberrule import short_print_rule
from botin.core.catalog.product import Kind
from botin.exchange.catalog.cardtext import is_prose
from botin.exchange.catalog.finishtext import parallels_in
from botin.exchange.catalog.headingtext import heading_of, is_range, without_verb
from botin.exchange.catalog.kinds import guess_kind, is_only_kinds
from botin.exchange.catalog.oddstext import Rated, rates_in
from botin.exchange.catalog.runtext import RUN_ALONE, run_in
from botin.exchange.catalog.sorting import OpenSection, Pending
from botin.exchange.catalog.textfinishes import finish_list
from botin.exchange.catalog.textreader import MOST_WORDS, Line, Reader, leads, one_card
from botin.exchange.catalog.textsections import open_section, rule_line
from botin.exchange.notes import Status

_BRACKETS = re.compile(r"(?P<head>[^()\[\],;:/|]{2,60}?)\s*[(\[](?P<inside>[^()\[\]]{2,100})[)\]]\s*:?")
_AT_MOST = re.compile(r"\s+or (?:less|fewer|lower|under|better)\s*$", re.IGNORECASE)
_SAYS_LITTLE = re.compile(
    r"(?:all |serial(?:ly)?[- ]?)*(?:(?:un)?numbered|limited|not numbered)(?: cards?)?"
    r"|(?:[^\W\d_]+ ){0,2}(?:only|exclusives?)",
    re.IGNORECASE,
)
_MARKED = re.compile(
    r"(?P<what>S?SPs?|short[- ]?prints?|RCs?|rookies?)\s+(?:are\s+)?(?:marked|denoted|indicated|noted|shown)"
    r"(?:\s+(?:with|by))?(?:\s+an?)?\s*(?P<sign>[*^†‡§°])",
    re.IGNORECASE,
)
_SENTENCES = re.compile(r"(?<=[^\W\d_]{2})\.\s+(?=[A-Z])|;\s+")


_DASH = re.compile(r"\s[–—-]\s")
_NUMBERS = (
    r"(?P<first>#?(?:[A-Z]{0,6}-?\d{1,4}|[A-Z]{1,6}-[A-Z]{1,5}))\s?(?:-|–|to|bis|through|à)"
    r"\s?(?P<last>#?(?:[A-Z]{0,6}-?\d{1,4}|[A-Z]{1,6}-[A-Z]{1,5}))"
)
_HAS_RANGE = re.compile(r"[A-Z\d]\s?(?:-|–|to|bis|through|à)\s?#?(?:[A-Z]{1,6}-|[A-Z]{0,6}-?\d)")
_RANGE_FIRST = re.compile(rf"{_NUMBERS}\s*[:.)=–—-]?\s+(?P<label>[^\W\d_][^\d:]{{2,50}}?)\s*:?")
_RANGE_LAST = re.compile(rf"(?P<label>[^\W\d_][^\d:]{{2,50}}?)\s*[:=,–—-]?\s+{_NUMBERS}\s*:?")


_CARDS = re.compile(r"\b(?:cards?|karten?|cartes?|cartas?|kaarten|inserts?)\b", re.IGNORECASE)
_FINISH = re.compile(r"\b(?:parallels?|finish(?:es)?|versions?)\b", re.IGNORECASE)
_REMARK = re.compile(r"[a-z][^\d]{2,40}")
_WORD = re.compile(r"[^\W\d_]{3,}")


@dataclass
class _Description:
    """What stands in brackets behind the name of a section."""

    kind: Kind | None = None
    run: str = ""
    at_most: str = ""
    expected: int | None = None
    rates: list[Rated] = field(default_factory=list)
    signs: dict[str, str] = field(default_factory=dict)


def described_heading(reader: Reader, line: Line) -> bool:
    """A heading with its kind, run, count, numbers or odds in brackets: “Night Ink (autographs, 1:48 packs)”."""
    found = _BRACKETS.fullmatch(line.bare)
    if not found or one_card(line.text) is not None or is_prose(found["head"]) or not leads(line.following):
        return False
    said = _Description()
    parts = [part.strip() for part in re.split(r"[,;](?!\d{3}\b)", found["inside"]) if part.strip()]
    left = [part for part in parts if not _told(reader, said, part)]
    if (
        any(not _REMARK.fullmatch(part) for part in left)
        or len(left) == len(parts)
        or not (said.kind or said.run or said.at_most or said.rates or said.signs)
    ):
        return False
    section = open_section(reader, heading_of(found["head"])[0], line.place, said.expected)
    if said.kind is not None and not guess_kind(section.label)[1]:
        section.kind, section.named = said.kind, True
    _keep(reader, line, section, said)
    if left:
        reader.sorting.note(line.place, Status.GUESSED, f"“{', '.join(left)}” is not kept")
    return True


def _keep(reader: Reader, line: Line, section: OpenSection, said: _Description) -> None:
    """Keep the run, the signs and the odds that stand behind the name of a section."""
    section.run = said.run or section.run
    reader.symbols |= said.signs
    if said.at_most:
        says = f"numbered to {said.at_most} or less: each card says to what"
        reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    for rated in said.rates:
        pending = Pending(line.place, rated, reader.sorting.current_format, section.label, "")
        reader.sorting.pending.append(pending)


def heading_and_commas(reader: Reader, line: Line) -> bool:
    """A heading that goes on behind commas: “Heavy Hands, game-used glove, one per case”, cards follow."""
    head, *parts = [part.strip(" :") for part in re.split(r",\s+(?!\d{3}\b)|\s+;\s+", line.bare)]
    if not parts or not head or re.search(r"[\d:()]", head) or len(head.split()) > MOST_WORDS + 1:
        return False
    if is_prose(head) or _FINISH.search(head) or one_card(line.text) is not None or one_card(line.following) is None:
        return False
    said = _Description()
    left = [part for part in parts if not _told(reader, said, part) and not _told(reader, said, f"x {part}")]
    if any(part[:1].isupper() for part in left) or (len(left) == len(parts) and not any(map(_names_kind, left))):
        return False
    above = reader.sorting.sections.get(reader.sorting.current)
    if (
        above is not None
        and above.line
        and not above.cards
        and not said.kind
        and not left
        and not guess_kind(head)[1]
    ):
        return False  # between a heading and its cards “Copper, numbered to 25” is a finish
    section = open_section(reader, heading_of(head)[0], line.place, said.expected)
    kinds = [guess_kind(part)[0] for part in left if guess_kind(part)[1]]
    if (said.kind or kinds) and not guess_kind(section.label)[1]:
        section.kind, section.named = said.kind or kinds[0], True
    _keep(reader, line, section, said)
    if left:
        reader.sorting.note(line.place, Status.GUESSED, f"“{', '.join(left)}” behind it is not kept")
    return True


def _names_kind(text: str) -> bool:
    return guess_kind(text)[1]


def _told(reader: Reader, said: _Description, part: str) -> bool:
    """Take one part of a description; false when it says nothing that is known."""
    marked = _MARKED.fullmatch(part)
    if marked:
        said.signs[marked["sign"]] = "short" if marked["what"][:1].casefold() == "s" else "rookie"
        return True
    rates = rates_in(part, reader.words())
    plain = _AT_MOST.sub("", part)
    run = RUN_ALONE.fullmatch(plain)
    count = heading_of(f"x {part}")[1]
    if rates:
        named = [_CARDS.sub("", rated.name) for rated in rates]
        said.rates += [replace(r, name="") for r, n in zip(rates, named, strict=True) if not _WORD.search(n)]
        return len(said.rates) >= len(rates)
    if is_only_kinds(part):
        said.kind = guess_kind(part)[0]
    elif run and plain == part:
        said.run = run_in(run)
    elif run:
        said.at_most = run_in(run)
    elif count:
        said.expected = count
    else:
        return is_range(f"({part})") or _SAYS_LITTLE.fullmatch(part) is not None
    return True


def range_heading(reader: Reader, line: Line) -> bool:
    """A heading with its numbers from and to before or behind it: “1-100: Base”, “Night Sprints: NS1-NS10”."""
    if not _HAS_RANGE.search(line.bare):
        return False
    found = _RANGE_FIRST.fullmatch(line.bare) or _RANGE_LAST.fullmatch(line.bare)
    if not found or not _begins_so(line, found["first"].lstrip("#").casefold()):
        return False
    first, last = (int(re.sub(r"\D", "", found[name]) or 0) for name in ("first", "last"))
    open_section(
        reader,
        heading_of(without_verb(found["label"]))[0],
        line.place,
        last - first + 1 if last >= first > 0 else None,
    )
    return True


def _begins_so(line: Line, first: str) -> bool:
    """Whether the cards below a heading begin with a number, or finishes or odds stand before them."""
    card = one_card(line.following) or one_card(line.beyond)
    return card.number.casefold() == first if card is not None else leads(line.following)


def heading_then_remark(reader: Reader, line: Line) -> bool:
    """A heading that names a kind and goes on with a remark: “Ink Autographs - each numbered to the rider's bib”."""
    head, dash, rest = re.split(r"(\s[–—-]\s)", line.bare, maxsplit=1) if _DASH.search(line.bare) else ("", "", "")
    if not dash or not is_prose(rest) or is_prose(head) or one_card(line.text) is not None:
        return False
    if not guess_kind(head)[1] or len(head.split()) > MOST_WORDS + 1 or not leads(line.following):
        return False
    open_section(reader, heading_of(head)[0], line.place)
    reader.sorting.note(line.place, Status.GUESSED, f"“{rest.strip()}” is left out")
    return True


def heading_then_rule(reader: Reader, line: Line) -> bool:
    """A heading and sentences of its finishes and short prints: “Base, 300 cards. 201-300 are SP. Parallels: …”."""
    head, *others = _SENTENCES.split(line.bare)
    said = [rest for rest in others if short_print_rule(rest) or parallels_in(rest.rstrip("."))]
    if not said or len(said) < len(others) or is_prose(head) or one_card(line.text) is not None:
        return False
    label, expected = heading_of(head)
    if not label:
        return False
    open_section(reader, label, line.place, expected)
    for rest in said:
        inner = replace(line, text=rest.rstrip("."), bare=rest.rstrip("."))
        _ = finish_list(reader, inner) or rule_line(reader, inner)
    return True
