"""Whose a card is, when a box is opened for several people."""

from __future__ import annotations

from dataclasses import dataclass

from botin.core.product import Card, Product
from botin.store.models import BoxRecord

UNSETTLED = "?"


@dataclass(frozen=True, slots=True)
class Spot:
    """One rule: packs ``1-12``, a team or club, or a person on the card belong to somebody."""

    what: str
    owner: str


def spots_of(text: str) -> tuple[Spot, ...]:
    """Read spots, one a line: ``packs 1-12: Mira``, ``Harrow Bay RC: Tobin``; lines without a colon are left out."""
    found = []
    for line in text.splitlines():
        what, colon, owner = line.rpartition(":")
        if colon and what.strip() and owner.strip():
            found.append(Spot(" ".join(what.split()), owner.strip()[:40]))
    return tuple(found)


def _has_pack(what: str, pack: int) -> bool:
    words = what.casefold()
    if not words.startswith("pack"):
        return False
    for part in words.removeprefix("packs").removeprefix("pack").replace("–", "-").replace(",", " ").split():
        first, _, last = part.partition("-")
        if first.isdecimal() and (last or first).isdecimal() and int(first) <= pack <= int(last or first):
            return True
    return False


def owner_of(box: BoxRecord, product: Product, card: Card | None, pack: int) -> str:
    """Return whose a card is by the spots of its box; ``?`` when two spots claim it, empty when none does.

    A spot of packs wins; then people on the card, then its teams and the clubs behind them. A card of several teams
    with several owners is for the group to settle.
    """
    spots = spots_of(box.owners)
    by_pack = [spot.owner for spot in spots if _has_pack(spot.what, pack)]
    if by_pack or card is None:
        return by_pack[0] if by_pack else ""
    clubs = {row.team.casefold(): row.club.casefold() for row in product.teams}
    people = {name.casefold() for name in card.people}
    teams = {name.casefold() for name in card.teams}
    teams |= {clubs[name] for name in teams if name in clubs}
    for names in (people, teams):
        owners = list(dict.fromkeys(spot.owner for spot in spots if spot.what.casefold() in names))
        if owners:
            return owners[0] if len(owners) == 1 else UNSETTLED
    return ""
