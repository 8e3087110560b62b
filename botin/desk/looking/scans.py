"""Scans and photos of a copy: taken in, measured, cut out; rulers as the user puts them."""

from __future__ import annotations

import hashlib
import io
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError, NotFoundError
from botin.core.grading.centering import Borders
from botin.core.looking.measured import Measured
from botin.desk.photofiles import lay_photo
from botin.desk.workbench import Workbench
from botin.exchange.keeping.picture import Photo, clean_photo
from botin.exchange.looking.pixels import read_pixels
from botin.store.copies.copies import get_copy
from botin.store.grading.looks import scans_of
from botin.store.models_copies import ScanRecord
from botin.store.unit import finish

FACES = ("front", "back")
TALLEST = 1400
"""Points of the long side of a straightened card as it is kept to be looked at."""


@dataclass(frozen=True, slots=True)
class Face:
    """The latest scan of a side: what was measured on it, and the borders that count."""

    scan: ScanRecord
    measured: Mapping[str, Any]
    borders: Borders | None
    moved: bool


def add_scan(
    session: Session, bench: Workbench, copy_id: int, side: str, data: bytes, *, simulated: bool = False
) -> ScanRecord:
    """Take in a scan or photo of one side of a copy and measure it.

    Raises
    ------
    ImportRefusedError, UnreadableFileError
        When it is no picture, or there is not exactly one card on it; then nothing is kept.
    NotFoundError
        When the copy is not there, or the side is none.
    """
    get_copy(session, copy_id)
    if side not in FACES:
        message = f"A card has no side “{side[:20]}”. Choose front or back."
        raise NotFoundError(message)
    pixels = read_pixels(data)
    photo = _photo_of(data, pixels.rgb, pixels.dpi)
    card = _only_card(pixels.rgb, pixels.dpi)
    measured = json.dumps({**card.document(), "notes": [*pixels.notes, *card.notes], "per_mm": card.per_mm})
    made = keep_scan(session, bench, (copy_id, side), photo, cut_of(pixels.rgb, card), measured, simulated=simulated)
    finish(session)
    return made


def keep_scan(
    session: Session,
    bench: Workbench,
    which: tuple[int, str],
    photo: Photo,
    cut: tuple[str, bytes],
    measured: str,
    *,
    simulated: bool = False,
) -> ScanRecord:
    """Keep a scan of a copy and a side with its straightened card; who calls finishes."""
    lay_photo(bench, photo.name, photo.data)
    lay_photo(bench, *cut)
    made = ScanRecord(
        copy_id=which[0], side=which[1], file=photo.name, mime=photo.mime, cut=cut[0], measured=measured,
        simulated=simulated, added_at=bench.now(),
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def _photo_of(data: bytes, rgb: NDArray[np.uint8], dpi: float | None) -> Photo:
    """Return the picture as it is kept: a photo point for point, else as JPEG; nothing beside it."""
    from PIL import Image  # noqa: PLC0415  (slow to import)

    try:
        return clean_photo(data)
    except ImportRefusedError:
        out = io.BytesIO()
        more = {"dpi": (dpi, dpi)} if dpi else {}
        Image.fromarray(rgb).save(out, "JPEG", quality=93, subsampling=0, **more)
        return clean_photo(out.getvalue())


def _only_card(rgb: NDArray[np.uint8], dpi: float | None) -> Measured:
    from botin.core.looking.measure import measure_picture  # noqa: PLC0415  (slow to import)

    cards = measure_picture(rgb, dpi)
    if not cards:
        message = "No card was found on the picture: it needs a bed of one colour about it. Nothing was kept."
        raise ImportRefusedError(message)
    if len(cards) > 1:
        message = f"There are {len(cards)} cards on the picture: which one is it? Give one with this card alone."
        raise ImportRefusedError(message)
    return cards[0]


def cut_of(rgb: NDArray[np.uint8], card: Measured) -> tuple[str, bytes]:
    """Return the straightened card as a picture, and its name."""
    from PIL import Image  # noqa: PLC0415  (slow to import)

    from botin.core.looking.measure import straight_card  # noqa: PLC0415

    picture = Image.fromarray(straight_card(rgb, card))
    picture.thumbnail((TALLEST, TALLEST))
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=90)
    data = out.getvalue()
    return f"{hashlib.sha256(data).hexdigest()[:32]}.jpg", data


def faces_of(session: Session, copy_id: int) -> dict[str, Face]:
    """Return the latest scan of each side of a copy."""
    return {row.side: _face(row) for row in reversed(scans_of(session, copy_id))}


def _face(row: ScanRecord) -> Face:
    measured = json.loads(row.measured)
    rulers = json.loads(row.rulers) if row.rulers else measured.get("borders")
    return Face(row, measured, Borders(**rulers) if rulers else None, bool(row.rulers))


def get_scan(session: Session, scan_id: int) -> ScanRecord:
    """Read a scan.

    Raises
    ------
    NotFoundError
        When there is none.
    """
    found = session.get(ScanRecord, scan_id)
    if found is None:
        message = "That scan is not there any more."
        raise NotFoundError(message)
    return found


def put_rulers(session: Session, scan: ScanRecord, borders: Borders | None) -> None:
    """Keep the borders as the user put the rulers; None takes the measured ones again."""
    measured = json.loads(scan.measured).get("borders")
    if borders is None or (measured and borders == Borders(**measured)):
        scan.rulers = ""
    else:
        scan.rulers = json.dumps(borders.by_side())
    finish(session)
