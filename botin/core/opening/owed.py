"""What a half-opened box still owes, and the chance that the packs that are left hold it.

The count of a line in the whole box follows its law (exact, at least, average, odds). What is seen so far tells how
many are left by Bayes' rule: P(R = r | seen) ∝ P(X = seen + r) · P(seen of them lie in the opened packs).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
import numpy.typing as npt

from botin.core.counts import CountLaw, average_law
from botin.core.odds.countlaws import AT_LEAST, PROMISED
from botin.core.odds.lines import BoxModel, Line
from botin.core.odds.promised import Version, filled, is_open_ended, promise_law
from botin.core.odds.rowrates import LineKey

FloatArray = npt.NDArray[np.float64]
Placement = Literal["apart", "anywhere"]
School = Literal["each pack for itself", "one hit makes the next less likely"]
EACH: School = "each pack for itself"
EVENED: School = "one hit makes the next less likely"


@dataclass(frozen=True, slots=True)
class Opened:
    """How far a box (or a case, as one row of packs) is opened."""

    packs: int
    left: int


@dataclass(frozen=True, slots=True)
class Owed:
    """What one line or promise still owes.

    Attributes
    ----------
    promised : int
        What comes for certain in the whole; 0 for a line that only has odds.
    seen, left : int
        Cards seen, packs left.
    chance_any : float
        Chance of at least one in what is left.
    chance_next : float
        Chance of at least one in the next pack.
    expected : float
        How many are to be expected in what is left.
    possible : bool
        False when more was seen, or fewer packs are left, than its law allows: the print does not hold.
    open_ended : bool
        At least so many are guaranteed, and nobody says how often more come.
    counted : tuple of Version
        The cards that were counted for a promise.
    """

    label: str
    promised: int
    seen: int
    left: int
    chance_any: float
    chance_next: float
    expected: float
    possible: bool = True
    open_ended: bool = False
    counted: tuple[Version, ...] = ()

    @property
    def owed(self) -> int:
        """How many are promised and not seen yet."""
        return max(0, self.promised - self.seen)

    def words(self) -> str:
        """Say it as one would across the table."""
        packs = "1 pack" if self.left == 1 else f"{self.left} packs"
        if not self.left:
            if not self.promised:
                return "no pack left"
            return f"{self.owed} short" if self.owed else "over" if self.seen > self.promised else "as promised"
        if self.open_ended and not self.owed:
            return "what was guaranteed is in; more may come, the print does not say how often"
        if self.promised and not self.owed:
            return f"what was promised is in; another in {packs}: {in_words(self.chance_any)}"
        if self.owed:
            return f"{packs} left, {self.owed} still owed: {in_words(self.chance_next)} that the next pack has one"
        return f"one or more in {packs}: {in_words(self.chance_any)}"


def in_words(chance: float) -> str:
    """Return a chance as ``1 in 3``, ``2 in 3``, ``certain`` or ``1 in 250``."""
    if chance >= 1 - 1e-9:
        return "certain"
    if chance > 0.995:
        return "almost certain"
    if chance <= 0:
        return "none"
    if chance < 0.2:
        return f"1 in {round(1 / chance):,}"
    best = min(
        ((round(chance * n), n) for n in range(2, 11)), key=lambda pair: (abs(pair[0] / pair[1] - chance), pair[1])
    )
    return f"{best[0]} in {best[1]}" if 0 < best[0] < best[1] else f"{100 * chance:.0f} %"


def remaining(law: CountLaw, seen: int, opened: Opened, placement: Placement = "apart") -> FloatArray | None:
    """Chances of 0, 1, 2, … more in the packs that are left; None when what was seen cannot be.

    Parameters
    ----------
    law : CountLaw
        Count in all packs.
    seen : int
        Cards seen in the opened ones.
    opened : Opened
        Packs in all, and packs left.
    placement : {"apart", "anywhere"}
        ``apart``: no pack holds two while that can be helped (hypergeometric); ``anywhere``: each card lies in any
        pack (binomial).
    """
    chances = law.pmf()
    if seen >= len(chances):
        return None
    totals = np.arange(seen, len(chances))
    weights = chances[seen:] * _seen_given(totals, seen, opened, placement)
    whole = weights.sum()
    return None if whole <= 0 else np.asarray(weights / whole)


def _seen_given(totals: npt.NDArray[np.int64], seen: int, opened: Opened, placement: Placement) -> FloatArray:
    """P(seen of x cards lie in the opened packs), for each x; constant factors left out."""
    done = opened.packs - opened.left
    found = np.empty(len(totals))
    for place, total in enumerate(totals):
        rest = int(total) - seen
        if placement == "apart" and total <= opened.packs:
            found[place] = math.comb(done, seen) * math.comb(opened.left, rest) / math.comb(opened.packs, int(total))
        else:
            share = done / opened.packs
            found[place] = math.comb(int(total), seen) * share**seen * (1 - share) ** rest
    return found


def next_pack(rest: FloatArray, left: int, placement: Placement = "apart") -> float:
    """Chance of at least one in the next pack, from the chances of what is left."""
    if not left:
        return 0.0
    more = np.arange(len(rest))
    each = np.minimum(1.0, more / left) if placement == "apart" else 1 - (1 - 1 / left) ** more
    return float((rest * each).sum())


@lru_cache(maxsize=8_192)
def owed(
    label: str,
    law: CountLaw,
    seen: int,
    opened: Opened,
    placement: Placement = "apart",
    *,
    open_ended: bool = False,
    slots: int = 0,
) -> Owed:
    """Work out what one law still owes; what is only guaranteed at least is never exceeded.

    Parameters
    ----------
    slots : int
        Copies that every pack holds for certain: those of the opened packs say nothing of the others.
    """
    if slots:
        return _beside_slots(owed(label, *_without_slots(law, seen, opened, slots), placement), law, seen, slots)
    promised = law.fixed
    if open_ended and seen >= promised:
        return Owed(
            label=label,
            promised=promised,
            seen=seen,
            left=opened.left,
            chance_any=0.0,
            chance_next=0.0,
            expected=0.0,
            possible=True,
            open_ended=True,
        )
    rest = remaining(law, seen, opened, placement)
    if rest is None and placement == "apart":
        placement, rest = "anywhere", remaining(law, seen, opened, "anywhere")
    if rest is None:
        return Owed(
            label=label,
            promised=promised,
            seen=seen,
            left=opened.left,
            chance_any=0.0,
            chance_next=0.0,
            expected=0.0,
            possible=False,
        )
    if not opened.left:
        return Owed(
            label=label,
            promised=promised,
            seen=seen,
            left=0,
            chance_any=0.0,
            chance_next=0.0,
            expected=0.0,
            possible=True,
        )
    expected = float((rest * np.arange(len(rest))).sum())
    return Owed(
        label=label,
        promised=promised,
        seen=seen,
        left=opened.left,
        chance_any=float(1 - rest[0]),
        chance_next=next_pack(rest, opened.left, placement),
        expected=expected,
    )


def _without_slots(law: CountLaw, seen: int, opened: Opened, slots: int) -> tuple[CountLaw, int, Opened]:
    """Return the law, and what was seen, beside the certain copies of every pack."""
    rest = replace(law, fixed=law.fixed - slots * opened.packs)
    return rest, max(0, seen - slots * (opened.packs - opened.left)), opened


def _beside_slots(rest: Owed, law: CountLaw, seen: int, slots: int) -> Owed:
    """Put the certain copies of the packs that are left beside what else may come."""
    sure = 1.0 if rest.left else 0.0
    expected = rest.expected + slots * rest.left
    return replace(rest, promised=law.fixed, seen=seen, chance_any=sure, chance_next=sure, expected=expected)


def by_school(law: CountLaw, school: School, packs: int) -> CountLaw:
    """Return the law as a school reads it.

    ``each pack for itself`` leaves odds as they are and lets averages fall at random (Poisson); ``one hit makes the
    next less likely`` lets the maker spread them: the whole number for certain, one more by chance.
    """
    if law.schools:
        return law  # nobody knows which school holds: what was seen weighs them
    chance_part = replace(law, fixed=0)
    if school == EVENED:
        evened = average_law(chance_part.mean, "even")
        return replace(evened, fixed=evened.fixed + law.fixed)
    loose = [(n, p) for n, p in law.binomials if n < packs]
    kept = tuple((n, p) for n, p in law.binomials if n >= packs)
    return CountLaw(law.fixed, kept, law.poisson + sum(n * p for n, p in loose))


def owed_lines(
    model: BoxModel,
    seen: dict[LineKey, int],
    left: int,
    *,
    school: School = EACH,
    placement: Placement = "apart",
    cards: Sequence[Version] = (),
) -> tuple[Owed, ...]:
    """What the promises and the lines of a box still owe: promises first, then the likeliest.

    Parameters
    ----------
    model : BoxModel
        The lines of the format.
    seen : dict
        Cards seen by line.
    left : int
        Packs not opened yet.
    cards : sequence of Version, optional
        The cards themselves, also those of finishes that nobody listed; without them those of ``seen`` are meant.
    """
    opened = Opened(max(model.format.packs_per_box, left), left)
    found = _promises(model, cards or _as_cards(seen), opened, placement)
    lines = [
        _line(line, seen.get(line.key, 0), opened, school, placement)
        for line in model.lines
        if line.law is not None and line.in_packs and not line.is_rest
    ]
    lines.sort(key=lambda row: (-row.promised, -row.chance_any))
    return (*found, *lines)


def _as_cards(seen: dict[LineKey, int]) -> list[Version]:
    """Cards that are only known by their line."""
    return [(section, "", parallel) for (section, parallel, _), count in seen.items() for _ in range(count)]


def _promises(model: BoxModel, cards: Sequence[Version], opened: Opened, placement: Placement) -> list[Owed]:
    """What the promises of a box still owe, each with the cards it was given; those a case are another matter."""
    product = model.box_law.product if model.box_law else None
    rows = filled(product, model.format, cards) if product else ()
    found = []
    for one in rows:
        law = promise_law(model, one.row)
        more = is_open_ended(one.row, law)
        label = one.row.label or f"{one.row.count} per {one.row.per}"
        row = owed(label, law, len(one.counted), opened, placement, open_ended=more)
        found.append(replace(row, counted=one.counted))
    for joint in model.joint:  # a promise a case, or a count of several lines together, has its share in this box
        if not any(joint.row == one.row for one in rows):
            count = sum(1 for card in cards if product and product.covers(joint.row, card[0], card[2]))
            found.append(
                owed(
                    joint.row.label,
                    joint.law,
                    count,
                    opened,
                    placement,
                    open_ended=is_open_ended(joint.row, joint.law),
                )
            )
    return found


def _line(line: Line, seen: int, opened: Opened, school: School, placement: Placement) -> Owed:
    """A line of its own; what is promised, or falls to the boxes of a case, is no matter of schools."""
    law = line.law or CountLaw()
    label = " ".join(filter(None, (line.section.label, line.parallel, line.group)))
    settled = line.promise in PROMISED or line.case_law is not None
    read = law if settled else by_school(law, school, opened.packs)
    slots = 0 if settled else law.fixed // opened.packs
    more = line.promise in AT_LEAST and not law.poisson
    return owed(label, read, seen, opened, placement, open_ended=more, slots=slots)


def over_case(law: CountLaw, boxes: int, per_case: CountLaw | None = None) -> CountLaw:
    """Return the law of a whole case: that of its own, or of so many independent boxes."""
    if per_case is not None:
        return per_case
    return law.times(boxes)
