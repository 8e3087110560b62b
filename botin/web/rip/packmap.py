"""The pack map: a pack as a small picture, every card a 5:7 tile in its slot, hits by shape and colour."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

from botin.desk.opening.state import PackFacts

WIDTH, HEIGHT = 44.0, 34.0
MOST = 60
"""Tiles drawn at most; a dumped stack of hundreds is told by its number."""
Paths = tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class PackPicture:
    """One pack of the map; ``paths`` draws all tiles of one look at once."""

    number: int
    current: bool
    cards: int
    hits: int
    state: str
    paths: Paths
    words: str
    flags: tuple[str, ...]


@lru_cache(maxsize=4_096)
def tile_paths(looks: tuple[str, ...]) -> Paths:
    """Draw a tile for each look in its slot: (look, path) for each kind of tile."""
    slots = len(looks)
    columns = max(1, math.ceil(math.sqrt(slots * (WIDTH * 7) / (HEIGHT * 5))))
    width = min(WIDTH / columns, HEIGHT / math.ceil(slots / columns) * 5 / 7)
    height, left = width * 7 / 5, (WIDTH - columns * width) / 2
    drawn: dict[str, list[str]] = {}
    for place, look in enumerate(looks):
        x, y = left + place % columns * width, place // columns * height
        drawn.setdefault(look, []).append(
            _diamond(x, y, width, height) if look == "hit" else _card(x, y, width, height)
        )
    return tuple((look, "".join(parts)) for look, parts in drawn.items())


def _card(x: float, y: float, width: float, height: float) -> str:
    wide, high = width - 1, height - 1
    return f"M{x + 0.5:.2f} {y + 0.5:.2f}h{wide:.2f}v{high:.2f}h-{wide:.2f}z"


def _diamond(x: float, y: float, width: float, height: float) -> str:
    wide, high = width / 2 - 0.3, height / 2 - 0.3
    down = f"l{wide:.2f} {high:.2f}l-{wide:.2f} {high:.2f}"
    return f"M{x + width / 2:.2f} {y + 0.3:.2f}{down}l-{wide:.2f} -{high:.2f}z"


def pack_picture(facts: PackFacts, size: int, *, current: bool) -> PackPicture:
    """Draw a pack: a tile for every slot, filled as far as it is logged."""
    looks = [_look(hit=c.hit, rare=c.rare, waits=bool(c.row.unlisted or c.row.candidates)) for c in facts.copies]
    looks += ["counted"] * (facts.base_count or 0)
    looks += ["blank"] * (size - len(looks))
    hits = sum(copy.hit for copy in facts.copies)
    state = "over" if facts.cards > size else "full" if facts.cards == size else "begun" if facts.opened else "whole"
    words = f"Pack {facts.number}: {facts.cards} of {size} cards" + (f", {hits} hits" if hits else "")
    words += "".join(f", {flag}" for flag in facts.flags)
    paths = tile_paths(tuple(looks[:MOST]) or ("blank",))
    return PackPicture(
        number=facts.number,
        current=current,
        cards=facts.cards,
        hits=hits,
        state=state,
        paths=paths,
        words=words,
        flags=facts.flags,
    )


def _look(*, hit: bool, rare: bool, waits: bool) -> str:
    if waits:
        return "waits"
    return "hit" if hit else "rare" if rare else "plain"
