"""Finishes that stand below the cards in the same table: a lone “Parallels”, then a finish a row with its run."""

from __future__ import annotations

from collections.abc import Sequence

from botin.exchange.catalog.blocks import Row, filled
from botin.exchange.catalog.cardtext import card_of
from botin.exchange.catalog.finishtext import parallels_in
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.runtext import run_of, take_run
from botin.exchange.catalog.sorting import Sorting
from botin.exchange.notes import Status

WIDE = 3
"""Cells from which a row is a card (a choice)."""


def finishes_below(rows: Sequence[Row]) -> frozenset[int]:
    """Return the places of the rows that announce finishes or are such."""
    found, listing = set(), False
    for at, (place, cells) in enumerate(rows):
        given = filled(cells)
        following = filled(rows[at + 1][1]) if at + 1 < len(rows) else []
        listing = _announces(given) or (listing and _is_finish(given, following))
        found |= {place} if listing else set()
    return frozenset(found)


def add_below(sorting: Sorting, place: int, cells: Sequence[str]) -> None:
    """Add the finish of such a row to the section in hand."""
    given = filled(cells)
    if not sorting.current:
        sorting.note(place, Status.NOT, "finishes before any card: put them below the cards they are of")
        return
    section = sorting.sections[sorting.current]
    if _announces(given):
        sorting.note(place, Status.UNDERSTOOD, f"finishes of {section.label} follow")
        return
    label, run = take_run(given[0])
    run = run or (run_of(given[1]) if len(given) > 1 else "") or ""
    sorting.parallel(place, section.key, label, run)
    sorting.note(place, Status.UNDERSTOOD, f"finish {label}{f' /{run}' if run else ''} of {section.label}")


def _announces(given: Sequence[str]) -> bool:
    said = parallels_in(given[0]) if len(given) == 1 else None
    return said == ("", [])


def _is_finish(given: Sequence[str], following: Sequence[str]) -> bool:
    """Whether a row is a name with its run, or a name alone that is no heading of the cards below it."""
    if not given or not given[0][:1].isalpha() or card_of(given[0]) is not None:
        return False
    if len(given) == 1:
        return bool(take_run(given[0])[1]) or (not guess_kind(given[0])[1] and len(following) < WIDE)
    return len(given) < WIDE and run_of(given[1]) is not None
