"""The printed border of a straightened card: how wide it is on each side, or why that cannot be said."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter
from scipy.special import ndtr

from botin.core.looking.bed import Bed, Lab, lab_of
from botin.core.looking.lines import Line, candidates, changes, thinned
from botin.core.looking.outline import SIDES, Outline, outside_first

DEEPEST_MM = 13.0
THINNEST_MM = 0.35
STEEPEST = 0.03
"""Largest slope of the print against the cut."""
SUPPORT = 0.55
"""Share of a side along which its border must end in one line (a choice)."""
PLAIN = 0.75
"""Share of a side along which the border must be of one colour up to that line (a choice)."""
FAR = 25.0
"""Lab units from which further away counts no more: behind a key line nothing competes with its outer edge."""
UNLIKE = 6.0
"""Lab units by which the picture must differ from the border at the line (a choice)."""


@dataclass(frozen=True, slots=True)
class Border:
    """A border: its width in the middle of its side and how sure that is (standard deviation), millimetres."""

    width: float
    spread: float
    slope: float


@dataclass(frozen=True, slots=True)
class Straight:
    """A card cut out and straightened, and its pixels a millimetre."""

    picture: NDArray[np.uint8]
    lab: Lab
    per_mm: float


def cut_out(picture: NDArray[np.uint8], outline: Outline) -> Straight:
    """Return a card straightened to its nominal size; a pixel is as large as on the picture."""
    wide, high = outline.size_mm
    width, height = wide * outline.per_mm, high * outline.per_mm
    to = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    turn = cv2.getPerspectiveTransform(outline.corners.astype(np.float32), to)
    made = cv2.warpPerspective(
        picture, turn, (round(width) + 1, round(height) + 1), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    straight = np.asarray(made, np.uint8)
    return Straight(straight, lab_of(straight), outline.per_mm)


def straightened_distance(card: Straight, outline: Outline, bed: Bed, shape: tuple[int, ...]) -> NDArray[np.float32]:
    """Return how far the pixels of a straightened card are from the bed's colour under it."""
    side = 65
    wide, high = outline.size_mm
    rim = np.array([[0, 0], [wide, 0], [wide, high], [0, high]], np.float32) * np.float32(card.per_mm)
    turn = cv2.getPerspectiveTransform(outline.corners.astype(np.float32), rim)
    grow = np.array([[shape[1] / (side - 1), 0, 0], [0, shape[0] / (side - 1), 0], [0, 0, 1]])
    size = (card.lab.shape[1], card.lab.shape[0])
    under = cv2.warpPerspective(bed.colours(side, side), turn @ grow, size, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(np.sqrt(((card.lab - under) ** 2).sum(axis=2)), np.float32)


def find_borders(card: Straight) -> tuple[dict[str, Border], str]:
    """Return the borders by side, or none and why."""
    found: dict[str, Border] = {}
    for side in SIDES:
        border = _border(card, side)
        if border is None:
            return {}, f"no printed border ends in a straight line along the {side} side"
        found[side] = border
    return found, ""


def _border(card: Straight, side: str) -> Border | None:
    strip = outside_first(card.lab, side)
    across = strip.shape[1]
    deep = min(round(DEEPEST_MM * card.per_mm), round(0.3 * across))
    trim = round(0.12 * strip.shape[0])
    middle, step = thinned(strip[trim:-trim, :deep])
    own = _own_colour(middle, card.per_mm)
    away = np.sqrt(((middle - own[:, None, :]) ** 2).sum(axis=2))
    first = THINNEST_MM * card.per_mm
    change = changes(np.minimum(away, FAR)[:, :, None])
    change[:, : max(1, round(first - 1))] = 0
    lines = [line for line in candidates(change, STEEPEST * step, most=10, least=0.4) if line.at >= first]
    for line in sorted(lines, key=lambda one: one.at):
        if line.support >= SUPPORT and _ends_here(away, line):
            at = _outer_edge(middle, own, line)
            spread = float(np.hypot(0.25, line.spread / 4) + 0.5 * (1 - line.support))
            return Border(at / card.per_mm, spread / card.per_mm, line.slope / step)
    return None


def _own_colour(strip: NDArray[np.float32], per_mm: float) -> NDArray[np.float32]:
    """Return the colour of the border along the side; it may drift, a nick does not move it."""
    first, last = round(0.18 * per_mm) + 1, max(round(0.18 * per_mm) + 3, round(0.5 * per_mm))
    near = np.median(strip[:, first:last], axis=1)
    size = max(5, strip.shape[0] // 5) | 1
    return np.stack([median_filter(near[:, channel], size, mode="nearest") for channel in range(3)], axis=1)


def _ends_here(away: NDArray[np.float32], line: Line) -> bool:
    """Whether up to a line all is of the border's colour, and behind it is not."""
    rows, columns = away.shape
    at = line.columns(rows)
    place = np.arange(columns)[None, :]
    before = (place < at[:, None] - float(np.clip(0.3 * line.at, 2.0, 3.5))) & (place >= 2)
    plain = np.where(before, away, 0.0)
    count = np.maximum(1, before.sum(axis=1))
    odd = ((plain > UNLIKE) & before).sum(axis=1) / count
    behind = np.clip(np.rint(at + 2.0), 0, columns - 1).astype(int)
    beyond = away[np.arange(rows), behind]
    return bool((odd < 0.12).mean() >= PLAIN and (beyond > UNLIKE).mean() >= SUPPORT - 0.1)


def _outer_edge(strip: NDArray[np.float32], own: NDArray[np.float32], line: Line) -> float:
    """Return where the border ends in the middle of all rows: one blurred step, or two where a key line is plain.

    Colour is often kept at half the sharpness of lightness, so it counts half.
    """
    rows, columns = strip.shape[:2]
    away = np.sqrt((((strip - own[:, None, :]) * np.array([1.0, 0.5, 0.5], np.float32)) ** 2).sum(axis=2))
    at = np.clip(line.columns(rows)[:, None] + STEPS[None, :], min(2.0, line.at / 2), columns - 1.001)
    low = at.astype(int)
    part = at - low
    row = np.arange(rows)[:, None]
    profile = np.median(away[row, low] * (1 - part) + away[row, low + 1] * part, axis=0)
    one, two = (_best_step(profile, steps) for steps in (1, 2))
    plain = two[1] < 0.25 * one[1] and one[1] > len(STEPS) * (0.03 * float(profile.max())) ** 2
    moved = two[0] if plain else one[0]
    return line.at + (moved if abs(moved) < 4.5 else 0.0)


def _best_step(profile: NDArray[np.float64], steps: int) -> tuple[float, float]:
    """Return the first edge of the steps that fit a profile best, and what is left over."""
    edges, solve, basis = _steps(steps)
    left_over = (profile**2).sum() - ((basis @ profile) ** 2).sum(axis=1)
    left_over[(solve @ profile)[:, 1] < 0.2 * float(profile.max())] = np.inf
    best = int(left_over.argmin())
    return (float(edges[best]), float(left_over[best])) if np.isfinite(left_over[best]) else (0.0, np.inf)


STEPS = np.arange(-8, 8)


@lru_cache(maxsize=2)
def _steps(count: int) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Return for a grid of first edges, gaps and blurs: the edge, what solves for floor and heights, and a basis."""
    edges, solve, basis = [], [], []
    for blur in (0.7, 1.0, 1.4, 2.0):
        for gap in np.arange(1.2, 6.1, 0.6) if count == 2 else (0.0,):
            for edge in np.arange(-5.0, 2.01, 0.1):
                terms = [np.ones(len(STEPS)), ndtr((STEPS - edge) / blur)]
                terms += [ndtr((STEPS - edge - gap) / blur)] * (count - 1)
                edges.append(edge)
                solve.append(np.linalg.pinv(np.stack(terms, axis=1)))
                basis.append(np.linalg.qr(np.stack(terms, axis=1))[0].T)
    return np.array(edges), np.stack(solve), np.stack(basis)
