"""Where the name ends and the club begins, where one line does not tell: what the other cards say decides."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from botin.exchange.catalog.cardtext import CardLine, is_particle
from botin.exchange.catalog.turnednames import turn_cards

ENDING = " RC"
OPEN = "RC stands behind the club: it may be the club’s own"
BEHIND = "what repeats behind the names is taken as the club"
STROKE = "what repeats behind the stroke is taken as the club"
FIRST = "the club stands first"
FEW, MANY, FEWEST = 0.5, 0.95, 5
"""Shares of different words before and behind the mark, and cards, from which the clubs stand first (choices)."""
MOST, REPEATS = 0.7, 0.7
"""Share of the cards that must have it, and share of different clubs among them at most (choices)."""

FAR_MORE = 3.0
"""So many times more often must differ what stands before a shorter end, to be taken for the club (a choice)."""


def settle_clubs(cards: Sequence[CardLine]) -> list[CardLine]:
    """Return the cards of a source with their clubs as all of them together say.

    Where rookies are marked in brackets, an RC without them is the club's. Else a club that stands somewhere without
    the ending has none of its own, so the ending is a rookie's; one that has it everywhere, more than once, keeps it.
    Where each of two people has a column of his own, nothing behind the first is a club.
    """
    if any(card.people for card in cards):
        return list(cards)
    if turned := turn_cards(cards):
        return turned
    if len(cards) > 2 and not any(card.team for card in cards):
        return _behind_a_stroke(cards) or _behind_the_name(cards) or list(cards)
    if clubs_first := _clubs_first(cards):
        return clubs_first
    cards = _without_letters(cards)
    if not any(card.open_rookie for card in cards):
        return list(cards)
    apart = any(card.rookie and not card.open_rookie for card in cards)
    teams = Counter(card.team for card in cards)
    return [
        _settled(card, teams, apart=apart) if card.open_rookie and card.team.endswith(ENDING) else card
        for card in cards
    ]


_LETTERS = re.compile(r"\s+[(\[]?(?P<letters>[A-Z]{1,4})[)\]]?$")


def _without_letters(cards: Sequence[CardLine]) -> list[CardLine]:
    """Take letters off the end of a club that other cards have without them: “South Pt CL” is South Pt."""
    clubs = Counter(card.team for card in cards)
    made = []
    for card in cards:
        found = _LETTERS.search(card.team) if card.team and not card.open_rookie else None
        rest = card.team[: found.start()] if found else ""
        if found and clubs[rest] and clubs[rest] >= clubs[card.team]:
            why = f"“{found['letters']}” behind the club is left out"
            card = replace(card, team=rest, guesses=(*card.guesses, why))  # noqa: PLW2901
        made.append(card)
    return made


def _clubs_first(cards: Sequence[CardLine]) -> list[CardLine]:
    """What stands first repeats, what stands behind never does: the clubs stand first."""
    names, teams = {card.name for card in cards}, {card.team for card in cards}
    all_have = all(card.team for card in cards)
    few = len(names) <= FEW * len(cards) and len(teams) >= MANY * len(cards)
    if len(cards) < FEWEST or not all_have or not few:
        return []
    return [replace(card, name=card.team, team=card.name, guesses=(*card.guesses, FIRST)) for card in cards]


def _settled(card: CardLine, teams: Counter[str], *, apart: bool) -> CardLine:
    bare = card.team.removesuffix(ENDING)
    if apart and not bare.endswith(ENDING):
        return replace(card, open_rookie=False)
    if bare.endswith(ENDING) or teams[bare]:
        return replace(card, team=bare, rookie=card.rookie or "yes", open_rookie=False)
    if teams[card.team] > 1 or teams[card.team + ENDING]:
        return replace(card, open_rookie=False)
    return replace(card, guesses=(*card.guesses, OPEN))


def _behind_a_stroke(cards: Sequence[CardLine]) -> list[CardLine]:
    """Two “people” on nearly every card, the second ones few: they are clubs."""
    pairs = [_at_stroke(card.name) for card in cards]
    seconds = [pair[1] for pair in pairs if len(pair) == 2]
    if len(seconds) < MOST * len(cards) or len(set(seconds)) > REPEATS * len(seconds):
        return []
    return [
        replace(card, name=pair[0], team=pair[1], guesses=(*card.guesses, STROKE)) if len(pair) == 2 else card
        for card, pair in zip(cards, pairs, strict=True)
    ]


def _at_stroke(name: str) -> list[str]:
    """Part “people” into the first and all others: an & among those belonged to the club."""
    first, *others = name.split("; ")
    return [first, " & ".join(others)] if others else [first]


def _behind_the_name(cards: Sequence[CardLine]) -> list[CardLine]:
    """Words that repeat at the end of names of three words and more are clubs."""
    words = [card.name.replace("; ", " & ").split() for card in cards]
    if sum(len(parts) > 2 for parts in words) < MOST * len(cards):
        return []
    ends = Ends.of(words)
    made, hit = [], 0
    for card, parts in zip(cards, words, strict=True):
        at = _club_at(parts, ends)
        hit += bool(at)
        name, club = (" ".join(parts[:at]).replace(" & ", "; "), " ".join(parts[at:])) if at else (card.name, "")
        made.append(replace(card, name=name, team=club, guesses=(*card.guesses, BEHIND)))
    return made if hit >= MOST * len(cards) else []


@dataclass(frozen=True)
class Ends:
    """How many cards end in the same words, and how many different riders: one has several cards."""

    cards: Counter[str]
    riders: Counter[str]

    @classmethod
    def of(cls, words: Sequence[Sequence[str]]) -> Ends:
        """Count the ends of all cards."""
        return cls(_ends(words), _ends(sorted({tuple(parts) for parts in words})))


def _ends(words: Iterable[Sequence[str]]) -> Counter[str]:
    return Counter(" ".join(parts[at:]) for parts in words for at in range(1, len(parts)))


def _club_at(parts: Sequence[str], ends: Ends) -> int:
    """Return the word at which the club begins, 0 for none.

    The longest end that other cards have too, behind no particle (van, der): but not “Meer Port Calder Wheelers” of
    two brothers, where “Port Calder Wheelers” ends far more cards that differ before it.
    """
    best, least = 0, 0.0
    for at in range(2, len(parts)):
        end, longer = " ".join(parts[at:]), " ".join(parts[at - 1 :])
        if ends.cards[end] < 2 or is_particle(parts[at - 1]) or "&" in (parts[at], parts[at - 1]):
            continue
        ratio = ends.riders[longer] / ends.riders[end]
        if not best or (FAR_MORE * ratio < least and ends.riders[" ".join(parts[best:])] > 1):
            best, least = at, ratio
    return best
