"""The lines of a box with what each of their cards sells for: the ground of the value curve and of every chance."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from botin.core.counts import CountLaw, FloatArray
from botin.core.odds.collation import INDEPENDENT, Repeats, spread_of_copies
from botin.core.odds.lines import BoxModel, Line
from botin.core.pricing.prices import Basis, PriceBook

NOTHING = CountLaw()
SINGLE_BELOW = 0.05
Worth = Callable[[FloatArray], FloatArray]
"""What is left of raw prices, for example net of selling costs."""


@dataclass(frozen=True)
class PricedLine:
    """A line with the price of each card and the chance that a draw shows it.

    Attributes
    ----------
    values : array (cards)
        Price in major units; 0 without a price.
    shares : array (cards)
        Chance of each card given that the line comes; they add up to 1.
    law : CountLaw
        Count in one box outside joint promises.
    case_law : CountLaw or None
        Count in a whole case when the case is what is promised.
    expected : float
        Expected count in one box, joint promises included.
    unpriced : int
        Cards without any price.
    in_packs : bool
        A card in the packs takes the place of a base card.
    """

    line: Line
    values: FloatArray
    shares: FloatArray
    law: CountLaw
    case_law: CountLaw | None
    expected: float
    unpriced: int
    in_packs: bool

    @property
    def is_single(self) -> bool:
        """Whether it is one card by rare independent trials: thousands of these are collected in one transform."""
        law = self.law
        plain = not law.fixed and not law.poisson and not law.steps and not law.schools
        one = len(self.values) == 1 and self.case_law is None and plain
        return one and len(law.binomials) == 1 and law.binomials[0][1] < SINGLE_BELOW

    @property
    def mean(self) -> float:
        """Mean price of a draw."""
        return float(self.values @ self.shares)

    @property
    def square(self) -> float:
        """Mean square of the price of a draw."""
        return float((self.values * self.values) @ self.shares)


@dataclass(frozen=True)
class PricedJoint:
    """A joint promise over lines (by place in `PricedBox.lines`) with the share of each."""

    law: CountLaw
    case_law: CountLaw | None
    places: tuple[int, ...]
    weights: FloatArray


@dataclass(frozen=True)
class Singles:
    """Lines of one card: price, chance a trial, and whether the card lies in the packs."""

    values: FloatArray
    chances: FloatArray
    in_packs: npt.NDArray[np.bool_]


@dataclass(frozen=True)
class Flat:
    """Every version of a box: its line, price, share of the line's draws, and expected copies in one box.

    ``most`` is the expected number if nothing displaced base cards: what bounds are built on.
    """

    line: npt.NDArray[np.int64]
    price: FloatArray
    share: FloatArray
    expected: FloatArray
    most: FloatArray
    in_packs: npt.NDArray[np.bool_]


@dataclass(frozen=True)
class PricedBox:
    """A box with prices.

    Attributes
    ----------
    lines : tuple of PricedLine
        All but the rest.
    rest : tuple of PricedLine
        The plain base lines that fill what is left; together they are one pool of cards.
    pool : PricedLine or None
        That pool.
    sizes : tuple of (chance, PricedBox)
        Where boxes differ in their packs, the box of each size; empty when all are alike.
    """

    model: BoxModel
    lines: tuple[PricedLine, ...]
    joint: tuple[PricedJoint, ...]
    rest: tuple[PricedLine, ...]
    pool: PricedLine | None
    assumptions: tuple[str, ...] = field(default=())
    sizes: tuple[tuple[float, PricedBox], ...] = ()

    @property
    def slots(self) -> int:
        """Cards in the packs of one box."""
        return self.model.format.cards_per_box

    @property
    def all_lines(self) -> tuple[PricedLine, ...]:
        """Every line, the rest last."""
        return (*self.lines, *self.rest)

    @cached_property
    def flat(self) -> Flat:
        """All versions of all lines in flat arrays."""
        rows = [*self.lines, *([self.pool] if self.pool else [])]
        sizes = [len(line.values) for line in rows]
        full = [*(line.expected for line in self.lines), float(self.slots)]
        shares = np.concatenate([line.shares for line in rows]) if rows else np.zeros(0)
        return Flat(
            np.repeat(np.arange(len(rows)), sizes),
            np.concatenate([line.values for line in rows]) if rows else np.zeros(0),
            shares,
            shares * np.repeat([line.expected for line in rows], sizes),
            shares * np.repeat(full[: len(rows)], sizes),
            np.repeat([line.in_packs for line in rows], sizes),
        )

    @cached_property
    def singles(self) -> dict[int, Singles]:
        """Lines of one card that come by rare independent trials, by the number of trials a box."""
        chosen: dict[int, list[tuple[float, float, bool]]] = defaultdict(list)
        for line in self.lines:
            if line.is_single:
                n, p = line.law.binomials[0]
                chosen[n].append((float(line.values[0]), p, line.in_packs))
        return {
            n: Singles(np.array(values), np.array(chances), np.array(packed))
            for n, rows in chosen.items()
            for values, chances, packed in (zip(*rows, strict=True),)
        }

    @cached_property
    def larger(self) -> tuple[PricedLine, ...]:
        """All other lines that come at all."""
        return tuple(line for line in self.lines if not line.is_single and (line.law.mean or line.case_law))

    @cached_property
    def independent_variance(self) -> FloatArray:
        """Variance of each line's count in a box, and in a case that is promised as a whole, in two rows."""
        each = [(line.law.variance, line.case_law.variance if line.case_law else np.nan) for line in self.lines]
        return np.array(each).reshape(-1, 2).T

    @cached_property
    def moments(self) -> FloatArray:
        """Mean price, mean square and expected count of each line, in three rows."""
        return np.array([(line.mean, line.square, line.expected) for line in self.lines]).reshape(-1, 3).T

    @property
    def hits_in_packs(self) -> float:
        """Expected cards in the packs that are not the rest."""
        return math.fsum(line.expected for line in self.lines if line.in_packs)


def line_prices(line: Line, prices: PriceBook, grade: str = "") -> tuple[FloatArray, npt.NDArray[np.bool_]]:
    """Price of each card of a line, and whether it has one at all."""
    tier = prices.tier(line.section.key, line.parallel, grade)
    values = np.full(len(line.cards), tier.amount)
    known = np.full(len(line.cards), tier.basis is not Basis.NONE)
    own = prices.own_prices(line.section.key, line.parallel, grade)
    shorter = own if len(own) < len(line.cards) else line.place_of
    place = line.place_of if own else {}
    for number in shorter if own else ():
        if number in place and number in own:
            values[place[number]], known[place[number]] = own[number].amount, True
    return values, known


Seen = Mapping[tuple[str, str, str], int]
"""Copies known to be pulled already, by section, number and parallel."""


def priced_box(model: BoxModel, prices: PriceBook, worth: Worth | None = None, seen: Seen | None = None) -> PricedBox:
    """Put prices to the lines of a format.

    Parameters
    ----------
    model : BoxModel
        The lines and promises.
    prices : PriceBook
        Raw prices.
    worth : callable, optional
        Turns an array of prices into what is left of them; the prices themselves when not given.
    seen : mapping, optional
        Copies of numbered cards known to be pulled elsewhere: they cannot come any more.
    """
    seen = seen or {}
    lines = tuple(_priced(line, prices, worth, seen) for line in model.lines if not line.is_rest)
    rest = tuple(_priced(line, prices, worth, {}) for line in model.rest)
    notes = list(model.assumptions)
    if seen:
        notes.append(f"{len(seen)} versions known to be pulled already come less often")
    sizes = tuple((chance, priced_box(one, prices, worth, seen)) for chance, one in model.sizes)
    return PricedBox(
        model=model,
        lines=lines,
        joint=_joints(model, lines),
        rest=rest,
        pool=_pool(rest),
        assumptions=tuple(notes),
        sizes=sizes,
    )


def with_model(box: PricedBox, model: BoxModel) -> PricedBox:
    """Return a box at other rates: the lines of another model of the same format with the prices they have here."""
    known = {priced.line.key: priced for priced in box.all_lines}

    def moved(line: Line) -> PricedLine:
        here = known[line.key]
        return replace(
            here, line=line, law=line.law or NOTHING, case_law=line.case_law, expected=line.expected or 0.0
        )

    lines = tuple(moved(line) for line in model.lines if not line.is_rest)
    rest = tuple(moved(line) for line in model.rest)
    bare = replace(box, sizes=())
    sizes = tuple((chance, with_model(bare, part)) for chance, part in model.sizes)
    return replace(
        box, model=model, lines=lines, joint=_joints(model, lines), rest=rest, pool=_pool(rest), sizes=sizes
    )


def _joints(model: BoxModel, lines: tuple[PricedLine, ...]) -> tuple[PricedJoint, ...]:
    place = {priced.line.key: at for at, priced in enumerate(lines)}
    return tuple(
        PricedJoint(
            law=promise.law,
            case_law=promise.case_law,
            places=tuple(place[key] for key in promise.weights),
            weights=np.array(list(promise.weights.values())),
        )
        for promise in model.joint
    )


def _priced(line: Line, prices: PriceBook, worth: Worth | None, seen: Seen) -> PricedLine:
    values, known = line_prices(line, prices)
    if worth is not None:
        values = np.where(known, worth(values), 0.0)
    size = len(line.cards)
    left = _left(line, seen) if seen else np.ones(size)
    total = float(left.sum())
    law = line.law or NOTHING
    share = total / size if size else 0.0
    thin = line.law is not None and not line.law.fixed and not line.law.schools and share < 1
    return PricedLine(
        line=line,
        values=values,
        shares=left / total if total else np.zeros(size),
        law=law.thinned(share) if thin else law if total else NOTHING,
        case_law=line.case_law,
        expected=(line.expected or 0.0) * (share if thin else 1.0 if total else 0.0),
        unpriced=int(size - known.sum()),
        in_packs=line.in_packs,
    )


def without_versions(box: PricedBox, versions: frozenset[tuple[str, str, str]]) -> PricedBox:
    """Return the box as if some versions were worth nothing: what it gives when the chase does not come."""

    def bare(priced: PricedLine) -> PricedLine:
        section, parallel = priced.line.section.key, priced.line.parallel
        gone = [at for at, card in enumerate(priced.line.cards) if (section, card.number, parallel) in versions]
        if not gone:
            return priced
        values = priced.values.copy()
        values[gone] = 0.0
        return replace(priced, values=values)

    rest = tuple(bare(line) for line in box.rest)
    return replace(box, lines=tuple(bare(line) for line in box.lines), rest=rest, pool=_pool(rest))


def _left(line: Line, seen: Seen) -> FloatArray:
    """Share of each card's copies that can still come; only numbered cards run out."""
    left = np.ones(len(line.cards))
    if line.run:
        for at, card in enumerate(line.cards):
            gone = seen.get((card.section, card.number, line.parallel), 0)
            left[at] = max(0.0, 1 - gone / line.run)
    return left


def _pool(rest: tuple[PricedLine, ...]) -> PricedLine | None:
    """Take all lines of the rest as one pool of equally likely cards."""
    if not rest:
        return None
    if len(rest) == 1:
        return rest[0]
    values = np.concatenate([line.values for line in rest])
    return PricedLine(
        line=rest[0].line,
        values=values,
        shares=np.full(len(values), 1 / len(values)),
        law=NOTHING,
        case_law=None,
        expected=math.fsum(line.expected for line in rest),
        unpriced=sum(line.unpriced for line in rest),
        in_packs=True,
    )


def mean_of(box: PricedBox) -> float:
    """Mean value of a box in closed form: Σ expected count × mean price of the line."""
    return math.fsum(line.expected * line.mean for line in box.all_lines)


def base_variance(box: PricedBox, repeats: Repeats) -> float:
    """Variance of what the base cards of one box are worth, given how many there are on average.

    All counts together are the number of cards, so only prices beside their mean count: N/(N − 1) times the variance
    of one card's count times Σ (price − mean)².
    """
    pool = box.pool
    if pool is None:
        return 0.0
    room, size = max(0.0, box.slots - box.hits_in_packs), len(pool.values)
    if repeats.independent or size < 2:
        return room * max(0.0, pool.square - pool.mean**2)
    apart = float(((pool.values - pool.mean) ** 2).sum())
    return spread_of_copies(repeats, room, size) * size / (size - 1) * apart


def variance_of(box: PricedBox, boxes: int = 1, *, one_case: bool = False, repeats: Repeats = INDEPENDENT) -> float:
    """Variance of the value of ``boxes`` boxes in closed form.

    Given the counts, draws are independent, and each hit in the packs displaces one base card; the law of total
    variance does the rest. In a joint promise the count is split multinomially.
    """
    if box.sizes:  # the law of total variance over the sizes; boxes differ independently
        mean = math.fsum(chance * mean_of(one) for chance, one in box.sizes)
        each = ((chance, mean_of(one), variance_of(one, repeats=repeats)) for chance, one in box.sizes)
        return boxes * math.fsum(chance * (spread + (middle - mean) ** 2) for chance, middle, spread in each)
    pool = box.pool
    base = pool.mean if pool else 0.0
    total = boxes * base_variance(box, repeats)
    tied = {place for joint in box.joint for place in joint.places}
    means, squares, expected = box.moments
    total += boxes * float(expected @ (squares - means**2))
    in_packs = np.array([line.in_packs for line in box.lines], bool)
    gains = means - np.where(in_packs, base, 0.0)
    own, of_case = box.independent_variance
    counts = np.where(np.isnan(of_case) | (not one_case), boxes * own, of_case)
    for at, line in enumerate(box.lines):
        if line.law.schools and (line.case_law is None or not one_case):
            counts[at] = line.law.times(boxes).variance  # one school holds for all of them
    counts[list(tied)] = 0.0
    total += float(counts @ (gains * gains))
    for joint in box.joint:
        gain = np.array([box.lines[p].mean - (base if box.lines[p].in_packs else 0.0) for p in joint.places])
        middle = float(joint.weights @ gain)
        spread = float(joint.weights @ (gain * gain)) - middle**2
        total += boxes * joint.law.mean * spread
        total += _count_variance(joint.law, joint.case_law, boxes, one_case=one_case) * middle**2
    return total


def _count_variance(law: CountLaw, case_law: CountLaw | None, boxes: int, *, one_case: bool) -> float:
    return case_law.variance if one_case and case_law is not None else law.times(boxes).variance
