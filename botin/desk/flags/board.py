"""The user's own word on flags: it stands before what was worked out."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from sqlalchemy.orm import Session

from botin.core.errors import NotFoundError
from botin.core.flags.ways import Go
from botin.store.flags.board import set_flags
from botin.store.flags.kept import note_kept
from botin.store.unit import finish


def choose(session: Session, ids: Sequence[int], word: str, day: date) -> int:
    """Set the user's own flag for some versions from a day on; empty takes it back.

    Raises
    ------
    NotFoundError
        When the word is no route.
    """
    if word and word not in set(Go):
        message = f"“{word}” is no flag. Choose one of {', '.join(Go)}."
        raise NotFoundError(message)
    count, cards = set_flags(session, ids, word)
    note_kept(session, day, cards)
    finish(session)
    return count
