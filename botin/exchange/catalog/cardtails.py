"""What may stand behind a card and is none of its fields: a price, the mark of a redemption."""

from __future__ import annotations

import re

_PRICE = re.compile(r"[\s,;–—-]+(?P<price>(?:[€$£]|EUR|USD|GBP)\s?\d[\d,.]*|\d[\d,.]*\s?(?:[€$£]|EUR|USD|GBP))\s*$")


_TO_REDEEM = re.compile(
    r"[\s,;(\[–—-]+(?P<word>redemption|exch(?:ange)?(?: card)?|redempt)[)\].]*\s*$", re.IGNORECASE
)
"""A mark of cards that are sent in for."""
_PRICE_ENDS = frozenset("0123456789€$£RDP")


def without_tail(text: str) -> tuple[str, str]:
    """Return a card's text without a price or the mark of a redemption behind it, and what that was."""
    found = _PRICE.search(text) if text.rstrip()[-1:] in _PRICE_ENDS else None
    redeemed = _TO_REDEEM.search(text) if text.rstrip(" )].")[-1:] in "nhdtNHDT" else None
    if redeemed and text[: redeemed.start()].strip():
        return text[: redeemed.start()], redeemed["word"]
    return (text[: found.start()], found["price"]) if found else (text, "")
