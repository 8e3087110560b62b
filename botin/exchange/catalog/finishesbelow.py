"""Finishes that stand below the cards in the same table: a lone “Parallels”, then a finish a row with its run."""

from __future__ import annotations

import re
from collections.abc import Sequence

from botin.exchange.catalog.blocks import Row, filled
from botin.exchange.catalog.cardtext import card_of
from botin.exchange.catalog.finishtext import parallels_in
from botin.exchange.catalog.formatstext import format_cells
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.oddstext import Rated, cell_rate
from botin.exchange.catalog.runtext import run_of, take_run
from botin.exchange.catalog.sorting import Pending, Sorting
from botin.exchange.notes import Status

LONGEST = 40
"""Characters of the name of a box at most (a choice)."""
_ODDS = re.compile(r"\W*(?:pack )?(?:odds|ratios?|quoten?|chancen?|cotes?)\s*:?", re.IGNORECASE)
WIDE = 3
"""Cells from which a row is a card (a choice)."""


def finishes_below(rows: Sequence[Row]) -> frozenset[int]:
    """Return the places of the rows that announce finishes or are such."""
    found, listing = set(), False
    for at, (place, cells) in enumerate(rows):
        given = filled(cells)
        following = filled(rows[at + 1][1]) if at + 1 < len(rows) else []
        listing = _announces(given) or _begins_list(given) or (listing and _is_finish(given, following))
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
    if _begins_list(given):
        given = given[1:]
    label, run = take_run(given[0])
    rates = [rate for cell in given[1:] if run_of(cell) is None and (rate := cell_rate(cell))]
    run = run or next((found for cell in given[1:] if (found := run_of(cell))), "")
    sorting.parallel(place, section.key, label, run)
    sorting.note(place, Status.UNDERSTOOD, f"finish {label}{f' /{run}' if run else ''} of {section.label}")
    for column, text, guess in rates:
        rated = Rated(label, column, text, guesses=(guess,) if guess else ())
        sorting.pending.append(Pending(place, rated, "", section.key, label))


def told_below(sorting: Sorting, place: int, cells: Sequence[str]) -> bool:
    """Take a row among cards that says the odds of their section, “Odds: | 1:8”, or how the product is boxed."""
    given = filled(cells)
    section = sorting.sections.get(sorting.current)
    rates = [cell_rate(cell) for cell in given[1:]]
    if section is not None and _ODDS.fullmatch(given[0]) and len(rates) == 1 and rates[0] is not None:
        column, text, guess = rates[0]
        rated = Rated("", column, text, guesses=(guess,) if guess else ())
        sorting.pending.append(Pending(place, rated, "", section.label, ""))
        return True
    packed = format_cells(", ".join(given), short=False) if len(given) > 1 else None
    if packed is None or len(packed["label"]) > LONGEST:
        return False
    sorting.add("formats", place, **packed)
    says = f"{packed['label']}: {packed['packs_per_box']} packs of {packed['cards_per_pack']}"
    sorting.note(place, Status.UNDERSTOOD, says)
    return True


def _announces(given: Sequence[str]) -> bool:
    said = parallels_in(given[0]) if len(given) == 1 else None
    return said == ("", [])


def _begins_list(given: Sequence[str]) -> bool:
    """Whether a row begins with “Parallels:” and goes on with the first of them."""
    return len(given) > 1 and parallels_in(given[0]) == ("", []) and _says_finish(given[1:])


def _says_finish(given: Sequence[str]) -> bool:
    """Whether a row is a name with a run or a rate behind it."""
    said = [run_of(cell) is not None or cell_rate(cell) is not None for cell in given[1:]]
    return given[0][:1].isalpha() and all(said) and (bool(said) or bool(take_run(given[0])[1]))


def _is_finish(given: Sequence[str], following: Sequence[str]) -> bool:
    """Whether a row is a name with its run, or a name alone that is no heading of the cards below it."""
    if not given or not given[0][:1].isalpha() or card_of(given[0]) is not None:
        return False
    if len(given) == 1:
        return bool(take_run(given[0])[1]) or (not guess_kind(given[0])[1] and len(following) < WIDE)
    return len(given) <= WIDE and _says_finish(given)
