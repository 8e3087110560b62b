"""Pack anatomy: which slot of a pack holds which kind, and in which order numbers run, learned from logged packs."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

USUAL = 0.6
"""A slot is said to be “usually” something from this share on, over `ENOUGH` packs."""
ENOUGH = 12
STEADY = 3
"""A pair of neighbours is part of a sheet's sequence when it was seen this often."""


@dataclass(frozen=True, slots=True)
class Slot:
    """One slot: how many packs it was seen in, and the share of each kind."""

    number: int
    packs: int
    shares: tuple[tuple[str, float], ...]

    @property
    def usually(self) -> str:
        """The kind it usually holds; empty when there is none or too few packs."""
        if self.packs < ENOUGH or not self.shares:
            return ""
        kind, share = self.shares[0]
        return kind if share >= USUAL else ""


def slots_of(packs: Sequence[Sequence[str]], size: int) -> tuple[Slot, ...]:
    """Learn the slots from the kinds of the cards of each pack, in the order they lay; only full packs count."""
    full = [pack for pack in packs if len(pack) == size]
    found = []
    for place in range(size):
        kinds = Counter(pack[place] for pack in full)
        total = max(1, len(full))
        shares = tuple((kind, count / total) for kind, count in kinds.most_common())
        found.append(Slot(place + 1, len(full), shares))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class Runs:
    """The sequence of numbers over packs.

    Attributes
    ----------
    pairs : int
        Neighbouring base cards looked at.
    steady : float
        Share of them whose successor was the same in other packs too: a sheet's sequence.
    breaks : tuple of (box, pack)
        Packs whose known neighbours all disagree with the sequence of the others.
    """

    pairs: int
    steady: float
    sequence: tuple[tuple[str, str, int], ...]
    breaks: tuple[tuple[int, int], ...]


def runs_of(packs: Sequence[tuple[int, int, Sequence[str]]]) -> Runs:
    """Look for repeated runs of numbers.

    Parameters
    ----------
    packs : sequence of (box, pack, numbers)
        Base numbers of each pack in the order they lay.
    """
    after: dict[str, Counter[str]] = defaultdict(Counter)
    for _, _, numbers in packs:
        for one, other in pairwise(numbers):
            after[one][other] += 1
    pairs = sum(sum(counter.values()) for counter in after.values())
    steady = sum(count for counter in after.values() for count in counter.values() if count > 1)
    rows = ((one, other, count) for one, counter in after.items() for other, count in counter.items())
    sequence = sorted((row for row in rows if row[2] >= STEADY), key=lambda row: -row[2])
    return Runs(pairs, steady / pairs if pairs else 0.0, tuple(sequence[:40]), tuple(_breaks(packs, after)))


def _breaks(packs: Sequence[tuple[int, int, Sequence[str]]], after: dict[str, Counter[str]]) -> list[tuple[int, int]]:
    """Packs in which every neighbour that the others know well is another one."""
    found = []
    for box, pack, numbers in packs:
        known = agree = 0
        for one, other in pairwise(numbers):
            rest = after[one].copy()
            rest[other] -= 1
            best = max(rest.values(), default=0)
            if best >= STEADY and best >= 0.8 * sum(rest.values()):
                known += 1
                agree += rest[other] > 0
        if known >= 3 and agree == 0:
            found.append((box, pack))
    return found
