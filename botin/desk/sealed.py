"""The sealed check of a box: what was looked at, photos, and the opinion that stays with it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError, NotFoundError
from botin.core.sealed import LOOKS, Opinion, Wrap, opinion
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord, PhotoRecord

MAX_PHOTO = 12 * 1024 * 1024
_MAGIC = {
    b"\xff\xd8\xff": ("image/jpeg", "jpg"),
    b"\x89PNG\r\n\x1a\n": ("image/png", "png"),
    b"RIFF": ("image/webp", "webp"),
}


@dataclass(frozen=True, slots=True)
class SealedCheck:
    """A check as it was noted."""

    wrap: Wrap
    found: dict[str, str]
    note: str
    opinion: Opinion


def read_check(box: BoxRecord) -> SealedCheck:
    """Return the check of a box; one that was never made has nothing in it."""
    kept = json.loads(box.sealed_check) if box.sealed_check else {}
    wrap = Wrap(kept.get("wrap", Wrap.WRAPPED.value))
    found = dict(kept.get("found", {}))
    return SealedCheck(wrap, found, kept.get("note", ""), opinion(wrap, found))


def save_check(session: Session, box: BoxRecord, wrap: str, found: dict[str, str], note: str) -> SealedCheck:
    """Note a check; what does not belong to the kind of wrap is left out."""
    kind = Wrap(wrap) if wrap in set(Wrap) else Wrap.NONE
    kept = {look.key: found[look.key] for look in LOOKS[kind] if found.get(look.key) in ("normal", "warning")}
    box.sealed_check = json.dumps(
        {"wrap": kind.value, "found": kept, "note": note.strip()[:2000]}, ensure_ascii=False
    )
    session.commit()
    return read_check(box)


def add_photo(session: Session, bench: Workbench, box: BoxRecord, data: bytes) -> PhotoRecord:
    """Keep a photo of the box in the data directory.

    Raises
    ------
    ImportRefusedError
        When it is no JPEG, PNG or WebP, or too large.
    """
    kind = next((kind for magic, kind in _MAGIC.items() if data.startswith(magic)), None)
    if kind is None or len(data) > MAX_PHOTO:
        message = f"A photo is a JPEG, PNG or WebP of at most {MAX_PHOTO // 1024 // 1024} MB. Save it as one of them."
        raise ImportRefusedError(message)
    if bench.home is None:
        message = "This Botin has no data directory for photos. Start it with: botin serve"
        raise ImportRefusedError(message)
    made = PhotoRecord(box_id=box.id, file="", mime=kind[0], added_at=bench.now())
    session.add(made)
    session.flush()
    made.file = f"box-{box.id}-{made.id}.{kind[1]}"
    folder = bench.home / "photos"
    folder.mkdir(exist_ok=True, mode=0o700)
    (folder / made.file).write_bytes(data)
    session.commit()
    return made


def photos_of(session: Session, box_id: int) -> Sequence[PhotoRecord]:
    """Return the photos of a box."""
    return session.scalars(select(PhotoRecord).where(PhotoRecord.box_id == box_id).order_by(PhotoRecord.id)).all()


def photo_bytes(session: Session, bench: Workbench, photo_id: int) -> tuple[bytes, str]:
    """Return a photo and its type.

    Raises
    ------
    NotFoundError
        When it is not there.
    """
    found = session.get(PhotoRecord, photo_id)
    path = bench.home / "photos" / found.file if found and bench.home else None
    if found is None or path is None or not path.is_file():
        message = "That photo is not there."
        raise NotFoundError(message)
    return path.read_bytes(), found.mime
