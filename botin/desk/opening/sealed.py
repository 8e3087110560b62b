"""The sealed check of a box: what was looked at, photos, and the opinion that stays with it."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.errors import NotFoundError
from botin.core.opening.sealed import LOOKS, Opinion, Wrap, opinion
from botin.desk.photofiles import laid_photo, lay_photo
from botin.desk.workbench import Workbench
from botin.exchange.keeping.picture import Photo
from botin.store.models import BoxRecord, PhotoRecord
from botin.store.opening.packs import has_photo
from botin.store.unit import finish


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


def made_check(wrap: str, found: dict[str, str], note: str) -> SealedCheck:
    """Return a check as it was filled in; what does not belong to the kind of wrap is left out."""
    kind = Wrap(wrap) if wrap in set(Wrap) else Wrap.NONE
    kept = {look.key: found[look.key] for look in LOOKS[kind] if found.get(look.key) in ("normal", "warning")}
    return SealedCheck(kind, kept, note.strip()[:2000], opinion(kind, kept))


def save_check(
    session: Session, bench: Workbench, box: BoxRecord, made: SealedCheck, photos: Sequence[Photo] = ()
) -> None:
    """Note a check and its photos with a box: all of it or nothing."""
    kept = {"wrap": made.wrap.value, "found": made.found, "note": made.note}
    box.sealed_check = json.dumps(kept, ensure_ascii=False)
    for photo in photos:
        _add_photo(session, bench, box, photo)
    finish(session)


def _add_photo(session: Session, bench: Workbench, box: BoxRecord, photo: Photo) -> None:
    """Keep a photo with its box; the same one again is there already."""
    lay_photo(bench, photo.name, photo.data)
    if has_photo(session, box.id, photo.name):
        return
    session.add(PhotoRecord(box_id=box.id, file=photo.name, mime=photo.mime, added_at=bench.now()))
    session.flush()


def photo_bytes(session: Session, bench: Workbench, photo_id: int) -> tuple[bytes, PhotoRecord]:
    """Return a photo and what is known of it.

    Raises
    ------
    NotFoundError
        When it is not there.
    """
    found = session.get(PhotoRecord, photo_id)
    if found is None:
        message = "That photo is not there."
        raise NotFoundError(message)
    return laid_photo(bench, found.file), found
