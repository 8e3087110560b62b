"""A fair swap: which of the cards one could give come nearest to what one gets, and the cash that evens it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

MOST_STEPS = 200_000
"""Largest total that is gone through cent by cent; beyond it, in coarser steps."""


@dataclass(frozen=True, slots=True)
class Balance:
    """What is given, by its places, and how much cash is added to it (below nothing: comes back)."""

    given: tuple[int, ...]
    cash: float


def balanced(could_give: Sequence[float], gets: float) -> Balance:
    """Return the cards to give whose prices together come nearest to what one gets; of equals the fewest dear ones.

    Every sum that can be reached is gone through (the subset-sum problem by its table of sums; textbook), in cents,
    or in coarser steps where the total is large.

    Parameters
    ----------
    could_give : sequence of float
        Price of each card that one could give (major units).
    gets : float
        Prices of what one gets, together.
    """
    total = sum(max(0.0, price) for price in could_give)
    step = max(0.01, total / MOST_STEPS)
    sizes = [round(max(0.0, price) / step) for price in could_give]
    reached = _sums(sizes)
    aim = round(gets / step)
    best = min(_around(reached[-1], aim), key=lambda value: (abs(value - aim), value))
    given = _places(reached, sizes, best)
    return Balance(given, gets - sum(could_give[at] for at in given))


def _sums(sizes: Sequence[int]) -> list[int]:
    """Sums that the first so many sizes reach, as bits."""
    found = [1]
    for size in sizes:
        found.append(found[-1] | found[-1] << size)
    return found


def _around(bits: int, aim: int) -> list[int]:
    """The reached sums nearest to an aim, below (or at) and above it."""
    below = bits & ((1 << aim + 1) - 1)
    above = bits >> aim + 1
    found = [below.bit_length() - 1]
    return [*found, aim + 1 + (above & -above).bit_length() - 1] if above else found


def _places(reached: Sequence[int], sizes: Sequence[int], value: int) -> tuple[int, ...]:
    """Which sizes make up a sum that is reached."""
    found = []
    for at in range(len(sizes) - 1, -1, -1):
        if not reached[at] >> value & 1:
            found.append(at)
            value -= sizes[at]
    return tuple(reversed(found))
