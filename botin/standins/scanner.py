"""A scanner, simulated: a small protocol a real one could stand behind, and a stand-in that draws what it scans.

The cards are Botin's own drawings of invented riders; each copy has a hidden truth (centering, worn corners and
edges) that only the scan shows.
"""

from __future__ import annotations

import hashlib
import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

NAME = "simulated scanner"
DPI = 300
FINE = 2
"""Drawn twice as fine as scanned, so that edges fall between points."""
MM = DPI * FINE / 25.4
WIDTH, HEIGHT = 63.5, 88.9
BED = (198, 202, 205)
INKS = (
    ((28, 52, 94), (214, 170, 72)), ((122, 28, 38), (236, 214, 170)), ((24, 84, 66), (226, 190, 96)),
    ((58, 44, 96), (206, 196, 226)), ((40, 44, 50), (222, 132, 60)), ((150, 92, 30), (240, 226, 196)),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Subject:
    """A copy as the scanner needs it: what is printed on it, and what tells its hidden truth."""

    copy_id: int
    product: str
    number: str
    name: str
    finish: str = ""
    code: str = ""


@dataclass(frozen=True, slots=True)
class Truth:
    """What is true of a copy and nobody was told: borders in millimetres, dings by place."""

    left: float
    right: float
    top: float
    bottom: float
    turned: float
    dings: tuple[tuple[str, float], ...]


class Scanner(Protocol):
    """What a scanner must offer."""

    name: str

    def scan(self, subject: Subject, side: str) -> bytes:
        """Return a picture of one side of a copy."""
        ...


class SimulatedScanner:
    """The stand-in: the same copy gives the same scan."""

    name = NAME

    def scan(self, subject: Subject, side: str) -> bytes:
        """Return a scan at 300 dots an inch, as JPEG."""
        truth = hidden_truth(subject, side)
        face = _front(subject, truth) if side == "front" else _back(subject, truth)
        _dings(face, truth)
        return _scanned(face, truth, _dice(subject, f"{side} grain"))

    def sheet(self, subjects: Sequence[Subject], side: str = "back") -> bytes:
        """Return one scan of one side of several copies, three in a row."""
        from PIL import Image  # noqa: PLC0415  (slow to import)

        cards = [Image.open(io.BytesIO(self.scan(subject, side))) for subject in subjects]
        width, height = (max(card.size[axis] for card in cards) for axis in (0, 1))
        rows = -(-len(cards) // 3)
        sheet = Image.new("RGB", (width * min(3, len(cards)), height * rows), BED)
        for at, card in enumerate(cards):
            sheet.paste(card, (width * (at % 3), height * (at // 3)))
        out = io.BytesIO()
        sheet.save(out, "JPEG", quality=92, subsampling=0, dpi=(DPI, DPI))
        return out.getvalue()


def _dice(subject: Subject, what: str) -> np.random.Generator:
    digest = hashlib.sha256(f"{subject.product} {subject.copy_id} {what}".encode()).digest()
    return np.random.default_rng(int.from_bytes(digest[:8], "big"))


def hidden_truth(subject: Subject, side: str) -> Truth:
    """Return what is true of a side of a copy: most are near the middle, few are worn."""
    dice = _dice(subject, side)
    across, down = 2 * dice.uniform(2.6, 3.4), 2 * dice.uniform(3.0, 4.0)
    level, upright = (float(np.clip(dice.normal(50, 3.2 if side == "front" else 6), 25, 75)) / 100 for _ in range(2))
    places = ("ul", "ur", "lr", "ll", "top", "right", "bottom", "left")
    count = int(dice.choice([0, 0, 0, 0, 1, 1, 2]))
    dings = tuple((str(place), float(dice.uniform(0.5, 1.6))) for place in dice.choice(places, count, replace=False))
    return Truth(
        across * level,
        across * (1 - level),
        down * upright,
        down * (1 - upright),
        float(dice.uniform(-1.5, 1.5)),
        dings,
    )


def _px(millimetres: float) -> int:
    return round(millimetres * MM)


def _inks(subject: Subject) -> tuple[tuple[int, int, int], tuple[int, int, int]]:
    return INKS[hashlib.sha256(subject.product.encode()).digest()[0] % len(INKS)]


def _window(truth: Truth) -> tuple[int, int, int, int]:
    return _px(truth.left), _px(truth.top), _px(WIDTH - truth.right), _px(HEIGHT - truth.bottom)


def _front(subject: Subject, truth: Truth) -> Any:
    """Draw a rider on the boards inside a border of the product's ink."""
    from PIL import Image, ImageDraw, ImageFont  # noqa: PLC0415  (slow to import)

    ink, light = _inks(subject)
    dice = _dice(subject, f"art {subject.number}")
    card = Image.new("RGB", (_px(WIDTH), _px(HEIGHT)), ink)
    left, top, right, bottom = _window(truth)
    art = Image.new("RGB", (right - left, bottom - top), light)
    pen = ImageDraw.Draw(art)
    width, height = art.size
    for at in range(14):
        shade = tuple(int(part * (0.97 - 0.035 * at)) for part in light)
        pen.ellipse((-width * 0.5, height * (0.18 + 0.06 * at), width * 1.5, height * (1.1 + 0.06 * at)), fill=shade)
    x, y, size = width * dice.uniform(0.4, 0.6), height * dice.uniform(0.42, 0.52), width * 0.16
    for wheel in (-1.15, 1.15):
        middle = (x + wheel * size, y + size * 1.5)
        pen.ellipse(
            (middle[0] - size, middle[1] - size, middle[0] + size, middle[1] + size), outline=ink, width=_px(0.7)
        )
    back = [(x - size * 1.15, y + size * 1.5), (x - size * 0.3, y - size * 0.4), (x + size * 1.0, y + size * 0.2)]
    pen.line([*back, (x + size * 1.15, y + size * 1.5)], fill=ink, width=_px(1.6), joint="curve")
    pen.ellipse((x + size * 0.8, y - size * 0.7, x + size * 1.6, y + size * 0.1), fill=ink)
    pen.rectangle((0, height - _px(11), width, height), fill=tuple(int(part * 0.6) for part in ink))
    pen.text((_px(2.5), height - _px(9.6)), subject.name, fill=light, font=ImageFont.load_default(_px(4.2)))
    pen.text((_px(2.5), height - _px(4.6)), f"{subject.product}  {subject.finish}", fill=light,
             font=ImageFont.load_default(_px(2.4)))  # fmt: skip
    pen.text((_px(2.5), _px(2)), subject.number, fill=ink, font=ImageFont.load_default(_px(5)))
    card.paste(art, (left, top))
    return card


def _back(subject: Subject, truth: Truth) -> Any:
    """Draw the back: number, name, some lines, inside a lighter border."""
    from PIL import Image, ImageDraw, ImageFont  # noqa: PLC0415  (slow to import)

    ink, light = _inks(subject)
    card = Image.new("RGB", (_px(WIDTH), _px(HEIGHT)), light)
    left, top, right, bottom = _window(truth)
    page = Image.new("RGB", (right - left, bottom - top), ink)
    pen = ImageDraw.Draw(page)
    pen.text((_px(3), _px(3)), subject.number, fill=light, font=ImageFont.load_default(_px(9)))
    pen.text((_px(3), _px(15)), subject.name, fill=light, font=ImageFont.load_default(_px(4)))
    dice = _dice(subject, f"lines {subject.number}")
    for row in range(9):
        end = _px(3) + (page.size[0] - _px(6)) * dice.uniform(0.6, 1.0)
        pen.line((_px(3), _px(26 + 5 * row), end, _px(26 + 5 * row)), fill=light, width=_px(0.5))
    pen.text((_px(3), page.size[1] - _px(5)), subject.product, fill=light, font=ImageFont.load_default(_px(2.4)))
    pen.text(
        (page.size[0] - _px(16), page.size[1] - _px(3.4)),
        subject.code,
        fill=light,
        font=ImageFont.load_default(_px(2.0)),
    )
    card.paste(page, (left, top))
    return card


def _dings(card: Any, truth: Truth) -> None:
    """Let the stock show where a corner or an edge is worn."""
    from PIL import ImageDraw  # noqa: PLC0415  (slow to import)

    pen, stock = ImageDraw.Draw(card), (238, 236, 230)
    width, height = card.size
    corners = {"ul": (0, 0), "ur": (width, 0), "lr": (width, height), "ll": (0, height)}
    for place, size in truth.dings:
        by = _px(size)
        if place in corners:
            x, y = corners[place]
            dx, dy = (by if x == 0 else -by), (by if y == 0 else -by)
            pen.polygon([(x, y), (x + dx, y), (x + dx * 0.4, y + dy * 0.4), (x, y + dy)], fill=stock)
        else:
            at, deep = 0.42 * (width if place in ("top", "bottom") else height), by * 0.45
            box = {
                "top": (at, -deep, at + by, deep), "bottom": (at, height - deep, at + by, height + deep),
                "left": (-deep, at, deep, at + by), "right": (width - deep, at, width + deep, at + by),
            }[place]  # fmt: skip
            pen.ellipse(box, fill=stock)


def _scanned(card: Any, truth: Truth, dice: np.random.Generator) -> bytes:
    """Lay the card on the bed, a little turned, and scan it."""
    from PIL import Image, ImageFilter  # noqa: PLC0415  (slow to import)

    room = _px(7)
    size = (card.size[0] + 2 * room, card.size[1] + 2 * room)
    coarse = (size[0] // FINE, size[1] // FINE)
    mask = Image.new("L", size, 0)
    mask.paste(255, (room, room, room + card.size[0], room + card.size[1]))
    flat = Image.new("RGB", size, BED)
    flat.paste(card, (room, room))
    seen, on = (
        one.rotate(truth.turned, Image.Resampling.BILINEAR).resize(coarse, Image.Resampling.BOX)
        for one in (flat, mask)
    )
    bed = Image.new("RGB", coarse, BED)
    shade = Image.new("RGB", coarse, tuple(int(part * 0.8) for part in BED))
    bed.paste(shade, (3, 4), on.filter(ImageFilter.GaussianBlur(3)))
    bed.paste(seen, (0, 0), on)
    small = bed.filter(ImageFilter.GaussianBlur(0.6))
    grain = dice.normal(0, 1.4, (small.size[1], small.size[0], 3))
    points = np.clip(np.asarray(small, np.float64) + grain, 0, 255).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(points).save(out, "JPEG", quality=92, subsampling=0, dpi=(DPI, DPI))
    return out.getvalue()
