"""What was taken for a heading or a card and is none: seen when all of its source is read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from botin.exchange.catalog.cardtext import begins_small
from botin.exchange.notes import Status

if TYPE_CHECKING:
    from botin.exchange.catalog.sorting import Sorting


def drop_titles(sorting: Sorting) -> None:
    """A heading without cards right above another, before all cards of its source, is the product's name."""
    for section in list(sorting.sections.values()):
        if section.cards or section.named or section.expected or section.run or not section.line:
            continue
        sheet, line = sorting.places[section.line - 1]
        others = [one for one in sorting.sections.values() if one is not section and one.line]
        after = [one for one in others if sorting.places[one.line - 1][0] == sheet]
        first = bool(after) and all(sorting.places[one.line - 1][1] > line for one in after)
        said = any(row.get("section") == section.key for row in sorting.rows["parallels"])
        pending = any(one.section in (section.key, section.label) for one in sorting.pending)
        if first and not said and not pending and not sorting.titles:
            del sorting.sections[section.key]
            sorting.titles.append((section.line, section.label))
            sorting.note(section.line, Status.GUESSED, "no card of it follows: taken for a title")


def drop_small(sorting: Sorting) -> None:
    """A name that begins small among names in capitals is none: “16 pt stock” is no card 16."""
    names = [card.name for section in sorting.sections.values() for _, card, _ in section.cards]
    small = sum(name[:1].islower() for name in names)
    if not small or small * 3 > len(names):
        return
    for section in sorting.sections.values():
        for place, card, _ in [item for item in section.cards if begins_small(item[1].name)]:
            sorting.note(place, Status.NOT, f"“{card.name[:40]}” begins small, the other names do not: no card")
        section.cards = [item for item in section.cards if not begins_small(item[1].name)]
        section.numbers = {card.number for _, card, _ in section.cards}
