"""Which copies to send in which tier: a small integer program, with minimum orders, memberships, vouchers and cash.

max Σ x_it·gain_it + Σ w_vt·off_v − Σ membership_h·m_h − Σ shipping_t(cards in t) with Σ_t x_it ≤ 1; a tier that
is used has its minimum and pays the shipping of its order, by steps of its cards; member tiers need m_h of their
house; a voucher takes its amount off one card; Σ spend ≤ cash; x, y, z, m are 0 or 1, w whole.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import product

import numpy as np

from botin.core.counts import FloatArray

BARRED = -1e9
"""Gain of a tier that a copy cannot go in."""
Row = dict[int, float]


@dataclass(frozen=True, slots=True)
class TierTerms:
    """Minimum order, membership and shipping of a tier.

    Attributes
    ----------
    steps : sequence of (int, float)
        What shipping an order costs with more than so many cards, in rising order; ``shipping`` up to the first.
    """

    least: int = 1
    member: bool = False
    shipping: float = 0.0
    house: str = ""
    steps: tuple[tuple[int, float], ...] = ()

    def shipping_for(self, cards: int) -> float:
        """Shipping of an order of so many cards; none for none."""
        reached = [cost for more_than, cost in self.steps if cards > more_than]
        return 0.0 if not cards else (reached[-1] if reached else self.shipping)


@dataclass(frozen=True, slots=True)
class Voucher:
    """An amount off the fee of so many cards, at a house, in one of its tiers or in any (``tier`` empty)."""

    house: str
    off: float
    cards: int = 1
    tier: int | None = None

    def takes(self, tier: int, terms: TierTerms) -> bool:
        """Whether it can be given for a card in a tier."""
        return terms.house == self.house and self.tier in (None, tier)


@dataclass(frozen=True)
class Limits:
    """What binds all tiers together.

    Attributes
    ----------
    membership : mapping
        Cost of a year's membership by house, for houses where none is held; 0 and absent are the same.
    cash : float or None
        Most that may be put down, memberships and shipping included.
    """

    membership: Mapping[str, float] = field(default_factory=dict)
    vouchers: tuple[Voucher, ...] = ()
    cash: float | None = None


NO_LIMITS = Limits()


@dataclass(frozen=True)
class TierChoice:
    """The tier of each copy (None stays home), the gain of it all, and the houses whose membership is bought."""

    tiers: tuple[int | None, ...]
    gain: float
    joins: tuple[str, ...]
    spent: float
    off: float = 0.0

    @property
    def member(self) -> bool:
        """Whether a membership is bought."""
        return bool(self.joins)


def choose_tiers(
    gains: FloatArray,
    terms: Sequence[TierTerms],
    limits: Limits = NO_LIMITS,
    spend: FloatArray | None = None,
    seconds: float = 20.0,
) -> TierChoice:
    """Choose exactly.

    Parameters
    ----------
    gains : array (copies, tiers)
        What sending a copy in a tier adds over its best other route, shipping aside; BARRED where it cannot go.
    terms : sequence of TierTerms
        Of each tier.
    spend : array (copies, tiers), optional
        Money to put down now for each.
    seconds : float
        Time limit of the solver.
    """
    from scipy.optimize import Bounds, LinearConstraint, milp  # noqa: PLC0415  (slow to load)

    copies, tiers = gains.shape
    if not copies or not tiers:
        return score((None,) * copies, gains, terms, limits, spend)
    program = _Program(gains, terms, limits, np.zeros_like(gains) if spend is None else spend)
    matrix, upper = program.constraints()
    found = milp(
        -program.worth(),
        constraints=LinearConstraint(matrix, -np.inf, upper),
        bounds=Bounds(0, program.highest()),
        integrality=np.ones(program.size),
        options={"time_limit": seconds, "mip_rel_gap": 0.0},
    )
    if found.x is None:
        return score((None,) * copies, gains, terms, limits, spend)
    chosen = found.x[: copies * tiers].reshape(copies, tiers) > 0.5
    picked = tuple(int(np.argmax(row)) if row.any() else None for row in chosen)
    return score(picked, gains, terms, limits, spend)


class _Program:
    """The integer program: where each variable stands, and its rows."""

    def __init__(self, gains: FloatArray, terms: Sequence[TierTerms], limits: Limits, spend: FloatArray) -> None:
        self.gains, self.terms, self.limits, self.spend = gains, terms, limits, spend
        self.copies, self.tiers = gains.shape
        self.used = self.copies * self.tiers
        steps = [(t, k) for t, term in enumerate(terms) for k in range(len(term.steps))]
        self.step = {key: self.used + self.tiers + at for at, key in enumerate(steps)}
        houses = list(dict.fromkeys(term.house for term in terms if term.member))
        first = self.used + self.tiers + len(steps)
        self.joined = {house: first + at for at, house in enumerate(houses)}
        pairs = [(v, t) for v, one in enumerate(limits.vouchers) for t in range(self.tiers) if one.takes(t, terms[t])]
        self.given = {pair: first + len(houses) + at for at, pair in enumerate(pairs)}
        self.size = first + len(houses) + len(pairs)

    def worth(self) -> FloatArray:
        """What each variable adds."""
        found = np.zeros(self.size)
        found[: self.used] = np.where(self.gains.ravel() > BARRED / 2, self.gains.ravel(), 0.0)
        found[self.used :] = -self._fixed()
        return found

    def _fixed(self) -> FloatArray:
        """Money that each variable beside the copies costs."""
        found = np.zeros(self.size)
        for t, term in enumerate(self.terms):
            found[self.used + t] = before = term.shipping
            for k, (_, cost) in enumerate(term.steps):
                found[self.step[t, k]], before = cost - before, cost
        for house, at in self.joined.items():
            found[at] = self.limits.membership.get(house, 0.0)
        for (v, _), at in self.given.items():
            found[at] = -self.limits.vouchers[v].off
        return found[self.used :]

    def highest(self) -> FloatArray:
        """Largest value of each variable."""
        found = np.ones(self.size)
        found[: self.used] = self.gains.ravel() > BARRED / 2
        for (v, _), at in self.given.items():
            found[at] = self.limits.vouchers[v].cards
        return found

    def constraints(self) -> tuple[object, FloatArray]:
        """Return the matrix of all rows and what each may sum up to."""
        from scipy.sparse import coo_matrix  # noqa: PLC0415  (slow to load)

        rows: list[tuple[Row, float]] = [
            ({i * self.tiers + t: 1.0 for t in range(self.tiers)}, 1.0) for i in range(self.copies)
        ]
        for t in range(self.tiers):
            rows += self._of_tier(t)
        rows += self._of_vouchers()
        if self.limits.cash is not None:
            costs = np.concatenate((self.spend.ravel(), self._fixed()))
            rows.append((dict(enumerate(costs.tolist())), self.limits.cash))
        at = [(place, column, value) for place, (row, _) in enumerate(rows) for column, value in row.items()]
        places, columns, values = zip(*at, strict=True)
        matrix = coo_matrix((values, (places, columns)), shape=(len(rows), self.size)).tocsr()
        return matrix, np.array([most for _, most in rows])

    def _of_tier(self, t: int) -> list[tuple[Row, float]]:
        """A tier takes cards only when it is used, no fewer than its minimum, and more as its steps are paid."""
        term, used = self.terms[t], self.used + t
        every = [i * self.tiers + t for i in range(self.copies)]
        edges = [*(more_than for more_than, _ in term.steps), self.copies]
        widths = [high - low for low, high in zip([0, *edges], edges, strict=False)]
        takes: Row = {**dict.fromkeys(every, 1.0), used: -float(max(0, widths[0]))}
        rows: list[tuple[Row, float]] = []
        for k, width in enumerate(widths[1:]):
            takes[self.step[t, k]] = -float(max(0, width))
            rows.append(({self.step[t, k]: 1.0, (self.step[t, k - 1] if k else used): -1.0}, 0.0))
            reached = float(term.steps[k][0] + 1)  # or a step that costs less would be taken before it is reached
            rows.append(({**dict.fromkeys(every, -1.0), self.step[t, k]: reached}, 0.0))
        rows += [(takes, 0.0), ({**dict.fromkeys(every, -1.0), used: float(term.least)}, 0.0)]
        if term.member:
            rows.append(({used: 1.0, self.joined[term.house]: -1.0}, 0.0))
        return rows

    def _of_vouchers(self) -> list[tuple[Row, float]]:
        rows: list[tuple[Row, float]] = []
        for t in range(self.tiers):
            here = {at: 1.0 for (_, tier), at in self.given.items() if tier == t}
            if here:
                rows.append(({**here, **{i * self.tiers + t: -1.0 for i in range(self.copies)}}, 0.0))
        for v, one in enumerate(self.limits.vouchers):
            rows.append(({at: 1.0 for (which, _), at in self.given.items() if which == v}, float(one.cards)))
        return [(row, most) for row, most in rows if row]


def off_by_vouchers(counts: Mapping[int, int], terms: Sequence[TierTerms], vouchers: Sequence[Voucher]) -> float:
    """Most that vouchers take off, with so many cards in each tier.

    The dearest first, each where it fits: tiers lie within their houses, so this is exact (a laminar matroid).
    """
    free, houses = Counter(counts), Counter[str]()
    for t, count in counts.items():
        houses[terms[t].house] += count
    found = 0.0
    for one in sorted(vouchers, key=lambda voucher: -voucher.off):
        room = houses[one.house] if one.tier is None else min(houses[one.house], free[one.tier])
        given = min(one.cards, room) if one.off > 0 else 0
        houses[one.house] -= given
        if one.tier is not None:
            free[one.tier] -= given
        found += given * one.off
    return found


def score(
    picked: Sequence[int | None],
    gains: FloatArray,
    terms: Sequence[TierTerms],
    limits: Limits = NO_LIMITS,
    spend: FloatArray | None = None,
) -> TierChoice:
    """Gain of a given choice, with memberships and shipping of the tiers it uses, vouchers given where they fit."""
    each = [(i, tier) for i, tier in enumerate(picked) if tier is not None]
    counts = Counter(tier for _, tier in each)
    joins = tuple(sorted({terms[t].house for t in counts if terms[t].member}))
    bought = tuple(house for house in joins if limits.membership.get(house, 0.0) > 0)
    off = off_by_vouchers(counts, terms, limits.vouchers)
    fixed = sum(terms[t].shipping_for(count) for t, count in counts.items())
    fixed += sum(limits.membership[house] for house in bought) - off
    gain = sum(float(gains[i, tier]) for i, tier in each) - fixed
    spent = fixed + (sum(float(spend[i, tier]) for i, tier in each) if spend is not None else 0.0)
    return TierChoice(tuple(picked), gain, bought, spent, off)


def allowed(picked: Sequence[int | None], terms: Sequence[TierTerms]) -> bool:
    """Whether every tier used has its minimum."""
    counts = Counter(tier for tier in picked if tier is not None)
    return all(count >= terms[tier].least for tier, count in counts.items())


def greedy(
    gains: FloatArray, terms: Sequence[TierTerms], limits: Limits = NO_LIMITS, spend: FloatArray | None = None
) -> TierChoice:
    """Each copy to its best tier, for every set of tiers that one might use: what one would do by hand."""
    copies, tiers = gains.shape
    best = score((None,) * copies, gains, terms, limits, spend)
    for keep in product((False, True), repeat=tiers):
        if not any(keep) or not copies:
            continue
        shown = np.where(np.array(keep), gains, BARRED)
        top = shown.argmax(axis=1)
        good = shown[np.arange(copies), top] > 0
        picked = [int(tier) if yes else None for tier, yes in zip(top, good, strict=True)]
        found = _best_first(picked, gains, terms, limits, spend)
        if allowed(found.tiers, terms) and found.gain > best.gain:
            best = found
    return best


def _best_first(
    picked: Sequence[int | None],
    gains: FloatArray,
    terms: Sequence[TierTerms],
    limits: Limits,
    spend: FloatArray | None,
) -> TierChoice:
    """As many of the picked copies as the money takes, those that gain most first."""
    found = score(picked, gains, terms, limits, spend)
    if limits.cash is None or found.spent <= limits.cash:
        return found
    each = sorted((i for i, tier in enumerate(picked) if tier is not None), key=lambda i: -gains[i, picked[i] or 0])
    few, many = 0, len(each)
    while many - few > 1:
        middle = (few + many) // 2
        kept = frozenset(each[:middle])
        tried = score([t if i in kept else None for i, t in enumerate(picked)], gains, terms, limits, spend)
        few, many = (middle, many) if tried.spent <= limits.cash else (few, middle)
    kept = frozenset(each[:few])
    return score([t if i in kept else None for i, t in enumerate(picked)], gains, terms, limits, spend)


@dataclass(frozen=True, slots=True)
class Left:
    """Why a copy stays home: in words, and how many more cards its best tier would need (0 when that is not it)."""

    why: str
    tier: int | None = None
    more: int = 0


NOTHING, FEW, DEAR, POOR, BARS = (
    "brings more another way", "too few for its tier", "does not carry an order of its own", "the money is used up",
    "no tier takes it",
)  # fmt: skip


def why_left(
    choice: TierChoice,
    gains: FloatArray,
    terms: Sequence[TierTerms],
    limits: Limits = NO_LIMITS,
    spend: FloatArray | None = None,
) -> list[Left | None]:
    """Say of each copy why it is not sent in a choice; None for one that is."""
    stay = [at for at, tier in enumerate(choice.tiers) if tier is None]
    rich = choice
    if stay and limits.cash is not None:
        rich = choose_tiers(gains, terms, Limits(limits.membership, limits.vouchers), spend)
    wanted = (gains > 0).sum(axis=0)
    found: list[Left | None] = [None] * len(choice.tiers)
    for at in stay:
        row = gains[at]
        tier = int(row.argmax())
        if row[tier] <= BARRED / 2:
            found[at] = Left(BARS)
        elif row[tier] <= 0:
            found[at] = Left(NOTHING)
        elif rich.tiers[at] is not None:
            found[at] = Left(POOR, rich.tiers[at])
        else:
            more = terms[tier].least - int(wanted[tier])
            found[at] = Left(FEW, tier, more) if more > 0 else Left(DEAR, tier)
    return found
