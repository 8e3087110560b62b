"""Whitening along the edges and at the corners of a straightened card, against the card's own colour there."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from botin.core.looking.borders import Straight
from botin.core.looking.measured import Wear
from botin.core.looking.outline import outside_first

WHITE = np.array([92.0, 0.0, 0.0], np.float32)
"""The stock of a card, in Lab (from memory; paper is 90 to 95)."""
LEAST_ROOM = 22.0
"""Lab units a card must be away from white so that whitening can show (a choice)."""
CLAIMED_MM = 0.25
DEEP_MM = 1.6
CORNER_MM = 5.0
FRINGE_PX = 1.5
"""Pixels at the cut that mix with the bed."""
TURNED = 0.4
"""Share of the way to white from which a pixel is whitened, and of its length that it may be beside it (choices)."""
PALE_FROM, PALE_COLOUR = 66.0, 22.0
"""Least lightness and largest chroma of bare stock (choices)."""
PALE_BEHIND = 0.15
"""Share of the card's own pale colour further in from which a patch at the cut may be the picture's (a choice)."""
LONGEST_MM = 8.0
EDGES = ("top", "right", "bottom", "left")
Mask = NDArray[np.uint8]


def find_wear(card: Straight, off_bed: NDArray[np.float32], apart: float) -> Wear:
    """Measure the whitening of a card.

    Parameters
    ----------
    card : Straight
        The card cut out.
    off_bed : height × width
        How far each of its pixels is from the bed's colour, Lab units.
    apart : float
        From where something is not bed.
    """
    corners = [_corner(card, off_bed < apart, place) for place in range(4)]
    rounded = _rounding([gone for gone, _, _ in corners], card.per_mm)
    return Wear(
        tuple(_corner_wear(white, gone, rounded, card.per_mm) if shows else None for gone, white, shows in corners),
        tuple(_edge_wear(card, side) for side in EDGES),
    )


def _whitened(lab: NDArray[np.float32], own: NDArray[np.float32]) -> tuple[Mask, NDArray[np.bool_]]:
    """Return what is whiter than the card's own colour, and where that could show at all."""
    way = WHITE - own
    length = np.sqrt((way**2).sum(axis=-1))
    shows = length >= LEAST_ROOM
    unit = way / np.maximum(length, 1e-6)[..., None]
    gone = ((lab - own) * unit).sum(axis=-1)
    beside = np.sqrt((((lab - own) - gone[..., None] * unit) ** 2).sum(axis=-1))
    white = _pale(lab) & shows & (gone > TURNED * length) & (gone > 9) & (beside < TURNED * length)
    return white.astype(np.uint8), shows


def _pale(lab: NDArray[np.float32]) -> NDArray[np.bool_]:
    return (lab[..., 0] > PALE_FROM) & (np.hypot(lab[..., 1], lab[..., 2]) < PALE_COLOUR)


def _edge_wear(card: Straight, side: str) -> float | None:
    """Return the longest whitening along an edge, millimetres."""
    per_mm = card.per_mm
    ends, deep = round(CORNER_MM * per_mm * 0.6), round(DEEP_MM * per_mm)
    strip = outside_first(card.lab, side)[ends:-ends]
    first, last = round(0.9 * per_mm), round(1.7 * per_mm)
    near = np.median(strip[:, first:last], axis=1)
    size = round(3 * per_mm) | 1
    own = np.stack([median_filter(near[:, channel], size, mode="nearest") for channel in range(3)], axis=1)
    white, shows = _whitened(strip[:, :deep], np.repeat(own[:, None, :], deep, axis=1))
    if shows[:, 0].mean() < 0.5:
        return None
    behind = _pale(strip[:, deep : round(2.0 * per_mm)]).mean(axis=1)
    return _largest(white, behind, round(FRINGE_PX), per_mm)


def _largest(white: Mask, behind: NDArray[np.floating], fringe: int, per_mm: float) -> float:
    """Return the longest patch that begins at the cut, millimetres; what runs on inwards is the picture's own."""
    solid = white.copy()
    solid[:, :fringe] = 0
    count, _, stats, _ = cv2.connectedComponentsWithStats(solid, connectivity=8)
    longest, room = 0.0, round(1.5 * per_mm)
    for left, top, wide, high, area in stats[1:count]:
        begins = left <= fringe + 2 and area >= 0.3 * wide * high
        runs_on = left + wide >= white.shape[1] or behind[max(0, top - room) : top + high + room].max() > PALE_BEHIND
        if begins and not runs_on and high <= LONGEST_MM * per_mm:
            longest = max(longest, max(high, wide) / per_mm)
    return round(float(longest), 2) if longest >= CLAIMED_MM else 0.0


def _corner(card: Straight, like_bed: NDArray[np.bool_], place: int) -> tuple[Mask, Mask, bool]:
    """Return what of a corner is gone, what is whitened, and whether that can show, the corner upper left."""
    size = round(CORNER_MM * card.per_mm)
    lab, bed = (_to_upper_left(one, place)[:size, :size] for one in (card.lab, like_bed))
    inside = np.zeros((size, size), bool)
    low, high = round(1.2 * card.per_mm), round(3.2 * card.per_mm)
    y, x = np.mgrid[0:size, 0:size]
    inside[(np.minimum(x, y) > low) & (np.minimum(x, y) < high)] = True
    own = np.median(lab[inside], axis=0).astype(np.float32)
    white, shows = _whitened(np.ascontiguousarray(lab), np.broadcast_to(own, lab.shape))
    gone = _from_the_corner(bed.astype(np.uint8))
    return gone, white, bool(shows[0, 0])


def _to_upper_left(picture: NDArray[Any], place: int) -> NDArray[Any]:
    if place in (1, 2):
        picture = picture[:, ::-1]
    return picture[::-1] if place in (2, 3) else picture


def _from_the_corner(mask: Mask) -> Mask:
    """Return what is connected with the corner's very point."""
    _, labels = cv2.connectedComponents(mask, connectivity=4)
    first = labels[:3, :3].max()
    return (labels == first).astype(np.uint8) if first else np.zeros_like(mask)


def _rounding(gone: list[Mask], per_mm: float) -> float:
    """Return the radius to which all four corners are cut, millimetres, by what is missing of most."""
    share = 1 - np.pi / 4
    radii = sorted(float(np.sqrt(max(0.0, one.sum() - 2 * per_mm) / share)) / per_mm for one in gone)
    return radii[1]


def _corner_wear(white: Mask, gone: Mask, rounded: float, per_mm: float) -> float:
    """Return the longest whitening at a corner, or what is missing beyond the cut all corners share, millimetres."""
    size = white.shape[0]
    depth = _depth(size, rounded, per_mm)
    fringe = FRINGE_PX / per_mm + (0.12 if rounded > ROUND_FROM else 0.0)
    worn = (((white > 0) | (gone > 0)) & (depth > fringe) & (depth < DEEP_MM)).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(worn, connectivity=8)
    longest = 0.0
    for at in range(1, count):
        left, top, wide, high, area = stats[at]
        begins = area >= 4 and depth[labels == at].min() <= fringe + 2 / per_mm
        runs_on = left + wide >= size or top + high >= size
        if begins and not runs_on and np.hypot(left, top) <= (rounded + 1.5) * per_mm:
            longest = max(longest, max(wide, high) / per_mm)
    return round(float(longest), 2) if longest >= CLAIMED_MM else 0.0


ROUND_FROM = 0.4


def _depth(size: int, rounded: float, per_mm: float) -> NDArray[np.float64]:
    """Return how far inside the cut each pixel of a corner is, millimetres."""
    y, x = np.mgrid[0:size, 0:size] / per_mm
    depth = np.minimum(x, y)
    if rounded <= ROUND_FROM:
        return np.asarray(depth)
    arc = (x < rounded) & (y < rounded)
    return np.asarray(np.where(arc, rounded - np.hypot(rounded - x, rounded - y), depth))
