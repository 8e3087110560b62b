"""The outline of a card to a part of a pixel: four lines out of several, chosen together."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import cv2
import numpy as np
from numpy.typing import NDArray

from botin.core.looking.bed import Bed, Lab, lab_of
from botin.core.looking.boxes import LONG_MM, SHORT_MM, Box
from botin.core.looking.lines import Line, candidates, changes, thinned

ROUND_MM = 4.0
"""Room about a rough box in which the outline is looked for, millimetres."""
INSIDE_MM = 3.0
STEEPEST = 0.055
"""Largest slope of a side against its rough box: three degrees."""
EXACT = 0.006
"""Standard deviation of a card's size about 2.5 by 3.5 inches, and of its shape in a photo, as a share (a choice)."""
SIDES = ("left", "right", "top", "bottom")


@dataclass(frozen=True, slots=True)
class Outline:
    """A card on the picture.

    Attributes
    ----------
    corners : 4 × 2
        Upper left, then clockwise, pixels.
    per_mm : float
        Pixels a millimetre.
    spread : mapping
        By side how sure its line is, pixels.
    upright : bool
        Taller than wide.
    """

    corners: NDArray[np.float64]
    per_mm: float
    spread: dict[str, float]
    upright: bool

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height as the picture has them, millimetres."""
        return (SHORT_MM, LONG_MM) if self.upright else (LONG_MM, SHORT_MM)


@dataclass(frozen=True, slots=True)
class _Side:
    line: Line
    where: float
    worth: float


def straightened(picture: NDArray[np.uint8], box: Box, room: float) -> tuple[NDArray[np.uint8], NDArray[np.float64]]:
    """Return the picture about a box, turned level, and the transform from it back to the picture."""
    a = np.deg2rad(box.turned)
    width, height = round(box.width + 2 * room), round(box.height + 2 * room)
    turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    shift = np.array([box.x, box.y]) - turn @ np.array([(width - 1) / 2, (height - 1) / 2])
    back = np.hstack([turn, shift[:, None]])
    patch = cv2.warpAffine(
        picture, back, (width, height), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(patch, np.uint8), back


def find_outline(picture: NDArray[np.uint8], box: Box, bed: Bed, scale: float | None) -> Outline | None:
    """Place the four sides of a card whose rough box is known; None when a side is nowhere.

    Parameters
    ----------
    picture : height × width × 3
        RGB.
    box : Box
        Roughly where the card is.
    bed : Bed
        The bed of the picture.
    scale : float or None
        Pixels a millimetre, where it is known.
    """
    per_mm = scale or (box.short / SHORT_MM)
    room = ROUND_MM * per_mm + _lacking(box, scale)
    patch, back = straightened(picture, box, room)
    lab = lab_of(patch)
    off = _off_bed(lab, back, bed, picture.shape)
    sides = {name: _side(lab, off, name, room, per_mm, bed.apart) for name in SIDES}
    if not all(sides.values()):
        return None
    chosen = _chosen(sides, box, room, scale)
    chosen = _by_size(chosen, box, room)
    level = {name: _in_patch(one, name, patch.shape) for name, one in chosen.items()}
    corners = [
        _meet(level[a], level[b])
        for a, b in (("left", "top"), ("right", "top"), ("right", "bottom"), ("left", "bottom"))
    ]
    placed = np.array(corners) @ back[:, :2].T + back[:, 2]
    width, height = lengths(placed)
    upright = height >= width
    size = (width / SHORT_MM + height / LONG_MM) if upright else (width / LONG_MM + height / SHORT_MM)
    return Outline(placed, float(size / 2), {name: _sure(one.line) for name, one in chosen.items()}, bool(upright))


def _sure(line: Line) -> float:
    """Return the standard deviation of a line's place, pixels."""
    return float(np.hypot(0.2, line.spread / 4) + 0.4 * (1 - line.support))


def _off_bed(lab: Lab, back: NDArray[np.float64], bed: Bed, shape: tuple[int, ...]) -> NDArray[np.float32]:
    """Return how far the pixels of a patch are from the bed."""
    height, width = lab.shape[:2]
    small = bed.colours(65, 65)
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    u = (back[0, 0] * x + back[0, 1] * y + back[0, 2]) / shape[1] * 64
    v = (back[1, 0] * x + back[1, 1] * y + back[1, 2]) / shape[0] * 64
    colours = cv2.remap(
        small, u.astype(np.float32), v.astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(np.sqrt(((lab - colours) ** 2).sum(axis=2)), np.float32)


def outside_first(lab: NDArray[np.float32], side: str) -> NDArray[np.float32]:
    """Turn a picture so that a side stands on the left: rows along the side, columns from outside to inside."""
    if side in ("top", "bottom"):
        lab = lab.swapaxes(0, 1)
    return lab[:, ::-1] if side in ("right", "bottom") else lab


def _side(lab: Lab, off: NDArray[np.float32], side: str, room: float, per_mm: float, apart: float) -> list[_Side]:
    """Return the lines that may be a side, with what speaks for each."""
    deep = round(room + INSIDE_MM * per_mm)
    strip, away = outside_first(lab, side)[:, :deep], outside_first(off, side)[:, :deep]
    trim = round(room + 0.1 * (strip.shape[0] - 2 * room))
    strip, step = thinned(strip[trim:-trim])
    away = thinned(away[trim:-trim, :, None])[0][:, :, 0]
    lines = candidates(changes(strip), STEEPEST * step)
    made = []
    for line in lines:
        outside, inside = (_bedlike(away, line, by * per_mm, apart) for by in (-0.8, 0.8))
        worth = line.support + 0.5 * min(1.0, line.strength / 8) + 0.8 * outside + 0.8 * (1 - inside)
        made.append(_Side(Line(line.at, line.slope / step, line.support, line.strength, line.spread), line.at, worth))
    return made


def _bedlike(away: NDArray[np.float32], line: Line, by: float, apart: float) -> float:
    """Return the share of the rows whose colour beside a line is the bed's."""
    rows, columns = away.shape
    at = np.clip(np.rint(line.columns(rows) + by), 0, columns - 1).astype(int)
    return float((away[np.arange(rows), at] < 0.7 * apart).mean())


def _lacking(box: Box, scale: float | None) -> float:
    """Return by how much a rough box is smaller than a card: of a border of the bed's colour only the art is seen."""
    if scale is None:
        return 0.0
    short, long = min(box.width, box.height), max(box.width, box.height)
    return float(np.clip(max(SHORT_MM * scale - short, LONG_MM * scale - long), 0, 14 * scale))


def _chosen(sides: dict[str, list[_Side]], box: Box, room: float, per_mm: float | None) -> dict[str, _Side]:
    """Choose the four that together are most like a card."""
    best = -np.inf
    chosen: tuple[_Side, ...] = ()
    upright = box.height >= box.width
    wanted = (SHORT_MM, LONG_MM) if upright else (LONG_MM, SHORT_MM)
    for four in product(*(sides[name] for name in SIDES)):
        left, right, top, bottom = four
        width = box.width + 2 * room - left.where - right.where
        height = box.height + 2 * room - top.where - bottom.where
        if per_mm:
            miss = [np.log(width / (wanted[0] * per_mm)), np.log(height / (wanted[1] * per_mm))]
        else:
            miss = [np.log(height / width) - np.log(wanted[1] / wanted[0])]
        penalty = sum(min((one / EXACT) ** 2, 25.0) for one in miss) * 0.12
        worth = sum(one.worth for one in four) - penalty
        if worth > best:
            best, chosen = float(worth), four
    return dict(zip(SIDES, chosen, strict=True))


_ACROSS = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}
DOUBTFUL, FIRM = 0.6, 0.8
CUT_MM = 0.12
"""How exactly cards are cut, millimetres (a choice)."""


def _by_size(chosen: dict[str, _Side], box: Box, room: float) -> dict[str, _Side]:
    """Place a side that is hardly seen, against another card say, by the other three and the size of a card."""
    weak = [name for name, one in chosen.items() if one.line.support < DOUBTFUL]
    if len(weak) != 1 or any(one.line.support < FIRM for name, one in chosen.items() if name not in weak):
        return chosen
    side, across = weak[0], _ACROSS[weak[0]]
    ends = [chosen[name].line.at for name in SIDES if name not in (side, across)]
    level = side in ("left", "right")
    known = (box.height if level else box.width) + 2 * room - sum(ends)
    of_ratio = SHORT_MM / LONG_MM if (box.height >= box.width) == level else LONG_MM / SHORT_MM
    whole = (box.width if level else box.height) + 2 * room
    at = whole - 1 - chosen[across].line.at - known * of_ratio
    spread = 4 * CUT_MM * known / (LONG_MM if (box.height >= box.width) == level else SHORT_MM)
    line = Line(at, -chosen[across].line.slope, 1.0, 0.0, spread)
    return {**chosen, side: _Side(line, at, 0.0)}


def _in_patch(side: _Side, name: str, shape: tuple[int, ...]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return a point and a direction of a side in the patch."""
    height, width = shape[:2]
    line = side.line
    across = (width if name in ("left", "right") else height) - 1
    at = line.at if name in ("left", "top") else across - line.at
    slope = line.slope if name in ("left", "top") else -line.slope
    if name in ("left", "right"):
        return np.array([at, (height - 1) / 2]), np.array([slope, 1.0])
    return np.array([(width - 1) / 2, at]), np.array([1.0, slope])


def _meet(
    one: tuple[NDArray[np.float64], NDArray[np.float64]], other: tuple[NDArray[np.float64], NDArray[np.float64]]
) -> NDArray[np.float64]:
    """Return where two lines meet."""
    (p, d), (q, e) = one, other
    t = np.linalg.solve(np.stack([d, -e], axis=1), q - p)[0]
    return np.asarray(p + t * d)


def lengths(corners: NDArray[np.float64]) -> tuple[float, float]:
    """Return width and height of four corners, pixels."""
    ul, ur, lr, ll = corners
    width = (np.linalg.norm(ur - ul) + np.linalg.norm(lr - ll)) / 2
    height = (np.linalg.norm(ll - ul) + np.linalg.norm(lr - ur)) / 2
    return float(width), float(height)
