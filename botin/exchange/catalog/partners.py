"""The second of two people may stand where other cards have the club: “Orla Thorsby, Jorik Munro”."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from botin.exchange.catalog.cardtext import CardLine

_SEVERAL = re.compile(r"\b(?:dual|double|duos?|pairs?|partners|triple|trios?|quad|duels?|rivals)\b", re.IGNORECASE)
"""Words in the name of a section that say that several people are on its cards."""


def with_partners(sections: Mapping[str, Sequence[CardLine]]) -> dict[str, list[CardLine]]:
    """Return the cards of each section, by its label, with who stands in the place of the club among the people.

    It is one whose name other cards have; and, in a section of several people, whoever is the club of no other card.
    """
    people = {name.casefold() for cards in sections.values() for card in cards for name in card.name.split("; ")}
    clubs = {
        card.team.casefold() for label, cards in sections.items() if not _SEVERAL.search(label) for card in cards
    }
    return {
        label: [_with_partner(card, people, clubs, several=bool(_SEVERAL.search(label))) for card in cards]
        for label, cards in sections.items()
    }


def _with_partner(card: CardLine, people: set[str], clubs: set[str], *, several: bool) -> CardLine:
    team = card.team.casefold()
    named = team in people and (several or team not in clubs or "; " in card.name)
    unknown = several and bool(clubs - {""}) and team not in clubs and len(team.split()) > 1
    if not team or "; " in team or not (named or (unknown and "; " not in card.name)):
        return card
    why = f"“{card.team}” is taken for one of its people, not for a club"
    return replace(card, name=f"{card.name}; {card.team}", team="", guesses=(*card.guesses, why))
