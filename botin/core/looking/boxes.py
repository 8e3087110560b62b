"""Where cards roughly lie: what is not bed, taken apart where cards touch."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

SHORT_MM, LONG_MM = 63.5, 88.9
"""The size of a card, millimetres: 2.5 by 3.5 inches."""
RATIO = LONG_MM / SHORT_MM
MOST_CARDS = 40
SQUARE = 0.8
"""Share of its upright box that a card's outline must fill (a choice; a rounded corner takes 0.2 %)."""

Points = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Box:
    """A turned rectangle: its middle, its width along the nearly level side, its height, degrees turned."""

    x: float
    y: float
    width: float
    height: float
    turned: float

    @property
    def short(self) -> float:
        """The shorter side."""
        return min(self.width, self.height)

    @property
    def ratio(self) -> float:
        """Longer side over shorter one."""
        return max(self.width, self.height) / max(1e-6, self.short)

    def corners(self) -> NDArray[np.float64]:
        """Return its corners, the upper left first, then clockwise."""
        a = np.deg2rad(self.turned)
        turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
        half = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * np.array([self.width, self.height]) / 2
        return np.asarray(half @ turn.T + np.array([self.x, self.y]))

    def scaled(self, by: float) -> Box:
        """Return it in a picture that is larger by a factor."""
        return Box(self.x * by, self.y * by, self.width * by, self.height * by, self.turned)


def box_of(points: Points) -> Box:
    """Return the smallest turned rectangle about points, turned by at most 45 degrees."""
    (x, y), (width, height), angle = cv2.minAreaRect(points)
    angle = (angle + 45) % 180 - 45
    if angle >= 45:
        angle, width, height = angle - 90, height, width
    return Box(x, y, width, height, angle)


def find_boxes(mask: NDArray[np.uint8], scale: float | None) -> list[Box]:
    """Return the cards of a mask in reading order.

    Parameters
    ----------
    mask : height × width
        255 where something lies.
    scale : float or None
        Pixels a millimetre, where it is known.
    """
    closed = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
    outlines, _ = cv2.findContours(closed, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    solid = np.zeros_like(mask)
    cv2.drawContours(solid, outlines, -1, 255, -1)
    opened = cv2.morphologyEx(solid, cv2.MORPH_OPEN, np.ones((7, 7), np.uint8))
    outlines, _ = cv2.findContours(opened, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    areas = [cv2.contourArea(one) for one in outlines]
    largest = max(areas, default=0.0)
    least = 0.45 * SHORT_MM * LONG_MM * scale**2 if scale else max(0.004 * mask.size, 0.1 * largest)
    found: list[Box] = []
    for outline, area in zip(outlines, areas, strict=True):
        if area >= least:
            found += _apart(outline[:, 0].astype(np.float32), area, scale)
    return in_reading_order(found[:MOST_CARDS])


def _apart(points: Points, area: float, scale: float | None) -> list[Box]:
    """Return the cards of one outline: as many as its area holds."""
    whole = box_of(points)
    one = SHORT_MM * LONG_MM * scale**2 if scale else None
    like_a_card = abs(np.log(whole.ratio / RATIO)) < 0.12 and area > SQUARE * whole.width * whole.height
    count = round(area / one) if one else (1 if like_a_card else 2)
    if count <= 1 or (like_a_card and not one):
        return [whole]
    grid = _grid(whole, one) if area > 0.93 * whole.width * whole.height else []
    return grid or _halved(points, whole, count, scale, one)


def _grid(whole: Box, one: float | None) -> list[Box]:
    """Cards that lie side by side fill a rectangle: cut it by the known shape."""
    best: tuple[float, int, int] | None = None
    for across in range(1, 6):
        for down in range(1, 6):
            width, height = whole.width / across, whole.height / down
            off = abs(np.log(max(width, height) / min(width, height) / RATIO))
            if one:
                off += abs(np.log(width * height / one))
            if across * down > 1 and off < 0.1 and (best is None or off < best[0]):
                best = (float(off), across, down)
    if best is None:
        return []
    _, across, down = best
    width, height, a = whole.width / across, whole.height / down, np.deg2rad(whole.turned)
    made = []
    for row in range(down):
        for column in range(across):
            u, v = (column + 0.5 - across / 2) * width, (row + 0.5 - down / 2) * height
            x, y = whole.x + u * np.cos(a) - v * np.sin(a), whole.y + u * np.sin(a) + v * np.cos(a)
            made.append(Box(float(x), float(y), width, height, whole.turned))
    return made


def halves(box: Box) -> list[Box]:
    """Cut a box across its longer side, in reading order."""
    a = np.deg2rad(box.turned)
    if box.width > box.height:
        u, v, width, height = box.width / 4, 0.0, box.width / 2, box.height
    else:
        u, v, width, height = 0.0, box.height / 4, box.width, box.height / 2
    x, y = u * np.cos(a) - v * np.sin(a), u * np.sin(a) + v * np.cos(a)
    return [Box(float(box.x + by * x), float(box.y + by * y), width, height, box.turned) for by in (-1, 1)]


def _halved(points: Points, whole: Box, count: int, scale: float | None, one: float | None) -> list[Box]:
    """Cut an outline where both parts fill their boxes best; each part again."""
    if count > MOST_CARDS:
        return []
    filled = _filled(points)
    best: tuple[float, NDArray[np.bool_]] | None = None
    for angle in np.deg2rad(whole.turned + np.arange(-20, 21, 2.0)):
        for turn in (0.0, np.pi / 2):
            along = filled @ np.array([np.cos(angle + turn), np.sin(angle + turn)], np.float32)
            low, high = np.percentile(along, [10, 90])
            for cut in np.linspace(low, high, 25):
                side = along < cut
                worth = _parts_fit(filled, side, one)
                if best is None or worth < best[0]:
                    best = (worth, side)
    if best is None or best[0] > 0.25:
        return [whole]
    made: list[Box] = []
    for part in (filled[best[1]], filled[~best[1]]):
        area = len(part) * _STEP**2
        made += [box_of(part)] if not one or round(area / one) <= 1 else _apart(_rim(part), area, scale)
    return made


_STEP = 6.0


def _filled(points: Points) -> Points:
    """Return points all over an outline's inside, a few pixels apart."""
    low = points.min(axis=0)
    size = np.ceil((points.max(axis=0) - low) / _STEP).astype(int) + 1
    mask = np.zeros((int(size[1]), int(size[0])), np.uint8)
    cv2.fillPoly(mask, [np.round((points - low) / _STEP).astype(np.int32)], 255)
    y, x = np.nonzero(mask)
    return np.asarray(np.stack([x, y], axis=1) * _STEP + low, np.float32)


def _rim(part: Points) -> Points:
    return np.asarray(cv2.convexHull(part)[:, 0], np.float32)


def _parts_fit(filled: Points, side: NDArray[np.bool_], one: float | None) -> float:
    """Return how badly two parts are cards: what their boxes have too much, and how unlike a card they are."""
    total = 0.0
    for part in (filled[side], filled[~side]):
        if len(part) < 20:
            return 9.0
        (_, _), (width, height), _ = cv2.minAreaRect(part)
        area = len(part) * _STEP**2
        room = (width + _STEP) * (height + _STEP)
        total += 1 - min(1.0, area / room)
        if one is None or round(area / one) <= 1:
            total += 0.5 * abs(np.log((max(width, height) + _STEP) / (min(width, height) + _STEP) / RATIO))
    return float(total)


def in_reading_order(boxes: list[Box]) -> list[Box]:
    """Sort by rows from the top, each from the left."""
    rows: list[list[Box]] = []
    for box in sorted(boxes, key=lambda one: one.y):
        row = next((row for row in rows if abs(row[0].y - box.y) < 0.45 * box.height), None)
        if row is None:
            rows.append([box])
        else:
            row.append(box)
    return [box for row in rows for box in sorted(row, key=lambda one: one.x)]
