"""Small reads that a page asks for again and again are made once for it."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import TypeVar

from sqlalchemy.orm import Session

Made = TypeVar("Made")
ONCE = "once"


def read_once(session: Session) -> None:
    """From now on `once` keeps what it reads, as long as the session lives: for a page that only looks."""
    session.info[ONCE] = {}


def once(session: Session, key: Hashable, read: Callable[[], Made]) -> Made:
    """Return what was read for a key before, where the session is one that only looks; else read it."""
    kept: dict[Hashable, Made] | None = session.info.get(ONCE)
    if kept is None:
        return read()
    if key not in kept:
        kept[key] = read()
    return kept[key]
