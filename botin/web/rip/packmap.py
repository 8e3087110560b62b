"""The pack map: a pack as a small picture, every card a 5:7 tile in its slot, hits by shape and colour."""

from __future__ import annotations

import math
from dataclasses import dataclass

from botin.desk.ripstate import PackFacts

WIDTH, HEIGHT = 44.0, 34.0
MOST = 60
"""Tiles drawn at most; a dumped stack of hundreds is told by its number."""


@dataclass(frozen=True, slots=True)
class Tile:
    """One card: its place in the picture and what it is."""

    x: float
    y: float
    look: str
    words: str


@dataclass(frozen=True, slots=True)
class PackPicture:
    """One pack of the map."""

    number: int
    current: bool
    cards: int
    hits: int
    state: str
    tiles: tuple[Tile, ...]
    tile_width: float
    tile_height: float
    words: str
    flags: tuple[str, ...]


def pack_picture(facts: PackFacts, size: int, current: bool) -> PackPicture:
    """Draw a pack: a tile for every slot, filled as far as it is logged."""
    slots = min(MOST, max(size, facts.cards, 1))
    columns = max(1, math.ceil(math.sqrt(slots * (WIDTH * 7) / (HEIGHT * 5))))
    rows = math.ceil(slots / columns)
    width = min(WIDTH / columns, HEIGHT / rows * 5 / 7)
    height = width * 7 / 5
    looks = [_look(copy.hit, copy.rare, copy.row.unlisted or bool(copy.row.candidates)) for copy in facts.copies]
    names = [f"{copy.row.number or copy.row.typed}" for copy in facts.copies]
    looks += ["counted"] * (facts.base_count or 0)
    left = (WIDTH - columns * width) / 2
    tiles = tuple(
        Tile(
            left + place % columns * width,
            place // columns * height,
            looks[place] if place < len(looks) else "blank",
            names[place] if place < len(names) else "",
        )
        for place in range(slots)
    )
    hits = sum(copy.hit for copy in facts.copies)
    state = "over" if facts.cards > size else "full" if facts.cards == size else "begun" if facts.opened else "whole"
    words = f"Pack {facts.number}: {facts.cards} of {size} cards" + (f", {hits} hits" if hits else "")
    words += "".join(f", {flag}" for flag in facts.flags)
    return PackPicture(facts.number, current, facts.cards, hits, state, tiles, width, height, words, facts.flags)


def _look(hit: bool, rare: bool, waits: bool) -> str:
    if waits:
        return "waits"
    return "hit" if hit else "rare" if rare else "plain"
