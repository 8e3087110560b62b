"""The statements of a product as rows of a matrix, each column in a size of its own.

The columns are the copies of each line in each format, the packs of each format, and one scale (see `system`).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from botin.core.catalog.product import Format
from botin.core.odds.program import FloatArray, Program
from botin.core.odds.statements import Said, Statement, Statements

Slack = dict[int, tuple[float, float]]
"""By which share the low end of a statement may sink, and its high end rise."""
INF = float("inf")


class Rows:
    """The matrix of all statements, and programs over those in force.

    Parameters
    ----------
    said : Statements
        Lines and statements.
    """

    def __init__(self, said: Statements) -> None:
        self.said = said
        self.formats: tuple[Format, ...] = said.product.formats
        self._column_of: dict[tuple[str, int], int] = {}
        for fmt in self.formats:
            for place, line in enumerate(said.lines):
                if fmt.key in line.formats:
                    self._column_of[(fmt.key, place)] = len(self._column_of)
        self._packs_at = {fmt.key: len(self._column_of) + at for at, fmt in enumerate(self.formats)}
        self.scale_at = len(self._column_of) + len(self.formats)
        self.unit = self._units()
        self._slack: Slack = {}
        self._off: set[int] = set()
        self._matrix, self._rows_of = self._build()

    def _units(self) -> FloatArray:
        """Usual size of each column, so that ones of a million and rates of a millionth go together."""
        rates, packs = _usual_rates(self.said, self.formats), _usual_packs(self.said, self.formats)
        unit = np.ones(self.scale_at + 1)
        for (fmt, place), column in self._column_of.items():
            unit[column] = packs[fmt] * rates[(fmt, place)]
        for fmt, column in self._packs_at.items():
            unit[column] = packs[fmt]
        return unit

    def _columns(self, statement: Statement) -> list[tuple[int, float]]:
        """Columns of the copies that a statement adds up."""
        formats = (statement.format,) if statement.format else tuple(fmt.key for fmt in self.formats)
        return [
            (self._column_of[(fmt, place)], factor)
            for fmt in formats
            for place, factor in statement.terms
            if (fmt, place) in self._column_of
        ]

    def _build(self) -> tuple[FloatArray, list[tuple[int, int]]]:
        """Rows of all statements, two for each (not below its low, not above its high); then one box at least."""
        rows = np.zeros((2 * len(self.said.said) + len(self.formats), self.scale_at + 1))
        places = []
        for at, statement in enumerate(self.said.said):
            against = self._packs_at[statement.format] if statement.format else self.scale_at
            for side, bound in enumerate((statement.span.low, statement.span.high)):
                row = rows[2 * at + side]
                for column, factor in self._columns(statement):
                    row[column] += factor
                if math.isfinite(bound):
                    row[against] -= bound
            places.append((2 * at, 2 * at + 1))
        for at, fmt in enumerate(self.formats):
            rows[2 * len(self.said.said) + at, self._packs_at[fmt.key]] = 1.0
            rows[2 * len(self.said.said) + at, self.scale_at] = -fmt.fewest_packs
        rows *= self.unit
        size = np.abs(rows).max(axis=1, initial=0.0)
        return rows / np.where(size > 0, size, 1.0)[:, None], places

    def _sides(self, at: int) -> tuple[tuple[float, float], tuple[float, float]]:
        """Bounds of the two rows of a statement: free where it is off or has no such end."""
        statement = self.said.said[at]
        off = at in self._off
        low = (0.0, INF) if math.isfinite(statement.span.low) and not off else (-INF, INF)
        high = (-INF, 0.0) if math.isfinite(statement.span.high) and not off else (-INF, INF)
        return low, high

    def _loosened(self, matrix: FloatArray, slack: Mapping[int, tuple[float, float]]) -> FloatArray:
        """Return the rows with both ends of some statements moved apart by a share of themselves."""
        if not slack:
            return matrix
        found = matrix.copy()
        for at, (sink, rise) in slack.items():
            statement = self.said.said[at]
            against = self._packs_at[statement.format] if statement.format else self.scale_at
            found[2 * at, against] *= max(0.0, 1 - sink)
            found[2 * at + 1, against] *= 1 + rise
        return found

    def _all_sides(self) -> tuple[FloatArray, FloatArray]:
        low, high = np.full(len(self._matrix), -INF), np.full(len(self._matrix), INF)
        for at, (least, most) in enumerate(self._rows_of):
            (low[least], high[least]), (low[most], high[most]) = self._sides(at)
        low[2 * len(self.said.said) :] = 0.0
        return low, high

    def program(self, slack: Mapping[int, tuple[float, float]] | None = None) -> Program:
        """Return a program over the statements in force."""
        return Program(self._loosened(self._matrix, self._slack if slack is None else slack), *self._all_sides())

    def _scaled(self) -> Program:
        program = self.program()
        program.fix(self.scale_at, 1.0)
        return program

    def column_of(self, fmt: str, place: int) -> int:
        """Column of the copies of a line in a format."""
        return self._column_of[(fmt, place)]

    def packs_at(self, fmt: str) -> int:
        """Column of the packs of a format."""
        return self._packs_at[fmt]

    def rows(self) -> tuple[list[FloatArray | None], list[FloatArray | None], FloatArray]:
        """Rows in force: Σ ≥ 0 for each low, Σ ≤ 0 for each high (None where there is no end), one box at least."""
        matrix = self._loosened(self._matrix, self._slack)
        ends: tuple[list[FloatArray | None], list[FloatArray | None]] = ([], [])
        for at, rows in enumerate(self._rows_of):
            for kept, row, (low, high) in zip(ends, rows, self._sides(at), strict=True):
                kept.append(matrix[row] if math.isfinite(low) or math.isfinite(high) else None)
        return (*ends, matrix[2 * len(self.said.said) :])

    def average_rows(self) -> list[FloatArray]:
        """Rows that hold promised averages at just what they say: as many of them as can be, in their order."""
        averages = [
            one for one in self.said.said
            if one.said is Said.PROMISE and one.span.low < one.span.mid < one.span.high < INF and len(one.terms) > 1
        ]  # fmt: skip
        found: list[FloatArray] = []
        for one in averages:
            row = np.zeros(self.scale_at + 1)
            for column, factor in self._columns(one):
                row[column] += factor
            row[self._packs_at[one.format]] -= one.span.mid
            row *= self.unit
            row /= np.abs(row).max()
            if self._possible([*found, row]):
                found.append(row)
        return found

    def _possible(self, rows: Sequence[FloatArray]) -> bool:
        """Whether some more rows can be zero."""
        low, high = self._all_sides()
        matrix = np.vstack([self._loosened(self._matrix, self._slack), *rows])
        program = Program(matrix, np.append(low, np.zeros(len(rows))), np.append(high, np.zeros(len(rows))))
        program.fix(self.scale_at, 1.0)
        return program.feasible()


def _usual_rates(said: Statements, formats: Sequence[Format]) -> dict[tuple[str, int], float]:
    """A rough size of each rate: as printed, else an even share a card of the smallest thing said of the line."""
    found: dict[tuple[str, int], float] = {}
    for statement in said.said:
        if not statement.format or statement.said is Said.USUAL:
            continue
        size = sum(len(said.lines[place].cards) for place, _ in statement.terms)
        for place, _ in statement.terms:
            share = statement.span.mid * len(said.lines[place].cards) / size
            key = (statement.format, place)
            found[key] = min(found.get(key, INF), share)
    return {
        (fmt.key, place): found.get((fmt.key, place), 1.0) or 1.0
        for fmt in formats
        for place in range(len(said.lines))
    }


def _usual_packs(said: Statements, formats: Sequence[Format]) -> dict[str, float]:
    """A rough size of each format: what the numbered lines with printed rates say of it, one by one."""
    guesses: dict[str, list[float]] = {fmt.key: [] for fmt in formats}
    for statement in said.said:
        if statement.said is Said.ODDS and len(statement.terms) == 1:
            line = said.lines[statement.terms[0][0]]
            if line.copies and statement.span.mid > 0:
                guesses[statement.format].append(line.copies / statement.span.mid / len(line.formats))
    return {key: float(np.median(rows)) if rows else 1e5 for key, rows in guesses.items()}
