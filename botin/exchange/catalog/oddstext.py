"""Odds as wrappers print them: ``Copper parallel 1:29; Signed 1:124 packs``, ``2 autographs per box``."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from botin.core.errors import BadOddsError
from botin.core.odds.rates import parse_printed

_N = r"\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d{1,3}(?:\.\d{3}){2,}|\d+(?:[.,]\d+)?"
_RATE = re.compile(
    rf"\b1\s*(?:(?::|in(?:\s+every)?|per|out of)\s*(?P<n>{_N})\b(?:\s*packs?\b)?|/\s*(?P<slash>{_N})\s*packs?\b)",
    re.IGNORECASE,
)
_NUMBER_WORDS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
_WORDS = {**{word: number for number, word in enumerate(_NUMBER_WORDS, 1)}, "a": 1, "an": 1}
_COUNT = re.compile(
    rf"^(?P<how>(?:exactly|at least|guaranteed|on average|about|approximately|average of)\s+)?"
    rf"(?P<n>{_N}|{'|'.join(_WORDS)})\s+(?P<name>.*?)\s*"
    r"\b(?:per|in each|in every|in a|each|every|an?)\s+(?P<per>pack|box|case)\b(?P<tail>.*)$",
    re.IGNORECASE,
)
_NAMED_COUNT = re.compile(
    rf"^(?P<name>.+?)(?<![\s:–—-])[\s:–—-]+(?P<n>{_N}|{'|'.join(_WORDS)})\s*"
    r"(?:cards?\s+)?(?:per|in each|in every|each|every|an?|/)\s*(?P<per>pack|box|case)\b(?P<tail>.*)$",
    re.IGNORECASE,
)
_RUN = re.compile(r"(?:#\s*)?/\s*(?P<run>\d{1,5})\b|\bnumbered to (?P<to>\d{1,5})\b", re.IGNORECASE)
_PROMISES = (
    ("average", r"on average|average|approximately|about|roughly"),
    ("at_least", r"guaranteed|at least|minimum|or more"),
    ("exact", r"exactly"),
)
FORMAT_WORDS = ("hobby", "jumbo", "retail", "blaster", "hanger", "mega", "fat pack", "cello", "rack", "value", "wax",
                "vending", "subscription")  # fmt: skip


@dataclass(frozen=True, slots=True)
class Rated:
    """A rate read out of a text: a name and either packs per hit, or a count per pack, box or case."""

    name: str
    column: str
    text: str
    format: str = ""
    promise: str = ""
    run: str = ""
    guesses: tuple[str, ...] = field(default=())


def number_text(text: str) -> tuple[str, str]:
    """Return a printed number in the package's way of writing, and what was guessed about it.

    ``1,473`` has a thousands comma; ``7,5`` a decimal one; ``1.473.000`` thousands dots.
    """
    if re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", text):
        return text, ""
    if re.fullmatch(r"\d+,\d+", text):
        return text.replace(",", "."), "the comma is the decimal one"
    if re.fullmatch(r"[1-9]\d{0,2}(?:\.\d{3})+", text):
        return text.replace(".", ","), "the dot parts thousands"
    return text, ""


def rates_in(text: str, formats: Mapping[str, str]) -> tuple[Rated, ...]:
    """Read every rate of a line.

    Parameters
    ----------
    text : str
        One line; parts between semicolons have names of their own.
    formats : mapping
        Lower-case words that name a format, and the format's key.

    Returns
    -------
    tuple of Rated
        Empty when the line states no rate.
    """
    found: list[Rated] = []
    for part in re.split(r";|(?<=packs)\.|\s•\s", text):
        found += _part(part.strip(" .,•*"), formats)
    return tuple(found)


def _part(text: str, formats: Mapping[str, str]) -> list[Rated]:
    matches = list(_RATE.finditer(text))
    if matches:
        return _odds(text, matches, formats)
    for pattern in (_COUNT, _NAMED_COUNT):
        found = pattern.match(text)
        if found:
            return [_count(found, formats)]
    return []


def _odds(text: str, matches: list[re.Match[str]], formats: Mapping[str, str]) -> list[Rated]:
    """Read ``Name 1:24 hobby, 1:48 retail``: the name stands first, a format beside each rate."""
    name, before = _name(text[: matches[0].start()], formats)
    after_all = "" if name else _name(text[matches[-1].end() :], formats)[0]
    run = _RUN.search(text[: matches[0].start()])
    found = []
    for place, match in enumerate(matches):
        end = matches[place + 1].start() if place + 1 < len(matches) else len(text)
        number, guess = number_text(match["n"] or match["slash"])
        own = _format_in(text[match.end() : end], formats) or (before if place == 0 else "")
        stamped = (run["run"] or run["to"]) if run else ""
        found.append(
            Rated(
                name=name or after_all,
                column="packs_per_hit",
                text=number,
                format=own,
                promise="",
                run=stamped,
                guesses=(guess,) if guess else (),
            )
        )
    return found


def _count(found: re.Match[str], formats: Mapping[str, str]) -> Rated:
    word = found["n"].lower()
    number, guess = (str(_WORDS[word]), "") if word in _WORDS else number_text(found["n"])
    whole = f"{found.groupdict().get('how') or ''} {found['name']} {found['tail']}"
    promise = next((key for key, words in _PROMISES if re.search(rf"\b(?:{words})\b", whole, re.IGNORECASE)), "")
    name = found["name"]
    for _, words in _PROMISES:
        name = re.sub(rf"\b(?:{words})\b", " ", name, flags=re.IGNORECASE)
    clean, own = _name(name, formats)
    own = own or _format_in(found["tail"], formats)
    guesses = [guess] if guess else []
    return Rated(
        name=clean,
        column=f"per_{found['per'].lower()}",
        text=number,
        format=own,
        promise=promise,
        run="",
        guesses=tuple(guesses),
    )


def _name(text: str, formats: Mapping[str, str]) -> tuple[str, str]:
    """Return what a rate is for, without run, format and stray punctuation; and the format it names."""
    own = _format_in(text, formats)
    bare = _RUN.sub(" ", text)
    if own:
        for word in formats:
            bare = re.sub(rf"\b{re.escape(word)}\b", " ", bare, flags=re.IGNORECASE)
    return " ".join(bare.strip(" :–—-=.,()•*\t").split()), own


def _format_in(text: str, formats: Mapping[str, str]) -> str:
    lowered = text.lower()
    for word in sorted(formats, key=len, reverse=True):
        if re.search(rf"\b{re.escape(word)}\b", lowered):
            return formats[word]
    return ""


def readable(text: str) -> bool:
    """Whether a number as printed is a rate."""
    try:
        parse_printed(text)
    except BadOddsError:
        return False
    return True
