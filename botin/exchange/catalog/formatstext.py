"""How a product is boxed, as a line of text: ``Hobby box: 24 packs of 8 cards, 12 boxes a case, 118.00``."""

from __future__ import annotations

import re

_PACKS = re.compile(r"(?<!\d)(\d{1,6}(?:\s?(?:-|–|to)\s?\d{1,6})?)\s{0,9}packs?", re.IGNORECASE)
_CARDS = re.compile(
    r"(?:packs?\s*(?:of|x|×|with|,)?\s*)(\d{1,6})\s{0,9}(?:cards?)?"
    r"|(?<!\d)(\d{1,6})\s{0,9}cards?\s*(?:per|a|each|/)\s*pack",
    re.IGNORECASE,
)
_CASE = re.compile(r"(?<!\d)(\d{1,6})\s{0,9}(?:-?box(?:es)?)\s*(?:per|a|in a|/|to a)?\s*-?\s*case", re.IGNORECASE)
_PRICE = re.compile(
    r"(?:at|for|price|,|;|[€$£])\s*[€$£]?\s*(\d{1,3}(?:,\d{3})*(?:\.\d{1,2})|\d+(?:[.,]\d{1,2})?)\s*$", re.IGNORECASE
)


def slug(text: str) -> str:
    """Make a key out of a title: lower case, words joined by dashes."""
    return re.sub(r"[^a-z0-9]+", "-", text.casefold()).strip("-")


def format_cells(text: str) -> dict[str, str] | None:
    """Read one line as cells of ``formats.csv``; None when packs or cards are not in it."""
    label, colon, rest = text.partition(":")
    if not colon:
        found = _PACKS.search(text)
        label, rest = (text[: found.start()], text[found.start() :]) if found else ("", text)
    packs, cards = _PACKS.search(rest), _CARDS.search(rest)
    if not packs or not cards:
        return None
    case = _CASE.search(rest)
    tail = rest[max(found.end() for found in (packs, cards, case) if found) :]
    price = _PRICE.search(tail)
    name = label.strip(" -–—,") or "Box"
    return {
        "format": slug(name.removesuffix(" box").removesuffix(" Box")) or "box",
        "label": name,
        "packs_per_box": packs[1],
        "cards_per_pack": next(part for part in cards.groups() if part),
        "boxes_per_case": case[1] if case else "",
        "list_price": price[1] if price else "",
    }
