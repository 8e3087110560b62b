"""Lines of print on a straightened card: where something stands that looks like letters."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

MOST = 48
"""Lines of a card that are read at most, the likeliest first."""
LOWEST_MM, HIGHEST_MM = 0.7, 12.0


@dataclass(frozen=True, slots=True)
class TextLine:
    """A line of print: its box on the card in pixels."""

    x: int
    y: int
    width: int
    height: int

    def cut(self, card: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Return it with a little room about it."""
        room = max(3, round(0.28 * self.height))
        top, left = max(0, self.y - room), max(0, self.x - room)
        return card[top : self.y + self.height + room, left : self.x + self.width + room]


def find_lines(card: NDArray[np.uint8], per_mm: float) -> list[TextLine]:
    """Return the lines of print on a card, whatever their ink: letters stand apart from what is behind them."""
    grey = np.asarray(cv2.cvtColor(card, cv2.COLOR_RGB2GRAY), np.uint8)
    found: list[TextLine] = []
    for height_mm in (1.6, 4.0, 9.0):
        found += _lines_of(grey, per_mm, height_mm)
    found += _letters_in_a_row(grey, per_mm)
    return _apart(found)[:MOST]


def _lines_of(grey: NDArray[np.uint8], per_mm: float, height_mm: float) -> list[TextLine]:
    """Return lines of about one height: strokes against their surroundings, joined along the line."""
    size = max(5, round(height_mm * per_mm)) | 1
    kernel = np.ones((size, size), np.uint8)
    found = []
    for stroke in (
        cv2.morphologyEx(grey, cv2.MORPH_TOPHAT, kernel),
        cv2.morphologyEx(grey, cv2.MORPH_BLACKHAT, kernel),
    ):
        level, _ = cv2.threshold(stroke, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
        _, ink = cv2.threshold(stroke, max(18.0, 0.8 * level), 255, cv2.THRESH_BINARY)
        reach = max(3, round(0.55 * height_mm * per_mm))
        joined = cv2.morphologyEx(ink, cv2.MORPH_CLOSE, np.ones((max(1, reach // 8), reach), np.uint8))
        count, _, stats, _ = cv2.connectedComponentsWithStats(np.asarray(joined, np.uint8), connectivity=8)
        for left, top, wide, high, area in stats[1:count]:
            tall = 0.3 * height_mm * per_mm <= high <= 1.3 * height_mm * per_mm
            edge = left <= 1 or top <= 1 or left + wide >= grey.shape[1] - 1 or top + high >= grey.shape[0] - 1
            plausible = LOWEST_MM * per_mm <= high <= HIGHEST_MM * per_mm and wide >= 0.25 * high
            if tall and plausible and not edge and area >= 0.2 * wide * high:
                found.append(TextLine(int(left), int(top), int(wide), int(high)))
    return found


def _letters_in_a_row(grey: NDArray[np.uint8], per_mm: float) -> list[TextLine]:
    """Return large letters that stand beside each other, each found by itself: nothing beside them joins in."""
    size = round(9.0 * per_mm) | 1
    letters: list[TextLine] = []
    for kind in (cv2.MORPH_TOPHAT, cv2.MORPH_BLACKHAT):
        stroke = cv2.morphologyEx(grey, kind, np.ones((size, size), np.uint8))
        _, ink = cv2.threshold(stroke, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
        count, _, stats, _ = cv2.connectedComponentsWithStats(np.asarray(ink, np.uint8), connectivity=8)
        letters += [
            TextLine(int(left), int(top), int(wide), int(high))
            for left, top, wide, high, area in stats[1:count]
            if 2.2 * per_mm <= high <= 9.0 * per_mm and 0.1 * high <= wide <= 1.3 * high and area > 0.1 * wide * high
        ]
    return _in_rows(letters)


def _in_rows(letters: list[TextLine]) -> list[TextLine]:
    rows: list[list[TextLine]] = []
    for letter in sorted(letters, key=lambda one: one.x):
        for row in rows:
            last = row[-1]
            level = abs(last.y + last.height / 2 - letter.y - letter.height / 2) < 0.3 * letter.height
            alike = 0.7 < last.height / letter.height < 1.4
            if level and alike and letter.x - last.x - last.width < 0.6 * letter.height:
                row.append(letter)
                break
        else:
            rows.append([letter])
    made = []
    for row in rows:
        left, top = min(one.x for one in row), min(one.y for one in row)
        right, bottom = max(one.x + one.width for one in row), max(one.y + one.height for one in row)
        made.append(TextLine(left, top, right - left, bottom - top))
    return made


def _apart(lines: list[TextLine]) -> list[TextLine]:
    """Leave out what lies inside another line, the longest lines first."""
    kept: list[TextLine] = []
    for line in sorted(lines, key=lambda one: -one.width * one.height):
        if not any(_inside(line, other) for other in kept):
            kept.append(line)
    return kept


def _inside(one: TextLine, other: TextLine) -> bool:
    wide = min(one.x + one.width, other.x + other.width) - max(one.x, other.x)
    high = min(one.y + one.height, other.y + other.height) - max(one.y, other.y)
    return wide > 0 and high > 0 and wide * high > 0.7 * one.width * one.height and one.height > 0.45 * other.height
