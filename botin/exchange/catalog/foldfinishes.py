"""Finishes that are listed as sections of their own, with the cards of the set once more: found by those cards."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from botin.core.catalog.product import Kind
from botin.exchange.catalog.columnwords import bare
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.notes import Status

if TYPE_CHECKING:
    from botin.exchange.catalog.sorting import OpenSection, Sorting


def fold_finishes(sorting: Sorting) -> None:
    """Make “Base Set Copper”, whose cards are those of “Base Set”, a finish of it.

    Only what the label adds is looked at: a word for a kind (Base Variations) keeps the section what it is.
    """
    for section in list(sorting.sections.values()):
        home = next((other for other in sorting.sections.values() if _is_finish_of(section, other)), None)
        if home is None:
            continue
        label = _label(section, home)
        line = section.line or section.cards[0][0]
        runs = {card.run for _, card, _ in section.cards}
        sized = section.sized if section.sized != str(len(section.cards)) else ""
        run = section.run or (runs.pop() if len(runs) == 1 else "") or sized
        key = sorting.parallel(line, home.key, label, run)
        whole = len(section.numbers) == len(home.numbers)
        for place, card, _ in section.cards:
            status = Status.UNDERSTOOD if whole else Status.GUESSED
            sorting.note(
                place, status, f"card {card.number} also as {label}" + ("" if whole else ", not all cards have it")
            )
        for pending in sorting.pending:
            if pending.section == section.key and not pending.parallel:
                sorting.pending[sorting.pending.index(pending)] = type(pending)(
                    pending.place, pending.rated, pending.format, home.key, key
                )
        del sorting.sections[section.key]


_CALLED = re.compile(
    r"^\s*(?:parallel|finish|version|farbe|couleur|color|colour)\w*\s*[:–—-]?\s+(?=\S)|\s+(?:parallel|finish)\w*\s*$",
    re.IGNORECASE,
)
"""A section that is called a parallel: “Parallel Silver”, “Silver parallel”."""


def _label(section: OpenSection, home: OpenSection) -> str:
    """Return what the label of a section adds to that of its set."""
    alike = bare(section.label).startswith(f"{bare(home.label)} ")
    rest = section.label[len(home.label) :] if alike else section.label
    return _CALLED.sub("", rest).strip(" -–—:,()/") or rest.strip(" -–—:,()/")


def _is_finish_of(section: OpenSection, other: OpenSection) -> bool:
    words, home = bare(section.label), bare(other.label)
    if section is other or not section.cards or not home:
        return False
    called = _CALLED.search(section.label) is not None and other.kind is Kind.BASE
    if not called and not words.startswith(f"{home} "):
        return False
    added = words.removeprefix(home).strip()
    if guess_kind(added)[1] or not section.numbers <= other.numbers:
        return False
    names = {card.number: card.name for _, card, _ in other.cards}
    return all(names.get(card.number) == card.name for _, card, _ in section.cards)
