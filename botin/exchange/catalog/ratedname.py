"""What a rate is for: its name in a line or a sentence, without run, box and the words around it."""

from __future__ import annotations

import re
from collections.abc import Mapping

from botin.exchange.catalog.rateunits import UNIT

RUN_SAID = re.compile(
    r"(?<![\d/])(?P<one>1)/1(?![\d/])|\b(?P<sole>one[- ]of[- ]one|1 of 1)\b|(?:#\s*)?(?<!\d)/\s*(?P<run>\d{1,5})\b"
    r"|\b(?:numbered|limited) to (?P<to>\d{1,5})\b|\bauf (?P<auf>\d{1,5}) limitiert\b|#'?d (?:to )?(?P<d>\d{1,5})\b",
    re.IGNORECASE,
)


def run_said(found: re.Match[str] | None) -> str:
    """Return the run that `RUN_SAID` found, empty for none."""
    if found is None:
        return ""
    return "1" if found["sole"] else next((part for part in found.groups() if part), "")


_VERB = re.compile(
    r"(?<=\w)\s+(?:(?:are|is|can be|comes?|were)(?:\s+(?:randomly\s+)?(?:found|inserted|seeded|available|packed))?"
    r"|(?:falls?|appears?|drops?|lands?|hits?)(?:\s+(?:just|only))?(?:\s+at a rate of)?|inserted|seeded)"
    r"(?:\s+(?:in|at))?\W*$"
)
"""What a sentence says of a finish or a section; in small letters, since names may end so: Here It Comes."""


_YOU = r"(?:you|collectors|buyers)(?:['’]ll|\s+will|\s+can|\s+may|\s+should)?\s+"
_TO_YOU = re.compile(
    rf"^\W*(?:{_YOU}(?:expect|find|get|pull|look for)(?:\s+to\s+(?:find|get|pull))?"
    r"|(?:expect|look for)(?=\s+(?:an?|the|one)\b)"
    r"|there\s+(?:is|are|will be))\s+(?:(?:an?|the|one)\s+)?(?=\w)|\s+cards?\s+(?:in|at)\W*$",
    re.IGNORECASE,
)
"""“You will find a … card in”: what a sentence says around the name."""


def name_of(text: str, formats: Mapping[str, str]) -> tuple[str, str]:
    """Return what a rate is for, without run, format and stray punctuation; and the format it names."""
    own = format_in(text, formats)
    bare = RUN_SAID.sub(" ", text)
    if own:
        for word in sorted(formats, key=len, reverse=True):
            bare = re.sub(rf"\b{re.escape(word)}\b(?:\s+(?:box|boxes|packs?)\b)?", " ", bare, flags=re.IGNORECASE)
    bare = re.sub(rf"^\W*(?:odds|{UNIT})?\W*$", "", bare, flags=re.IGNORECASE)
    bare = re.sub(r"\(\s*\)|^\W*and\b|\band\W*$", " ", bare)
    bare = re.sub(r"[\s:,(–-]+(?:about|around|roughly|approximately|approx\.?|some|ca\.?|circa)\W*$", " ", bare)
    bare = _TO_YOU.sub("", _VERB.sub(" ", bare))
    return " ".join(bare.strip(" :–—-=.,()•*\t/|;").split()), own


def format_in(text: str, formats: Mapping[str, str]) -> str:
    """Return the key of the format a text names, empty when it names none."""
    lowered = text.lower()
    for word in sorted(formats, key=len, reverse=True):
        if re.search(rf"\b{re.escape(word)}\b", lowered):
            return formats[word]
    return ""


def without_lacking(text: str, formats: Mapping[str, str]) -> str:
    """Return a line without the boxes that have none of it: “1:14 hobby; not in blaster”."""
    words = "|".join(re.escape(word) for word in sorted(formats, key=len, reverse=True))
    if not words:
        return text
    lacking = rf"[;,]?\s*[(\[]?\b(?:not (?:available |found )?in|none in|n/a in)\s+(?:{words})\b[)\]]?"
    return re.sub(lacking, " ", text, flags=re.IGNORECASE)
