"""Lines of a checklist: headings, cards, finishes, runs and rules of short prints."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from botin.core.catalog.numberrule import short_print_rule
from botin.exchange.catalog.cardtext import CardLine, card_of, cards_in, is_prose
from botin.exchange.catalog.finishtext import TOLD_IN_BRACKETS
from botin.exchange.catalog.headingtext import COUNT_ALONE, back_code_of, has_count, heading_of
from botin.exchange.catalog.kinds import guess_kind, is_only_kinds
from botin.exchange.catalog.oddstext import RATED_TAIL, Rated, rates_in
from botin.exchange.catalog.runtext import RUN_ALONE, run_in, take_run
from botin.exchange.catalog.sectionsbehind import is_club_behind
from botin.exchange.catalog.sorting import OpenSection, Pending
from botin.exchange.catalog.textcards import add_card, card_line, plain_card
from botin.exchange.catalog.textfinishes import EXCLUSIVE, add_finish
from botin.exchange.catalog.textreader import (
    MOST_WORDS,
    Line,
    Reader,
    leads,
    one_card,
)
from botin.exchange.notes import Status

_ODDS_WORD = re.compile(r"\s*[,;–—-]?\s*\b(?:odds|ratios?|inserted|seeded|quoten?)\s*:?\s*$", re.IGNORECASE)
_UNCLOSED = re.compile(r"\s*[\[(][^\])]*$")
_LETTER = re.compile(r"(?:^|[|,;(\[]\s*)([A-Z])$")
_BARE_COUNT = re.compile(r"\s*\((?P<n>\d{1,4})\)\s*:?$")
_PREFIX = re.compile(r"^(?P<kind>insert set|insert|subset|section|set)\s*(?::|\s[–—-])\s*(?=\S)", re.IGNORECASE)
_SUFFIX = re.compile(r"\s+(?:insert(?:s| set| cards?)?(?:\s+check ?list)?|check ?list)\s*$", re.IGNORECASE)
_COUNT_AND_RUN = re.compile(r"\d\s+[a-z]+,?\s.*\d")
_PLAIN_RANGE = re.compile(
    r"(?:cards?\s*)?[\d\s–,-]+(?:are\s+)?(?:the\s+)?(?:base|commons?|regular|veterans|basis)(?:\s+\w+)?",
    re.IGNORECASE,
)


def open_section(reader: Reader, label: str, place: int, expected: int | None = None) -> OpenSection:
    """Open a section by a heading with all that stands in it: count, run, code on the back, the word for its kind."""
    bare, code = back_code_of(label)
    name, run = take_run(bare)
    if run and has_count(name):
        name, expected = heading_of(name)[0], expected or heading_of(name)[1]
        bare = f"{name} /{run}"
    counted = _BARE_COUNT.search(bare)
    if counted and expected is None:
        bare, expected = bare[: counted.start()], int(counted["n"])
    alone = EXCLUSIVE.search(bare)
    if alone:
        reader.sorting.note(place, Status.GUESSED, f"“{alone[0].strip(' ()[]')}” is not kept")
        bare = EXCLUSIVE.sub("", bare)
    prefix, suffix = _PREFIX.match(bare), _SUFFIX.search(bare)
    label = bare[prefix.end() if prefix else 0 : suffix.start() if suffix else len(bare)] or bare
    section = reader.sorting.section(label, place, expected)
    if "insert" in f"{prefix and prefix['kind']}{suffix and suffix[0]}".casefold():
        section.named = True
    over = reader.sorting.sections.get(reader.over)
    if over is not None and not over.cards and not section.named and not section.cards:
        section.kind = over.kind
    if is_only_kinds(section.label):
        reader.over = section.key
    section.back_code = section.back_code or code
    reader.last = reader.per = reader.club = ""
    reader.by_club = False
    return section


def rule_line(reader: Reader, line: Line) -> bool:
    """A rule that marks short prints by their numbers."""
    card = one_card(line.text)
    if card is not None and re.match(r"S{1,2}P-\d", card.number) and len(card.name.split()) > 1:
        return False
    bare = RATED_TAIL.sub("", line.bare).rstrip(" (")
    rules = [short_print_rule(bare)]
    if rules == [None]:
        parts = re.split(r"[;,]\s+", bare)
        rules = [short_print_rule(part) for part in parts]
        if not all(rule or _PLAIN_RANGE.fullmatch(part) for rule, part in zip(rules, parts, strict=True)):
            return False
    numbers = [number for rule in rules if rule for number in rule.numbers]
    if not numbers:
        return False
    reader.sorting.rules.append((line.place, reader.sorting.current or "base", tuple(numbers)))
    for rated in rates_in(line.bare[len(bare) :], reader.words()):
        stated = replace(rated, name="short prints")
        reader.sorting.pending.append(Pending(line.place, stated, reader.sorting.current_format))
    return True


def heading_with_rule(reader: Reader, line: Line) -> bool:
    """A heading that says in brackets which of its cards are short: “Base (300 cards; 201-300 short prints, 1:4)”."""
    if not line.bare.endswith((")", "):")):
        return False
    found = re.fullmatch(r"(?P<head>[^()]{2,60}?)\s*\((?P<inside>[^()]+)\)\s*:?", line.bare)
    if not found or one_card(line.text) is not None:
        return False
    stated = RATED_TAIL.sub("", found["inside"])
    parts = [part.strip() for part in re.split(r"[;,]\s+", stated) if part.strip()]
    rules = [rule for part in parts if (rule := short_print_rule(part)) and rule.numbers]
    if not rules:
        return False
    count = next((n for part in parts if (n := heading_of(f"x {part}")[1])), None)
    section = open_section(reader, heading_of(found["head"])[0], line.place, count)
    numbers = tuple(number for rule in rules for number in rule.numbers)
    reader.sorting.rules.append((line.place, section.key, numbers))
    for rated in rates_in(found["inside"][len(stated) :], reader.words()):
        short = replace(rated, name="short prints")
        reader.sorting.pending.append(Pending(line.place, short, reader.sorting.current_format))
    return True


def run_of_section(reader: Reader, line: Line) -> bool:
    """Below its heading a section may say what its cards are numbered to."""
    found = RUN_ALONE.fullmatch(line.bare)
    if not found or not reader.sorting.current:
        return False
    section = reader.sorting.sections[reader.sorting.current]
    section.run = run_in(found)
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"the cards of {section.label} are numbered to {section.run}")
    return True


def rate_of_section(reader: Reader, line: Line) -> bool:
    """Below its heading a section may state its odds, without its name."""
    current = reader.sorting.current
    rates = rates_in(line.bare, reader.words()) if current else ()
    if not rates or any(
        re.sub(r"\b(?:odds|ratio|inserted|seeded)\b|\W", "", r.name, flags=re.IGNORECASE) for r in rates
    ):
        return False
    for rated in rates:
        reader.sorting.pending.append(Pending(line.place, rated, reader.sorting.current_format, current, ""))
    return True


def heading_with_rates(reader: Reader, line: Line) -> bool:
    """A heading with its odds behind: cards follow."""
    rates = rates_in(line.bare, reader.words())
    apart = line.marked or ((line.apart or line.bare.split(" - ")[0].isupper()) and not line.nested)
    above = leads(line.following) or (apart and leads(line.beyond))
    if not rates or one_card(line.text) is not None or not above:
        return False
    label, expected = _before_rates(line.bare)
    if not label or label == line.bare:
        return False
    section = open_section(reader, label, line.place, expected)
    kind, named = guess_kind(RATED_TAIL.sub("", line.bare)[len(label) :])
    if named and not section.named:
        section.kind, section.named = kind, True
    for rated in rates:
        stated = _by_letter(reader, rated)
        if stated is None:
            letter = rated.name.strip()[-1]
            reader.sorting.note(line.place, Status.GUESSED, f"“{letter}” says no one format: its odds are left out")
            continue
        reader.sorting.pending.append(Pending(line.place, stated, reader.sorting.current_format, section.label, ""))
    return True


def _by_letter(reader: Reader, rated: Rated) -> Rated | None:
    """Take a letter before a rate for the format that begins with it: ``H 1:8``; None when there is no one such."""
    found = None if rated.format else _LETTER.search(rated.name)
    begin = {key for word, key in reader.words().items() if found and word.startswith(found[1].casefold())}
    if found is None:
        return rated
    if len(begin) != 1:
        return None
    key = begin.pop()
    return replace(rated, format=key, guesses=(*rated.guesses, f"“{found[1]}” is taken for {key}"))


def _before_rates(text: str) -> tuple[str, int | None]:
    """Return a heading without the odds behind it, in brackets or behind bars, and the number of its cards."""
    bare = _ODDS_WORD.sub("", _UNCLOSED.sub("", RATED_TAIL.sub("", text)))
    first, *others = bare.split("|")
    label, expected = heading_of(first)
    counts = (heading_of(f"x {part.strip()}")[1] for part in others)
    return label, expected or next((count for count in counts if count), None)


def count_alone(reader: Reader, line: Line) -> bool:
    """Below its heading a section may say how many cards it has."""
    found = COUNT_ALONE.fullmatch(line.bare)
    if not found or not reader.sorting.current:
        return False
    section = reader.sorting.sections[reader.sorting.current]
    count = found["n"] or found["m"]
    section.expected = section.expected or int(count)
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"{section.label} has {count} cards")
    return True


def counted_heading(reader: Reader, line: Line) -> bool:
    """A heading with the number of its cards."""
    bare, code = back_code_of(line.bare)
    bare, run = take_run(bare) if _COUNT_AND_RUN.search(bare) else (bare, "")
    if not has_count(bare):
        return False
    label, expected = heading_of(bare)
    if not label or is_prose(label) or is_prose(bare.partition(label)[0]):
        return False
    rates = rates_in(label, reader.words()) if "(" in label else ()
    label = _before_rates(label)[0] if rates else label
    whole = f"{label} code {code}" if code else f"{label} /{run}" if run else label
    section = open_section(reader, whole, line.place, expected)
    for rated in rates:
        stated = replace(rated, name="")
        reader.sorting.pending.append(Pending(line.place, stated, reader.sorting.current_format, section.label, ""))
    return True


_PART_COUNTED = re.compile(
    r"(?P<n>\d{1,4})\s+(?P<label>(?:base\s+)?(?:veterans?|rookies?|rookie cards|debutants?|legends|commons|newcomers|"
    r"retired(?: stars| greats)?))\s*(?P<rest>[(\[–—,:-].*)?",
    re.IGNORECASE,
)


def counted_part(reader: Reader, line: Line) -> bool:
    """“100 Veterans” below the heading of the base set: how many it has, and no card; with odds a set of its own."""
    found = _PART_COUNTED.fullmatch(line.bare) if line.bare[:1].isdigit() else None
    if found is None:
        return False
    rates, section = (
        rates_in(found["rest"] or "", reader.words()),
        reader.sorting.sections.get(reader.sorting.current),
    )
    if rates:
        section = open_section(reader, found["label"], line.place, int(found["n"]))
        for rated in rates:
            stated = Pending(line.place, replace(rated, name=""), reader.sorting.current_format, section.label, "")
            reader.sorting.pending.append(stated)
        return True
    if section is None or section.cards or found["rest"]:
        return False
    section.expected = (section.expected or 0) + int(found["n"])
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"{section.label} has {found['n']} {found['label']}")
    return True


def cards_in_a_row(reader: Reader, line: Line) -> bool:
    """Several cards in a line, a heading before them or not."""
    cards = cards_in(line.text)
    head, colon, rest = line.bare.partition(":")
    if not cards and colon and card_of(line.bare) is None:
        cards = cards_in(rest, named=True) or [card for card in [one_card(rest.strip())] if card]
        club = _row_of_club(reader, line, cards)
        if not club and re.search(r"\d\s*$", take_run(head)[0]):
            return False
        if club:
            why = f"what stands before the cards, “{head.strip()}”, is taken as their club"
            cards = [replace(card, team=head.strip(), guesses=(*card.guesses, why)) for card in cards]
        elif cards:
            open_section(reader, heading_of(head)[0], line.place)
    for card in cards:
        add_card(reader, line, card)
    return bool(cards)


def _row_of_club(reader: Reader, line: Line, cards: Sequence[CardLine]) -> bool:
    """Whether a row of cards without clubs is that of a club: below a heading, the next row does not begin anew."""
    home = reader.sorting.sections.get(reader.sorting.current)
    if home is None or not home.line or not cards or any(card.team for card in cards):
        return False
    if reader.rows_of == home.key:
        return True
    following = line.following.partition(":")[2]
    below = cards_in(following, named=True) or [card for card in [one_card(following.strip())] if card]
    apart = bool(below) and below[0].number != cards[0].number
    if home.cards or not (apart or (home.expected or 0) > len(cards)):
        return False
    reader.rows_of = home.key
    return True


_IN_BRACKETS = re.compile(r"\s*\[(?P<list>[^\[\]]{3,120})\]\s*$")
_MARKS_ONLY = re.compile(r"(?:\W|\b(?:RC|R|S?SP|rookie|card|debut|signed|note|\d+)\b)*", re.IGNORECASE)


def with_finishes(reader: Reader, line: Line) -> bool:
    """A card, or a heading, with its finishes in brackets behind it: “… - Tarn [Copper, Slate /99]”."""
    told = TOLD_IN_BRACKETS.search(line.bare) if line.bare.endswith((")", "]")) else None
    found = told or (_IN_BRACKETS.search(line.bare) if line.bare.endswith("]") else None)
    if not found or _MARKS_ONLY.fullmatch(found["list"]):
        return False
    entries = [part.strip() for part in re.split(r"[;,](?!\d{3}\b)", found["list"]) if part.strip()]
    if not told and is_club_behind(reader, found["list"].strip()):
        return False
    if any(len(part.split()) > MOST_WORDS or not re.match(r"[^\W\d_]", part) for part in entries):
        return False
    inner = replace(line, text=line.text[: line.text.rindex(found[0].strip())], bare=line.bare[: found.start()])
    if not any(attempt(reader, inner) for attempt in (plain_card, card_line, counted_heading, heading)):
        return False
    section = reader.sorting.sections[reader.sorting.current]
    names = [name for part in entries if (name := add_finish(reader, line.place, section.key, part))]
    says = f"what stands in brackets is taken for finishes of {section.label}: {', '.join(names)}"
    if told:
        says = f"finishes of {section.label}: {', '.join(names)}"
    reader.sorting.note(line.place, Status.UNDERSTOOD if told else Status.GUESSED, says)
    return True


def heading(reader: Reader, line: Line) -> bool:
    """A heading: marked up, loud, or with cards, finishes or a rule below it."""
    bare, code = back_code_of(line.bare)
    label = heading_of(bare)[0]
    if not label or len(label) > 60 or is_prose(line.bare) or not _may_head(reader, label, line):
        return False
    named = guess_kind(label)[1]
    loud = line.marked or bare.isupper() or bare.rstrip().endswith(":") or bool(code)
    above = leads(line.following) or leads(line.beyond)
    first_title = line.marked and not reader.sorting.sections and not above
    if first_title or not (above or (loud and named)):
        return False
    section = open_section(reader, f"{label} code {code}" if code else label, line.place)
    if not loud and not named and not section.named:
        reader.sorting.note(line.place, Status.GUESSED, "taken as a heading because cards follow")
    return True


def _may_head(reader: Reader, label: str, line: Line) -> bool:
    """Whether a line can be a heading: the first with a year in it is the product’s name."""
    first = not reader.sorting.sections and not guess_kind(label)[1]
    if (first and re.search(r"\b(?:19|20)\d\d\b", label)) or label.endswith("?"):
        return False
    small = label[0].islower() and (len(label.split()) > MOST_WORDS or not label[-1].isalnum())
    return line.marked or not small


def title_again(reader: Reader, line: Line) -> bool:
    """The product's name once more, as it stands above each page."""
    titles = {text.casefold() for _, text in reader.sorting.titles}
    if not reader.cards or heading_of(line.bare)[0].casefold() not in titles:
        return False
    reader.sorting.note(line.place, Status.PASSED, "the name of the product once more")
    return True


def title(reader: Reader, line: Line) -> bool:
    """What stands above the cards: the product's name, or a remark."""
    if reader.sorting.sections or reader.cards:
        return False
    if is_prose(line.bare):
        reader.sorting.note(line.place, Status.PASSED, "a remark above the cards")
    else:
        reader.sorting.titles.append((line.place, heading_of(line.bare)[0]))
        reader.sorting.note(line.place, Status.PASSED, "a title above the cards")
    return True
