"""How far chances and worth may lie from what is reckoned, where the odds are not printed or only rounded.

Each answer is worked out again at the rates where it is least and where it is most, inside everything that is stated.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from botin.core.buying.chance import Chances, Versions, chances
from botin.core.catalog.product import Format
from botin.core.counts import FloatArray
from botin.core.odds.boxlaw import BoxLaw
from botin.core.odds.collation import INDEPENDENT, Repeats
from botin.core.odds.lines import LEARNED, BoxModel, model_at
from botin.core.pricing.priced import PricedBox, mean_of, priced_box, with_model
from botin.core.pricing.prices import PriceBook
from botin.core.pricing.valuecurve import ValueCurve, value_curve

Pair = tuple[float, float | None]
TURNS = 2
"""How often the direction of a chance is taken anew; it hardly changes after the first."""
BOUND_POINTS = 2**14
"""Grid of the curves at the ends."""
UNBOUNDED = 50.0
"""Copies a box of what nothing bounds, where its most is asked for: so many that one comes for certain."""


@dataclass(frozen=True)
class ChanceBounds:
    """Least and most of each chance; of all of a list an outer bound."""

    expected: Pair
    pack: Pair
    box: Pair
    case: Pair | None
    boxes: Pair


@dataclass(frozen=True, slots=True)
class Settles:
    """The line whose odds would narrow the mean most, and by how much its mean may move (major units)."""

    place: int
    words: str
    moves: float


@dataclass(frozen=True)
class WorthBounds:
    """Least and most of the mean and of the chance to reach the cost, and what would settle it."""

    mean: Pair
    chance: tuple[float, float]
    settles: tuple[Settles, ...]


def unprinted_lines(law: BoxLaw, fmt: Format) -> tuple[int, ...]:
    """Return the places of a format's lines without a printed rate of their own; plain base is none of them."""
    own = law.own_rows(fmt)
    return tuple(
        place for place in law.system.places(fmt.key) if place not in own and not law.system.lines[place].is_base
    )


def wanted_weights(law: BoxLaw, fmt: Format, wanted: Versions) -> dict[int, float]:
    """Return the share of each line's cards that is wanted."""
    found: dict[int, float] = {}
    for section, number, parallel in wanted:
        for place in law.system.said.of_section.get(section, ()):
            line = law.system.lines[place]
            if line.key[1] == parallel and fmt.key in line.formats and any(c.number == number for c in line.cards):
                found[place] = found.get(place, 0.0) + 1 / len(line.cards)
    return found


def chance_bounds(  # noqa: PLR0913  (the same choices as the chance itself)
    law: BoxLaw,
    fmt: Format,
    wants: Sequence[Versions],
    found: Chances,
    *,
    every: bool = False,
    boxes: int = 1,
    repeats: Repeats = INDEPENDENT,
    seeding: str = LEARNED,
) -> ChanceBounds:
    """Return the least and most of the chance of any, or of all, of some wants.

    Parameters
    ----------
    found : Chances
        The answer at the point; the bounds hold it.

    Notes
    -----
    Of any: at the two ends of the expected number of wanted copies. Of all: at most the least of the single mosts, at
    least 1 − Σ (1 − single leasts) (Bonferroni, Teoria statistica delle classi, 1936): outer bounds.
    """
    if every and len(wants) > 1:
        parts = [
            chance_bounds(
                law, fmt, [want], _one(law, fmt, want, boxes, repeats, seeding), boxes=boxes, repeats=repeats,
                seeding=seeding,
            )
            for want in wants
        ]  # fmt: skip
        return _of_all(parts, found)
    union: Versions = frozenset().union(*wants)
    weights = wanted_weights(law, fmt, union)
    ends = law.system.rate_ends(fmt.key, weights)
    low = _at(law, fmt, ends.at_low, wants, (boxes, repeats, seeding))
    high = low if ends.at_high is None else _at(law, fmt, ends.at_high, wants, (boxes, repeats, seeding))
    sure = ends.high is None

    def pair(name: str) -> Pair:
        values = [getattr(one, name) for one in (low, found, high)]
        return min(values), 1.0 if sure else max(values)

    least = min(ends.low * fmt.mean_packs, found.expected)
    most = None if ends.high is None else max(ends.high * fmt.mean_packs, found.expected)
    return ChanceBounds(
        (least, most), pair("pack"), pair("box"), None if found.case is None else pair("case"), pair("boxes")
    )


def _one(law: BoxLaw, fmt: Format, want: Versions, boxes: int, repeats: Repeats, seeding: str) -> Chances:
    rates = np.array([law.point_rate(fmt, place) or 0.0 for place in range(len(law.system.lines))])
    return _at(law, fmt, rates, [want], (boxes, repeats, seeding))


def _at(
    law: BoxLaw, fmt: Format, rates: FloatArray, wants: Sequence[Versions], how: tuple[int, Repeats, str]
) -> Chances:
    """Return the chances at some rates."""
    from datetime import date  # noqa: PLC0415  (an empty price list wants a day)

    boxes, repeats, seeding = how
    box = priced_box(_model(law, fmt, rates, seeding), PriceBook([], date.min))
    return chances(box, wants, boxes=boxes, repeats=repeats)


def _model(law: BoxLaw, fmt: Format, rates: FloatArray, seeding: str) -> BoxModel:
    return model_at(law, fmt, dict(enumerate(rates.tolist())), seeding)


def _of_all(parts: Sequence[ChanceBounds], found: Chances) -> ChanceBounds:
    def pair(name: str, middle: float) -> Pair:
        ends = [getattr(part, name) for part in parts]
        low = max(0.0, 1.0 - sum(1.0 - one[0] for one in ends))
        return min(low, middle), max(middle, min(one[1] for one in ends))

    expected = [part.expected for part in parts]
    high = None if any(one[1] is None for one in expected) else sum(one[1] or 0.0 for one in expected)
    case = None if found.case is None else pair("case", found.case)
    return ChanceBounds(
        (min(sum(one[0] for one in expected), found.expected), None if high is None else max(high, found.expected)),
        pair("pack", found.pack), pair("box", found.box), case, pair("boxes", found.boxes),
    )  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """What is asked of some boxes: how many, what they cost together, and how their prices are put to a model."""

    boxes: int
    cost: float
    repeats: Repeats
    seeding: str


def worth_bounds(
    law: BoxLaw, box: PricedBox, curve: ValueCurve, asked: Asked, price: Mapping[int, FloatArray]
) -> WorthBounds:
    """Return the least and most of what some boxes are worth on average, and of the chance that they reach the cost.

    Parameters
    ----------
    box : PricedBox
        The box at the point.
    curve : ValueCurve
        Its curve for the boxes asked for.
    price : mapping
        Prices of the cards of each line, by its place.
    """
    fmt = law.product.format_by_key[box.model.format.key]
    means = {place: float(values.mean()) if len(values) else 0.0 for place, values in price.items()}
    ends = law.system.rate_ends(fmt.key, means)
    times = asked.boxes * fmt.mean_packs
    at_point = asked.boxes * mean_of(box)
    mean = (min(ends.low * times, at_point), None if ends.high is None else max(ends.high * times, at_point))
    chance = curve.chance_at_least(asked.cost)
    low = min(chance, _furthest(law, fmt, (box, ends.at_low), asked, price, largest=False))
    most = 1.0 if ends.at_high is None else _furthest(law, fmt, (box, ends.at_high), asked, price, largest=True)
    return WorthBounds(mean, (low, max(chance, most)), settling(law, fmt, means, asked.boxes))


def settling(law: BoxLaw, fmt: Format, means: Mapping[int, float], boxes: int) -> tuple[Settles, ...]:
    """List the lines without printed odds by how far their odds could move the mean, the furthest first."""
    base = [means[place] for place in means if law.system.lines[place].is_base]
    usual = sum(base) / len(base) if base else 0.0
    found = []
    for place in unprinted_lines(law, fmt):
        rate = law.rate(fmt, place)
        if rate.high is not None and rate.low is not None:
            away = abs(means.get(place, 0.0) - usual * law.system.lines[place].in_packs)
            found.append(Settles(place, law.words(place), (rate.high - rate.low) * fmt.mean_packs * boxes * away))
    return tuple(sorted((one for one in found if one.moves > 0), key=lambda one: -one.moves))


def _furthest(
    law: BoxLaw,
    fmt: Format,
    start: tuple[PricedBox, FloatArray],
    asked: Asked,
    price: Mapping[int, FloatArray],
    *,
    largest: bool,
) -> float:
    """Follow the chance to reach the cost to its end: one more card at z adds P(V ≥ c − z) − P(V ≥ c) to it."""
    box, rates = start
    best = None
    for turn in range(TURNS):
        curve = _curve_at(law, fmt, box, rates, asked)
        found = curve.chance_at_least(asked.cost)
        best = found if best is None else max(best, found) if largest else min(best, found)
        if turn + 1 < TURNS:
            gains = {place: _gain(curve, asked.cost, values) for place, values in price.items()}
            ends = law.system.rate_ends(fmt.key, gains)
            following = ends.at_high if largest else ends.at_low
            if following is None:
                return 1.0
            rates = following
    return best or 0.0


def _curve_at(law: BoxLaw, fmt: Format, box: PricedBox, rates: FloatArray, asked: Asked) -> ValueCurve:
    there = with_model(box, _model(law, fmt, rates, asked.seeding))
    return value_curve(there, asked.cost, asked.boxes, repeats=asked.repeats, points=BOUND_POINTS)


def _gain(curve: ValueCurve, cost: float, values: FloatArray) -> float:
    """Mean of P(V ≥ cost − z) − P(V ≥ cost) over the cards of a line."""
    if not len(values):
        return 0.0
    prices, counts = np.unique(values, return_counts=True)
    reached = [curve.chance_at_least(cost - z) if z < cost else 1.0 for z in prices.tolist()]
    return float(np.average(reached, weights=counts)) - curve.chance_at_least(cost)
