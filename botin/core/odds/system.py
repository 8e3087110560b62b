"""The statements of a product as one system: the least and most of every rate, and what cannot hold together.

The columns are the copies of each line in each format, the packs of each format, and one scale; a rate is a ratio of
two of them, so its program is made linear by holding the packs at one (Charnes and Cooper, Programming with linear
fractional functionals, Naval Research Logistics Quarterly 9, 1962). The scale is one where copies are counted as
printed, and free where only ratios are asked for.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from botin.core.catalog.product import Format
from botin.core.odds.program import FloatArray, Program
from botin.core.odds.statements import BoxLine, Said, Statement, Statements

Slack = dict[int, tuple[float, float]]
"""By which share the low end of a statement may sink, and its high end rise."""
NEVER = 1e-12
"""A rate below this share of its usual size is 0: what is left of arithmetic."""
MOST_SLACK = 1e6
INF = float("inf")


@dataclass(frozen=True, slots=True)
class Conflict:
    """Statements that cannot hold together, though any one fewer of them could.

    Attributes
    ----------
    slack : float
        By which share their bounds must give way for them to hold.
    """

    statements: tuple[Statement, ...]
    slack: float


@dataclass(frozen=True)
class Ends:
    """Least and most of a sum over the lines of a format, and the rates (cards a pack, by line) where they lie."""

    low: float
    high: float | None
    at_low: FloatArray
    at_high: FloatArray | None


class System:
    """Everything that is said of a product, ready for questions.

    Parameters
    ----------
    said : Statements
        Lines and statements.

    Attributes
    ----------
    conflicts : tuple of Conflict
        Sets that cannot hold; their statements have given way by twice their slack.
    given_up : tuple of Statement
        Weakest statements (“no more frequent than base”) that something printed rules out.
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
        self.given_up = self._give_up()
        self.conflicts = self._find_conflicts()

    # -- the matrix ------------------------------------------------------------------------------------------------

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

    # -- what cannot hold ------------------------------------------------------------------------------------------

    def _set(self, program: Program, places: Iterable[int]) -> None:
        for at in places:
            for row, (low, high) in zip(self._rows_of[at], self._sides(at), strict=True):
                program.row(row, low, high)

    def _holds(self, program: Program, without: Iterable[int]) -> bool:
        """Whether the program is feasible with some more statements taken out; they are put back."""
        gone = [at for at in without if at not in self._off]
        self._off.update(gone)
        self._set(program, gone)
        found = program.feasible()
        self._off.difference_update(gone)
        self._set(program, gone)
        return found

    def _scaled(self) -> Program:
        program = self.program()
        program.fix(self.scale_at, 1.0)
        return program

    def _give_up(self) -> tuple[Statement, ...]:
        """Take out the weakest statements that the others rule out, the fewest that will do one by one."""
        weak = [at for at, statement in enumerate(self.said.said) if statement.said is Said.USUAL]
        program = self._scaled()
        if not weak or program.feasible() or not self._holds(program, weak):
            if weak and not program.feasible():
                self._off.update(weak)
            return ()
        gone: list[int] = []
        while not program.feasible():
            needed = self._irreducible(program, weak)
            self._off.update(needed)
            self._set(program, needed)
            gone += needed
        return tuple(self.said.said[at] for at in gone)

    def _irreducible(self, program: Program, among: Sequence[int]) -> list[int]:
        """Of some statements those that are left when each is taken out that is not needed for the contradiction."""
        kept = list(among)
        out: list[int] = []
        for at in among:
            if not self._holds(program, [*out, at]):
                out.append(at)
                kept.remove(at)
        return kept

    def _order(self) -> list[int]:
        """Statements in the order in which they are tried for removal; alike ones by what they say, not by row."""
        said = self.said.said
        strong = [at for at, statement in enumerate(said) if statement.said is not Said.USUAL]
        return sorted(
            strong, key=lambda at: (said[at].said, said[at].span.mid, said[at].span.low, len(said[at].terms))
        )

    def _find_conflicts(self) -> tuple[Conflict, ...]:
        program = self._scaled()
        if program.feasible():
            return ()
        found: list[tuple[list[int], float]] = []
        out = set(self._off)
        while not program.feasible():
            needed = self._irreducible(program, [at for at in self._order() if at not in self._off])
            found.append((needed, self._smallest_slack(needed)))
            self._off.update(needed)
            self._set(program, needed)
        self._off = out
        self._slack = self._common_slack(found)
        return tuple(Conflict(tuple(self.said.said[at] for at in sorted(sets)), slack) for sets, slack in found)

    def _smallest_slack(self, places: Sequence[int]) -> float:
        """Smallest share by which the bounds of some statements must give way for them to hold by themselves."""
        kept = set(places)
        outside = [at for at in range(len(self.said.said)) if at not in kept and at not in self._off]
        self._off.update(outside)
        found = _least(lambda share: self._feasible_at(dict.fromkeys(places, (share, share))))
        self._off.difference_update(outside)
        return found

    def _feasible_at(self, slack: Mapping[int, tuple[float, float]]) -> bool:
        program = self.program(slack)
        program.fix(self.scale_at, 1.0)
        return program.feasible()

    def _common_slack(self, found: Sequence[tuple[Sequence[int], float]]) -> Slack:
        """Twice the slack of each set, enlarged by one factor where the sets do not hold beside the rest.

        Where runs and odds disagree and no single run explains it, copies of every line were withheld: then all runs
        give way (`_withheld`).
        """
        said = self.said.said
        at_odds = [at for places, _ in found for at in places]
        if all(said[at].said in (Said.RUN, Said.ODDS) for at in at_odds) and not self._one_is_wrong(at_odds):
            return self._withheld()
        own = {at: slack for places, slack in found for at in places}
        factor = _least(lambda more: self._feasible_at({at: (slack * (1 + more),) * 2 for at, slack in own.items()}))
        return {at: (2 * slack * (1 + factor),) * 2 for at, slack in own.items()}

    def _one_is_wrong(self, places: Sequence[int]) -> bool:
        """Whether everything holds as soon as one run is taken out."""
        runs = [at for at in places if self.said.said[at].said is Said.RUN]
        program = self.program({})
        program.fix(self.scale_at, 1.0)
        return any(self._holds(program, [at]) for at in runs)

    def _withheld(self) -> Slack:
        """Slack of all runs where production differs from print.

        With t the smallest common share, twice that too many, or 4·10^(1/d)·t too few copies may lie in the packs, d
        the lines beyond the formats. Where lines are short by independent even shares, 2t is about the range of
        d + 1 of them, and the smallest one exceeds the range c-fold with chance (1 + c)^−d (Pyke, Spacings, J. R.
        Statist. Soc. B 27, 1965): 2·10^(1/d)·t reaches the truth in nine of ten; rounding hides about half of t.
        """
        runs = [at for at, one in enumerate(self.said.said) if one.said is Said.RUN]
        share = _least(lambda t: self._feasible_at(dict.fromkeys(runs, (t, t))))
        spare = max(1, len(runs) - len(self.formats))
        return dict.fromkeys(runs, (min(1.0, 4 * 10 ** (1 / spare) * share), 2 * share))

    def holds_without(self, statements: Iterable[Statement]) -> bool:
        """Whether the system, nothing given way, holds when some statements are taken out."""
        gone = set(statements)
        places = [at for at, statement in enumerate(self.said.said) if statement in gone]
        self._off.update(places)
        found = self._feasible_at({})
        self._off.difference_update(places)
        return found

    # -- questions -------------------------------------------------------------------------------------------------

    @cached_property
    def _plain(self) -> Program:
        """The program for amounts: copies as printed."""
        return self._scaled()

    def _by_pack(self, fmt: str) -> Program:
        """The program for rates of a format: everything per pack of it."""
        if fmt not in self._programs:
            program = self.program()
            program.fix(self._packs_at[fmt], 1.0)
            self._programs[fmt] = program
        return self._programs[fmt]

    @cached_property
    def _programs(self) -> dict[str, Program]:
        return {}

    def places(self, fmt: str) -> list[int]:
        """Places of the lines that may lie in a format."""
        return [place for place, line in enumerate(self.said.lines) if fmt in line.formats]

    def rate_ends(self, fmt: str, weights: Mapping[int, float]) -> Ends:
        """Least and most of Σ weight × cards a pack over lines of a format."""
        goal = np.zeros(self.scale_at + 1)
        size = self.unit[self._packs_at[fmt]]
        for place, weight in weights.items():
            column = self._column_of.get((fmt, place))
            if column is not None:
                goal[column] = weight * self.unit[column] / size
        program = self._by_pack(fmt)
        low, high = program.optimum(goal, largest=False), program.optimum(goal, largest=True)
        if low is None:
            return Ends(-INF, None if high is None else high[0], self._rates(fmt, None), None)
        return Ends(
            low[0], None if high is None else max(high[0], low[0]), self._rates(fmt, low[1]),
            None if high is None else self._rates(fmt, high[1]),
        )  # fmt: skip

    def _rates(self, fmt: str, solution: FloatArray | None) -> FloatArray:
        """Cards a pack of every line of a format at a solution; 0 for lines it does not have."""
        found = np.zeros(len(self.said.lines))
        if solution is not None:
            for place in range(len(found)):
                column = self._column_of.get((fmt, place))
                if column is not None:
                    found[place] = max(0.0, solution[column]) * self.unit[column] / self.unit[self._packs_at[fmt]]
        return found

    def rate(self, fmt: str, place: int) -> tuple[float, float | None]:
        """Least and most cards a pack of one line; kept."""
        key = (fmt, place)
        if key not in self._known:
            column = self._column_of[key]
            goal = np.zeros(self.scale_at + 1)
            goal[column] = 1.0
            program = self._by_pack(fmt)
            low, high = program.optimum(goal, largest=False), program.optimum(goal, largest=True)
            size = self.unit[column] / self.unit[self._packs_at[fmt]]
            least = _tidied(low[0] if low else 0.0) * size
            self._known[key] = (least, None if high is None else max(least, _tidied(high[0]) * size))
        return self._known[key]

    @cached_property
    def _known(self) -> dict[tuple[str, int], tuple[float, float | None]]:
        return {}

    def packs(self, fmt: str) -> tuple[float, float | None]:
        """Least and most packs made of a format."""
        return self._amount({self._packs_at[fmt]: 1.0})

    def copies(self, place: int) -> tuple[float, float | None]:
        """Least and most copies of a line over all formats."""
        own = {column: 1.0 for (_, line), column in self._column_of.items() if line == place}
        return self._amount(own)

    def _amount(self, columns: Mapping[int, float]) -> tuple[float, float | None]:
        goal = np.zeros(self.scale_at + 1)
        for column, factor in columns.items():
            goal[column] = factor * self.unit[column]
        low, high = (self._plain.optimum(goal, largest=largest) for largest in (False, True))
        least = max(0.0, low[0]) if low else 0.0
        return least, None if high is None else max(least, high[0])

    @property
    def lines(self) -> tuple[BoxLine, ...]:
        """All lines."""
        return self.said.lines


def _tidied(value: float) -> float:
    return value if value > 10 * NEVER else 0.0


def _least(holds: Callable[[float], bool]) -> float:
    """Smallest share at which something holds, to a billionth of itself."""
    if holds(0.0):
        return 0.0
    high = 1e-3
    while not holds(high):
        high *= 4
        if high > MOST_SLACK:
            return MOST_SLACK
    low = 0.0 if high == 1e-3 else high / 4
    while high - low > 1e-9 * max(high, 1e-6):
        middle = (low + high) / 2
        low, high = (low, middle) if holds(middle) else (middle, high)
    return high


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
