"""What rates count by, pack, box and case in any word of them, and roundabout ways of saying a number made plain."""

from __future__ import annotations

import re

NUMBER_WORDS = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
UNITS = {
    "pack": (
        r"packs?|pks?|saquetas?|envelopes?|päckchen|packungen|packung|paquets?|pochettes?|sobres?|pakjes?|bust[ae]|bustine|paket|"
        r"t[üu]te(?:n|chen)?|beutel|pakke[rt]?|paczk\w*|bal[íi]č\w*"
    ),
    "box": (
        r"box(?:es)?|bxs?|boxen|bo[iî]tes?|cajas?|caixas?|doosje|doos|dozen|displays?|l[åa]d(?:a|or)|æsker?|scatol[ae]|pude[łl]\w*"
    ),
    "case": r"cases?|cs|kartons?|kartong(?:er)?|caisses?|krat(?:ten)?|cart[oó]n(?:es|[ei])?|cart[ãa]o|cart[õo]es",
}
UNIT = "|".join(UNITS.values())
_TENS = {"twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60}
_SPELLED = re.compile(
    rf"\b(?:(?P<tens>{'|'.join(_TENS)})(?:[- ](?P<ones>{'|'.join(NUMBER_WORDS[:9])}))?"
    rf"|(?P<word>{'|'.join(NUMBER_WORDS)}))"
    rf"(?=[- ](?:{UNIT}|cards?)\b)",
    re.IGNORECASE,
)
_SAID_TWICE = re.compile(rf"\b(?:{'|'.join(NUMBER_WORDS)})\s*\((\d{{1,3}})\)(?=\s)", re.IGNORECASE)
_EVERY_NTH = re.compile(
    rf"\b(?:(?:one|1)\s+)?(?:in\s+)?every\s+(\d{{1,3}})(?:st|nd|rd|th)\s+({UNIT})\b", re.IGNORECASE
)


_EVERY_OTHER = re.compile(rf"\bevery (?:other|second) ({UNIT})\b", re.IGNORECASE)
_UNIT_BETWEEN = re.compile(
    rf"\b(1|one|une?) ({UNIT}) (?:sur|of|in|out of|de cada|auf|su|op) (\d{{1,5}})\b", re.IGNORECASE
)
"""“1 pochette sur 4”."""
_IN_WORDS = re.compile(
    rf"\b(?:one|1) (?:in|of|out of) (?:every |each )?(?:{'|'.join(NUMBER_WORDS[1:])}) (?:{UNIT})\b", re.IGNORECASE
)
_IN_EVERY = re.compile(
    rf"\b(?:one|1) (?:in|of|out of) (?:every |each )?(\d{{1,3}}) ({UNIT})\b"
    r"(?=\s+(?:has|have|holds?|contains?|yields?|includes?|delivers?)\b)",
    re.IGNORECASE,
)
"""“One in every three boxes yields …”."""
_HAS_ONE = re.compile(
    rf"^\W*(1 in \d{{1,3}} (?:{UNIT}))\s+(?:has|have|holds?|contains?|yields?|includes?|delivers?)\s+"
    r"(?:an?|one|1)\s+(\S[^.]*)\.?$",
    re.IGNORECASE,
)
"""“1 in 2 boxes has a Copper”: the name stands behind."""


_IN_WORD_NUMBER = re.compile(
    rf"\b((?:one|1) in(?: every)?) (?:(?P<tens>{'|'.join(_TENS)})(?:[- ](?P<ones>{'|'.join(NUMBER_WORDS[:9])}))?"
    rf"|(?P<word>{'|'.join(NUMBER_WORDS[1:])}))\b",
    re.IGNORECASE,
)
"""“one in four”, without a word for packs."""


_ORDINALS = ("second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")
_ORDINAL = re.compile(rf"\bevery ({'|'.join(_ORDINALS[1:])}) ({UNIT})\b", re.IGNORECASE)
_TIMES_WORDS = ("once", "twice", "thrice")
_TIMES = re.compile(
    rf"\b({'|'.join(_TIMES_WORDS)}) (?=(?:per|an?|in|each|every)\s+(?:an?\s+|each\s+|every\s+)?(?:{UNIT})\b)",
    re.IGNORECASE,
)
"""“twice a case”."""
_ONE_UNIT = re.compile(rf"\b(one|1) ({UNIT}) in ({'|'.join(NUMBER_WORDS[1:])})\b", re.IGNORECASE)
"""“one box in two”."""
_ONES = re.compile(r"\b([A-Z][\w’'-]+)\s+ones\b")
"""“Copper ones” are Copper parallels."""


def _number_of(found: re.Match[str]) -> int:
    ones = (found["word"] or found["ones"] or "").lower()
    return _TENS.get((found["tens"] or "").lower(), 0) + (NUMBER_WORDS.index(ones) + 1 if ones else 0)


def plainly(text: str) -> str:
    """Return ``One (1) autograph`` as ``1 autograph``, and ``every 5th box`` as ``1 in 5 box``."""
    text = _ONES.sub(r"\1 parallels", text)
    text = _ORDINAL.sub(lambda found: f"every {_ORDINALS.index(found[1].lower()) + 2}th {found[2]}", text)
    text = _TIMES.sub(lambda found: f"{_TIMES_WORDS.index(found[1].lower()) + 1} ", text)
    text = _ONE_UNIT.sub(lambda found: f"{found[1]} in {NUMBER_WORDS.index(found[3].lower()) + 1} {found[2]}", text)
    text = _IN_WORD_NUMBER.sub(lambda found: f"{found[1]} {_number_of(found)}", text)
    text = _IN_EVERY.sub(r"1 in \1 \2", _IN_WORDS.sub(lambda found: in_digits(found[0]), text))
    text = _UNIT_BETWEEN.sub(r"\1 in \3 \2", text)
    plain = _EVERY_NTH.sub(r"1 in \1 \2", _EVERY_OTHER.sub(r"every 2nd \1", _SAID_TWICE.sub(r"\1", text)))
    return _HAS_ONE.sub(r"\2 \1", plain)


def in_digits(text: str) -> str:
    """Return ``twenty-four packs of eight cards`` as ``24 packs of 8 cards``."""
    return _SPELLED.sub(lambda found: str(_number_of(found)), text)


LEAD = re.compile(r"^\W*(?:\w+\s+)?odds\b[^:;\d]{0,70}:\s*(?=[^\W\d_])", re.IGNORECASE)
"""“Odds of finding (per pack):” before the first of several names; it may name the format of all of them."""


def is_unit(word: str) -> bool:
    """Whether a word names a pack, a box or a case."""
    return re.fullmatch(UNIT, word, re.IGNORECASE) is not None


def unit_of(word: str) -> str:
    """Return pack, box or case for any word of them."""
    return next((unit for unit, words in UNITS.items() if re.fullmatch(words, word, re.IGNORECASE)), "pack")
