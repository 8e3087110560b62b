"""A box as the logs show it: what is printed, mended where the logs contradict it, spread as it was found to be.

A few boxes without a one-of-one say nothing against its odds, and one with it says little for better ones; so a
printed average only moves when the counts are too unlikely under it. Promises stay as they are stated: a box that
breaks one is a claim, not a new rate.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from botin.core.counts import CountLaw, average_law, learned_law
from botin.core.insight.learning import LEVEL, PerBox, Seeding
from botin.core.odds.countlaws import PROMISED
from botin.core.odds.lines import UNPRINTED, BoxModel, Line
from botin.core.odds.rowrates import LineKey

ENOUGH_BOXES = 4
"""From so many logged boxes on they are asked: then they weigh as much as the print; a choice."""


@dataclass(frozen=True, slots=True)
class Measured:
    """What the logs say of a line.

    Attributes
    ----------
    average : PerBox
        Its average, moved by the logs.
    seeding : Seeding
        How it is spread over the boxes.
    surprise : float
        Chance of counts as far from the print, corrected for all lines looked at.
    counts : tuple of int
        What each box held: they decide between the schools of an average.
    """

    average: PerBox
    seeding: Seeding
    surprise: float = 1.0
    counts: tuple[int, ...] = ()

    @property
    def contradicts(self) -> bool:
        """Whether the counts are too unlikely under the print."""
        return self.surprise < LEVEL


def measured_model(model: BoxModel, found: Mapping[tuple[str, str, str], Measured]) -> BoxModel:
    """Return the lines as printed, mended by what was measured; the base gives way.

    Parameters
    ----------
    model : BoxModel
        As printed.
    found : mapping
        What was measured, by the key of a line; lines under a promise are left as they are.
    """
    if not found:
        return model
    lines = [_measured(line, found.get(line.key)) for line in model.lines]
    room = model.format.cards_per_box - math.fsum(
        line.expected or 0.0 for line in lines if line.in_packs and not line.is_rest
    )
    rest = sum(len(line.cards) for line in lines if line.is_rest)
    filled = tuple(
        replace(line, expected=max(0.0, room) * len(line.cards) / rest) if line.is_rest else line for line in lines
    )
    return replace(model, lines=filled, assumptions=_notes(model, lines, found, room if rest else None))


def _notes(
    model: BoxModel, lines: list[Line], found: Mapping[tuple[str, str, str], Measured], room: float | None
) -> tuple[str, ...]:
    boxes = max(one.average.boxes for one in found.values())
    pairs = [(old, new) for old, new in zip(model.lines, lines, strict=True) if new is not old]
    moved = [new for old, new in pairs if new.expected != old.expected]
    learned = {line.key for line in lines if line.printed == UNPRINTED and line.key in found}
    notes = [
        note for note in model.assumptions
        if not note.startswith("base fills") and not _speaks_of(model, note, learned)
    ]  # fmt: skip
    if room is not None:
        notes.append(f"base fills what is left of {model.format.cards_per_box} cards: {room:.1f} on average")
    still = [f"{line.section.label} {line.parallel}".strip() for line in lines if line.expected is None]
    notes += [f"nothing bounds how often these come, so they count 0: {', '.join(still)}"] if still else []
    names = ", ".join(f"{line.section.label} {line.parallel}".strip() for line in moved)
    notes.append(f"{boxes:g} logged boxes moved {names}" if moved else f"{boxes:g} logged boxes agree with the print")
    spread = len(pairs) - len(moved)
    notes += [f"{spread} lines spread as the boxes had them"] if spread else []
    return tuple(notes)


def _speaks_of(model: BoxModel, note: str, keys: set[LineKey]) -> bool:
    """Whether a note tells what an unprinted line was taken to be, though boxes have shown it since."""
    if model.box_law is None or "odds not printed" not in note:
        return note.startswith("nothing bounds")
    return any(note.startswith(f"{model.box_law.words(line.place)}: ") for line in model.lines if line.key in keys)


def _measured(line: Line, found: Measured | None) -> Line:
    if found is None or line.is_rest or line.promise in PROMISED or line.case_law is not None:
        return line
    if line.law is None or line.printed == UNPRINTED:
        unprinted = line.law is not None or line.expected is None
        law = average_law(found.average.mean, "random") if unprinted and found.average.boxes else None
    else:
        law = _law(line.law, found)
    return line if law is None or law == line.law else replace(line, law=law, expected=law.mean)


def _law(printed: CountLaw, found: Measured) -> CountLaw:
    """Return the printed law, at its measured mean where it is contradicted, spread as it was found to be."""
    mean = found.average.mean if found.contradicts else printed.mean
    if printed.schools:
        return learned_law(mean, found.counts) if found.contradicts else printed
    if found.seeding is Seeding.EVEN:
        return average_law(mean, "even")
    if found.seeding is Seeding.CLUMPED:
        return average_law(mean, "random")  # the widest law at hand; clumps are wider still
    if not found.contradicts:
        return printed
    trials = sum(n for n, _ in printed.binomials)
    one_each = len(printed.binomials) == 1 and not printed.fixed and not printed.poisson
    if one_each and trials > 1 and mean <= trials:
        return CountLaw(binomials=((trials, mean / trials),))
    return average_law(mean, "random")
