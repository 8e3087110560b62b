"""Backs of cards with number, name, a tiny code and lines of figures, laid out by product; a checklist with it."""

from __future__ import annotations

import random
from dataclasses import dataclass, field

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from botin.core.catalog.product import Card as ChecklistCard
from botin.core.catalog.product import Format, Kind, Parallel, Product, Section
from tests.scans.draw import HEIGHT, WIDTH, Picture, grained, px
from tests.scans.scan import BEDS, bed

FIRST = (
    "Orla",
    "Jorik",
    "Elise",
    "Dov",
    "Pia",
    "Koa",
    "Noor",
    "Bram",
    "Fenn",
    "Iska",
    "Hana",
    "Pim",
    "Tove",
    "Rasmus",
    "Sanne",
    "Matthis",
)
LAST = (
    "Thorsby",
    "Munro",
    "Ives",
    "Quill",
    "Fenwick",
    "Tamaki",
    "Ferro",
    "Dunsparrow",
    "Lune",
    "Glimhurst",
    "Roe",
    "Aske",
    "Lindt",
    "Vexley",
    "Okonedo",
    "Hallam",
)
PLACES = {
    "number": ((0.08, 0.05), (0.7, 0.05), (0.08, 0.86), (0.42, 0.05)),
    "code": ((0.06, 0.955), (0.6, 0.955), (0.35, 0.96)),
}


@dataclass
class Design:
    """Where a product prints what, and how large (millimetres)."""

    ink: tuple[int, int, int]
    paper: tuple[int, int, int]
    number: tuple[float, float]
    number_mm: float
    code: tuple[float, float]
    code_mm: float
    prefix: str
    figures: bool


@dataclass
class BackScan:
    """A scan of backs, and the truth of each card in reading order: section, number, finish, corners."""

    picture: Picture
    dpi: int
    truth: list[tuple[str, str, str]] = field(default_factory=list)


def product_of(rng: random.Random) -> Product:
    """Make a product: a base set, an insert with numbers in letters, a finish; each with a code on the back."""
    names = [f"{a} {b}" for a in FIRST for b in LAST]
    rng.shuffle(names)
    codes = rng.sample(range(100, 999), 4)
    sections = (
        Section("base", "Base", Kind.BASE, str(codes[0])),
        Section("sprint", "Sprint kings", Kind.INSERT, str(codes[1])),
        Section("signed", "Signed", Kind.AUTOGRAPH, str(codes[2])),
    )
    cards = [ChecklistCard("base", str(n), names[n - 1]) for n in range(1, 201)]
    cards += [ChecklistCard("sprint", f"SK-{n}", names[rng.randrange(200)]) for n in range(1, 21)]
    cards += [
        ChecklistCard("signed", f"SB-{a[0]}{b[0]}{n}", f"{a} {b}")
        for n, (a, b) in enumerate(zip(FIRST, LAST, strict=True), 1)
    ]
    return Product(
        "backs", "Backs 2026", formats=(Format("hobby", "Hobby", 24, 9),), sections=sections, cards=tuple(cards),
        parallels=(Parallel("copper", "Copper", "base", "", "", str(codes[3])),),
    )  # fmt: skip


def design_of(rng: random.Random) -> Design:
    """Return a layout as chance has it."""
    dark = rng.random() < 0.5
    ink, paper = ((30, 30, 36), (236, 232, 220)) if dark else ((240, 240, 236), (52, 46, 90))
    return Design(
        ink, paper, rng.choice(PLACES["number"]), rng.uniform(4.0, 8.0), rng.choice(PLACES["code"]), rng.uniform(1.1, 1.6),
        rng.choice(("CMP", "VR", "ML", "")), rng.random() < 0.7,
    )  # fmt: skip


def draw_back(rng: random.Random, product: Product, design: Design, card: ChecklistCard, finish: str = "") -> Picture:
    """Draw the back of a card."""
    width, height = px(WIDTH), px(HEIGHT)
    page = Image.new("RGB", (width, height), design.paper)
    pen = ImageDraw.Draw(page)

    def write(at: tuple[float, float], text: str, mm: float) -> None:
        pen.text((at[0] * width, at[1] * height), text, fill=design.ink, font=ImageFont.load_default(px(mm)))

    section = product.section_by_key[card.section]
    digits = next((row.back_code for row in product.parallels if row.key == finish), section.back_code)
    write(
        design.number,
        rng.choice(("", "", "No. ")) + card.number if design.number[1] > 0.5 else card.number,
        design.number_mm,
    )
    write((0.08, 0.17), card.name, rng.uniform(3.2, 4.6))
    write((0.08, 0.24), section.label, 2.4)
    if design.figures:
        for row in range(7):
            write(
                (0.08, 0.34 + 0.05 * row),
                f"20{10 + row}   {rng.randint(1, 60)}   {rng.randint(1, 400)}   {rng.uniform(0, 1):.3f}",
                2.2,
            )
    for row in range(3):
        write(
            (0.08, 0.72 + 0.035 * row),
            " ".join(
                rng.choice(("on the boards", "won the sprint", "in her second season", "by a wheel"))
                for _ in range(2)
            ),
            1.9,
        )
    write(design.code, f"{design.prefix}{rng.randint(10, 99)}{digits}", design.code_mm)
    pen.ellipse((width * 0.75, height * 0.45, width * 0.92, height * 0.57), outline=design.ink, width=6)
    return grained(np.ascontiguousarray(np.asarray(page)[:, :, ::-1]), rng, 3)


def scan_backs(rng: random.Random, product: Product, design: Design, count: int = 9, dpi: int = 300) -> BackScan:
    """Scan some backs laid out in rows of three; one in three lies upside down."""
    rows = (count + 2) // 3
    size = (224 if count > 1 else 90, 12 + 98 * rows)
    width, height = round(size[0] / 25.4 * dpi), round(size[1] / 25.4 * dpi)
    flat = bed(
        rng,
        rng.choice(("lid", "black", "grey")) if design.paper[0] < 128 else rng.choice(("black", "grey")),
        width,
        height,
    )
    made = BackScan(np.zeros(0, np.uint8), dpi)
    assert BEDS
    for at, card in enumerate(rng.sample(product.cards, count)):
        finish = "copper" if card.section == "base" and rng.random() < 0.15 else ""
        face = draw_back(rng, product, design, card, finish)
        turned = rng.uniform(-1.5, 1.5) + (180 if rng.random() < 1 / 3 else 0)
        _lay(flat, face, (40 + 72 * (at % 3), 54 + 98 * (at // 3)), turned, dpi)
        made.truth.append((card.section, card.number, finish))
    blurred = cv2.GaussianBlur(flat, (0, 0), rng.uniform(0.5, 0.8))
    made.picture = grained(np.clip(blurred, 0, 255).astype(np.uint8), rng, 2)
    return made


def _lay(flat: np.ndarray, face: Picture, at: tuple[float, float], turned: float, dpi: int) -> None:
    fine = 600
    s, a = dpi / fine, np.deg2rad(turned)
    middle = np.array([[s, 0, -face.shape[1] * s / 2], [0, s, -face.shape[0] * s / 2], [0, 0, 1]])
    turn = np.array([[np.cos(a), -np.sin(a), at[0] / 25.4 * dpi], [np.sin(a), np.cos(a), at[1] / 25.4 * dpi]])
    where = turn @ middle
    size = (flat.shape[1], flat.shape[0])
    on = cv2.warpAffine(np.full(face.shape[:2], 255, np.uint8), where, size).astype(np.float32)[:, :, None] / 255
    seen = cv2.warpAffine(cv2.GaussianBlur(face, (0, 0), 0.9), where, size).astype(np.float32)
    shadow = cv2.GaussianBlur(on[:, :, 0], (0, 0), 4)[:, :, None]
    flat *= 1 - 0.15 * shadow
    flat[:] = flat * (1 - on) + seen * on
