"""Whose a card is, when a box is opened for several people."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.catalog.product import Card, Product
from botin.desk.settings import load_settings
from botin.desk.workbench import Workbench
from botin.store.copies.copies import set_owners
from botin.store.copies.people import UNSETTLED, owner_ids
from botin.store.models import BoxRecord, ProductRecord
from botin.store.opening.boxes import PullRow, lines_named, pulls_of
from botin.store.opening.packs import pack_rows

WHOLE = ("all", "box", "everything", "the box", "rest", "the rest")


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

    A spot of packs wins; then people on the card, then its teams and the clubs behind them, then who has all or the
    rest of the box. A card of several teams with several owners is for the group to settle.
    """
    spots = spots_of(box.owners)
    by_pack = [spot.owner for spot in spots if _has_pack(spot.what, pack)]
    rest = next((spot.owner for spot in spots if spot.what.casefold() in WHOLE), "")
    if by_pack or card is None:
        return by_pack[0] if by_pack else rest
    clubs = {row.team.casefold(): row.club.casefold() for row in product.teams}
    people = {name.casefold() for name in card.people}
    teams = {name.casefold() for name in card.teams}
    teams |= {clubs[name] for name in teams if name in clubs}
    for names in (people, teams):
        owners = list(dict.fromkeys(spot.owner for spot in spots if spot.what.casefold() in names))
        if owners:
            return owners[0] if len(owners) == 1 else UNSETTLED
    return rest


def settle_owners(session: Session, bench: Workbench, box: BoxRecord, pulls: Sequence[int] | None = None) -> None:
    """Say anew whose the copies of a box are (of some lines of its log, when they are named).

    Who is written beside the card wins, then the owner of its pack, then the spots of the box. Nothing is committed.
    """
    packs = {row.number: row.owner for row in pack_rows(session, box.id) if row.owner}
    found = {}
    for row in pulls_of(session, box.id) if pulls is None else lines_named(session, pulls):
        own = json.loads(row.details).get("owner", "") if row.details else ""
        found[row.id] = own or packs.get(row.pack, "") or _by_spots(session, bench, box, row)
    ids = owner_ids(session, sorted(set(found.values())), load_settings(session).my_name, bench.now())
    set_owners(session, {pull: ids[name] for pull, name in found.items()})


def _by_spots(session: Session, bench: Workbench, box: BoxRecord, row: PullRow) -> str:
    if not box.owners.strip():
        return ""
    record = session.get_one(ProductRecord, row.product_id or box.format.product_id)
    product = bench.product(session, record)
    return owner_of(box, product, product.card_by_number.get((row.section, row.number)), row.pack)
