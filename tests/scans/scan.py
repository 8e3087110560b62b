"""Drawn cards laid on a bed and scanned: turned, shaded, blurred, grained, in a sleeve, tilted as by a phone."""

from __future__ import annotations

import random
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from tests.scans.draw import CORNERS, FINE, HEIGHT, MM, SIDES, WIDTH, Card, Ding, Picture, draw, grained

BEDS = {
    "lid": (246, 247, 248), "grey": (128, 130, 132), "black": (22, 22, 24), "felt": (60, 84, 52), "wood": (150, 110, 72),
}  # fmt: skip


@dataclass
class Laid:
    """A card on the bed: its middle in millimetres, degrees turned, whether a soft sleeve is on it."""

    card: Card
    x: float
    y: float
    turned: float = 0.0
    sleeve: bool = False


@dataclass
class Scan:
    """A scan: the picture, and each card with its corners (upper left, then clockwise)."""

    picture: Picture
    dpi: int
    cards: list[tuple[Card, NDArray[np.float64]]] = field(default_factory=list)


def place(laid: Laid, dpi: float) -> NDArray[np.float64]:
    """Return the transform from fine card pixels to pixels of the scan."""
    s, a = dpi / FINE, np.deg2rad(laid.turned)
    turn = np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]])
    middle = np.array([[s, 0, -WIDTH / 25.4 * dpi / 2], [0, s, -HEIGHT / 25.4 * dpi / 2], [0, 0, 1]])
    shift = np.array([[1, 0, laid.x / 25.4 * dpi], [0, 1, laid.y / 25.4 * dpi], [0, 0, 1]])
    return np.asarray(shift @ turn @ middle)


def bed(rng: random.Random, name: str, width: int, height: int) -> NDArray[np.float32]:
    """Return a bed with uneven light, a grain of its own and dust."""
    noise = np.random.default_rng(rng.randrange(1 << 30))
    base = np.empty((height, width, 3), np.float32)
    base[:] = BEDS[name]
    y, x = np.mgrid[0 : 1 : height * 1j, 0 : 1 : width * 1j].astype(np.float32)
    light = rng.uniform(-7, 7) * x + rng.uniform(-7, 7) * y + rng.uniform(-5, 5) * x * y
    base += light[:, :, None]
    if name in ("felt", "wood"):
        shape = (height // 3, width // 3) if name == "felt" else (height // 2, max(2, width // 60))
        weave = cv2.resize(noise.normal(0, 5, shape).astype(np.float32), (width, height))
        base += weave[:, :, None]
    for _ in range(rng.randint(0, 6)):
        cv2.circle(base, (rng.randrange(width), rng.randrange(height)), rng.randint(1, 2), (150, 150, 150), -1)
    return base


def scan(
    rng: random.Random, laid: list[Laid], size: tuple[float, float], dpi: int = 300, bed_name: str = "grey", *,
    tilt: float = 0.0, sharp: float = 0.6, grain: float = 1.5, jpeg: int = 92,
) -> Scan:  # fmt: skip
    """Scan cards on a bed of a size in millimetres; a tilt in degrees makes it a photo."""
    width, height = round(size[0] / 25.4 * dpi), round(size[1] / 25.4 * dpi)
    flat = bed(rng, bed_name, width, height)
    camera = _tilted(rng, width, height, tilt)
    flat = cv2.warpPerspective(flat, camera, (width, height), borderMode=cv2.BORDER_REPLICATE)
    made = Scan(np.zeros(0, np.uint8), dpi)
    for one in laid:
        face, mask = draw(rng, one.card)
        where = camera @ place(one, dpi)
        _lay(rng, flat, face, mask, where, dpi, one)
        rim = np.array([[0, 0], [face.shape[1], 0], [face.shape[1], face.shape[0]], [0, face.shape[0]]], np.float64)
        corners = cv2.perspectiveTransform(rim[None] - 0.5, where)[0]
        made.cards.append((one.card, corners))
    picture = cv2.GaussianBlur(flat, (0, 0), sharp)
    made.picture = grained(np.clip(picture, 0, 255).astype(np.uint8), rng, grain)
    if jpeg:
        _, packed = cv2.imencode(".jpg", made.picture, [cv2.IMWRITE_JPEG_QUALITY, jpeg])
        made.picture = np.asarray(cv2.imdecode(packed, cv2.IMREAD_COLOR), np.uint8)
    return made


def _tilted(rng: random.Random, width: int, height: int, degrees: float) -> NDArray[np.float64]:
    """Return what a camera held askew makes of the bed; none for a scanner."""
    if not degrees:
        return np.eye(3)
    a, b = (np.deg2rad(degrees) * part for part in (rng.uniform(-1, 1), rng.choice((-1, 1))))
    far = 1.4 * max(width, height)
    x0, y0 = width / 2, height / 2
    points = []
    rim = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    for x, y in rim:
        u, v = x - x0, y - y0
        x1, z1 = u * np.cos(a), u * np.sin(a)
        y2, z2 = v * np.cos(b) - z1 * np.sin(b), v * np.sin(b) + z1 * np.cos(b)
        points.append((x0 + far * x1 / (far + z2), y0 + far * y2 / (far + z2)))
    return np.asarray(cv2.getPerspectiveTransform(rim, np.array(points, np.float32)))


def _lay(
    rng: random.Random, flat: NDArray[np.float32], face: Picture, mask: Picture, where: NDArray[np.float64], dpi: int,
    one: Laid,
) -> None:  # fmt: skip
    """Lay a card on the bed, with its shadow and its sleeve."""
    part, where = _part(flat, where, dpi)
    size = (part.shape[1], part.shape[0])
    step = FINE / dpi
    soft = cv2.GaussianBlur(face, (0, 0), 0.45 * step)
    on = cv2.warpPerspective(cv2.GaussianBlur(mask, (0, 0), 0.45 * step), where, size).astype(np.float32) / 255
    seen = cv2.warpPerspective(soft, where, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    shift = np.array([[1, 0, rng.uniform(0.5, 2.5) * dpi / 300], [0, 1, rng.uniform(1, 3) * dpi / 300]])
    shadow = cv2.warpAffine(cv2.GaussianBlur(on, (0, 0), 1.5 * dpi / 300 + 0.3), shift, size)
    part *= 1 - rng.uniform(0.08, 0.3) * shadow[:, :, None]
    part[:] = part * (1 - on[:, :, None]) + seen * on[:, :, None]
    if one.sleeve:
        rim = (
            np.array([[-1.0, -1.2], [WIDTH + 1.2, -1.2], [WIDTH + 1.2, HEIGHT + 4], [-1.0, HEIGHT + 4]]) / 25.4 * FINE
        )
        corners = cv2.perspectiveTransform(rim[None], where)[0]
        film = np.zeros(part.shape[:2], np.float32)
        cv2.fillPoly(film, [np.round(corners * 8).astype(np.int32)], 1.0, cv2.LINE_AA, 3)
        edge = np.clip(film - cv2.erode(film, np.ones((3, 3))), 0, 1)
        part += 9 * film[:, :, None] + 22 * edge[:, :, None]


def chance_card(rng: random.Random, bed_name: str = "grey", *, bleed: bool = False, thin: bool = False) -> Card:
    """Return a card as chance has it; its border is not of the bed's own colour."""
    colours = (
        (240, 240, 238),
        (30, 40, 180),
        (160, 60, 40),
        (20, 20, 22),
        (70, 140, 60),
        (40, 170, 220),
        (128, 90, 130),
    )
    if bleed:
        return Card(None, (0, 0, 0), rounded=rng.choice((0.0, 0.0, 3.0)))
    low, high = (0.6, 1.2) if thin else (2.0, 5.5)
    across, down = rng.uniform(low, high) * 2, rng.uniform(low, high) * 2
    left, top = across * rng.uniform(0.3, 0.7), down * rng.uniform(0.3, 0.7)
    borders = tuple(round(one * MM) / MM for one in (left, across - left, top, down - top))
    seen = [one for one in colours if max(abs(a - b) for a, b in zip(one, BEDS[bed_name], strict=True)) > 8]
    return Card(
        borders, rng.choice(seen), rounded=rng.choice((0.0, 0.0, 3.0)),
        key_line=rng.choice((0.0, 0.0, 0.15, 0.25)), drift=rng.choice((0.0, 0.0, 14.0)),
    )  # fmt: skip


def chance_scan(
    rng: random.Random,
    kind: str = "one",
    bed_name: str = "",
    *,
    bleed: bool = False,
    thin: bool = False,
    dpi: int = 300,
    worn: float = 0.0,
) -> Scan:
    """Return a scan as chance has it: ``one``, ``nine``, ``sleeve``, ``touching``, ``photo``; a share is worn."""
    some = rng.choice(tuple(BEDS)) if kind == "photo" else rng.choice(("lid", "grey", "black"))
    bed_name = bed_name or some
    turned = lambda: rng.uniform(-3, 3)  # noqa: E731

    def make() -> Card:
        card = chance_card(rng, bed_name, bleed=bleed, thin=thin)
        if rng.random() < worn:
            places = rng.sample((*CORNERS, *SIDES), rng.randint(1, 3))
            card.dings = [Ding(place, rng.uniform(0.5, 2.0)) for place in places]
        return card

    if kind == "nine":
        laid = [Laid(make(), 40 + 72 * (at % 3), 55 + 98 * (at // 3), turned() * 0.6) for at in range(9)]
        return scan(rng, laid, (224, 306), dpi, bed_name)
    if kind == "touching":
        turn = rng.uniform(-2, 2)
        a = np.deg2rad(turn)
        laid = [Laid(make(), 50 + WIDTH * at * np.cos(a), 60 + WIDTH * at * np.sin(a), turn) for at in range(2)]
        return scan(rng, laid, (164, 120), dpi, bed_name)
    one = Laid(make(), 50 + rng.uniform(-3, 3), 62 + rng.uniform(-3, 3), turned(), sleeve=kind == "sleeve")
    return scan(rng, [one], (100, 124), dpi, bed_name, tilt=rng.uniform(2, 8) if kind == "photo" else 0.0)


def _part(
    flat: NDArray[np.float32], where: NDArray[np.float64], dpi: int
) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    """Return the part of the bed a card and its sleeve need, and where the card is in it."""
    rim = np.array([[-2, -2], [WIDTH + 2, -2], [WIDTH + 2, HEIGHT + 5], [-2, HEIGHT + 5]]) / 25.4 * FINE
    corners = cv2.perspectiveTransform(rim[None], where)[0]
    x, y = np.maximum(0, corners.min(axis=0).astype(int) - 8)
    right, down = corners.max(axis=0).astype(int) + 8
    return flat[y:down, x:right], np.array([[1, 0, -x], [0, 1, -y], [0, 0, 1]]) @ where
