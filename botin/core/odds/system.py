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

from botin.core.odds.program import FloatArray, Program
from botin.core.odds.rows import INF, Rows, Slack
from botin.core.odds.statements import BoxLine, Said, Statement, Statements

NEVER = 1e-12
"""A rate below this share of its usual size is 0: what is left of arithmetic."""
AT_END = 1e-9
"""How near a solution must be to the end of a printed interval to be taken as lying on it."""
MOST_SLACK = 1e6


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


class System(Rows):
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
        super().__init__(said)
        self.given_up = self._give_up()
        self.conflicts = self._find_conflicts()

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
            size = self.unit[self._column_of[key]] / self.unit[self._packs_at[fmt]]
            low, high = (self._end(fmt, place, largest=largest) for largest in (False, True))
            least = _tidied(low or 0.0) * size
            self._known[key] = (least, None if high is None else max(least, _tidied(high) * size))
        return self._known[key]

    def _end(self, fmt: str, place: int, *, largest: bool) -> float | None:
        """Least or most of a rate in its own unit; where some solution reaches what its row prints, that is it."""
        column, printed = self._column_of[(fmt, place)], self._printed.get((fmt, place))
        if printed is not None:
            reached = self._seen_ends(fmt)[int(largest)][column]
            if abs(reached - printed[int(largest)]) <= AT_END * printed[int(largest)]:
                return printed[int(largest)]
        goal = np.zeros(self.scale_at + 1)
        goal[column] = 1.0
        found = self._solved(fmt, goal, largest=largest)
        return None if found is None else found[0]

    @cached_property
    def _printed(self) -> dict[tuple[str, int], tuple[float, float]]:
        """Ends of the rows that print a rate of one line, in the unit of its column."""
        found: dict[tuple[str, int], tuple[float, float]] = {}
        for at, one in enumerate(self.said.said):
            if one.said is Said.ODDS and len(one.terms) == 1 and math.isfinite(one.span.high):
                key = (one.format, one.terms[0][0])
                size = self.unit[self._packs_at[one.format]] / self.unit[self._column_of[key]]
                sink, rise = self._slack.get(at, (0.0, 0.0))
                ends = (one.span.low * size * max(0.0, 1 - sink), one.span.high * size * (1 + rise))
                found.setdefault(key, ends)
        return found

    def _seen_ends(self, fmt: str) -> tuple[FloatArray, FloatArray]:
        """Least and most of every column in the solutions so far; two that push all rates at once come first."""
        if fmt not in self._seen:
            self._seen[fmt] = (np.full(self.scale_at + 1, INF), np.zeros(self.scale_at + 1))
            goal = np.zeros(self.scale_at + 1)
            for (where, place), column in self._column_of.items():
                if where == fmt and (where, place) in self._printed:
                    goal[column] = 1.0 / self._printed[(where, place)][1]
            for largest in (False, True):
                self._solved(fmt, goal, largest=largest)
        return self._seen[fmt]

    @cached_property
    def _seen(self) -> dict[str, tuple[FloatArray, FloatArray]]:
        return {}

    def _solved(self, fmt: str, goal: FloatArray, *, largest: bool) -> tuple[float, FloatArray] | None:
        """Solve for a sum of rates of a format, and keep what the solution shows of the others."""
        found = self._by_pack(fmt).optimum(goal, largest=largest)
        if found is not None and fmt in self._seen:
            low, high = self._seen[fmt]
            self._seen[fmt] = (np.minimum(low, found[1]), np.maximum(high, found[1]))
        return found

    @cached_property
    def _known(self) -> dict[tuple[str, int], tuple[float, float | None]]:
        return {}

    def is_bounded(self, fmt: str, place: int) -> bool:
        """Whether anything limits a rate from above."""
        if self.lines[place].copies:
            return True
        return any(
            one.format == fmt and place in one.places and one.span.high != INF and one.said is not Said.USUAL
            for one in self.said.said
        )

    def positive_together(self, keys: Sequence[tuple[str, int]]) -> bool:
        """Whether some rates can all be above 0 at once, as they are where none of them must be 0."""
        matrix, (low, high) = self._loosened(self._matrix, self._slack), self._all_sides()
        more = np.zeros((len(keys) + 1, matrix.shape[1] + 1))
        for at, (fmt, place) in enumerate(keys):
            more[at, self._column_of[(fmt, place)]], more[at, -1] = 1.0, -1.0
        more[-1, -1] = 1.0
        rows = np.vstack([np.hstack([matrix, np.zeros((len(matrix), 1))]), more])
        ends = np.append(np.full(len(keys), INF), 1.0)
        program = Program(rows, np.append(low, np.zeros(len(more))), np.append(high, ends))
        program.fix(self.scale_at, 1.0)
        found = program.optimum(more[-1], largest=True)
        return found is not None and found[0] > 1e-7

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
