"""Lists of finishes in words: “Base parallels: Copper (1:4), Slate /199”."""

from __future__ import annotations

import re

from botin.exchange.catalog.cardtext import unbulleted
from botin.exchange.catalog.runtext import RUN_ALONE

_LIST_WORD = (
    r"(?:parallels?|finishes|versions|parallel versions|available parallels|parallelkarten|parallelversionen|"
    r"parallell?en|farbvarianten|parallèles|"
    r"paralelas|paralelos|paralel[ey]|parallele|paralleli|paralleller|varianten)"
)


_NONE = frozenset(
    ("", "base", "plain", "none", "-", "–", "regular", "no parallel", "basis", "normal", "standard", "n/a")
)
_OWN_ALONE = re.compile(
    r"(?:base|regular|plain|standard|basic)(?:\s+(?:versions?|cards?|parallel))?\W*", re.IGNORECASE
)
_ALSO_IN = re.compile(
    r"^(?:also |(?:(?:each|every|all)\s+)?(?:[\w’'-]+\s+){0,3}?cards? (?:are |is )?(?:also )?)?"
    r"(?:available|comes?|found|printed)?\s*(?:also )?in"
    r"(?: the following(?: parallels)?)?\s*:?\s*(?P<list>[A-Z].*)$|^also as\s*:\s*(?P<as>\S.*)$",
    re.IGNORECASE,
)


_ONE_FINISH = re.compile(r"^(?P<name>[^:]{2,40}?)\s+parallels?\s*[:–—-]\s*(?P<run>\S.*)$", re.IGNORECASE)


_PARALLELS = re.compile(
    rf"^(?P<of>.{{0,60}}?)\b(?:{_LIST_WORD}(?:\s*\(\d+\))?|(?:{_LIST_WORD}|colou?rs)\s+"
    r"(?P<more>(?-i:[a-z])[\w’' ]{1,30}))"
    r"\s*[:–—-]\s*(?P<list>.+)$",
    re.IGNORECASE,
)


_OF = "of|for|in|zu|von|de|till|til|van|pour|para"
_PARALLELS_OF = re.compile(
    rf"(?:all |available )?{_LIST_WORD}\s+(?:{_OF})\s+(?:the\s+)?(?P<of>[^:;,]{{3,50}}?)\s*:?",
    re.IGNORECASE,
)
_COLOURS = re.compile(
    r"(?P<of>)(?:colou?rs|farben|couleurs|colores)\s*[:–—-]\s*(?P<list>[^=]*[,;/][^=]+)", re.IGNORECASE
)
"""``Colours: Copper / Gold``; an insert may be called Club Colours."""
_OF_AND_LIST = re.compile(
    rf"(?:all |available )?{_LIST_WORD}\s+(?:{_OF})\s+(?:the\s+)?(?P<of>[^:;,]{{3,50}}?)"
    r"\s*:\s*(?P<list>\S.+)",
    re.IGNORECASE,
)
TOLD_IN_BRACKETS = re.compile(
    rf"\s*[(\[](?:also |available )?{_LIST_WORD}\s*[:–—-]\s*(?P<list>[^()\[\]]*(?:\([^()]*\)[^()\[\]]*)*)[)\]]\s*$",
    re.IGNORECASE,
)
"""``Night Sprints (Parallels: Copper /99, Slate)``."""
_PARALLELS_ALONE = re.compile(rf"^(?P<of>.{{0,60}}?)\b{_LIST_WORD}(?:\s*\(\d+\))?\s*:?\s*$", re.IGNORECASE)


def parallels_in(text: str) -> tuple[str, list[str]] | None:
    """Return section and entries of ``Base parallels: Copper (1:4), Slate /199``; None when it is no such line.

    The entries are empty where the line only announces them.
    """
    bare = unbulleted(text)[0]
    if found := _PARALLELS_ALONE.match(bare):
        return found["of"].strip(" :–—-"), []
    if found := _PARALLELS_OF.fullmatch(bare):
        return found["of"], []
    one = _ONE_FINISH.match(bare)
    if one and RUN_ALONE.fullmatch(one["run"].strip()):
        return "", [f"{one['name']} {one['run']}"]
    also = _ALSO_IN.match(bare)
    if also and re.match(r"also|available|comes?|cards?|all|each|every|base", bare, re.IGNORECASE):
        return "Base" if bare.casefold().startswith("base") else "", _entries(also["list"] or also["as"])
    found = _COLOURS.fullmatch(bare) or _OF_AND_LIST.fullmatch(bare) or _PARALLELS.match(bare)
    if not found or re.match(r"\s*1\s*(?::|in)\s*\d", found["list"]):
        return None
    more = found.groupdict().get("more") or ""
    return found["of"].strip(" :–—-") or more.strip(), _entries(found["list"])


def _entries(text: str) -> list[str]:
    """Part a list of finishes at commas, semicolons and the last “and”."""
    if not re.search(r"[;,|]", text) and text.count(" / ") > 1:
        text = text.replace(" / ", "; ")  # one stroke may be in a name: Red / White
    parts = re.split(r"(?:[;,|](?!\d{3}\b)|\s+and\s+(?=[A-Z]))(?![^(]*\))", text.rstrip(" ."))
    return [part.strip() for part in parts if part.strip()]


def is_plain(text: str) -> bool:
    """Whether what stands for a finish says that there is none: “Base version”, “regular”, a stroke, nothing."""
    bare = text.strip(" ()[]\t").casefold()
    return bare in _NONE or _OWN_ALONE.fullmatch(bare) is not None
