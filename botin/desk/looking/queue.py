"""What to look at first: the copies whose flag a look would change, by what the look earns."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.flags.ways import Go
from botin.store.flags.to_look import ToLook, cards_to_look_at, count_by_flag
from botin.store.grading.looks import looked_at


@dataclass(frozen=True, slots=True)
class Piles:
    """What to look at, and how many cards the other piles hold."""

    first: tuple[ToLook, ...]
    grade: tuple[ToLook, ...]
    more: int
    never: int
    looked: int


def piles(session: Session) -> Piles:
    """Return the three piles: think about it (a look would change the flag), grade it, never."""
    counts = count_by_flag(session)
    first, grade = (cards_to_look_at(session, word) for word in (Go.LOOK, Go.GRADE))
    other = sum(count for word, count in counts.items() if word not in (Go.LOOK, Go.GRADE))
    more = counts.get(Go.LOOK, 0) - len(first)
    return Piles(tuple(first), tuple(grade), max(0, more), other, looked_at(session))
