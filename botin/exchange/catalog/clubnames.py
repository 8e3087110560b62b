"""Whether the RC at the end of a club is the mark of a rookie or the club's own: what the other cards say decides."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from botin.exchange.catalog.cardtext import CardLine

ENDING = " RC"
TWICE = "RC stands behind the club: it may be the club’s own"


def settle_clubs(cards: Sequence[CardLine]) -> list[CardLine]:
    """Return the cards of a source with their clubs as all of them together say.

    Where rookies are marked in brackets, an RC without them is the club's. Else a club that stands somewhere without
    the ending has none of its own, so the ending is a rookie's; one that has it everywhere, more than once, keeps it.
    """
    if not any(card.open_rookie for card in cards):
        return list(cards)
    apart = any(card.rookie and not card.open_rookie for card in cards)
    teams = Counter(card.team for card in cards)
    return [
        _settled(card, teams, apart=apart) if card.open_rookie and card.team.endswith(ENDING) else card
        for card in cards
    ]


def _settled(card: CardLine, teams: Counter[str], *, apart: bool) -> CardLine:
    bare = card.team.removesuffix(ENDING)
    if apart and not bare.endswith(ENDING):
        return replace(card, open_rookie=False)
    if bare.endswith(ENDING) or teams[bare]:
        return replace(card, team=bare, rookie=card.rookie or "yes", open_rookie=False)
    if teams[card.team] > 1 or teams[card.team + ENDING]:
        return replace(card, open_rookie=False)
    return replace(card, guesses=(*card.guesses, TWICE))
