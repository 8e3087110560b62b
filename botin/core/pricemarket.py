"""What was given to the price model: the sales of each version and grade, laid out in arrays."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property

import numpy as np

from botin.core.counts import FloatArray
from botin.core.pricecells import Cells, Ints, Key, Middles, cells_of, middles, sale_noise
from botin.core.prices import PriceRow
from botin.core.product import Product
from botin.core.versions import Versions


@dataclass(frozen=True)
class CellFacts:
    """Of each cell: its version (−1 for a whole level or a card of no checklist), section, and grade (0 raw)."""

    place: Ints
    section: Ints
    grade: FloatArray


@dataclass(frozen=True)
class Places:
    """Where each cell belongs: it stays the same as long as no version is sold for the first time in a grade."""

    product: Product
    versions: Versions
    keys: tuple[Key, ...]

    @cached_property
    def cell_of(self) -> dict[Key, int]:
        """Place of each cell by its key."""
        return {key: at for at, key in enumerate(self.keys)}

    @cached_property
    def sections(self) -> dict[str, int]:
        """Place of each section by its key."""
        return {section.key: at for at, section in enumerate(self.product.sections)}

    @cached_property
    def facts(self) -> CellFacts:
        """Look up each cell once; a grade that is no number (a word) says nothing of others: −1."""
        known = self.versions.number_of
        places = [known.get(key[:3], -1) if key[1] else -1 for key in self.keys]
        grades = [0.0 if not key[3] else grade_number(key[3]) for key in self.keys]
        sections = [self.sections.get(key[0], -1) for key in self.keys]
        return CellFacts(np.array(places, np.int64), np.array(sections, np.int64), np.array(grades, np.float64))

    @cached_property
    def graded_of(self) -> dict[tuple[str, str, str], list[int]]:
        """Cells of each version in numbered grades."""
        found: dict[tuple[str, str, str], list[int]] = defaultdict(list)
        for at in np.flatnonzero(self.facts.grade > 0).tolist():
            if self.keys[at][1]:
                found[self.keys[at][:3]].append(at)
        return found

    @cached_property
    def graded(self) -> tuple[Ints, list[tuple[int, float]], Ints]:
        """Cells in numbered grades, the pairs of section and grade among them, and which pair each one is of."""
        cells = np.flatnonzero(self.facts.grade > 0)
        pairs = list(zip(self.facts.section[cells].tolist(), self.facts.grade[cells].tolist(), strict=True))
        kinds = {pair: at for at, pair in enumerate(sorted(set(pairs)))}
        return cells, list(kinds), np.array([kinds[pair] for pair in pairs], np.int64)

    @cached_property
    def sold(self) -> Ints:
        """Versions with any sale, by place."""
        return np.unique(self.facts.place[self.facts.place >= 0])

    @cached_property
    def row(self) -> Ints:
        """Row among the versions sold, of each cell of a version (0 for the others)."""
        return np.searchsorted(self.sold, np.maximum(self.facts.place, 0)) % max(len(self.sold), 1)


@dataclass(frozen=True)
class Market:
    """The versions of a product and the sales of each.

    Attributes
    ----------
    noise : float
        Scatter of a single sale, on the log scale.
    middles : Middles
        Robust middle of each cell.
    """

    places: Places
    cells: Cells
    noise: float
    middles: Middles

    @property
    def versions(self) -> Versions:
        """All versions of the product."""
        return self.places.versions

    @cached_property
    def usual(self) -> tuple[tuple[int, float], ...]:
        """Level and log price of each usual raw price."""
        levels = self.versions.levels
        return tuple(
            (levels[(key[0], key[2])], float(self.middles.middle[at]))
            for at, key in enumerate(self.cells.keys)
            if not key[1] and not key[3] and (key[0], key[2]) in levels
        )

    @cached_property
    def met(self) -> frozenset[int]:
        """Levels of which anything is known."""
        return frozenset(self.versions.level[self.places.sold].tolist()) | {level for level, _ in self.usual}


def market_of(
    product: Product,
    versions: Versions,
    rows: Mapping[Key, Sequence[PriceRow]],
    as_of: date,
    like: Places | None = None,
) -> Market:
    """Lay out what was given.

    Parameters
    ----------
    like : Places, optional
        Those of nearly the same sales: kept while the cells are the same.
    """
    cells = cells_of(rows, as_of)
    noise = sale_noise(cells)
    same = like is not None and like.versions is versions and like.keys == cells.keys
    places = like if like is not None and same else Places(product, versions, cells.keys)
    return Market(places, cells, noise, middles(cells, noise))


def grade_number(text: str) -> float:
    """Return a grade as a number; −1 when it is a word."""
    try:
        value = float(text)
    except ValueError:
        return -1.0
    return value if math.isfinite(value) and value > 0 else -1.0
