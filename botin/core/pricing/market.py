"""What was given to the price model: the sales of each version and grade, laid out in arrays."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from functools import cached_property

import numpy as np

from botin.core.catalog.product import Product
from botin.core.catalog.versions import Versions
from botin.core.counts import FloatArray
from botin.core.pricing.cells import Cells, Ints, Key, Middles, middles, sale_noise
from botin.core.pricing.prices import HALF_LIFE_DAYS
from botin.core.pricing.rows import Given


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


def age_weights(days: FloatArray, as_of: date) -> FloatArray:
    """Return the weights by age of many days (ordinals; nan for none): as `age_weight` gives them one by one."""
    ages = np.maximum(0.0, as_of.toordinal() - np.where(np.isnan(days), as_of.toordinal() - HALF_LIFE_DAYS, days))
    return np.asarray(0.5 ** (ages / HALF_LIFE_DAYS))


def cells_of(rows: Given, as_of: date) -> Cells:
    """Lay the sales of all versions out; age weights are scaled to the effective number of sales (Kish 1965).

    With n_eff = (Σw)² ÷ Σw² the newest sales lead, and a version sold only long ago still has its sales.
    """
    place = rows.order[rows.sale[rows.order]]
    sizes = np.bincount(rows.of[place], minlength=len(rows.number))
    kept = tuple(key for key, size in zip(rows.number, sizes.tolist(), strict=True) if size)
    sizes = sizes[sizes > 0]
    cell = np.repeat(np.arange(len(kept)), sizes)
    raw = age_weights(rows.day[place], as_of) + 1e-12
    top = np.zeros(len(kept))
    np.maximum.at(top, cell, raw)
    raw = raw / top[cell] if len(place) else raw
    total, squares = np.bincount(cell, raw, len(kept)), np.bincount(cell, raw * raw, len(kept))
    scale = np.divide(total, squares, out=np.ones(len(kept)), where=squares > 0)
    start = np.concatenate(([0], np.cumsum(sizes)[:-1])) if kept else np.zeros(0, np.int64)
    weights = raw * scale[cell] if len(place) else raw
    return Cells(kept, np.log(rows.amount[place]), weights, cell, start.astype(np.int64))


def market_of(product: Product, versions: Versions, rows: Given, as_of: date, like: Places | None = None) -> Market:
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
