"""What the glass shows: ruler lines, close-ups with their wear, limits, and what drives the forecast, in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from botin.core.grading.grades import GRADES, PARTS
from botin.desk.looking.glass import Glass
from botin.desk.looking.scans import Face

UNIT = 10
"""Units of the drawing a millimetre."""
CLOSE = 70
"""Side of a close-up, units: seven millimetres."""
STRIP = 500
"""Length of an edge's close-up, units."""
CORNERS = ("upper left", "upper right", "lower right", "lower left")
EDGES = ("top", "right", "bottom", "left")


@dataclass(frozen=True, slots=True)
class Ruler:
    """A ruler line: its side, the border in millimetres, and where it runs in the drawing."""

    side: str
    width: float
    x1: float
    y1: float
    x2: float
    y2: float


@dataclass(frozen=True, slots=True)
class Closeup:
    """A part of the card enlarged: its name, the part of the drawing and how it is turned, what was found there."""

    name: str
    view: str
    turn: str
    words: str
    worn: bool


def size_of(face: Face) -> tuple[int, int]:
    """Return width and height of the drawing of a face."""
    (ax, ay), (bx, by), _, (dx, dy) = face.measured["corners"]
    upright = (dx - ax) ** 2 + (dy - ay) ** 2 >= (bx - ax) ** 2 + (by - ay) ** 2
    return (635, 889) if upright else (889, 635)


def centering(larger: float | None) -> str:
    """Return a share as people write a centering, ``53.1/46.9``; empty where there is none."""
    return "" if larger is None else f"{larger:.1f}/{100 - larger:.1f}".replace(".0", "")


def likeliest(chances: Mapping[float, float]) -> float:
    """Return the grade that is most likely."""
    return max(chances, key=lambda grade: chances[grade])


def ruler_lines(face: Face | None) -> list[Ruler]:
    """Return the rulers of a face; without a border they start three millimetres in, to be moved by hand."""
    if face is None:
        return []
    width, height = size_of(face)
    borders = face.borders.by_side() if face.borders else dict.fromkeys(("left", "right", "top", "bottom"), 3.0)
    left, right, top, bottom = (borders[side] * UNIT for side in ("left", "right", "top", "bottom"))
    return [
        Ruler("left", borders["left"], left, 0, left, height),
        Ruler("right", borders["right"], width - right, 0, width - right, height),
        Ruler("top", borders["top"], 0, top, width, top),
        Ruler("bottom", borders["bottom"], 0, height - bottom, width, height - bottom),
    ]


def closeups(face: Face | None) -> list[Closeup]:
    """Return the four corners and the four edges with the wear found."""
    if face is None:
        return []
    width, height = size_of(face)
    wear = face.measured.get("wear") or {}
    at = [(0, 0), (width - CLOSE, 0), (width - CLOSE, height - CLOSE), (0, height - CLOSE)]
    made = [
        _closeup(name, f"{x} {y} {CLOSE} {CLOSE}", "", size)
        for name, (x, y), size in zip(CORNERS, at, wear.get("corners") or [None] * 4, strict=True)
    ]
    view, turns = f"0 0 {STRIP} {CLOSE // 2}", _cut_on_top(width, height)
    for name, size in zip(EDGES, wear.get("edges") or [None] * 4, strict=True):
        made.append(_closeup(f"{name} edge", view, turns[name], size))
    return made


def _cut_on_top(width: int, height: int) -> dict[str, str]:
    """Return by side how the drawing is turned so that the middle of that edge lies with its cut on top."""
    x, y = (width - STRIP) // 2, (height - STRIP) // 2
    return {
        "top": f"matrix(1 0 0 1 {-x} 0)",
        "right": f"matrix(0 -1 1 0 {-y} {width})",
        "bottom": f"matrix(-1 0 0 -1 {x + STRIP} {height})",
        "left": f"matrix(0 1 -1 0 {y + STRIP} 0)",
    }


def _closeup(name: str, view: str, turn: str, size: float | None) -> Closeup:
    if size is None:
        return Closeup(name, view, turn, "white on white cannot show", worn=False)
    return Closeup(name, view, turn, f"{size:.2f} mm of white" if size else "no white found", worn=size > 0)


def limits_of(found: Glass) -> list[tuple[str, float, bool]]:
    """Return each house, the highest grade its limits allow at this centering, and whether that is the top."""
    named = [(house, grade) for house, grade in found.allows.items() if house] or list(found.allows.items())
    return [(house or "the common limits", grade, grade >= GRADES[0]) for house, grade in named]


def drives(found: Glass) -> list[str]:
    """Say what the forecast rests on: the part that pulls it down, the centering, the marks."""
    look: Any = found.look
    said: list[str] = []
    seen = {part: getattr(look, part) for part in PARTS if look is not None and getattr(look, part) is not None}
    if seen:
        worst = min(seen, key=lambda part: seen[part])
        same = len(set(seen.values())) == 1
        said.append(f"all parts at {seen[worst]:g}" if same else f"{worst} at {seen[worst]:g} pulls it down the most")
    else:
        said.append("no part is scored yet, so it is what copies of this product usually get")
    borders = found.faces["front"].borders if "front" in found.faces else None
    if borders is not None:
        said.append(f"the front is {centering(borders.larger)} at its worse axis")
    if found.lender:
        said.append(f"how copies usually grade is borrowed from {found.lender}")
    capped = [house for house, grade, top in limits_of(found) if not top]
    if capped:
        said.append(f"the centering rules the top grade out at {', '.join(capped)}")
    if look is not None and look.marks:
        said.append(f"marked: {', '.join(look.marks)}")
    return said
