"""Lines of odds and promises: what they are for, under which format and section, and in which order."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from botin.exchange.catalog.cardtext import unbulleted
from botin.exchange.catalog.kinds import is_only_kinds
from botin.exchange.catalog.oddstext import RATED_TAIL, Rated, count_at_start, promise_in, rates_in, without_promise
from botin.exchange.catalog.ratenames import find_section, labels_of
from botin.exchange.catalog.rateunits import NUMBER_WORDS, UNITS, unit_of
from botin.exchange.catalog.runtext import take_run
from botin.exchange.catalog.sorting import Later, Pending
from botin.exchange.catalog.textreader import Line, Reader, is_nested, one_card
from botin.exchange.notes import Status

_HOLD = r"contains?|holds?|includes?|has|delivers?|yields?|features?|enthält|contient|contiene|bevat"
_FILLER = (
    rf"odds|per|each|every|{_HOLD}|contents?|including|have|in|an?|the|one|look for|find|configuration|breakdown|"
    r"box break|breaks?|ratios?|insertion|pro|je|quoten|chancen|par|por|what you get|you get|of|for|on average|will|"
    r"what['’]?s|stated|printed|official|published|listed|"
    rf"expect|to|inside|your|average|{'|'.join(UNITS.values())}"
)
_SENTENCE = re.compile(
    rf"^(?P<lead>.*?\b(?P<unit>{'|'.join(UNITS.values())})\b.{{0,20}}?\b(?:{_HOLD}|you get)\b)"
    r"\s*:?\s*(?P<rest>\S.*)$",
    re.IGNORECASE,
)
_OWN_ODDS = re.compile(r"\W*(?:odds|ratios?|quoten?)\s*[:=–-]", re.IGNORECASE)
"""Among the cards of a section it says its own odds and those of its finishes."""
_ONE_OF_SEVERAL = re.compile(
    rf"\b(?:other|second|\d+(?:st|nd|rd|th))\b|\b(?:in|of)\s+(?:every\s+|each\s+)?(?:\d+|{'|'.join(NUMBER_WORDS[1:])})\b",
    re.IGNORECASE,
)
"""A sentence of every other box, or of one in three, is a rate."""
_EACH = re.compile(
    r"^(?P<lead>\W*(?:(?:guaranteed|at least|on average|average|exactly)[\s,]+)?"
    r"(?:per|each|every|in each|in every|one|pro|par|por)\s+(?:[^\W\d_]+\s+)?"
    rf"(?P<unit>{'|'.join(UNITS.values())})\s*[:=–-])\s*(?P<rest>\S.*)$",
    re.IGNORECASE,
)
"""“Per case: 12 Signatures, 6 Relics”."""
_LETTERED = re.compile(
    r"(?<![\w-])([A-Z])\s*[:=]?\s*(?:1|one)\s?(?:[:/]|in)\s?\d"
    r"|(?:1|one)\s?(?:[:/]|in)\s?\d[\d,]*\s*[(\[]?([A-Z])\b(?!['’-])"
)
"""A lone letter before or behind a rate."""
_LETTERS = re.compile(r"(?P<letters>[A-Z]{1,3})\s*(?:=|:|→|–|—|-)\s*(?P<word>[^\W\d_][\w\s-]*)")
_HOW = r"on average|an average of|at least|a minimum of|exactly|about|approximately|roughly|usually|guaranteed"
_NEXT = re.compile(
    r"\s*(?:,|;|\+|&|\b(?:and|plus|along with|as well as|und|et)\b)(?:[\s,]|\b(?:and|plus|also|und|et)\b)*"
    rf"(?=(?:(?:{_HOW})\s*,?\s*)?(?:\d|(?:{'|'.join(NUMBER_WORDS)}|an?)\b))",
    re.IGNORECASE,
)
"""What parts one count of a sentence from the next."""
_HOW_APART = re.compile(rf"\b({_HOW})\s*,\s*(?=[\w])", re.IGNORECASE)


def _named(reader: Reader, text: str) -> list[str]:
    """Return the words for formats in a text, longest first, none inside another."""
    found: list[str] = []
    for word in sorted(reader.words(), key=len, reverse=True):
        if re.search(rf"\b{re.escape(word)}\b", text) and not any(word in longer for longer in found):
            found.append(word)
    return sorted(found, key=text.find)


def _rest(text: str, words: list[str]) -> str:
    for word in words:
        text = re.sub(rf"\b{re.escape(word)}\b", " ", text)
    return re.sub(rf"\b(?:{_FILLER})\b|[^\w]", " ", text).strip()


def format_order(reader: Reader, line: Line) -> bool:
    """Formats named side by side: the odds that follow are theirs, in that order."""
    lowered = line.bare.casefold()
    words = _named(reader, lowered)
    if len(words) < 2 or _rest(lowered, words):
        return False
    known = reader.words()
    reader.order = [known[word] for word in words]
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"odds follow in the order {', '.join(reader.order)}")
    return True


def format_legend(reader: Reader, line: Line) -> bool:
    """A line that says what letters behind rates stand for: “H = Hobby, J = Jumbo”."""
    known, found = reader.words(), {}
    for part in re.split(r"\s*[,;/|]\s*", line.bare.strip(" .()[]")):
        said = _LETTERS.fullmatch(part)
        word = said["word"].casefold() if said else ""
        key = known.get(word) or known.get(word.removesuffix(" box").removesuffix(" boxes"))
        if not said or not key:
            return False
        found[said["letters"]] = word if word in known else word.removesuffix(" box").removesuffix(" boxes")
    reader.letters |= found
    says = ", ".join(f"{letters} stands for {word}" for letters, word in found.items())
    reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    return True


def spelled(reader: Reader, text: str) -> str:
    """Return a line of odds with the letters of the legend spelled out: “1:6 H / 1:12 J” is hobby and jumbo."""
    return _spell(text, reader.letters)


def _letters_of(reader: Reader, text: str) -> dict[str, str]:
    """Return what letters beside rates stand for where no legend says it: each begins the name of one box alone."""
    letters = {one for pair in _LETTERED.findall(text) for one in pair if one}
    if len(letters) < 2 or reader.letters:
        return {}
    keys = reader.words()
    meant = {one: {key: word for word, key in keys.items() if word.startswith(one.casefold())} for one in letters}
    if any(len(found) != 1 for found in meant.values()):
        return {}
    return {one: next(iter(found.values())) for one, found in sorted(meant.items())}


def _spell(text: str, letters: Mapping[str, str]) -> str:
    for sign, word in letters.items():
        text = re.sub(rf"(?<=\d)\s*[(\[]?\b{sign}\b[)\]]?(?=\s*(?:[/,;|&]|and\b|$))", f" {word}", text)
        text = re.sub(rf"(?<![\w-])[(\[]?{sign}[)\]]?\s*[:=]?\s*(?=(?:1|one)\s?(?:[:/]|in)\s?\d)", f"{word} ", text)
    return text


_SIZE = re.compile(r"\s*[(\[][^()\[\]]*\d[^()\[\]]*\b(?:packs?|cards?|boxes)\b[^()\[\]]*[)\]]")
"""How a box is packed, in brackets behind its name."""


def format_heading(reader: Reader, line: Line) -> bool:
    """A line that names a format and nothing else says what the lines below are for."""
    lowered = _SIZE.sub("", line.bare.casefold())
    words = _named(reader, lowered)[:1]
    holds = re.search(rf"\b(?:{_HOLD}|per|each|every|break|breakdown|you get|inside|what['’]?s in)\b", lowered)
    loud = line.bare.isupper() and count_at_start(unbulleted(line.following)[0]) is not None
    announced = (line.bare.endswith(":") or loud) and unit_in(lowered) != ""
    if _rest(lowered, words) or not (words or (holds and (reader.of_odds or announced))):
        return False
    if words:
        reader.sorting.current_format = reader.words()[words[0]]
    reader.per, reader.group, reader.order = _unit(lowered, holds=bool(holds)), "", []
    reader.promise = promise_in(line.bare)
    says = f"what follows holds for {reader.sorting.current_format or 'the box'}"
    reader.sorting.note(line.place, Status.UNDERSTOOD, says)
    return True


def unit_in(text: str) -> str:
    """Return the first unit that a text names: pack, box, case; empty when it names none."""
    words = re.findall(r"\w+", text)
    return next((unit_of(w) for w in words if any(re.fullmatch(u, w) for u in UNITS.values())), "")


def _unit(text: str, *, holds: bool) -> str:
    unit = unit_in(text)
    return (unit or "box") if holds or "box" in text or unit == "case" else ""


def rates_line(reader: Reader, line: Line) -> bool:
    """A name and its rates."""
    told = re.search(r"\b(?:per|in every)\b|%|\d\s*:\s*\d", line.bare)
    if not reader.of_odds and not told and one_card(line.text) is not None:
        return False
    said = spelled(reader, line.bare)
    meant = _letters_of(reader, said)
    if meant:
        said = _spell(said, meant)
    if not rates_in(said, reader.words(), odds=reader.of_odds):
        return False
    group = reader.group if line.nested or not reader.nests else ""
    sorting = reader.sorting
    if not reader.of_odds and _OWN_ODDS.match(line.bare) and sorting.current:
        group = sorting.sections[sorting.current].label
    later = Later(line.place, said, sorting.current_format, group, odds=reader.of_odds, name=reader.name)
    sorting.later.append(replace(later, order=tuple(reader.order)))
    if meant:
        sorting.note(line.place, Status.GUESSED, ", ".join(f"“{x}” is taken for {word}" for x, word in meant.items()))
    if reader.of_odds and not line.nested and is_nested(line.following):
        found = find_section(sorting, RATED_TAIL.sub("", line.bare))
        reader.group, reader.nests = (labels_of(sorting)[found[0]], True) if found else ("", False)
    return True


_HAS_RATE = re.compile(r"\b1\s?:\s?\d")


def sentence(reader: Reader, line: Line) -> bool:
    """“Every hobby box contains 2 autographs and 1 relic”: each count with its name is a promise."""
    found = _SENTENCE.match(line.bare) or _EACH.match(line.bare)
    if not found or _ONE_OF_SEVERAL.search(found["lead"]) or _HAS_RATE.search(found["lead"]):
        return False
    said = _NEXT.split(_HOW_APART.sub(_before_its_count, found["rest"]))
    parts = [count_at_start(without_promise(part).strip(" .,()")) for part in said]
    if not any(parts):
        return False
    promises = _promises(found["lead"], said)
    words = _named(reader, found["lead"].casefold())
    fmt = reader.words()[words[0]] if words else reader.sorting.current_format
    for part, promise in zip(parts, promises, strict=True):
        if part is None:
            reader.sorting.note(line.place, Status.GUESSED, "a part of it says no count: left out")
            continue
        count, name = part
        rated = Rated(name.strip(" .,()"), f"per_{unit_of(found['unit'])}", count, promise=promise)
        reader.sorting.pending.append(Pending(line.place, rated, fmt))
    return True


def _before_its_count(found: re.Match[str]) -> str:
    """Leave “2 relics on average, 4 inserts” as it is: behind a count the words are of that one."""
    before = re.split(r"[,;:]", found.string[: found.start()])[-1]
    return found[0] if count_at_start(before) else f"{found[1]} "


def _promises(lead: str, parts: Sequence[str]) -> list[str]:
    """Return how the counts of a sentence are promised; what stands before or behind all of them is of each."""
    own = [promise_in(part) for part in parts]
    last = without_promise(parts[-1]).strip(" .")
    behind = own[-1] if own[-1] and parts[-1].strip(" .").startswith(last[:3]) else ""
    of_all = promise_in(lead) or (behind if not any(own[:-1]) else "")
    return [promise or of_all for promise in own]


def promise_line(reader: Reader, line: Line) -> bool:
    """Among the boxes: “2 autographs per box”, “On average one relic a case”, where a kind is counted."""
    counted = rates_in(line.bare, reader.words(), odds=True)
    if not counted or not all(_names_a_line(reader, rated.name) for rated in counted):
        return False
    return rates_line(reader, line)


def breakdown(reader: Reader, line: Line) -> bool:
    """A count and a name below “each box holds:”, or among the odds."""
    if not (reader.per or reader.of_odds):
        return False
    found = count_at_start(line.bare) or count_at_start(without_promise(line.bare))
    if found is None and promise_in(line.bare):
        found = count_at_start(re.sub(rf"^\W*(?:{_FILLER})\b\s*", "", line.bare))
    if found is None:
        return False
    count, name = found
    if not (reader.of_odds or _names_a_line(reader, name) or _right_below(reader, line)):
        return False
    clean = without_promise(re.sub(r"\((?:guaranteed|on average|average|garantiert)\)", " ", name)).strip(" .,()")
    guess = () if reader.per else ("it is not said of what: taken as a box",)
    words, unit = " ".join(clean.split()), reader.per or "box"
    promise = promise_in(line.bare) or reader.promise
    rated = Rated(words, f"per_{unit}", count, promise=promise, guesses=guess)
    reader.sorting.pending.append(Pending(line.place, rated, reader.sorting.current_format))
    return True


def _right_below(reader: Reader, line: Line) -> bool:
    """Whether a count in a checklist stands right below “each box holds:”, before a blank line and without a club."""
    if line.apart:
        reader.per = ""
    card = one_card(line.text)
    return bool(reader.per) and not reader.cards and (card is None or not card.team)


def _names_a_line(reader: Reader, name: str) -> bool:
    """Whether what is counted among the cards of a checklist is a kind, a finish or a section, and no card."""
    bare = without_promise(name).strip(" .,()")
    finish = re.search(r"\b(?:parallels?|inserts?|numbered|finishes)\b", bare, re.IGNORECASE)
    return bool(finish) or is_only_kinds(bare) or find_section(reader.sorting, bare) is not None


def named_line(reader: Reader, line: Line) -> bool:
    """A name alone, with rates of each format below it that have none."""
    rates = rates_in(line.following, reader.words(), odds=True)
    if re.search(r"\d", take_run(line.bare)[0]) or not rates or any(rated.name for rated in rates):
        return False
    reader.name = line.bare.strip(" :–—-")
    if not line.nested:
        found = find_section(reader.sorting, reader.name)
        reader.group, reader.nests = (labels_of(reader.sorting)[found[0]], True) if found else ("", False)
    reader.sorting.note(line.place, Status.UNDERSTOOD, f"the odds below are those of {reader.name}")
    return True


def odds_group(reader: Reader, line: Line) -> bool:
    """The name of a section alone among the odds: what follows is of it."""
    reader.name = ""
    found = find_section(reader.sorting, line.bare.rstrip(":"))
    if not found or (not found[1] and re.search(r"\d", line.bare)):
        return False
    reader.group = labels_of(reader.sorting)[found[0]]
    reader.nests = is_nested(line.following)
    status = Status.UNDERSTOOD if found[1] else Status.GUESSED
    reader.sorting.note(line.place, status, f"what follows is of {reader.group}")
    return True
