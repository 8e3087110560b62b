"""Two lines a card: number and name, and the club in the line below."""

from __future__ import annotations

import re
from itertools import pairwise

from botin.exchange.catalog.headingtext import has_count
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.textreader import is_finish_like, one_card
from botin.exchange.notes import Sheet

FEWEST, MOST_CARDS, REPEATS, MOST_WORDS = 4, 0.7, 0.75, 5
"""Pairs at least; share of the cards that have one; share of different clubs at most; words of a club (choices)."""


_NUMBERED = re.compile(r"\W*[A-Za-z]{0,6}-?\d")


def clubs_below(sheet: Sheet) -> dict[int, int]:
    """Return the line of the club by the line of its card; empty where the text is not laid out so.

    Nearly every card without a club is followed by a short line that is none, and these lines repeat: clubs do.
    """
    lines = [(number, "\t".join(cells)) for number, cells in sheet.rows if any(map(str.strip, cells))]
    if 3 * sum(_NUMBERED.match(text) is None for _, text in lines) < len(lines):
        return {}  # most lines begin with a number: nothing stands between them
    read = [(number, text, one_card(text)) for number, text in lines]
    bare = sum(card is not None and not card.team for _, _, card in read)
    found = {
        number: below
        for (number, _, card), (below, text, other) in pairwise(read)
        if card is not None and not card.team and other is None and _may_be_club(text)
    }
    words = {number: text.strip() for number, text in lines}
    different = len({words[below] for below in found.values()})
    fits = len(found) >= max(FEWEST, MOST_CARDS * bare) and different <= REPEATS * len(found)
    return found if fits else {}


def _may_be_club(text: str) -> bool:
    bare = text.strip()
    named = guess_kind(bare)[1] and not text[:1].isspace()
    return len(bare.split()) <= MOST_WORDS and not (
        has_count(bare) or named or is_finish_like(bare) or bare.endswith(":")
    )
