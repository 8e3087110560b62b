"""A text line by line: each is what the first reading that fits makes of it, by where it was pasted."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Mapping
from functools import partial
from itertools import pairwise

from botin.exchange.catalog import describedheadings as described
from botin.exchange.catalog import textboxes as boxes
from botin.exchange.catalog import textcards as cards
from botin.exchange.catalog import textcells as celled
from botin.exchange.catalog import textfinishes as finishes
from botin.exchange.catalog import textodds as odds
from botin.exchange.catalog import textsections as sections
from botin.exchange.catalog.cardtext import cards_in, is_prose, unbulleted
from botin.exchange.catalog.celllines import cells_below, finish_tables, starred_finishes
from botin.exchange.catalog.clubsbelow import clubs_below
from botin.exchange.catalog.codes import codes_in, without_own_code
from botin.exchange.catalog.countsbefore import with_counts
from botin.exchange.catalog.headingtext import is_about_section
from botin.exchange.catalog.markup import plainly, says_nothing
from botin.exchange.catalog.producttitle import rest_of, title_before
from botin.exchange.catalog.rateunits import NUMBER_WORDS
from botin.exchange.catalog.sectionsbehind import with_section
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.catalog.textreader import (
    Attempt,
    Line,
    Reader,
    is_column_heads,
    is_finish_like,
    is_nested,
    one_card,
    remark,
)
from botin.exchange.notes import Sheet, Status

FORMATS: tuple[Attempt, ...] = (
    boxes.format_line, boxes.about_line, boxes.format_part, boxes.more_of_format, odds.sentence, odds.promise_line,
    boxes.format_name, boxes.price_alone, boxes.no_format,
)  # fmt: skip
ODDS: tuple[Attempt, ...] = (
    boxes.packed_line, boxes.format_line, odds.format_legend, odds.format_order, odds.format_heading, odds.sentence,
    odds.rates_line, odds.named_line, odds.breakdown, odds.odds_group, remark,
)  # fmt: skip
CHECKLIST: tuple[Attempt, ...] = (
    cards.legend, cards.letter_legend, celled.celled_card, cards.club_line, cards.by_club, cards.club_above,
    sections.counted_part, with_section, described.heading_then_rule, described.range_heading,
    described.heading_and_commas, sections.with_finishes, cards.plain_card, odds.format_legend, cards.code_legend,
    celled.column_heads, boxes.about_line, sections.title_again, sections.heading_with_rule,
    sections.rule_line,
    sections.run_of_section, finishes.finish_list, finishes.finishes_of, finishes.in_finishes, finishes.finish_row,
    boxes.configuration, boxes.packed_line, boxes.format_line, sections.rate_of_section,
    finishes.finish_above_cards, sections.heading_with_rates, sections.count_alone,
    finishes.stamped_finish, described.described_heading,
    sections.counted_heading, odds.rates_line, odds.breakdown, sections.cards_in_a_row, cards.card_line,
    odds.format_order, odds.format_heading, odds.sentence, described.heading_then_remark, sections.heading,
    sections.title, remark,
)  # fmt: skip
"""Readings in the order they are tried; what names itself (a rule, a run, a format) comes before what is like it."""

_BOLD = re.compile(r"(?:\[b\]|\[h\d\]|<(?:b|strong|h\d)\b[^>]*>)", re.IGNORECASE)
_STROKES = re.compile(r"[-=_~–—]{3,}")
ALL_APART = 0.9
"""Share of the lines that stand apart from which a blank line between two says nothing (a choice)."""
LOOK = 3
"""Lines among which the one below a heading is sought: sentences between them are passed."""
FAR = 24
"""Lines among which cards are sought below a heading and its finishes."""


def read_text(sorting: Sorting, sheet: Sheet, places: dict[int, int]) -> None:
    """Read the lines of a text, in whatever order they are."""
    reader = Reader(sorting, sheet)
    attempts = ODDS if reader.of_odds else FORMATS if reader.of_formats else CHECKLIST
    said = {number: _text(sheet, cells) for number, cells in sheet.rows if any(map(str.strip, cells))}
    whole = len(said)
    said = _without_tables(sorting, said, places)
    below = clubs_below(sheet) if attempts is CHECKLIST and len(said) == whole else {}
    ruled = _ruled(said)
    for number in ruled:
        sorting.note(places[number], Status.PASSED, "a rule below a heading")
    for number in below.values():
        sorting.note(places[number], Status.UNDERSTOOD, "the club of the card above")
    given = _joined(said, below, ruled)
    given = _in_sentences(sorting, given, places) if attempts is ODDS else given
    if attempts is CHECKLIST:
        codes = codes_in(text for _, text in given)
        given = [(number, without_own_code(text, codes)) for number, text in given] if codes else given
    meant = cards.letters_meant(text for _, text in given) if attempts is CHECKLIST else {}
    if meant:
        given = [(number, cards.usual_marks(text, meant)) for number, text in given]
    bold = {number for number, text in given if _BOLD.match(text.strip())} | {number - 1 for number in ruled}
    raw = _without_title(sorting, with_counts([(number, plainly(text)) for number, text in given]))
    made = _lines(raw, places, bold)
    cards.learn_signs(reader, made)
    for line in made:
        if not any(attempt(reader, line) for attempt in attempts):
            says = "neither a card (12 Orla Thorsby - Harrow Bay RC), a heading, a finish nor a rate (Copper 1:24)"
            sorting.note(line.place, Status.NOT, says)
        reader.before = line.bare
    finishes.doubt_unnamed(reader)


_SENTENCE = re.compile(r"(?<=[^\W_]{2})[.!](?=\s+[A-Z])|(?<=[)\d])\.(?=\s+[A-Z][a-z])")
_SAYS_RATE = re.compile(rf"\d|\b(?:{'|'.join(NUMBER_WORDS)}|an?)\b", re.IGNORECASE)


def _in_sentences(
    sorting: Sorting, given: list[tuple[int, str]], places: Mapping[int, int]
) -> list[tuple[int, str]]:  # fmt: skip
    """Part lines of odds that are several sentences; those that say no count are left out, and named."""
    made: list[tuple[int, str]] = []
    for number, text in given:
        parts = [part.strip() for part in _SENTENCE.split(text) if part.strip()]
        told = [part for part in parts if _SAYS_RATE.search(part)]
        several = len(parts) > 1 and len(told) > 0 and all(len(part.split()) > 2 for part in parts)
        made += [(number, part) for part in told] if several else [(number, text)]
        for part in parts if several else ():
            if part not in told:
                sorting.note(places[number], Status.PASSED, f"“{part.rstrip('.')}” says no count: left out")
    return made


def _without_tables(sorting: Sorting, said: dict[int, str], places: dict[int, int]) -> dict[int, str]:
    """Return what a text says with the cells of pasted tables in lines as people write them."""
    for number in [number for number, text in said.items() if says_nothing(text)]:
        sorting.note(places[number], Status.PASSED, "holds a table together, says nothing itself")
        del said[number]
    rows, heads = finish_tables(said)
    for number in heads:
        sorting.note(places[number], Status.PASSED, "headings of columns")
    rows |= starred_finishes(said)
    said = {number: rows.get(number, text) for number, text in said.items() if number not in heads}
    cells = cells_below(said)
    for number, members in cells.items():
        for member in members:
            sorting.note(places[member], Status.UNDERSTOOD, "a field of the card above")
        said[number] = "\t".join([said[number].strip(), *(said.pop(member).strip() for member in members)])
    return said


def _joined(said: Mapping[int, str], below: Mapping[int, int], ruled: Collection[int]) -> list[tuple[int, str]]:
    """Return the lines that say something, clubs behind the cards they stand below."""
    taken = {*below.values(), *ruled}
    return [
        (number, f"{text} - {said[below[number]].strip()}" if number in below else text)
        for number, text in said.items()
        if number not in taken
    ]


def _without_title(sorting: Sorting, raw: list[tuple[int, str]]) -> list[tuple[int, str]]:
    """Take the product's name off the beginning of headings; where it stands nowhere alone it is told by them."""
    title = title_before([text for _, text in raw])
    if title and all(text.casefold().strip() != title.casefold() for _, text in raw):
        sorting.about.setdefault("title", title)
    return [(number, rest_of(text, title) or text) for number, text in raw]


def _lines(raw: list[tuple[int, str]], places: dict[int, int], bold: Collection[int]) -> list[Line]:
    made, before = [], 0
    step = _usual_step([number for number, _ in raw])
    for at, (number, text) in enumerate(raw):
        bare, marked = unbulleted(text)
        made.append(
            Line(
                places[number], text.strip(), bare, marked=marked or number in bold,
                after=partial(_following, raw, at), below=partial(_beyond, raw, at),
                apart=number > before + step, nested=is_nested(text),
            )
        )  # fmt: skip
        before = number
    return made


def _usual_step(numbers: list[int]) -> int:
    """Return how far the next line is: where a blank one stands between all of them, none stands apart by it."""
    steps = Counter(min(b - a, 2) for a, b in pairwise(numbers) if b > a)
    return 2 if steps[2] > ALL_APART * steps.total() else 1


def _ruled(said: Mapping[int, str]) -> list[int]:
    """Return the lines of nothing but strokes, right below another: it is a heading."""
    return [number for number, text in said.items() if _STROKES.fullmatch(text.strip()) and number - 1 in said]


def _following(raw: list[tuple[int, str]], at: int) -> str:
    below = (text for _, text in raw[at + 1 : at + 1 + LOOK])
    return next((text for text in below if is_finish_like(text) or not is_prose(text)), "")


def _beyond(raw: list[tuple[int, str]], at: int) -> str:
    """Return the first line below that is no sentence, no finish, no column headings, no count and no odds alone."""
    below = (text for _, text in raw[at + 1 : at + 1 + FAR])
    passed = (is_column_heads, is_finish_like, is_prose, is_about_section, _is_told)
    return next((text for text in below if not any(says(text) for says in passed)), "")


def _is_told(text: str) -> bool:
    """Whether a line is something told of the section, “also as: Copper, Slate”, and no row of cards."""
    label, colon, rest = text.partition(":")
    worded = bool(colon and rest.strip()) and re.fullmatch(r"[a-z][\w ’'-]{2,30}", label.strip()) is not None
    return worded and one_card(rest.strip()) is None and not cards_in(rest, named=True)


def _text(sheet: Sheet, cells: tuple[str, ...]) -> str:
    return "\t".join(cells) if sheet.is_text else "\t".join(cell for cell in cells if cell.strip())
