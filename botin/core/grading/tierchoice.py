"""Which copies to send in which tier: a small integer program, with minimum orders, membership and a limit of cash.

max Σ x_it·gain_it − membership·m − Σ shipping_t·y_t with x_it ≤ y_t, min_t·y_t ≤ Σ_i x_it, member tiers need m,
Σ spend ≤ cash; x, y, m are 0 or 1.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from botin.core.counts import FloatArray

BARRED = -1e9
"""Gain of a tier that a copy cannot go in."""


@dataclass(frozen=True, slots=True)
class TierTerms:
    """Minimum order, membership and shipping of a tier."""

    least: int = 1
    member: bool = False
    shipping: float = 0.0


@dataclass(frozen=True)
class TierChoice:
    """The tier of each copy (None stays home), the gain of it all, and whether a membership is bought."""

    tiers: tuple[int | None, ...]
    gain: float
    member: bool
    spent: float


def choose_tiers(
    gains: FloatArray,
    terms: Sequence[TierTerms],
    membership: float = 0.0,
    spend: FloatArray | None = None,
    cash: float | None = None,
    seconds: float = 20.0,
) -> TierChoice:
    """Choose exactly.

    Parameters
    ----------
    gains : array (copies, tiers)
        What sending a copy in a tier adds over its best other route, shipping aside; BARRED where it cannot go.
    terms : sequence of TierTerms
        Of each tier.
    membership : float
        Cost of a year's membership, paid once when a member tier is used.
    spend : array (copies, tiers), optional
        Money to put down now for each.
    cash : float, optional
        Most that may be put down, membership and shipping included.
    seconds : float
        Time limit of the solver.
    """
    from scipy.optimize import Bounds, LinearConstraint, milp  # noqa: PLC0415  (slow to load)
    from scipy.sparse import lil_matrix  # noqa: PLC0415

    copies, tiers = gains.shape
    if not copies or not tiers:
        return TierChoice((None,) * copies, 0.0, member=False, spent=0.0)
    size = copies * tiers + tiers + 1
    worth = np.concatenate((gains.ravel(), [-term.shipping for term in terms], [-membership]))
    rows, upper = _constraints(copies, tiers, terms)
    matrix = lil_matrix((len(rows) + (cash is not None), size))
    for at, row in enumerate(rows):
        for place, value in row.items():
            matrix[at, place] = value
    if cash is not None:
        costs = np.zeros((copies, tiers)) if spend is None else spend
        matrix[len(rows), :] = np.concatenate((costs.ravel(), [term.shipping for term in terms], [membership]))
        upper.append(cash)
    found = milp(
        -np.where(worth > BARRED / 2, worth, 0.0),
        constraints=LinearConstraint(matrix.tocsr(), -np.inf, np.array(upper)),
        bounds=Bounds(0, np.concatenate((gains.ravel() > BARRED / 2, np.ones(tiers + 1)))),
        integrality=np.ones(size),
        options={"time_limit": seconds, "mip_rel_gap": 0.0},
    )
    if found.x is None:
        return TierChoice((None,) * copies, 0.0, member=False, spent=0.0)
    return _read(found.x, gains, terms, membership, spend)


def _constraints(copies: int, tiers: int, terms: Sequence[TierTerms]) -> tuple[list[dict[int, float]], list[float]]:
    rows: list[dict[int, float]] = [{i * tiers + t: 1.0 for t in range(tiers)} for i in range(copies)]
    upper = [1.0] * copies
    used, member = copies * tiers, copies * tiers + tiers
    for t, term in enumerate(terms):
        every = [i * tiers + t for i in range(copies)]
        rows.append({**dict.fromkeys(every, 1.0), used + t: -float(copies)})
        rows.append({**dict.fromkeys(every, -1.0), used + t: float(term.least)})
        upper += [0.0, 0.0]
        if term.member:
            rows.append({used + t: 1.0, member: -1.0})
            upper.append(0.0)
    return rows, upper


def _read(
    solution: FloatArray, gains: FloatArray, terms: Sequence[TierTerms], membership: float, spend: FloatArray | None
) -> TierChoice:
    copies, tiers = gains.shape
    chosen = solution[: copies * tiers].reshape(copies, tiers) > 0.5
    picked = tuple(int(np.argmax(row)) if row.any() else None for row in chosen)
    return score(picked, gains, terms, membership, spend)


def score(
    picked: Sequence[int | None],
    gains: FloatArray,
    terms: Sequence[TierTerms],
    membership: float = 0.0,
    spend: FloatArray | None = None,
) -> TierChoice:
    """Gain of a given choice, with membership and shipping of the tiers it uses."""
    used = {tier for tier in picked if tier is not None}
    member = any(terms[tier].member for tier in used)
    fixed = sum(terms[tier].shipping for tier in used) + (membership if member else 0.0)
    each = [(i, tier) for i, tier in enumerate(picked) if tier is not None]
    gain = sum(float(gains[i, tier]) for i, tier in each) - fixed
    spent = fixed + (sum(float(spend[i, tier]) for i, tier in each) if spend is not None else 0.0)
    return TierChoice(tuple(picked), gain, member, spent)


def allowed(picked: Sequence[int | None], terms: Sequence[TierTerms]) -> bool:
    """Whether every tier used has its minimum."""
    return all(
        count == 0 or count >= term.least
        for t, term in enumerate(terms)
        for count in (sum(1 for tier in picked if tier == t),)
    )


def greedy(
    gains: FloatArray,
    terms: Sequence[TierTerms],
    membership: float = 0.0,
    spend: FloatArray | None = None,
    cash: float | None = None,
) -> TierChoice:
    """Each copy to its best tier, for every set of tiers that one might use: what one would do by hand."""
    copies, tiers = gains.shape
    best = TierChoice((None,) * copies, 0.0, member=False, spent=0.0)
    for keep in product((False, True), repeat=tiers):
        picked: list[int | None] = []
        for row in gains:
            options = [(float(row[t]), t) for t in range(tiers) if keep[t] and row[t] > 0]
            picked.append(max(options)[1] if options else None)
        found = score(picked, gains, terms, membership, spend)
        if allowed(picked, terms) and found.gain > best.gain and (cash is None or found.spent <= cash):
            best = found
    return best
