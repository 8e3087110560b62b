"""Several cards on one scan: told apart, matched to copies by the user, each kept as a scan of its own."""

from __future__ import annotations

import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError, NotFoundError
from botin.core.looking.measured import Measured
from botin.desk.looking.scans import FACES, cut_of, keep_scan
from botin.desk.workbench import Workbench
from botin.exchange.keeping.picture import clean_photo
from botin.exchange.looking.pixels import read_pixels
from botin.store.copies.copies import get_copy
from botin.store.unit import finish

MOST = 12
ROOM_MM = 3.0
"""Bed about a card that is kept with it, millimetres."""


@dataclass(frozen=True, slots=True)
class SheetCard:
    """A card of a sheet: its part of the scan, what was measured there, and the card straightened."""

    part: bytes
    measured: Measured
    cut_name: str
    cut: bytes


def read_sheet(data: bytes) -> list[SheetCard]:
    """Tell the cards of a scan apart and measure them, in reading order.

    Raises
    ------
    ImportRefusedError, UnreadableFileError
        When it is no picture, or no card or too many are on it.
    """
    from botin.core.looking.measure import measure_picture  # noqa: PLC0415  (slow to import)

    pixels = read_pixels(data)
    cards = measure_picture(pixels.rgb, pixels.dpi)
    if not cards or len(cards) > MOST:
        what = f"{len(cards)} cards were" if cards else "No card was"
        message = f"{what} found on the scan. Lay one to {MOST} cards on one colour, with some room between them."
        raise ImportRefusedError(message)
    return [_card(pixels.rgb, card, pixels.dpi) for card in cards]


def _card(rgb: NDArray[np.uint8], card: Measured, dpi: float | None) -> SheetCard:
    from PIL import Image  # noqa: PLC0415  (slow to import)

    corners = np.array(card.corners)
    room = ROOM_MM * card.per_mm
    left, top = np.maximum(0, np.floor(corners.min(axis=0) - room)).astype(int)
    right, bottom = np.ceil(corners.max(axis=0) + room).astype(int)
    out = io.BytesIO()
    more = {"dpi": (dpi, dpi)} if dpi else {}
    Image.fromarray(rgb[top:bottom, left:right]).save(out, "JPEG", quality=93, subsampling=0, **more)
    moved = replace(card, corners=tuple((x - float(left), y - float(top)) for x, y in card.corners))
    return SheetCard(out.getvalue(), moved, *cut_of(rgb, card))


def keep_sheet(
    session: Session, bench: Workbench, side: str, cards: Sequence[SheetCard], chosen: Mapping[int, int]
) -> int:
    """Keep the cards of a sheet with the copies they are: all that were chosen, or none.

    Parameters
    ----------
    chosen : mapping
        Copy by the place of the card on the sheet.

    Raises
    ------
    ImportRefusedError
        When none was chosen, or one copy twice.
    NotFoundError
        When a copy is not there, or the side is none.
    """
    if side not in FACES:
        message = f"A card has no side “{side[:20]}”. Choose front or back."
        raise NotFoundError(message)
    if not chosen:
        message = "No copy was chosen. Say for at least one card which copy it is."
        raise ImportRefusedError(message)
    if len(set(chosen.values())) < len(chosen):
        message = "One copy was chosen for two cards. Each card on the scan is a copy of its own."
        raise ImportRefusedError(message)
    for copy_id in chosen.values():
        get_copy(session, copy_id)
    for at, copy_id in chosen.items():
        card, photo = cards[at], clean_photo(cards[at].part)
        measured = json.dumps({**card.measured.document(), "per_mm": card.measured.per_mm})
        keep_scan(session, bench, (copy_id, side), photo, (card.cut_name, card.cut), measured)
    finish(session)
    return len(chosen)
