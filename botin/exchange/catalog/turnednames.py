"""Names written last name first: all of a column are, or none is."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from botin.exchange.catalog.cardtext import CardLine, is_particle

_TURNED = re.compile(r"(?P<last>[^,;/()]{2,40}),\s+(?P<first>[^,;/()]{1,40})")
_FIRST = re.compile(r"(?P<first>[^()\d]{1,40}?)\s*\((?P<club>[^()]{2,60})\)")
TURNED = "last names stand first: turned round"
FEWEST = 3
"""Cards from which they can say it."""
MOST = 0.8
"""Share of the names that must be so (a choice)."""


def are_turned(names: Sequence[str]) -> bool:
    """Whether the names of a column stand last name first, a comma between."""
    given = [name for name in names if name.strip()]
    return len(given) > 2 and sum(_TURNED.fullmatch(name.strip()) is not None for name in given) >= MOST * len(given)


def turn_cards(cards: Sequence[CardLine]) -> list[CardLine] | None:
    """Return cards of a text that stand like “12 Thorsby, Orla (Tarn)” the right way round; None where they do not.

    What stands before the comma is one word on most cards, besides particles: a last name, and no whole one.
    """
    given = [(card, _FIRST.fullmatch(card.team)) for card in cards]
    whole = sum(found is not None and len(_words(card.name)) == 1 for card, found in given)
    if len(cards) < FEWEST or whole < MOST * len(cards):
        return None
    return [
        replace(card, name=f"{found['first']} {card.name}", team=found["club"], guesses=(*card.guesses, TURNED))
        if found else card
        for card, found in given
    ]  # fmt: skip


def _words(name: str) -> list[str]:
    return [word for word in name.split() if not is_particle(word)]


def turn(name: str) -> str:
    """Return ``Orla Thorsby`` for ``Thorsby, Orla``; a name without a comma as it is."""
    found = _TURNED.fullmatch(name.strip())
    return f"{found['first']} {found['last']}" if found else name
