"""Lists of what a product has, with no card named: sets, finishes of sets below them, and how many cards each has."""

from __future__ import annotations

import re
from collections.abc import Sequence

from botin.exchange.catalog.columnwords import bare
from botin.exchange.catalog.kinds import guess_kind
from botin.exchange.catalog.runtext import take_run
from botin.exchange.catalog.sorting import Sorting

_LITTLE = re.compile(r"\s+(?:set|cards?|checklist)$", re.IGNORECASE)
_PART = re.compile(r"(?:rookies?|veterans?|legends?|short prints?|sps?)", re.IGNORECASE)


def open_listed(sorting: Sorting, rows: Sequence[tuple[int, str, str]]) -> None:
    """Open a section for each name of a list that is no finish of another, where no card is known yet.

    Parameters
    ----------
    rows : sequence of (place, name, count)
        The names in their order, and how many cards each has as far as that is said.
    """
    if any(section.cards for section in sorting.sections.values()):
        return
    names = [(place, take_run(name)[0], count) for place, name, count in rows if name]
    sets = {bare(_LITTLE.sub("", name)) for _, name, _ in names}
    for place, name, count in names:
        if not _is_finish(bare(name), sets):
            sorting.section(name, place, int(count) if count.isdecimal() else None)
    sorting.current = ""


def _is_finish(name: str, sets: set[str]) -> bool:
    """Whether a name is that of a set and goes on with words of a finish: “Base Copper” beside “Base set”."""
    homes = [one for one in sets if one and name.startswith(f"{one} ") and _LITTLE.sub("", name) != one]
    rest = name.removeprefix(max(homes, key=len)).strip() if homes else ""
    return bool(rest) and not guess_kind(rest)[1] and _PART.fullmatch(rest) is None
