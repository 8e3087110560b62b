"""A checklist as people paste it: card lines, headings, parallels and rules among them."""

from __future__ import annotations

import re
from dataclasses import dataclass

_NUMBER = re.compile(
    r"^(?:no\.?\s*|card\s+|#\s*)?(?P<number>[A-Za-z]{0,6}-?\d{1,5}[A-Za-z]?|[A-Z0-9]{1,6}-[A-Z0-9]{1,5})"
    r"(?:\s*[.):]\s*|\s+[-–—]\s+|\s+|\t)(?P<rest>\S.*)$",
    re.IGNORECASE,
)
_CODE = re.compile(r"^[A-Za-z]{1,6}-[A-Za-z]{1,5}$")
_COUNT = re.compile(r"(?<![\s(–—:-])[\s(–—:-]*\b(\d{1,5})[\s-]*(?:cards?|subjects?|riders?)\b\)?\s*$", re.IGNORECASE)
_RUN = re.compile(
    r"(?<![\s(,–—-])[\s(,–—-]*(?:#?\s?(?:\d{1,6}\s?)?/\s*(?P<run>\d{1,5})|numbered (?:to|/)\s*(?P<to>\d{1,5})"
    r"|(?P<copies>\d{1,5}) copies)\)?\s*$",
    re.IGNORECASE,
)
_ROOKIE = re.compile(
    r"(?<![\s(,–—-])[\s(,–—-]*\b(?P<word>RC|rookie(?: card)?|debut|first signed)\)?\s*$", re.IGNORECASE
)
_SHORT = re.compile(r"(?<![\s(,–—-])[\s(,–—-]*\bS{1,2}P\)?\s*$")
_ENDS_MARKED = re.compile(r"(?:\d|\bS?SP|\bRC|rookie|card|debut|signed|copies)\)?\s*$", re.IGNORECASE)
"""Whether there can be a mark at all; most names have none."""
_PARALLELS = re.compile(r"^(?:parallels?|finishes|versions)\s*[:–—-]\s*(?P<list>.+)$", re.IGNORECASE)
_TEAM_IN = re.compile(r"^(?P<name>[^()]+?)\s*\((?P<team>[^()]{2,60})\)\s*$")
_SPLITS = (re.compile(r"\t+"), re.compile(r"\s+[-–—|]\s+"), re.compile(r"\s{2,}"), re.compile(r"\s*,\s+"))
_PEOPLE = re.compile(r"(?<!\s)(?:\s+/\s*|/\s+|\s+&\s+|\s*;\s*)")


@dataclass(frozen=True, slots=True)
class CardLine:
    """A card as written; ``guesses`` say what was not plain."""

    number: str
    name: str
    team: str = ""
    rookie: str = ""
    run: str = ""
    short: bool = False
    guesses: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Marks:
    """A text without the marks at its end."""

    text: str
    rookie: str = ""
    run: str = ""
    short: bool = False


def take_marks(text: str, *, rookies: bool = True) -> Marks:
    """Take ``RC``, ``(SP)``, ``/99`` and their like off the end of a name, in any order.

    Without ``rookies`` an ``RC`` stays: Harrow Bay RC is a club.
    """
    rookie, run, short = "", "", False
    while _ENDS_MARKED.search(text):
        if found := _RUN.search(text):
            run = next(part for part in found.groups() if part)
        elif rookies and (found := _ROOKIE.search(text)):
            word = found["word"].casefold()
            rookie = "yes" if word.startswith(("rc", "rookie")) else word
        elif found := _SHORT.search(text):
            short = True
        else:
            break
        if not text[: found.start()].strip():
            break
        text = text[: found.start()]
    return Marks(text.strip(), rookie, run, short)


def heading_of(text: str) -> tuple[str, int | None]:
    """Return a heading without its count of cards, and that count."""
    text = text.strip().strip("*=_#•").strip()
    found = _COUNT.search(text)
    if found:
        return _title(text[: found.start()]), int(found[1])
    return _title(text), None


def _title(text: str) -> str:
    text = text.strip(" :–—-(\t")
    return text.capitalize() if text.isupper() and len(text) > 4 else text


def has_count(text: str) -> bool:
    """Whether a line ends like ``– 40 cards``."""
    return _COUNT.search(text) is not None


def parallels_in(text: str) -> list[str] | None:
    """Return the entries of a line ``Parallels: Copper (1:4), Slate /199``; None when it is none."""
    found = _PARALLELS.match(text.strip())
    if not found:
        return None
    return [part.strip() for part in re.split(r"[;,](?!\d{3}\b)", found["list"]) if part.strip()]


def card_of(text: str) -> CardLine | None:
    """Read ``12 Orla Thorsby - Harrow Bay RC``; None when it does not begin with a number."""
    found = _NUMBER.match(text.strip())
    if not found or not any(letter.isalpha() for letter in found["rest"]):
        return None
    number = found["number"]
    if not any(letter.isdigit() for letter in number) and not (_CODE.match(number) and number.isupper()):
        return None
    card = card_from(number, found["rest"])
    return card if card.name else None


def card_from(number: str, text: str, team: str = "", *, has_team: bool = False) -> CardLine:
    """Make a card of its number and what stands beside it; the team may have a cell of its own."""
    guesses: list[str] = []
    if team or has_team:
        marks, tail = take_marks(text), Marks(team)
        name = marks.text
    else:
        name, tail = _split(text, guesses)
        marks = take_marks(name)
        name = marks.text
    people = _PEOPLE.split(name)
    if len(people) > 1 and ";" not in name:
        guesses.append("several people")
    club = "; ".join(part.strip() for part in re.split(r"\s*[;/]\s*", tail.text) if part.strip())
    return CardLine(
        number=number,
        name="; ".join(part.strip() for part in people if part.strip()),
        team=club,
        rookie=marks.rookie or tail.rookie,
        run=marks.run or tail.run,
        short=marks.short or tail.short,
        guesses=tuple(guesses),
    )


def _split(text: str, guesses: list[str]) -> tuple[str, Marks]:
    """Tell the name from the team by the separator between them.

    A ``RC`` that ends a team is part of the team's name (Harrow Bay RC is a club) unless it stands apart in brackets.
    """
    apart = re.search(r"\((?:RC|rookie|SP|SSP)\)", text, re.IGNORECASE)
    marks = take_marks(text) if apart else Marks(text)
    for pattern in _SPLITS:
        parts = pattern.split(marks.text, maxsplit=1)
        if len(parts) == 2 and all(parts):
            if pattern is _SPLITS[3]:
                guesses.append("what follows the comma is the team")
            tail = take_marks(parts[1], rookies=parts[1].rstrip().endswith(" RC RC"))
            found = Marks(tail.text, marks.rookie or tail.rookie, marks.run or tail.run, marks.short or tail.short)
            return parts[0].strip(), found
    inner = _TEAM_IN.match(marks.text)
    if inner:
        guesses.append("what is in brackets is the team")
        return inner["name"], Marks(inner["team"], marks.rookie, marks.run, marks.short)
    tail = take_marks(marks.text)
    return tail.text, Marks("", marks.rookie or tail.rookie, marks.run or tail.run, marks.short or tail.short)
