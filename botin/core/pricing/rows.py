"""Prices as they were given, column by column: what is added later is laid beside what stands there already."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from botin.core.counts import FloatArray
from botin.core.pricing.cells import Ints, Key
from botin.core.pricing.prices import PriceKind, PriceRow

_UNDATED = np.nan


@dataclass(frozen=True)
class Given:
    """All prices of a product in the order they were given.

    Attributes
    ----------
    number : dict
        Each section, number, parallel and grade that has a price, numbered as they first came.
    of : array (prices)
        Number of the key of each price.
    sale : array (prices)
        Whether it is a sale: asking prices and guides are kinds of their own.
    day : array (prices)
        Ordinal of the day; nan when it has none.
    """

    rows: list[PriceRow]
    number: dict[Key, int]
    of: Ints
    sale: np.ndarray
    amount: FloatArray
    day: FloatArray

    @cached_property
    def order(self) -> Ints:
        """Places of the prices, key by key, each in the order given."""
        return np.argsort(self.of, kind="stable")

    @cached_property
    def _first(self) -> Ints:
        return np.searchsorted(self.of[self.order], np.arange(len(self.number) + 1))

    def under(self, key: Key) -> list[PriceRow]:
        """Return the prices of one key."""
        at = self.number.get(key)
        if at is None:
            return []
        return [self.rows[place] for place in self.order[self._first[at] : self._first[at + 1]].tolist()]


def given(rows: Sequence[PriceRow], before: Given | None = None) -> Given:
    """Lay prices out in columns.

    Parameters
    ----------
    before : Given, optional
        An earlier layout: where the rows go on from it, only what came since is read.
    """
    kept = before is not None and rows[: len(before.rows)] == before.rows
    old = before if before is not None and kept else _none()
    more = list(rows[len(old.rows) :])
    number = dict(old.number)
    keys = ((row.section, row.number, row.parallel, row.grade) for row in more)
    return Given(
        rows=[*old.rows, *more],
        of=np.append(old.of, np.array([number.setdefault(key, len(number)) for key in keys], np.int64)),
        number=number,
        sale=np.append(old.sale, np.array([r.kind is PriceKind.SOLD and r.amount > 0 for r in more], np.bool_)),
        amount=np.append(old.amount, np.array([row.amount for row in more], np.float64)),
        day=np.append(old.day, np.array([_ordinal(row) for row in more], np.float64)),
    )


def _ordinal(row: PriceRow) -> float:
    return _UNDATED if row.sold_on is None else row.sold_on.toordinal()


def _none() -> Given:
    return Given([], {}, np.zeros(0, np.int64), np.zeros(0, np.bool_), np.zeros(0), np.zeros(0))
