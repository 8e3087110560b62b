"""Odds as wrappers print them: ``Copper parallel 1:29; Signed 1:124 packs``, ``2 in 36 packs``."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import pairwise

from botin.core.errors import BadOddsError
from botin.core.odds.rates import parse_printed
from botin.exchange.catalog.ratedname import RUN_SAID, format_in, name_of, run_said, without_lacking
from botin.exchange.catalog.rateunits import LEAD, NUMBER_WORDS, UNIT, plainly, unit_of

_BLANKS = r"[ \u00a0\u202f]"
_N = (
    rf"\d{{1,3}}(?:{_BLANKS}\d{{3}})+(?=\s*(?:$|[;,.)|]|[^\W\d_]))|"
    r"\d{1,3}(?:,\d{3})+(?:\.\d+)?|\d{1,3}(?:\.\d{3}){2,}|\d+(?:[.,]\d+)?"
)
_WORDS = {
    **{word: number for number, word in enumerate(NUMBER_WORDS, 1)}, "a": 1, "an": 1, "ein": 1, "eine": 1, "zwei": 2,
    "drei": 3, "vier": 4, "uno": 1, "una": 1, "due": 2, "tre": 3,
    "une": 1, "un": 1, "deux": 2, "trois": 3, "dos": 2, "tres": 3, "een": 1, "twee": 2,
    "drie": 3,
}  # fmt: skip
_PER = r"per|each|every|in each|in every|in a|in an|an?|pro|je|par|por|/"
_RATE = re.compile(
    rf"(?<![\w.,/:])(?:"
    rf"(?P<pct>{_N})\s?%(?:\s*\(?(?:of(?: all)?|in|per|an?|each|/|der|des|de|pro|par|por)?\s*(?P<pct_unit>{UNIT})\b)?"
    rf"|(?P<m>\d{{1,6}}|one|two|three)\s*"
    rf"(?P<how>:|in(?:\s+every)?|every|per|out of(?:\s+every)?|of\s+every|of|auf|pro|je|par|por|sur|su|ogni|op"
    rf"|de(?:\s+cada)?|/)\s*"
    rf"(?P<n>{_N})(?![\d/])(?:[\s-]*(?P<unit>{UNIT})\b)?)",
    re.IGNORECASE,
)
_COUNT = re.compile(
    rf"^(?P<how>(?:exactly|at least|guaranteed|on average|an average of|about|approximately|average of|genau|"
    r"(?:a )?minimum(?: of)?|"
    rf"minimum(?: of)?|a minimum of|mindestens|durchschnittlich|im schnitt|ca\.?|includes?"
    r"|(?:(?:you|collectors|buyers)(?:['’]ll| will| can| should)? )?(?:look for|expect|find|get|pull)(?: to find)?"
    r"(?:,? on average,?)?)"
    r"\s+)?"
    rf"(?P<n>{_N}|{'|'.join(_WORDS)})\s+(?P<name>\D.*?)\s*"
    rf"(?:\b(?:{_PER})|/)\s*(?P<of>\d{{1,3}}\s+)?(?P<per>{UNIT})\b(?P<tail>.*)$",
    re.IGNORECASE,
)
_NAMED_COUNT = re.compile(
    r"^(?P<name>.+?)(?<![\s:–—-])[\s:–—-]+"
    r"(?P<how>(?:exactly|at least|about|approximately|average of|an average of)\s+)?"
    rf"(?P<n>{_N}|{'|'.join(_WORDS)})\s*(?:cards?\s+|hits?\s+|karten\s+)?(?:\b(?:{_PER})|/)\s*(?P<per>{UNIT})\b(?P<tail>.*)$",
    re.IGNORECASE,
)
_UNIT_FIRST = re.compile(
    rf"^(?:per|pro|je|par|por|each|every|in each|in every|in jeder)\s+(?P<per>{UNIT})\b[\s:,]*(?P<how>\D*?)"
    rf"(?P<n>{_N}|{'|'.join(_WORDS)})\s+(?P<name>\D+)$",
    re.IGNORECASE,
)
_BEHIND = re.compile(
    rf"\b(?:{UNIT}|cards?|hits?|per|in|of|each|every|all|both|only|odds|approx\w*|about|average|on|stated|overall|total"
    r"|or|better|easier|an?|the|and|for|inserted|seeded|guaranteed|exclusives?)\b",
    re.IGNORECASE,
)
"""Words behind a rate that change nothing of it."""
_ONE_IN_EVERY = re.compile(
    rf"^(?P<name>.+?)(?<![\s:–—-])[\s:–—-]+(?P<tail>(?:one\s+)?in (?:every|each) (?P<per>{UNIT}))\s*$", re.IGNORECASE
)
RATED_TAIL = re.compile(
    rf"\s*[(\[–—:;,-]*\s*(?:(?:1\s*:|1 in |one in )\s*\d"
    rf"|(?:\d{{1,3}}|{'|'.join(NUMBER_WORDS)})\s+(?:per|an?|each|pro|je|par|por|in\s+(?:an?|each|every))"
    rf"\s+(?:\d+\s+)?(?:{UNIT})\b"
    rf"|(?:per|pro|je|par|por)\s+(?:{UNIT})\s*:?\s*\d).*$",
    re.IGNORECASE,
)
"""Odds behind a name, with what stands before them."""
_AVERAGE = (
    r"on average|an average of|average|avg|approximately|approx|about|roughly|durchschnittlich|im schnitt|en moyenne|"
    r"en promedio|in media|em m[ée]dia|gemiddeld|ca"
)
_AT_LEAST = r"guaranteed|at least|minimum|min|or more|garantiert|mindestens|garantis?e?s?|garantizad[oa]s?"
_PROMISES = (("average", _AVERAGE), ("at_least", _AT_LEAST), ("exact", r"exactly|genau|exactement"))
FORMAT_WORDS = ("hobby", "jumbo", "retail", "blaster", "hanger", "mega", "fat pack", "cello", "rack", "value", "wax",
                "vending", "subscription")  # fmt: skip
_OF_BOX = re.compile(
    r"(?:in|for|from)\s+(?:an?\s+|the\s+|every\s+|each\s+)?(?P<box>[^:\d]{2,30}?)\s*:\s*(?=\S)", re.IGNORECASE
)
"""``In retail: Night Ink 1:240, Copper 1:8``: all of a line is of one box."""
_SEPARATOR = re.compile(r"[;,|•\n]|\.\s|\band\b|\s/\s|\s[–—-]\s")
_GROUP = re.compile(
    r"^(?P<group>.*?)\b(?:parallels?|finishes|versions|parallelen|parallèles|paralelas)\b"
    r"(?:\s*[:–—-]\s*|\s+(?:include|come in)\s+)(?P<name>.*)$",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Rated:
    """A rate read out of a text: a name and either packs per hit, or a count per pack, box or case.

    ``text`` of a count may be a fraction, ``1/12`` a box, until the box is known. ``group`` is what stands before
    “parallels:”, a section.
    """

    name: str
    column: str
    text: str
    format: str = ""
    promise: str = ""
    run: str = ""
    guesses: tuple[str, ...] = field(default=())
    group: str = ""


def number_text(text: str) -> tuple[str, str]:
    """Return a printed number in the package's way of writing, and what was guessed about it.

    ``1,473`` has a thousands comma, ``1 473`` a blank; ``7,5`` a decimal comma; ``1.473.000`` thousands dots.
    """
    if re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", text):
        return text, ""
    if re.fullmatch(rf"\d{{1,3}}(?:{_BLANKS}\d{{3}})+", text):
        return re.sub(_BLANKS, ",", text), ""
    if re.fullmatch(r"\d+,\d+", text):
        return text.replace(",", "."), "the comma is the decimal one"
    if re.fullmatch(r"[1-9]\d{0,2}(?:\.\d{3})+", text):
        return text.replace(".", ","), "the dot parts thousands"
    return text, ""


def rates_in(text: str, formats: Mapping[str, str], *, odds: bool = False) -> tuple[Rated, ...]:
    """Read every rate of a line.

    Parameters
    ----------
    text : str
        One line; what stands before a rate is its name, and holds for the rates after it that have none.
    formats : mapping
        Lower-case words that name a format, and the format's key.
    odds : bool
        Whether the line is known to be about odds: then 1/24 and 24:1 are rates, too.

    Returns
    -------
    tuple of Rated
        Empty when the line states no rate.
    """
    lead = LEAD.match(text.strip())
    if lead:
        named = format_in(lead[0], formats)
        found = rates_in(text.strip()[lead.end() :], formats, odds=odds)
        return tuple(replace(rated, format=rated.format or named) for rated in found)
    of_box = _OF_BOX.match(text.strip())
    named = format_in(of_box["box"], formats) if of_box else ""
    if of_box and named and not name_of(of_box["box"], formats)[0]:
        found = rates_in(text.strip()[of_box.end() :], formats, odds=odds)
        return tuple(replace(rated, format=rated.format or named) for rated in found)
    bare = without_lacking(plainly(text.strip(" .,•*")), formats)
    matches = [found for found in _RATE.finditer(bare) if _is_rate(found, bare, odds=odds)]
    if matches:
        return tuple(_odds(bare, matches, formats))
    found_counts: list[Rated] = []
    bare = _spread_unit(bare)
    for part in re.split(r";|(?<=packs)\.|\s•\s", bare):
        found_counts += _counted(part.strip(" .,•*"), formats)
    return tuple(found_counts)


_LOOK_FOR = re.compile(r"^(?:look for|look out for|find|expect|collect|chase)\s+(?=\d)", re.IGNORECASE)
_JOINED = re.compile(
    rf"^(?P<items>(?:\d+|{'|'.join(NUMBER_WORDS)})\s+\D+?(?:(?:\s*,|\s+and|\s*\+|\s+plus|\s*&|\s+und|\s+et)\s+"
    rf"(?:\d+|{'|'.join(NUMBER_WORDS)})\s+\D+?)+)\s+(?P<unit>(?:{_PER})\s+.*)$",
    re.IGNORECASE,
)


def _spread_unit(text: str) -> str:
    """Return ``2 autographs and 1 relic per box`` as ``2 autographs per box; 1 relic per box``."""
    text = _LOOK_FOR.sub("", text)
    found = _JOINED.match(text)
    if not found:
        return text
    numbers = rf"(?=\d|(?:{'|'.join(NUMBER_WORDS)})\b)"
    items = re.split(
        rf"(?:\s*,|\s+and|\s*\+|\s+plus|\s*&|\s+und|\s+et)\s+{numbers}", found["items"], flags=re.IGNORECASE
    )
    return "; ".join(f"{item} {found['unit']}" for item in items)


def _counted(text: str, formats: Mapping[str, str]) -> list[Rated]:
    """Read ``2 autographs per hobby box``: the format may stand before the word for the box."""
    own, bare = "", text
    for word in sorted(formats, key=len, reverse=True):
        found = re.search(rf"\b({_PER})\s+{re.escape(word)}\s+({UNIT})\b", bare, re.IGNORECASE)
        if found:
            own, bare = formats[word], f"{bare[: found.start()]}{found[1]} {found[2]}{bare[found.end() :]}"
    head = re.match(r"^(?P<head>[^:\d]{2,30}):\s*(?P<rest>\S.*)$", bare)
    if head and not own and (named := format_in(head["head"], formats)) and not name_of(head["head"], formats)[0]:
        own, bare = named, head["rest"]
    for pattern in (_COUNT, _UNIT_FIRST, _NAMED_COUNT, _ONE_IN_EVERY):
        found = pattern.match(bare)
        if found:
            rated = _count(found, formats)
            return [replace(rated, format=own) if own else rated]
    return []


def _is_rate(found: re.Match[str], text: str, *, odds: bool) -> bool:
    """Whether a match is a rate: 1/24 and 24:1 are only where odds are told, and 12:30 is a time."""
    if found["pct"]:
        return number_text(found["pct"])[0] not in ("100", "0") or odds
    if found["how"].casefold() == "of":
        return bool(found["unit"])
    if found["how"] == "/":
        return bool(found["unit"]) or (
            odds and found["m"] == "1" and found["n"] != "1" and bool(text[: found.start()].strip())
        )
    if found["how"] == ":":
        return found["m"] == "1" or bool(found["unit"]) or (odds and found["n"] == "1")
    return found["m"] in ("1", "one") or bool(found["unit"])


def _odds(text: str, matches: Sequence[re.Match[str]], formats: Mapping[str, str]) -> list[Rated]:
    """Read ``Name 1:24 hobby, 1:48 retail``: names and formats stand before or behind each rate."""
    before, behind = _around(text, matches)
    first, first_format = name_of(before[0], formats)
    after = not first and any(name_of(part, formats)[0] for part in behind)
    stated = [(format_in(a, formats), format_in(b, formats)) for a, b in zip(before, behind, strict=True)]
    alone = sum(1 for a, b in stated if a or b) == 1 and first_format
    group = _GROUP.match(before[0])
    group = group if group and group["name"].strip() else None
    name, made, run = "", [], ""
    for place, found in enumerate(matches):
        text_part = behind[place] if after else before[place]
        own = name_of(group["name"] if group and not place else text_part, formats)[0]
        if own:
            name, stamped = own, RUN_SAID.search(text_part)
            if stamped is None and not after:
                stamped = RUN_SAID.search(behind[place])  # “Copper 1:8, numbered to 299”
            run = run_said(stamped)
        fmt = stated[place][1] or stated[place][0] or (first_format if alone else "")
        rated = _rated(found, name, fmt, run, group["group"].strip(" :–—-") if group else "")
        rest = "" if after else _unread(behind[place], formats)
        made.append(replace(rated, guesses=(*rated.guesses, f"“{rest}” behind it is not read")) if rest else rated)
    return made


def _unread(text: str, formats: Mapping[str, str]) -> str:
    """Return the words behind a rate that say no format, unit or the like: they may be what it is for."""
    rest = _BEHIND.sub(" ", name_of(text, formats)[0])
    return " ".join(rest.split()) if re.search(r"[^\W\d_]{3,}", rest) else ""


_PLACES = re.compile(r"1\s?[:/]\s?\d[\d,.]*|(?<=\s)[-–—](?=\s|$|/)|\bn/?a\b", re.IGNORECASE)
"""Rates side by side, and strokes where a box has none."""


def in_order(rates: Sequence[Rated], order: Sequence[str], text: str = "") -> tuple[Rated, ...]:
    """Give rates behind one name the formats that were named side by side above them; strokes keep their places."""
    one_name = len({rated.name for rated in rates}) == 1 and not any(rated.format for rated in rates)
    if len(rates) < len(order) and one_name:
        said = _PLACES.findall(text)
        kept = [fmt for fmt, one in zip(order, said, strict=False) if one[0] == "1"]
        order = kept if len(said) == len(order) and len(kept) == len(rates) else ()
    if not order or len(rates) != len(order) or not one_name:
        return tuple(rates)
    return tuple(replace(rated, format=fmt) for rated, fmt in zip(rates, order, strict=True))


def _around(text: str, matches: Sequence[re.Match[str]]) -> tuple[list[str], list[str]]:
    """Part what stands between two rates: up to the first separator it belongs to the one before."""
    before, behind = [text[: matches[0].start()]], []
    for one, other in pairwise(matches):
        between = text[one.end() : other.start()]
        found = _SEPARATOR.search(between)
        closed = re.match(r"\s*\([^()]*\)", between)
        cut = closed.end() if closed else found.start() if found else len(between) if between.strip(" .") == "" else 0
        behind.append(between[:cut])
        before.append(between[cut:])
    behind.append(text[matches[-1].end() :])
    return before, behind


def _rated(found: re.Match[str], name: str, fmt: str, run: str, group: str) -> Rated:
    column, text, guess = _stated(found)
    return Rated(name, column, text, format=fmt, run=run, guesses=(guess,) if guess else (), group=group)


def _stated(found: re.Match[str]) -> tuple[str, str, str]:
    """Return the column of a rate, its text, and what was guessed."""
    unit = unit_of(found["pct_unit"] or found["unit"] or "pack")
    if found["pct"]:
        number, guess = number_text(found["pct"])
        share = Fraction(number.replace(",", "")) / 100
        return _settled(unit, share, "", guess)
    many = _WORDS.get(found["m"].lower(), 0) or int(found["m"])
    number, guess = number_text(found["n"])
    value = Fraction(number.replace(",", ""))
    if found["how"] == ":" and value == 1 and many > 1 and unit == "pack":
        return "packs_per_hit", str(many), f"{many}:1 is one in {many}"
    if value == 0:
        return "packs_per_hit", number, guess
    return _settled(unit, many / value, number if many == 1 else "", guess)


def _settled(unit: str, share: Fraction, printed: str, guess: str) -> tuple[str, str, str]:
    """Return a share of so many a pack, box or case as a column and its text; printed odds stay as printed."""
    if unit == "pack":
        return "packs_per_hit", printed or (fraction_text(1 / share) if share else "0"), guess
    return f"per_{unit}", fraction_text(share), guess


def fraction_text(value: Fraction) -> str:
    """Return a fraction as a plain number when it has one, else as ``1/12``."""
    if value.denominator == 1:
        return str(value.numerator)
    plain = f"{float(value):.6g}"
    return plain if Fraction(plain) == value else f"{value.numerator}/{value.denominator}"


def _count(found: re.Match[str], formats: Mapping[str, str]) -> Rated:
    parts = found.groupdict()
    word = (parts.get("n") or "one").lower()
    number, guess = (str(_WORDS[word]), "") if word in _WORDS else number_text(word)
    tail = parts.get("tail") or ""
    whole = f"{parts.get('how') or ''} {found['name']} {tail}"
    promise, stamped = promise_in(whole), RUN_SAID.search(found["name"])
    clean, own = name_of(without_promise(found["name"]), formats)
    inside = _IN_BRACKETS.search(tail)
    if inside and _ANY_HIT.fullmatch(clean):
        clean = inside[1]
    column, text = f"per_{unit_of(found['per'])}", number
    if parts.get("of"):
        share = Fraction(number.replace(",", "")) / (int(parts["of"]) or 1)
        column, text, _ = _settled(unit_of(found["per"]), share, "", "")
    return Rated(
        name=clean,
        column=column,
        text=text,
        run=run_said(stamped),
        format=own or format_in(tail, formats),
        promise=promise,
        guesses=(guess,) if guess else (),
    )


_ANY_HIT = re.compile(r"(?:hits?|hit cards?|chase cards?|premium cards?|big hits?)", re.IGNORECASE)
"""A word for whatever stands in brackets behind it: “one hit per box (autograph or relic)”."""
_IN_BRACKETS = re.compile(r"[(\[]([^()\[\]]+)[)\]]")


def promise_in(text: str) -> str:
    """Return how a text promises: average, at_least, exact, or empty."""
    return next((key for key, words in _PROMISES if re.search(rf"\b(?:{words})\b", text, re.IGNORECASE)), "")


def without_promise(text: str) -> str:
    """Return a text without the words that say how it promises."""
    for _, words in _PROMISES:
        text = re.sub(rf"\b(?:{words})\b", " ", text, flags=re.IGNORECASE)
    return text


def count_at_start(text: str) -> tuple[str, str] | None:
    """Return count and rest of ``12 inserts``, ``Two autographs``; None when no count stands at the start."""
    bare = plainly(text.strip())
    found = re.match(rf"^(?P<n>{_N}|{'|'.join(_WORDS)})\s*(?:x|×)?\s+(?P<name>\D.*)$", bare, re.IGNORECASE)
    if not found:
        return None
    word = found["n"].lower()
    return (str(_WORDS[word]) if word in _WORDS else number_text(word)[0]), found["name"]


def cell_rate(text: str) -> tuple[str, str, str] | None:
    """Read a cell that holds nothing but a rate: ``1:24``, ``24``, ``4 %``, ``1 in 24 packs``; None for none.

    Returns
    -------
    tuple of (column, text, guess), optional
    """
    bare = re.sub(r"\s*packs?$", "", text.strip(), flags=re.IGNORECASE)
    if re.fullmatch(_N, bare):
        number, guess = number_text(bare)
        return "packs_per_hit", number, guess
    found = _RATE.match(text.strip())
    if found and not re.search(r"\w", text.strip()[found.end() :]):
        return _stated(found)
    counted = re.fullmatch(rf"(?P<n>{_N})\s*(?:{_PER})\s*(?P<per>{UNIT})", text.strip(), re.IGNORECASE)
    if counted:
        return f"per_{unit_of(counted['per'])}", *number_text(counted["n"])
    return None


def readable(text: str) -> bool:
    """Whether a number as printed is a rate."""
    try:
        parse_printed(text)
    except BadOddsError:
        return False
    return True
