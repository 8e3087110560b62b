"""Linear programs over one set of rows: the least and most of many sums, one after the other from a warm start."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from botin.core.errors import BotinError

FloatArray = npt.NDArray[np.float64]
TOLERANCE = 1e-9
DUAL, PRIMAL = 1, 4
"""Ways of the simplex method: moved rows keep the dual side valid, another goal keeps the primal one."""


class UnsolvedError(BotinError):
    """A linear program came to no end; the statements of the product are at odds with arithmetic."""

    status = 500


class Program:
    """Rows ``low ≤ A x ≤ high`` over ``least ≤ x ≤ most``; both sides of a row or column may be moved.

    Notes
    -----
    HiGHS (Huangfu and Hall, Parallelizing the dual revised simplex method, Mathematical Programming Computation 10,
    2018) keeps its basis from one question to the next, so that a thousand of them take less than a second.
    """

    def __init__(self, matrix: FloatArray, low: FloatArray, high: FloatArray) -> None:
        import highspy  # noqa: PLC0415  (slow to load)
        from scipy.sparse import csr_array  # noqa: PLC0415

        self._lib: Any = highspy
        self.size = matrix.shape[1]
        rows = csr_array(matrix)
        lp = highspy.HighsLp()
        lp.num_col_, lp.num_row_ = self.size, matrix.shape[0]
        lp.col_cost_ = np.zeros(self.size)
        lp.col_lower_, lp.col_upper_ = np.zeros(self.size), np.full(self.size, np.inf)
        lp.row_lower_, lp.row_upper_ = low, high
        lp.a_matrix_.format_ = highspy.MatrixFormat.kRowwise
        lp.a_matrix_.start_, lp.a_matrix_.index_, lp.a_matrix_.value_ = rows.indptr, rows.indices, rows.data
        self._highs: Any = self._lib.Highs()
        for option, value in (
            ("output_flag", False),
            ("presolve", "off"),
            ("solver", "simplex"),
            ("parallel", "off"),
            ("primal_feasibility_tolerance", TOLERANCE),
            ("dual_feasibility_tolerance", TOLERANCE),
        ):
            self._highs.setOptionValue(option, value)
        self._highs.passModel(lp)
        self._all = np.arange(self.size, dtype=np.int32)

    def fix(self, column: int, value: float) -> None:
        """Hold a column at one value."""
        self._highs.changeColBounds(column, value, value)

    def free(self, column: int) -> None:
        """Let a column be anything from 0 on."""
        self._highs.changeColBounds(column, 0.0, float("inf"))

    def row(self, place: int, low: float, high: float) -> None:
        """Move the sides of a row."""
        self._highs.changeRowBounds(place, low, high)

    def feasible(self) -> bool:
        """Whether anything satisfies all rows."""
        self._highs.setOptionValue("simplex_strategy", DUAL)
        self._highs.changeColsCost(self.size, self._all, np.zeros(self.size))
        return bool(self._run() != self._lib.HighsModelStatus.kInfeasible)

    def optimum(self, goal: FloatArray, *, largest: bool) -> tuple[float, FloatArray] | None:
        """Return the least (or most) of goal·x and where it lies; None when it has no end."""
        self._highs.setOptionValue("simplex_strategy", PRIMAL)
        sign = -1.0 if largest else 1.0
        size = float(np.abs(goal).max(initial=0.0)) or 1.0
        self._highs.changeColsCost(self.size, self._all, sign * goal / size)
        status = self._run()
        if status in (self._lib.HighsModelStatus.kUnbounded, self._lib.HighsModelStatus.kUnboundedOrInfeasible):
            return None
        if status != self._lib.HighsModelStatus.kOptimal:
            message = f"The statements of this product could not be weighed against each other ({status.name})."
            raise UnsolvedError(message)
        found = np.array(self._highs.getSolution().col_value)
        return float(goal @ found), found

    def _run(self) -> Any:
        self._highs.run()
        status = self._highs.getModelStatus()
        kinds = self._lib.HighsModelStatus
        if status not in (kinds.kOptimal, kinds.kInfeasible, kinds.kUnbounded):
            self._highs.clearSolver()  # a warm start led astray: once more from the beginning
            self._highs.run()
            status = self._highs.getModelStatus()
        return status
