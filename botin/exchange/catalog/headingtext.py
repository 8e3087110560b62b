"""What a heading says: its name without what goes on, ranges, codes and counts."""

from __future__ import annotations

import re

from botin.exchange.catalog.cardtext import unbulleted

_CONTINUED = re.compile(
    r"\s*[-–(\[]*\s*(?:continued|cont['’]?d?\.?|ctd\.?|fortsetzung|forts\.|suite|cont\.)\s*[)\]]*$", re.IGNORECASE
)
_COUNT = re.compile(
    r"(?<![\s(–—:-])[\s(–—:,-]*\b(\d{1,5})[\s-]*(?:cards?|subjects?|riders?|karten|cartes|cartas|kaarten|carte|carta|karte|kaart|kort|kart|karet)\b"
    r"(?:\s+(?:total|each|checklist|in the set))?\)?\s*:?\s*$",
    re.IGNORECASE,
)
_COUNT_APART = re.compile(
    r"\s*[(–—:,-]\s*(\d{1,5})\s+(?:pairings?|signers?|players?|athletes?|names|duos?|trios?)\)?\s*:?\s*$",
    re.IGNORECASE,
)
"""``Dual Ink - 10 pairings``: words that names of sets have too, as in Top 100 Athletes."""
_LEAD = re.compile(
    r"^(?:(?:so|and|then|also),?\s+)+(?:there(?:['’]?s|\s+is|\s+are)\s+)?(?:also\s+)?(?:the\s+)?(?=\S)|"
    r"^(?:[Tt]hen,?\s+)?[Tt]here(?:['’]?s|\s+is|\s+are)\s+(?:also\s+)?the\s+(?=\S)"
)
"""``so the base is 4 cards:``, ``Then there's the Redline inserts``: told, in small letters; no name of an insert."""
_LEADERS = re.compile(r"(?:\s*\.){3,}$|\s*…+$|_{3,}$")
"""Dots that lead to a count or a page."""
_LED_COUNT = re.compile(r"(?<=\w)(?:(?:\s*\.){3,}|\s*…+)\s*(\d{1,5})\s*$")
"""Dots that lead to how many cards a section has."""
_OF_THEM = re.compile(r",?\s+(\d{1,4})\s+of\s+them:?\s*$", re.IGNORECASE)
_COUNT_BEFORE = re.compile(
    r"^(?P<n>\d{1,5})[- ]cards?\s+(?:insert\s+|sub)?(?:set|checklist)?\s*[:–—-]?\s*(?P<label>[^\W\d_].{2,})$",
    re.IGNORECASE,
)
_COUNTS = (
    r"total|size|count|cards|subjects|riders|check ?list|karten|anzahl|gesamt|cartes|nombre|cartas|aantal|kaarten|"
    r"kart|kort|antal"
)
COUNT_ALONE = re.compile(
    r"\(?(?P<n>\d{1,5})[- ]card(?:s| set| subset)?(?: total)?\)?[:.]?|"
    rf"(?=.*\b(?:{_COUNTS})\b)\(?(?:(?:{_COUNTS}|number|no|of|in|the|de|set|card|subject|rider)\b[ .#]*)+"
    r"[:=]\s*(?P<m>\d{1,5})(?: cards?)?\)?\.?",
    re.IGNORECASE,
)
"""``40 cards``, ``Total cards: 40``: how many cards the section above has."""
_ODDS = re.compile(
    r"\W*(?:pack |pull |insertion )?(?:odds|ratios?|quoten?|chancen?|cotes?)\s*[:=–-]\s*\S", re.IGNORECASE
)
_RANGE = re.compile(
    r"\s*(?:,?\s+(?:cards?|nos?\.?)\s+#?\d{1,4}\s?[-–]\s?#?\d{1,4}|[(\[]\s*(?:cards?\s+|nos?\.?\s+|#)?#?[A-Z]{0,6}-?[A-Z\d]{1,6}\s?(?:[-–]|to|bis|à|through|t/m|tot|til|do|al)"
    r"\s?#?[A-Z]{0,6}-?[A-Z\d]{1,6}\s*[)\]]"
    r"|#[A-Z]{0,4}-?\d{1,4}\s?[-–]\s?#?[A-Z]{0,4}-?\d{1,4}"
    r"|(?<=\w )(?P<code>[A-Z]{1,5})-?\d{1,3}\s?(?:[-–]|to)\s?(?P=code)-?\d{1,3}"
    r"|(?<=\w )1\s?(?:[-–]|to|bis)\s?\d{1,3})\s*:?$"
)
_IS = re.compile(r"\s+(?:is|are|goes|go|runs|run)(?:\s+from)?$")
"""``base is 1 to 40``."""
_CODE_BEFORE = re.compile(r"^\s*[\[(][A-Z0-9]{1,6}[\])]\s*(?=[^\W\d_]{2})")
"""The code of its cards in brackets before the name of a section."""
_BACK_CODE = re.compile(
    r"[\s,;(–—-]*\b(?:back code|code on (?:the )?back|rückseitencode|code)\s*[:#]?\s*(?:ends? (?:in|with)\s*)?"
    r"(?P<code>[A-Z]{0,4}\d{2,6})\)?\s*$",
    re.IGNORECASE,
)


def without_verb(label: str) -> str:
    """Return ``base is`` as base: behind it stood from which number to which its cards go."""
    return _IS.sub("", label)


def is_range(text: str) -> bool:
    """Whether a text in brackets says from which number to which its cards go: “(GQ1-GQ3)”."""
    return _RANGE.fullmatch(text) is not None


def is_about_section(text: str) -> bool:
    """Whether a line says something of the section above: how many cards it has, its odds."""
    return COUNT_ALONE.fullmatch(text.strip()) is not None or _ODDS.match(text) is not None


def heading_of(text: str) -> tuple[str, int | None]:
    """Return a heading without its count of cards, and that count."""
    text = _CONTINUED.sub("", unbulleted(text)[0].strip("*=_#•").strip())
    whole = re.fullmatch(r"[\[<{]([^\[\]<>{}]+)[\]>}]:?", text)
    text = whole[1] if whole else text
    before = _COUNT_BEFORE.match(text)
    if before:
        return _title(before["label"]), int(before["n"])
    if _LEAD.match(text):
        return _told(_LEAD.sub("", text))
    led = _LED_COUNT.search(text)
    if led:
        return _title(text[: led.start()]), int(led[1])
    found = _COUNT.search(text) or _COUNT_APART.search(text)
    if found:
        return re.sub(r"\s+(?:of|with|contains|has|–|-)$", "", _title(text[: found.start()])), int(found[1])
    return _title(text), None


def _told(text: str) -> tuple[str, int | None]:
    """``base is 4 cards:``, ``Redline inserts, 2 of them``: a heading as it is told, after its first small words."""
    found = _COUNT.search(text) or _OF_THEM.search(text)
    name = re.sub(r"\s+(?:is|are|has|have|with|of)$", "", _title(text[: found.start()] if found else text))
    return re.sub(r"(?<=\S)\s+inserts?$", "", name), int(found[1]) if found else None


def back_code_of(text: str) -> tuple[str, str]:
    """Return a heading without the code on the back that stands behind it, and that code."""
    found = _BACK_CODE.search(text)
    if not found or not text[: found.start()].strip():
        return text, ""
    return text[: found.start()].strip(), found["code"]


def _title(text: str) -> str:
    bare = _RANGE.sub("", text)
    text = without_verb(bare) if bare != text and bare.strip() else text
    text = _CODE_BEFORE.sub("", text)
    text = _LEADERS.sub("", text.strip(" :–—-(\t,;|"))
    return text.capitalize() if text.isupper() and len(text) > 4 else text


def has_count(text: str) -> bool:
    """Whether a line ends like ``– 40 cards``."""
    return (
        any(pattern.search(text) for pattern in (_COUNT, _COUNT_APART, _OF_THEM))
        or _COUNT_BEFORE.match(text) is not None
    )
