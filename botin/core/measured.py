"""A box as the logs show it: printed averages moved by what was counted, and spread as it was found to be.

Promises stay as they are stated: a box that breaks one is a claim, not a new rate.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from botin.core.counts import CountLaw, average_law
from botin.core.learning import PerBox, Seeding
from botin.core.lines import PROMISED, BoxModel, Line

ENOUGH_BOXES = 4
"""From so many logged boxes on the measured averages are proposed: then they weigh as much as the print; a choice."""


@dataclass(frozen=True, slots=True)
class Measured:
    """What the logs say of a line: its average with its interval, and how it is spread."""

    average: PerBox
    seeding: Seeding


def measured_model(model: BoxModel, found: Mapping[tuple[str, str, str], Measured]) -> BoxModel:
    """Return the lines with the averages and the spread that were measured; the base gives way.

    Parameters
    ----------
    model : BoxModel
        As printed.
    found : mapping
        What was measured, by the key of a line; lines under a promise are left as they are.
    """
    lines = [_measured(line, found.get(line.key)) for line in model.lines]
    moved = sum(1 for old, new in zip(model.lines, lines, strict=True) if new is not old)
    if not moved:
        return model
    room = model.format.cards_per_box - math.fsum(
        line.expected or 0.0 for line in lines if line.in_packs and not line.is_rest
    )
    rest = sum(len(line.cards) for line in lines if line.is_rest)
    filled = tuple(
        replace(line, expected=max(0.0, room) * len(line.cards) / rest) if line.is_rest else line for line in lines
    )
    boxes = max(one.average.boxes for one in found.values())
    clumped = sum(1 for line in lines if (one := found.get(line.key)) and one.seeding is Seeding.CLUMPED)
    notes = [f"{moved} averages moved by what {boxes} logged boxes held; promises stay as stated"]
    if clumped:
        notes.append(
            f"{clumped} clumped lines are spread at random here, which says too little of their ups and downs"
        )
    kept = [note for note in model.assumptions if not note.startswith("base fills")]
    kept += [f"base fills what is left of {model.format.cards_per_box} cards: {room:.1f} on average"] if rest else []
    return BoxModel(model.format, filled, model.joint, (*kept, *notes))


def _measured(line: Line, found: Measured | None) -> Line:
    if found is None or line.is_rest or line.law is None or line.promise in PROMISED or line.case_law is not None:
        return line
    law = _law(line.law, found)
    return line if law == line.law else replace(line, law=law, expected=law.mean)


def _law(printed: CountLaw, found: Measured) -> CountLaw:
    """Return the printed law at its measured mean; evenly spread when it was found to be."""
    average = found.average
    if not printed.binomials and not printed.poisson and average.low <= printed.mean <= average.high:
        return printed  # a fixed slot that the logs do not contradict
    if found.seeding is Seeding.EVEN:
        return average_law(average.mean, "even")
    trials = sum(n for n, _ in printed.binomials)
    one_each = len(printed.binomials) == 1 and not printed.fixed and not printed.poisson
    if found.seeding is not Seeding.CLUMPED and one_each and trials > 1 and average.mean <= trials:
        return CountLaw(binomials=((trials, average.mean / trials),))
    return average_law(average.mean, "random")
