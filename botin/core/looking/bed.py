"""The bed of a scan: its colour everywhere, and what lies on it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Lab = NDArray[np.float32]
Mask = NDArray[np.uint8]
ROUNDS = 8
SMOOTH, ENOUGH = 96, 300
"""Points a side at which the bed's colours are worked out, and on which they are fitted."""
LEAST_APART, MOST_APART = 5.0, 16.0
"""Bounds of the distance from the bed, in Lab units, from which something lies there (choices)."""


def lab_of(picture: NDArray[np.uint8]) -> Lab:
    """Return a picture of 8 bits in Lab (CIE 1976, D65): lightness 0 to 100."""
    return np.asarray(cv2.cvtColor(picture.astype(np.float32) / 255, cv2.COLOR_RGB2LAB), np.float32)


@dataclass(frozen=True, slots=True)
class Bed:
    """The bed's colour as a quadratic of the place (x and y from 0 to 1), and from where something is not bed."""

    terms: NDArray[np.float64]
    apart: float

    def colours(self, height: int, width: int) -> Lab:
        """Return its colour for every pixel of a picture of this size."""
        y, x = np.mgrid[0 : 1 : height * 1j, 0 : 1 : width * 1j]
        return np.asarray(_terms(x, y) @ self.terms, np.float32)

    def distance(self, lab: Lab) -> NDArray[np.float32]:
        """Return how far each pixel is from the bed, in Lab units."""
        under = cv2.resize(self.colours(SMOOTH, SMOOTH), lab.shape[1::-1], interpolation=cv2.INTER_LINEAR)
        return np.asarray(np.sqrt(((lab - under) ** 2).sum(axis=2)), np.float32)


def _terms(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.stack([np.ones_like(x), x, y, x * y, x * x, y * y], axis=-1)


def find_bed(lab: Lab) -> Bed:
    """Fit the bed from the rim of a picture, then from all that is like it."""
    lab = lab[:: max(1, lab.shape[0] // ENOUGH), :: max(1, lab.shape[1] // ENOUGH)]
    height, width = lab.shape[:2]
    y, x = np.mgrid[0 : 1 : height * 1j, 0 : 1 : width * 1j]
    rim = np.zeros((height, width), bool)
    edge = max(2, round(0.02 * min(height, width)))
    rim[:edge] = rim[-edge:] = rim[:, :edge] = rim[:, -edge:] = True
    terms = _robust(_terms(x[rim], y[rim]), lab[rim])
    off = np.sqrt(((lab - _terms(x, y) @ terms) ** 2).sum(axis=2))
    noise = float(np.median(off[rim]))
    like = off < max(4.0, 3 * noise)
    if like.mean() > 0.05:
        some = np.flatnonzero(like)[:: max(1, int(like.sum() // 8_000))]
        terms = _robust(_terms(x.ravel()[some], y.ravel()[some]), lab.reshape(-1, 3)[some])
        off = np.sqrt(((lab - _terms(x, y) @ terms) ** 2).sum(axis=2))
        noise = float(np.median(off[off < max(4.0, 3 * noise)]))
    split, _ = cv2.threshold(np.clip(off * 3, 0, 255).astype(np.uint8), 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    return Bed(terms, float(np.clip(split / 3, max(LEAST_APART, 3.5 * noise), max(MOST_APART, 4 * noise))))


def _robust(terms: NDArray[np.float64], colours: NDArray[np.float32]) -> NDArray[np.float64]:
    """Fit the terms so that a card that hangs over the rim does not pull them."""
    weights = np.ones(len(terms))
    made = np.zeros((terms.shape[1], 3))
    made[0] = np.median(colours, axis=0)
    for turn in range(ROUNDS):
        off = np.sqrt(((colours - terms @ made) ** 2).sum(axis=1))
        scale = max(1.0, 1.4826 * float(np.median(off)))
        u = off / (5 * scale)
        weights = np.where(u < 1, (1 - u**2) ** 2, 0.0)
        columns = 1 if turn < 2 else terms.shape[1]
        root = np.sqrt(weights)[:, None]
        part, *_ = np.linalg.lstsq(terms[:, :columns] * root, colours * root, rcond=None)
        made = np.vstack([part, np.zeros((terms.shape[1] - columns, 3))])
    return made
