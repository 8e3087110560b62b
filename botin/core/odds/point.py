"""One number for each rate: inside what the statements allow, as near as can be to what each line says of itself.

Of all rates x that satisfy the statements the one is taken with the least Σ x·ln(x/r) − x + r, where r is what a line
says alone: the middle of its printed odds, its copies over the packs made, or an even share a card of what the
tightest statement about it leaves.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from botin.core.odds.program import FloatArray, UnsolvedError
from botin.core.odds.statements import Said, Statement
from botin.core.odds.system import System

Rates = dict[tuple[str, int], float]
ROUNDS = 3
"""Packs and the rates that hang on them settle within so many turns."""
NEAR = 1e-5
"""How near the solver comes to a point that weighs little."""
SCARCELY = 1e-3
"""Share of what is possible that a line starts from when the middles of the others leave it nothing; a choice."""


@dataclass(frozen=True)
class Point:
    """Rates (cards a pack) by format and place of the line, packs made, and how each rate was come by.

    A line that nothing bounds has no rate; a format whose packs nothing bounds has None.
    """

    rates: Rates
    packs: dict[str, float | None]
    told: dict[tuple[str, int], str]


def point_of(system: System, logged: Mapping[tuple[str, int], float] | None = None) -> Point:
    """Return the point inside the statements.

    Parameters
    ----------
    system : System
        All that is said of the product.
    logged : mapping, optional
        By format and line, what printed and logged boxes together say of a rate: taken as the starting point.

    Notes
    -----
    The program is convex with exponential cones (Csiszár, I-divergence geometry of probability distributions,
    Annals of Probability 3, 1975; solved by Clarabel, Goulart and Chen, 2024).
    """
    highest = _highest(system)
    live = [key for key in _all_rates(system) if highest.get(key, 1.0) not in (0.0, None)]
    bounded = {fmt.key: system.packs(fmt.key) for fmt in system.formats} if _has_runs(system) else {}
    guess = {fmt.key: _guessed_packs(system, fmt.key, bounded) for fmt in system.formats}
    known = {fmt for fmt, (low, high) in bounded.items() if high is not None and low > 0}
    told: dict[tuple[str, int], str] = {}
    found, packs, start = dict.fromkeys(_all_rates(system), 0.0), guess, Rates()
    for _ in range(ROUNDS if _has_runs(system) else 1):
        start, told = _references(system, packs, known, highest)
        start |= {key: rate for key, rate in (logged or {}).items() if rate > 0 and key in start}
        found, before = _nearest(system, live, start, packs), packs
        packs = {fmt: found.pop((fmt, -1)) for fmt in packs}
        if all(math.isclose(packs[fmt], before[fmt], rel_tol=1e-6) for fmt in packs):
            break
    found = _settled(system, found, start, packs, known)
    rates = {key: found.get(key, 0.0) for key in _all_rates(system) if highest.get(key, 1.0) is not None}
    rates |= {key: rate for key, rate in found.items() if key not in rates and system.rate(*key)[0] > 0}
    return Point(rates, {fmt: packs[fmt] if fmt in known else None for fmt in packs}, told)


def _settled(system: System, found: Rates, start: Rates, packs: dict[str, float], known: set[str]) -> Rates:
    """Put what the solver brought within its own accuracy of a starting point there, and packs with it.

    Lines of a millionth a pack weigh next to nothing in the sum, so the solver stops a little beside them. ``packs``
    is changed in place.
    """
    exact = {
        key: start[key] if math.isclose(rate, start.get(key, -1.0), rel_tol=NEAR) else rate
        for key, rate in found.items()
    }
    printed = _own_row(system)
    for fmt in known:
        alone = [
            place
            for place in system.places(fmt)
            if system.lines[place].copies and system.lines[place].formats == (fmt,)
        ]
        fixed = [place for place in alone if (fmt, place) in printed]
        if not fixed or any(exact.get((fmt, place)) != start.get((fmt, place)) for place in fixed):
            continue
        made = sum(system.lines[place].copies or 0 for place in fixed) / sum(start[(fmt, place)] for place in fixed)
        if math.isclose(made, packs[fmt], rel_tol=NEAR):
            packs[fmt] = made
            exact |= {(fmt, place): (system.lines[place].copies or 0) / made for place in alone if place not in fixed}
    return exact


def _all_rates(system: System) -> list[tuple[str, int]]:
    return [(fmt.key, place) for fmt in system.formats for place in system.places(fmt.key)]


def _own_row(system: System) -> dict[tuple[str, int], Statement]:
    """The row that prints a rate of just this line."""
    found: dict[tuple[str, int], Statement] = {}
    for statement in system.said.said:
        if statement.said is Said.ODDS and len(statement.terms) == 1 and statement.span.mid > 0:
            found.setdefault((statement.format, statement.terms[0][0]), statement)
    return found


def _open_rates(system: System) -> list[tuple[str, int]]:
    """Rates that no row prints: these may be nothing, or anything."""
    own = _own_row(system)
    return [key for key in _all_rates(system) if key not in own]


def _highest(system: System) -> dict[tuple[str, int], float | None]:
    """Most of each rate that no row prints, where it is 0 or nothing bounds it; any other is not looked up."""
    unbounded = {key for key in _open_rates(system) if not system.is_bounded(*key)}
    here = [key for key in _open_rates(system) if key not in unbounded]
    found: dict[tuple[str, int], float | None] = dict.fromkeys(unbounded)
    if not system.positive_together(here):
        found |= {key: system.rate(*key)[1] for key in here}
    return found


def _has_runs(system: System) -> bool:
    return any(statement.said is Said.RUN for statement in system.said.said)


def _guessed_packs(system: System, fmt: str, bounded: Mapping[str, tuple[float, float | None]]) -> float:
    low, high = bounded.get(fmt, (0.0, None))
    unit = float(system.unit[system.packs_at(fmt)])
    return math.sqrt(low * high) if high and low > 0 else max(unit, low)


def _references(
    system: System,
    packs: Mapping[str, float],
    known: set[str],
    highest: Mapping[tuple[str, int], float | None],
) -> tuple[Rates, dict[tuple[str, int], str]]:
    """What each line says of itself, and in words how."""
    found: Rates = {}
    told: dict[tuple[str, int], str] = {}
    for key, statement in _own_row(system).items():
        found[key], told[key] = statement.span.mid, f"as printed: {statement.words}"
    printed = set(found)
    for key in _all_rates(system):
        line = system.lines[key[1]]
        if key not in printed and line.copies and known.issuperset(line.formats):
            elsewhere = [(fmt, key[1]) for fmt in line.formats if (fmt, key[1]) in printed]
            taken = math.fsum(found[one] * packs[one[0]] for one in elsewhere)
            room = sum(packs[fmt] for fmt in line.formats if (fmt, key[1]) not in printed)
            found[key] = max(line.copies - taken, SCARCELY * line.copies) / room
            told[key] = f"{line.copies:,} copies over the packs made"
    for fmt in system.formats:
        _share_out(system, fmt.key, found, told, highest)
    return found, told


def _share_out(
    system: System,
    fmt: str,
    found: Rates,
    told: dict[tuple[str, int], str],
    highest: Mapping[tuple[str, int], float | None],
) -> None:
    """Fill what is left of the statements, the tightest first: evenly, card by card."""
    about = [
        statement
        for statement in system.said.said
        if statement.format == fmt and statement.said is not Said.USUAL and statement.span.mid > 0
    ]
    open_here = {place for place in system.places(fmt) if (fmt, place) not in found}
    while open_here:
        shares = [
            (share, len(statement.terms), statement)
            for statement in about
            if (share := _share_of_card(system, fmt, statement, found, open_here)) is not None
        ]
        if not shares:
            return
        each, _, statement = min(shares, key=lambda row: row[:2])
        for place in sorted(statement.places & open_here):
            cards = len(system.lines[place].cards)
            most = highest.get((fmt, place)) or (0.0 if each > 0 else system.rate(fmt, place)[1])
            found[(fmt, place)] = cards * each if each > 0 else SCARCELY * (most or 1.0)
            told[(fmt, place)] = f"an even share a card of {_left_by(statement)}"
        open_here -= statement.places


def _left_by(statement: Statement) -> str:
    return "what else fills the box" if statement.said is Said.BOX else f"what {statement.words} leaves"


def _share_of_card(system: System, fmt: str, statement: Statement, found: Rates, open_here: set[int]) -> float | None:
    """What a statement leaves for each card of the lines that are open; None when it speaks of none of them."""
    places = statement.places & open_here
    if not places:
        return None
    taken = math.fsum(found.get((fmt, place), 0.0) for place in statement.places - open_here)
    return max(0.0, statement.span.mid - taken) / sum(len(system.lines[place].cards) for place in places)


def _nearest(system: System, live: list[tuple[str, int]], start: Rates, packs: Mapping[str, float]) -> Rates:
    """Solve for the rates; packs come back under (format, −1)."""
    import clarabel  # noqa: PLC0415  (loaded only where something is to be solved)
    from scipy.sparse import csc_matrix  # noqa: PLC0415

    keys = [key for key in live if key in start]
    formats = [fmt.key for fmt in system.formats]
    count, packs_from = len(keys), len(keys)
    tall = packs_from + len(formats)
    size = tall + count
    rows, sides, equal = _scaled_rows(system, keys, start, packs, size)
    cones = [(clarabel.ZeroConeT, equal), (clarabel.NonnegativeConeT, len(rows) - equal)]
    goal = np.zeros(size)
    triples = np.zeros((3 * count, size))
    for at, (fmt, _) in enumerate(keys):
        own = packs_from + formats.index(fmt)
        weight = start[keys[at]]
        goal[tall + at] += weight
        goal[at] -= weight
        goal[own] += weight
        triples[3 * at, tall + at] = 1.0
        triples[3 * at + 1, at] = -1.0
        triples[3 * at + 2, own] = -1.0
    matrix, right = np.vstack([rows, triples]), np.concatenate([sides, np.zeros(3 * count)])
    settings = clarabel.DefaultSettings()
    settings.verbose = False
    settings.max_iter = 400
    settings.tol_gap_abs = settings.tol_gap_rel = 1e-15  # rare lines weigh little: the end is reached when it stops
    settings.tol_feas = 1e-12
    settings.tol_ktratio = 1e-12
    cone = [kind(size) for kind, size in cones if size] + [clarabel.ExponentialConeT() for _ in keys]
    scale = float(np.abs(goal).max(initial=0.0)) or 1.0
    solver = clarabel.DefaultSolver(csc_matrix((size, size)), goal / scale, csc_matrix(matrix), right, cone, settings)
    found = solver.solve()
    if str(found.status) not in ("Solved", "AlmostSolved", "InsufficientProgress"):
        message = f"No rates were found that all statements of this product allow ({found.status})."
        raise UnsolvedError(message)
    return _read_off(np.array(found.x), keys, formats, start, packs)


def _read_off(
    solution: FloatArray, keys: list[tuple[str, int]], formats: list[str], start: Rates, packs: Mapping[str, float]
) -> Rates:
    """Turn ratios to the starting points back into rates and packs."""
    size = {fmt: float(solution[len(keys) + at]) for at, fmt in enumerate(formats)}
    rates = {key: start[key] * max(0.0, float(solution[at])) / size[key[0]] for at, key in enumerate(keys)}
    return rates | {(fmt, -1): packs[fmt] * size[fmt] for fmt in formats}


def _scaled_rows(
    system: System, keys: list[tuple[str, int]], start: Rates, packs: Mapping[str, float], size: int
) -> tuple[FloatArray, FloatArray, int]:
    """Rows of the statements in the solver's form, equalities first: ``A x + s = b``; packs are one without runs."""
    factors = np.zeros(system.scale_at + 1)
    column = np.full(system.scale_at + 1, -1)
    for at, (fmt, place) in enumerate(keys):
        own = system.column_of(fmt, place)
        column[own], factors[own] = at, start[(fmt, place)] * packs[fmt] / system.unit[own]
    for at, fmt in enumerate(packs):
        own = system.packs_at(fmt)
        column[own], factors[own] = len(keys) + at, packs[fmt] / system.unit[own]
    least, most, boxes = system.rows()
    both = [(low, high) for low, high in zip(least, most, strict=True)]
    same = [
        low
        for low, high in both
        if low is not None and high is not None and np.allclose(low, high, rtol=1e-12, atol=1e-15)
    ]
    other = [low for low, high in both if low is not None and not _is_in(low, same)]
    other += [-high for low, high in both if high is not None and not (low is not None and _is_in(low, same))]
    other += list(boxes) if _has_runs(system) else []
    same += system.average_rows()
    fixed = [] if _has_runs(system) else list(range(len(packs)))
    made = np.zeros((len(same) + len(fixed) + len(other), size))
    right = np.zeros(len(made))
    used = column >= 0
    for order, row in enumerate([*same, *other]):
        at = order + (len(fixed) if order >= len(same) else 0)
        sign = 1.0 if order < len(same) else -1.0
        np.add.at(made[at], column[used], sign * row[used] * factors[used])
        right[at] = -sign * row[system.scale_at]
    for at, place in enumerate(fixed):
        made[len(same) + at, len(keys) + place], right[len(same) + at] = 1.0, 1.0
    size_of = np.abs(made).max(axis=1, initial=0.0)
    size_of = np.where(size_of > 0, size_of, 1.0)
    return made / size_of[:, None], right / size_of, len(same) + len(fixed)


def _is_in(row: FloatArray, rows: list[FloatArray]) -> bool:
    return any(row is one for one in rows)
