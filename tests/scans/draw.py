"""A card drawn at 600 dots an inch: border, art, key line, dings. Nothing here is shared with the product."""

from __future__ import annotations

import random
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
FINE = 600
MM = FINE / 25.4
WIDTH, HEIGHT = 63.5, 88.9
SIDES = ("top", "right", "bottom", "left")
CORNERS = ("ul", "ur", "lr", "ll")


@dataclass
class Ding:
    """Whitening at a corner or along an edge: where, and how large in millimetres."""

    place: str
    size: float


@dataclass
class Card:
    """What a drawn card is: borders in millimetres (left, right, top, bottom), none for a full bleed."""

    borders: tuple[float, float, float, float] | None
    colour: tuple[int, int, int]
    rounded: float = 0.0
    key_line: float = 0.0
    drift: float = 0.0
    dings: list[Ding] = field(default_factory=list)

    @property
    def left_right(self) -> float:
        """The left border in percent of left and right."""
        assert self.borders
        left, right, _, _ = self.borders
        return 100 * left / (left + right)

    @property
    def top_bottom(self) -> float:
        """The top border in percent of top and bottom."""
        assert self.borders
        _, _, top, bottom = self.borders
        return 100 * top / (top + bottom)


def px(millimetres: float) -> int:
    """Return millimetres in fine pixels."""
    return round(millimetres * MM)


def grained(picture: Picture, rng: random.Random, by: float) -> Picture:
    """Return a picture with grain; the grain repeats, which nobody sees."""
    height, width = picture.shape[:2]
    tile = np.random.default_rng(rng.randrange(1 << 30)).normal(0, by, (256, 256, 3)).astype(np.int16)
    tiled = np.tile(tile, (height // 256 + 1, width // 256 + 1, 1))[:height, :width]
    return np.clip(picture + tiled, 0, 255).astype(np.uint8)


def art(rng: random.Random, width: int, height: int, away: tuple[int, int, int] | None = None) -> Picture:
    """Draw a busy picture: soft colours, a figure, stripes, grain; ``away`` is a colour its rim is kept off."""
    noise = np.random.default_rng(rng.randrange(1 << 30))
    soft = cv2.resize(noise.integers(20, 235, (9, 7, 3), np.uint8), (width, height), interpolation=cv2.INTER_CUBIC)
    picture = np.ascontiguousarray(soft)
    for _ in range(rng.randint(4, 9)):
        colour = tuple(rng.randrange(256) for _ in range(3))
        centre = (rng.randrange(width), rng.randrange(height))
        axes = (rng.randint(px(3), px(22)), rng.randint(px(3), px(22)))
        cv2.ellipse(picture, centre, axes, rng.uniform(0, 180), 0, 360, colour, -1, cv2.LINE_AA)
    for _ in range(rng.randint(0, 4)):
        ends = [(rng.randrange(width), rng.randrange(height)) for _ in range(2)]
        cv2.line(
            picture, ends[0], ends[1], tuple(rng.randrange(256) for _ in range(3)), rng.randint(4, 60), cv2.LINE_AA
        )
    cv2.putText(
        picture, "THORSBY", (px(4), height - px(5)), cv2.FONT_HERSHEY_DUPLEX, 4, (250, 250, 250), 12, cv2.LINE_AA
    )
    if away is not None:
        _keep_off(picture, away)
    return grained(picture, rng, 4)


def _keep_off(picture: Picture, away: tuple[int, int, int]) -> None:
    """Where the art is of the border's own colour nobody could see where it ends: move it off."""
    low, high = (np.clip(np.array(away) + by, 0, 255) for by in (-32, 32))
    near = cv2.inRange(picture, low, high) > 0
    picture[near] = (np.array(away) + np.where(np.array(away) > 127, -70, 70)).clip(0, 255)


def draw(rng: random.Random, card: Card) -> tuple[Picture, Picture]:
    """Return the card in fine pixels and its mask (255 is card)."""
    width, height = px(WIDTH), px(HEIGHT)
    if card.borders is None:
        face = art(rng, width, height)
    else:
        face = np.empty((height, width, 3), np.uint8)
        face[:] = card.colour
        if card.drift:
            slope = np.linspace(-card.drift, card.drift, height)[:, None, None]
            face = np.clip(face + slope, 0, 255).astype(np.uint8)
        left, right, top, bottom = (px(border) for border in card.borders)
        inner = art(rng, width - left - right, height - top - bottom, card.colour)
        line = px(card.key_line)
        if line:
            dark = (20, 20, 20) if sum(card.colour) > 330 else (235, 235, 235)
            cv2.rectangle(inner, (0, 0), (inner.shape[1] - 1, inner.shape[0] - 1), dark, 2 * line)
        face[top : height - bottom, left : width - right] = inner
    face = grained(face, rng, 2)
    for ding in card.dings:
        _ding(rng, face, ding, card.rounded)
    mask = np.full((height, width), 255, np.uint8)
    if card.rounded:
        _round(mask, px(card.rounded))
    return face, mask


def _round(mask: Picture, radius: int) -> None:
    height, width = mask.shape
    corner = np.zeros((radius, radius), np.uint8)
    cv2.circle(corner, (radius, radius), radius, 255, -1, cv2.LINE_AA)
    mask[:radius, :radius] = corner
    mask[:radius, width - radius :] = corner[:, ::-1]
    mask[height - radius :, :radius] = corner[::-1]
    mask[height - radius :, width - radius :] = corner[::-1, ::-1]


def _ding(rng: random.Random, face: Picture, ding: Ding, rounded: float) -> None:
    """Let the white of the stock show: at a corner a ragged triangle or a bite of the arc, along an edge a flat chip."""
    height, width = face.shape[:2]
    size = px(ding.size)
    mask = np.zeros(face.shape[:2], np.uint8)
    if ding.place in CORNERS:
        x = 0 if ding.place in ("ul", "ll") else width - 1
        y = 0 if ding.place in ("ul", "ur") else height - 1
        dx, dy = (1 if x == 0 else -1), (1 if y == 0 else -1)
        bend = rng.uniform(0.35, 0.6)
        arc = px(rounded) * (1 - 0.5**0.5)
        if rounded:
            x, y = round(x + dx * arc), round(y + dy * arc)
            cv2.circle(mask, (x, y), round(size * 0.55), 255, -1)
        points = [
            (x, y),
            (x + dx * size, y),
            (x + round(dx * size * bend), y + round(dy * size * bend)),
            (x, y + dy * size),
        ]
    else:
        along = rng.uniform(0.2, 0.8)
        deep = max(px(0.3), round(size * rng.uniform(0.35, 0.6)))
        middle = round(along * (width if ding.place in ("top", "bottom") else height))
        rim = [(-size // 2, 0), (-size // 3, deep), (size // 4, deep), (size // 2, 0)]
        points = [_along(ding.place, middle + a, b, width, height) for a, b in rim]
    cv2.fillPoly(mask, [np.array(points, np.int32)], 255)
    x, y, wide, high = cv2.boundingRect(mask)
    part = np.s_[max(0, y - 8) : y + high + 8, max(0, x - 8) : x + wide + 8]
    soft = cv2.GaussianBlur(mask[part], (0, 0), 1.2)[:, :, None] / 255.0
    face[part] = (face[part] * (1 - soft) + 240 * soft).astype(np.uint8)


def _along(place: str, along: int, deep: int, width: int, height: int) -> tuple[int, int]:
    return {
        "top": (along, deep), "bottom": (along, height - 1 - deep),
        "left": (deep, along), "right": (width - 1 - deep, along),
    }[place]  # fmt: skip
