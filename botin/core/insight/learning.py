"""What all logged boxes say: true averages with intervals, seeding (even, random, clumped), dependence between lines.

All tests are conditional on the totals, so that the odds need not be known, and seeded Monte Carlo where no closed
form is at hand.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import numpy.typing as npt

PRIOR_BOXES = 4.0
"""The printed odds count as so many boxes; a choice, shown beside the figure."""
DRAWS = 4_000
LEVEL = 0.05
Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class PerBox:
    """Average per box with its interval, and the weight of the prior in boxes."""

    mean: float
    low: float
    high: float
    printed: float | None
    boxes: float
    prior_boxes: float


def per_box(
    seen: int, boxes: float, printed: float | None, prior_boxes: float = PRIOR_BOXES, coverage: float = 0.95
) -> PerBox:
    """Average per box: Gamma(m0·w + Σx, w + n), the prior mean m0 from the printed odds with weight w.

    Without printed odds the prior is Gamma(1/2, 0) (Jeffreys). A box of which only some packs were opened counts as
    that share of one.
    """
    from scipy.special import gammaincinv  # noqa: PLC0415  (slow to load)

    shape = seen + (printed * prior_boxes if printed else 0.5)
    rate = boxes + (prior_boxes if printed else 0.0)
    tail = (1 - coverage) / 2
    if not rate:
        return PerBox(float("nan"), 0.0, float("inf"), printed, boxes, prior_boxes)
    low, high = (float(gammaincinv(shape, share)) / rate for share in (tail, 1 - tail))
    return PerBox(shape / rate, low, high, printed, boxes, prior_boxes if printed else 0.0)


class Seeding(StrEnum):
    """How a line is spread over the boxes."""

    EVEN = "spread evenly"
    RANDOM = "at random"
    CLUMPED = "clumped"
    TOO_FEW = "too few boxes to tell"


@dataclass(frozen=True, slots=True)
class Dispersion:
    """Verdict of the dispersion test.

    Attributes
    ----------
    even_p, clumped_p : float
        Chance of boxes at least as alike, and at least as different, if every pack were as good as any other.
    """

    seeding: Seeding
    even_p: float
    clumped_p: float
    total: int
    boxes: int


def dispersion(
    counts: Sequence[int], packs: Sequence[int], rng: np.random.Generator, draws: int = DRAWS, *, slots: int = 0
) -> Dispersion:
    """Test whether a line is spread evenly, at random or clumped over the boxes.

    Given the total, the counts are multivariate hypergeometric over the packs when at most one lies in a pack (with
    more copies than packs, multinomial). The statistic is Σ (x − expected)²/expected.

    Parameters
    ----------
    counts, packs : sequence of int
        Copies and opened packs of each box.
    rng : Generator
        For the Monte Carlo; the same seed gives the same answer.
    slots : int
        Copies that every pack holds for certain: they come off first, since they say nothing of the spread of
        the others (1:0.8 is one in every pack and a second one in a quarter of them).
    """
    seen, sizes = np.array(counts, np.int64), np.array(packs, np.int64)
    seen = np.maximum(0, seen - slots * sizes)
    total = int(seen.sum())
    if len(seen) < 2 or total < 2:
        return Dispersion(Seeding.TOO_FEW, 1.0, 1.0, total, len(seen))
    expected = total * sizes / sizes.sum()
    sampled = _statistic(_spread(total, sizes, rng, draws), expected)
    own = float(_statistic(seen[None, :], expected)[0])
    even = (1 + float((sampled <= own + 1e-9).sum())) / (draws + 1)
    clumped = (1 + float((sampled >= own - 1e-9).sum())) / (draws + 1)
    if clumped <= LEVEL / 2:
        seeding = Seeding.CLUMPED
    elif even <= LEVEL / 2:
        seeding = Seeding.EVEN
    else:
        seeding = Seeding.RANDOM if _has_power(total, expected, sampled) else Seeding.TOO_FEW
    return Dispersion(seeding, even, clumped, total, len(seen))


def _spread(total: int, sizes: Ints, rng: np.random.Generator, draws: int) -> Ints:
    if total <= sizes.sum():
        return rng.multivariate_hypergeometric(sizes, total, size=draws, method="marginals")
    return rng.multinomial(total, sizes / sizes.sum(), size=draws)


def _statistic(counts: Ints, expected: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    return np.asarray(((counts - expected) ** 2 / expected).sum(axis=1))


def _has_power(total: int, expected: npt.NDArray[np.float64], sampled: npt.NDArray[np.float64]) -> bool:
    """Whether a perfectly even spread would have been noticed."""
    floor = np.floor(expected).astype(np.int64)
    order = np.argsort(floor - expected)
    floor[order[: total - int(floor.sum())]] += 1
    best = float(_statistic(floor[None, :], expected)[0])
    return float((sampled <= best + 1e-9).mean()) <= LEVEL / 2


@dataclass(frozen=True, slots=True)
class Dependence:
    """Whether one line's hits make another's less or more likely in the same box.

    Attributes
    ----------
    together, expected : float
        Σ over boxes of x·y, as seen and on average if packs were shuffled.
    p : float
        Two-sided chance of a gap as large.
    """

    together: float
    expected: float
    p: float

    @property
    def words(self) -> str:
        """The verdict in words."""
        if self.p > LEVEL:
            return "no sign that one makes the other less or more likely"
        return "one makes the other less likely" if self.together < self.expected else "they come together"


def dependence(
    one: Sequence[int],
    other: Sequence[int],
    packs: Sequence[int],
    rng: np.random.Generator,
    draws: int = DRAWS,
    *,
    at_random: bool = True,
) -> Dependence:
    """Test two lines against each other by Σ x·y: is it as if neither knew of the other.

    Parameters
    ----------
    one, other, packs : sequence of int
        Copies of both lines and opened packs, box by box.
    at_random : bool
        Whether both lines lie at random over the boxes: then the packs of one of them are shuffled over all boxes.
        A line that is clumped or spread evenly is not made of shuffled packs, and would seem to depend on another
        one that is; its boxes are dealt anew as whole ones instead (among boxes of as many packs).
    """
    x, y, sizes = (np.array(found, np.int64) for found in (one, other, packs))
    own = float(x @ y)
    if len(x) < 2 or not x.any() or not y.any():
        return Dependence(own, own, 1.0)
    dealt = _spread(int(y.sum()), sizes, rng, draws) if at_random else _dealt(y, sizes, rng, draws)
    shuffled = dealt @ x
    middle = float(shuffled.mean())
    extreme = int((np.abs(shuffled - middle) >= abs(own - middle) - 1e-9).sum())
    return Dependence(own, middle, (1 + extreme) / (draws + 1))


def _dealt(counts: Ints, sizes: Ints, rng: np.random.Generator, draws: int) -> Ints:
    """Whole boxes in another order, each among those of as many packs."""
    found = np.tile(counts, (draws, 1))
    for size in np.unique(sizes):
        alike = np.flatnonzero(sizes == size)
        found[:, alike] = rng.permuted(found[:, alike], axis=1)
    return found
