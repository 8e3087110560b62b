"""Measure the cards on a picture: outline, straightened card, borders, centering with its interval, wear."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from botin.core.looking.bed import Bed, find_bed, lab_of
from botin.core.looking.borders import Border, cut_out, find_borders, straightened_distance
from botin.core.looking.boxes import LONG_MM, RATIO, SHORT_MM, Box, find_boxes, halves
from botin.core.looking.measured import Measured
from botin.core.looking.outline import Outline, find_outline, lengths
from botin.core.looking.wear import find_wear

ROUGH = 900
"""Long side of the small picture on which cards are found, pixels."""
SURE = 1.645
"""Standard deviations of a 90 % interval."""
LEAST_PX = 1.0
"""Half-width of an interval at least, pixels a side."""
PAIR_RATIO, PAIR_SHAPE = 2 * SHORT_MM / LONG_MM, 0.014
"""Shape of two cards side by side, and how far from it they may be (a choice)."""
SEAM = 0.35
"""Standard deviation of the line between two cards at most, pixels (a choice)."""
SURE_SHAPE = 0.012
"""Below it a picture that has a card's shape itself still shows a card on a bed (a choice)."""
ODD_SHAPE, ODD_SIZE = 0.03, 0.04
"""How far, as a share, shape and size may be from a card's (choices; a phone held askew by 8° makes 0.02)."""
SMALLEST_CARD = 120
"""Pixels of a card's short side from which anything is measured."""


def measure_picture(picture: NDArray[np.uint8], dpi: float | None = None) -> list[Measured]:
    """Measure every card on a picture, in reading order.

    Parameters
    ----------
    picture : height × width × 3
        RGB, 8 bits, upright by its own note of turning.
    dpi : float, optional
        Dots an inch, where the picture says them; a card is 2.5 by 3.5 inches.

    Returns
    -------
    list of Measured
        Empty when no card is found.
    """
    rough = _rough(picture)
    bed = rough.bed
    found = _all_of(rough, dpi / 25.4 if dpi else None)
    if dpi and not any(card.outlined for card in found):
        says = f"{dpi:g} dots an inch do not fit what lies there: the size was not used"
        free = [replace(card, notes=(*card.notes, says)) for card in _all_of(rough, None)]
        found = free if any(card.outlined for card in free) else found
    if any(card.outlined and (dpi or _off_shape(card.corners) < SURE_SHAPE) for card in found):
        return found
    return _filling(picture, bed) or found


@dataclass(frozen=True, slots=True)
class _Rough:
    """A picture, what is not bed on its small version, how much smaller that is, and the bed."""

    picture: NDArray[np.uint8]
    mask: NDArray[np.uint8]
    shrunk: float
    bed: Bed


def _rough(picture: NDArray[np.uint8]) -> _Rough:
    small, shrunk = _shrunk(picture)
    lab = lab_of(small)
    bed = find_bed(lab)
    mask = ((bed.distance(lab) > bed.apart) * 255).astype(np.uint8)
    return _Rough(picture, mask, shrunk, bed)


def _all_of(rough: _Rough, scale: float | None) -> list[Measured]:
    boxes = [box.scaled(1 / rough.shrunk) for box in find_boxes(rough.mask, scale and scale * rough.shrunk)]
    made: list[Measured] = []
    for box in boxes:
        pair = [] if scale else _pair(rough, box)
        made += pair or ([_measured(rough.picture, box, rough.bed, scale)] if box.short >= SMALLEST_CARD else [])
    return made


def _pair(rough: _Rough, box: Box) -> list[Measured]:
    """Return two cards that lie side by side: together they have nearly the shape of one, but for two percent.

    They are two when a sharp line parts them where it must be.
    """
    if box.short < SMALLEST_CARD or abs(np.log(box.ratio / PAIR_RATIO)) > PAIR_SHAPE:
        return []
    scale = box.short / LONG_MM
    outlines = [find_outline(rough.picture, half, rough.bed, scale) for half in halves(box)]
    sides = ("right", "left") if box.width > box.height else ("bottom", "top")
    for outline, side in zip(outlines, sides, strict=True):
        if outline is None or _odd_size(outline, scale) or outline.spread[side] > SEAM:
            return []
    return [_of_outline(rough.picture, outline, rough.bed, ()) for outline in outlines if outline]


def find_cards(picture: NDArray[np.uint8], dpi: float | None = None) -> list[Measured]:
    """Return the cards on a picture with their outlines alone, in reading order."""
    rough = _rough(picture)
    scale = dpi / 25.4 if dpi else None
    found = _outlines(rough, scale)
    if scale and not any(card.outlined for card in found):
        found = _outlines(rough, None)
    return found


def _outlines(rough: _Rough, scale: float | None) -> list[Measured]:
    boxes = [box.scaled(1 / rough.shrunk) for box in find_boxes(rough.mask, scale and scale * rough.shrunk)]
    made = []
    for box in boxes:
        outline = find_outline(rough.picture, box, rough.bed, scale) if box.short >= SMALLEST_CARD else None
        if outline is not None:
            plain = not _odd_size(outline, scale)
            made.append(Measured(_pairs(outline.corners), outline.per_mm, outlined=plain))
    return made


def straight_card(picture: NDArray[np.uint8], card: Measured) -> NDArray[np.uint8]:
    """Return a measured card cut out of its picture and straightened."""
    corners = np.array(card.corners)
    width, height = lengths(corners)
    upright = height >= width
    rim = Outline(corners, card.per_mm, dict.fromkeys(("left", "right", "top", "bottom"), 0.0), bool(upright))
    return cut_out(picture, rim).picture


def _shrunk(picture: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], float]:
    by = min(1.0, ROUGH / max(picture.shape[:2]))
    if by == 1.0:
        return picture, 1.0
    return np.asarray(cv2.resize(picture, None, fx=by, fy=by, interpolation=cv2.INTER_AREA), np.uint8), by


def _filling(picture: NDArray[np.uint8], bed: Bed) -> list[Measured]:
    """A picture of a card's own shape that shows no bed is the card, cut to its rim."""
    height, width = picture.shape[:2]
    if abs(np.log(max(height, width) / min(height, width) / RATIO)) > 0.03 or min(height, width) < SMALLEST_CARD:
        return []
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height]], float) - 0.5
    rim = Outline(
        corners,
        min(height, width) / SHORT_MM,
        dict.fromkeys(("left", "right", "top", "bottom"), 0.6),
        height >= width,
    )
    return [_of_outline(picture, rim, bed, ("the picture was taken as the card, cut to its rim",))]


def _measured(picture: NDArray[np.uint8], box: Box, bed: Bed, scale: float | None) -> Measured:
    outline = find_outline(picture, box, bed, scale)
    if outline is None:
        why = "its edge cannot be told from the bed: lay it on a bed of another colour"
        return Measured(_pairs(box.corners()), scale or box.short / SHORT_MM, why=why, outlined=False)
    if odd := _odd_size(outline, scale):
        return Measured(_pairs(outline.corners), outline.per_mm, why=odd, outlined=False)
    return _of_outline(picture, outline, bed, ())


def _odd_size(outline: Outline, scale: float | None) -> str:
    """Say why an outline is no card: too small or too large for the scale, or of another shape."""
    width, height = lengths(outline.corners)
    short, long = sorted((width, height))
    if _off_shape(_pairs(outline.corners)) > ODD_SHAPE:
        return f"its outline is {long / short:.2f} times as long as wide, a card {RATIO:.2f} times"
    if scale and abs(np.log(outline.per_mm / scale)) > ODD_SIZE:
        return (
            f"its outline is {short / scale:.1f} by {long / scale:.1f} mm, a card {SHORT_MM} by {LONG_MM}: its edge "
            "cannot be told from the bed, or the dots an inch are others"
        )
    return ""


def _off_shape(corners: Sequence[Sequence[float]]) -> float:
    """Return how far the shape of an outline is from a card's, as a share."""
    short, long = sorted(lengths(np.array(corners)))
    return float(abs(np.log(long / short / RATIO)))


def _pairs(corners: NDArray[np.float64]) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in corners)


def _of_outline(picture: NDArray[np.uint8], outline: Outline, bed: Bed, notes: tuple[str, ...]) -> Measured:
    card = cut_out(picture, outline)
    off_bed = straightened_distance(card, outline, bed, picture.shape)
    plain = Measured(_pairs(outline.corners), outline.per_mm, wear=find_wear(card, off_bed, bed.apart), notes=notes)
    borders, why = find_borders(card)
    return _centred(plain, borders, outline) if borders else replace(plain, why=why)


def _centred(plain: Measured, borders: dict[str, Border], outline: Outline) -> Measured:
    """Add the centering, with what it may be off."""
    half = {side: _half_width(border, outline, side) for side, border in borders.items()}
    level, level_off = _share(borders["left"].width, borders["right"].width, half["left"], half["right"])
    down, down_off = _share(borders["top"].width, borders["bottom"].width, half["top"], half["bottom"])
    return replace(
        plain,
        borders={side: border.width for side, border in borders.items()},
        left_right=level,
        top_bottom=down,
        low=(max(0.0, level - level_off), max(0.0, down - down_off)),
        high=(min(100.0, level + level_off), min(100.0, down + down_off)),
    )


def _half_width(border: Border, outline: Outline, side: str) -> float:
    """Return half a 90 % interval of a border's width, millimetres."""
    spread = np.hypot(border.spread, outline.spread[side] / outline.per_mm)
    return float(max(LEAST_PX / outline.per_mm, SURE * spread))


def _share(one: float, other: float, one_off: float, other_off: float) -> tuple[float, float]:
    """Return one in percent of both, and by how much that may be off."""
    both = one + other
    off = 100 * np.hypot(other * one_off, one * other_off) / both**2
    return 100 * one / both, float(off)
