"""Seeded worlds with hidden truth, and collectors who act in them: do the flags earn what they promise?

A world has versions with true price levels in every grade, houses with their own bias, noise and limits, copies with a
true quality and centering. The collector sees noisy sales, counts of graded copies and his own looks, never the truth.
Every act is worth its true expected net: the coin flips of a sale or of a grader are averaged out. All figures are
invented; none of the laws below is that of the price model or of the demo.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from datetime import date, timedelta

import numpy as np

from botin.core.catalog.product import Card, Kind, Parallel, Product, Section
from botin.core.flags.nets import sale_nets
from botin.core.flags.verdict import best_route, judge_copy
from botin.core.flags.ways import CopyFacts, Go, GradingCosts, Looking, Priced, Tier
from botin.core.grading.forecast import House, compared, house_of, quality_from, standard_cuts, told_apart
from botin.core.grading.grades import GRADES, NO_LIMITS, Grader, Inspection, Limit, Quality, Standard
from botin.core.pricing.guess import Found
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceRow
from botin.core.selling.costs import PostageStep, SaleCosts

DAY = date(2026, 11, 24)
SIGMA = 0.3
"""Scatter of single sales in the worlds."""
COSTS = SaleCosts(
    fee=0.12, fixed=0.3, materials=0.4, minutes=4, hourly=12, bulk_below=0.5, bulk_each=0.03,
    steps=(PostageStep(20, 1.2), PostageStep(100, 4.5), PostageStep(None, 9.0, 0.008)),
)  # fmt: skip
LOOKING = Looking(minutes=8, hourly=12)
TIERS = (
    Tier("slow", 19, ceiling=500, upcharge=25, days=60, house="North"),
    Tier("quick", 34, ceiling=1500, upcharge=60, days=15, house="North"),
    Tier("slow", 16, ceiling=400, upcharge=20, days=50, house="South"),
)
FEES = GradingCosts(TIERS, shipping=40, insured=0.01, together=20)


@dataclass(frozen=True)
class Kindness:
    """What kind of world it is.

    Attributes
    ----------
    sales, graded : float
        Raw and graded sales of a version of middling price.
    steep : float
        How much oftener dear versions are sold (power of the price).
    quality : tuple of float
        Mean and spread of the true quality.
    curve : dict
        Log ratio of each grade to raw, on average.
    """

    name: str
    sales: float
    graded: float
    steep: float
    quality: tuple[float, float]
    curve: dict[float, float]
    levels: dict[tuple[str, str], float]
    fame: float = 0.9
    own: float = 0.45
    ratio: float = 0.25
    look: float = 0.6
    wild: float = 0.05


BASE, INSERT, SIGNED = "base", "insert", "signed"
MODERN_CURVE = {
    10.0: 1.05,
    9.0: 0.2,
    8.0: -0.15,
    7.0: -0.4,
    6.0: -0.6,
    5.0: -0.8,
    4.0: -1.0,
    3.0: -1.2,
    2.0: -1.4,
    1.0: -1.6,
}
VINTAGE_CURVE = {
    10.0: 3.6,
    9.0: 2.3,
    8.0: 1.25,
    7.0: 0.75,
    6.0: 0.35,
    5.0: 0.0,
    4.0: -0.3,
    3.0: -0.6,
    2.0: -0.9,
    1.0: -1.2,
}
MODERN_LEVELS = {
    (BASE, ""): 1.2, (BASE, "frost"): 2.1, (BASE, "amber"): 2.9, (BASE, "night"): 3.9, (INSERT, ""): 1.8,
    (INSERT, "amber"): 3.2, (SIGNED, ""): 3.2, (SIGNED, "amber"): 3.9, (SIGNED, "night"): 4.9,
}  # fmt: skip
VINTAGE_LEVELS = {(BASE, ""): 2.4, (INSERT, ""): 3.1}
WORLDS = {
    "modern": Kindness(
        "modern", 0.45, 0.12, 0.6, (9.1, 0.8), MODERN_CURVE, MODERN_LEVELS, fame=1.0, own=0.5, ratio=0.3, wild=0.1
    ),
    "vintage": Kindness(
        "vintage", 3.0, 1.2, 0.5, (5.6, 1.5), VINTAGE_CURVE, VINTAGE_LEVELS, fame=1.1, own=0.5, look=0.7
    ),
    "thin": Kindness(
        "thin", 0.12, 0.03, 0.7, (8.4, 0.9), MODERN_CURVE, MODERN_LEVELS, fame=1.0, own=0.7, ratio=0.5, wild=0.12
    ),
}
RUNS = {"": "", "frost": "", "amber": "99", "night": "25"}
LIMITS = {
    "North": Standard("North", (Limit(10, 55, 75), Limit(9, 60, 90), Limit(8, 65, 90), Limit(7, 70, 90))),
    "South": Standard("South", (Limit(10, 58, 80), Limit(9, 63, 90), Limit(8, 68, 90), Limit(7, 75, 90))),
}
GRADERS = {"North": Grader(bias=-0.25, noise=0.4), "South": Grader(bias=0.2, noise=0.55)}
BORDER = 4.0


@dataclass(frozen=True)
class Copy:
    """A copy with its hidden quality and centering, and what a look at it would show."""

    card: Card
    parallel: str
    quality: float
    front: float
    look: Inspection


@dataclass(frozen=True)
class World:
    """One seeded world: what can be seen, and the truth behind it."""

    kind: Kindness
    product: Product
    rows: tuple[PriceRow, ...]
    more: tuple[PriceRow, ...]
    counts: dict[str, dict[float, int]]
    copies: tuple[Copy, ...]
    truth: dict[tuple[str, str, str], dict[float, float]] = field(repr=False)
    """Level of each version by grade; grade 0 is raw."""
    seed: int = 0

    def true_house(self, house: str) -> House:
        """The house as it is."""
        mean, spread = self.kind.quality
        grader = replace(GRADERS[house], own_noise=self.kind.look)
        bare = house_of(Quality(mean, spread), grader, NO_LIMITS)
        allowed = np.array([true_within(LIMITS[house], grade) for grade in GRADES])
        return replace(
            bare, cuts=standard_cuts(GRADES) - grader.bias, allowed=allowed, border=BORDER, standard=LIMITS[house]
        )

    def true_chances(self, copy: Copy, house: str) -> dict[float, float]:
        """Chance of each grade given the hidden quality and centering: only the grader's own noise is left."""
        grader, cap = GRADERS[house], LIMITS[house].cap(Inspection(front=copy.front))
        found = dict.fromkeys(GRADES, 0.0)
        above = 0.0
        for grade, cut in zip(GRADES, standard_cuts(GRADES).tolist(), strict=True):
            chance = 0.5 * math.erfc((cut - copy.quality - grader.bias) / (grader.noise * math.sqrt(2)))
            found[min(grade, cap)] += chance - above
            above = chance
        return found


def true_within(standard: Standard, grade: float) -> float:
    """Chance that the centering of a random copy allows a grade."""
    fronts = [limit.front for limit in standard.limits if limit.grade >= grade]
    if not fronts or grade < standard.limits[-1].grade:
        return 1.0
    return math.erf((max(fronts) - 50) / (BORDER * math.sqrt(2))) ** 2


def make_world(kind: Kindness, seed: int, copies: int = 160) -> World:
    """Make a world from its seed."""
    rng = np.random.default_rng([seed, *kind.name.encode()])
    product, cards = _checklist(kind)
    fame = {name: float(x) for name, x in zip(_names(), kind.fame * rng.standard_normal(60), strict=True)}
    shift = {level: value + float(rng.normal(0, 0.3)) for level, value in kind.levels.items()}
    lift = {section: float(rng.normal(0, 0.15)) for section, _ in kind.levels}
    truth: dict[tuple[str, str, str], dict[float, float]] = {}
    for card in cards:
        for section, parallel in kind.levels:
            if section == card.section:
                truth[(section, card.number, parallel)] = _levels(
                    rng, kind, shift[(section, parallel)] + fame[card.name], lift[section]
                )
    rows, more = _sales(rng, kind, truth, shift), _sales(rng, kind, truth, shift)
    keys = list(truth)
    weights = np.array([_pull_weight(parallel) for _, _, parallel in keys])
    picked = rng.choice(len(keys), copies, p=weights / weights.sum())
    world = World(kind, product, tuple(rows), tuple(more), {}, (), truth, seed)
    counts = {house: _counts(rng, world, house) for house in GRADERS}
    made = tuple(_copy(rng, kind, product, keys[at]) for at in picked)
    return replace(world, counts=counts, copies=made)


def _pull_weight(parallel: str) -> float:
    return {"": 6.0, "frost": 3.0, "amber": 2.0, "night": 1.0}[parallel]


def _names() -> list[str]:
    return [f"Rider {n}" for n in range(60)]


def _checklist(kind: Kindness) -> tuple[Product, tuple[Card, ...]]:
    sections = tuple(dict.fromkeys(section for section, _ in kind.levels))
    cards = tuple(
        Card(section, f"{section[0].upper()}{n}", name)
        for section in sections
        for n, name in enumerate(_names()[:: 1 if section == BASE else 2])
    )
    kinds = {BASE: Kind.BASE, INSERT: Kind.INSERT, SIGNED: Kind.AUTOGRAPH}
    return Product(
        key=kind.name, name=kind.name, sections=tuple(Section(s, s, kinds[s]) for s in sections), cards=cards,
        parallels=tuple(Parallel(p, p, s, run_text=RUNS[p]) for s, p in kind.levels if p),
    ), cards  # fmt: skip


def _levels(rng: np.random.Generator, kind: Kindness, middle: float, lift: float) -> dict[float, float]:
    """True levels of a version: raw with a heavy-tailed part of its own, graded by a curve that wanders."""
    raw = middle + kind.own * float(rng.standard_t(5))
    whole = lift + kind.ratio * float(rng.normal())
    return {0.0: math.exp(raw), **{
        grade: math.exp(raw + ratio + whole * (grade / 10) + 0.5 * kind.ratio * float(rng.normal()))
        for grade, ratio in kind.curve.items()
    }}  # fmt: skip


def _sales(
    rng: np.random.Generator,
    kind: Kindness,
    truth: dict[tuple[str, str, str], dict[float, float]],
    shift: dict[tuple[str, str], float],
) -> list[PriceRow]:
    """Sales of the last months: dear versions are sold oftener, one of twenty is of something else."""
    mean, spread = kind.quality
    found = []
    for (section, number, parallel), levels in truth.items():
        pull = math.exp(kind.steep * (math.log(levels[0.0]) - shift[(section, parallel)])) * float(
            rng.gamma(2.0, 0.5)
        )
        for grade, level in levels.items():
            near = math.exp(-0.5 * ((grade - mean) / (spread + 0.8)) ** 2) if grade else 1.0
            rate = pull * (kind.graded * near if grade else kind.sales)
            for _ in range(int(rng.poisson(min(rate, 25.0)))):
                noise = float(rng.normal(0, SIGMA if rng.random() > kind.wild else 1.2))
                day = DAY - timedelta(int(rng.integers(0, 120)))
                found.append(
                    PriceRow(
                        section,
                        number,
                        parallel,
                        f"{grade:g}" if grade else "",
                        round(level * math.exp(noise), 2) or 0.01,
                        day,
                    )
                )
    return found


def _counts(rng: np.random.Generator, world: World, house: str) -> dict[float, int]:
    """Counts a house publishes: 1,500 copies with its bias, noise and limits in them."""
    mean, spread = world.kind.quality
    grader, found = GRADERS[house], dict.fromkeys(GRADES, 0)
    for _ in range(1500):
        seen = float(rng.normal(mean, spread)) + grader.bias + float(rng.normal(0, grader.noise))
        front = 50 + float(np.abs(rng.normal(0, BORDER, 2)).max())
        grade = min(10.0, max(1.0, math.floor(seen + 0.5)))
        found[min(grade, LIMITS[house].cap(Inspection(front=front)))] += 1
    return {grade: count for grade, count in found.items() if count}


def _copy(rng: np.random.Generator, kind: Kindness, product: Product, key: tuple[str, str, str]) -> Copy:
    section, number, parallel = key
    quality = float(rng.normal(*kind.quality))
    front = 50 + float(np.abs(rng.normal(0, BORDER, 2)).max())
    score = min(10.0, max(1.0, round(2 * (quality + float(rng.normal(0, kind.look)))) / 2))
    look = Inspection(corners=score, edges=score, surface=score, front=round(min(front, 99.0), 1))
    return Copy(product.card_by_number[(section, number)], parallel, quality, front, look)


@dataclass(frozen=True)
class Act:
    """What is done with a copy: bulk, sold raw, or graded in a tier."""

    go: Go
    tier: Tier | None = None
    looks: int = 0


def worth_of(world: World, copy: Copy, act: Act) -> float:
    """True expected net of an act (major units)."""
    levels = world.truth[(copy.card.section, copy.card.number, copy.parallel)]
    lift = math.exp(SIGMA**2 / 2)
    spent = act.looks * LOOKING.cost
    if act.tier is None:
        raw = float(COSTS.single(np.array([levels[0.0] * lift]))[0])
        return (COSTS.bulk_each if act.go is Go.BULK else raw) - spent
    tier = act.tier
    total = 0.0
    for grade, chance in world.true_chances(copy, tier.house).items():
        value = levels[grade] * lift
        over = tier.upcharge if tier.ceiling is not None and value > tier.ceiling else 0.0
        total += chance * (float(sale_nets(np.array([value]), COSTS)[0]) - over - FEES.insured * value)
    return total - tier.fee - FEES.each(tier.house) - spent


Collector = Callable[[World], list[Act]]


@dataclass
class Sight:
    """What a collector reckons with: a price for every version and grade, and houses; either may be the truth."""

    world: World
    model: PriceModel
    houses: dict[str, House]
    prices_true: bool = False

    def facts(self, copy: Copy, look: Inspection | None) -> CopyFacts:
        """Gather what a verdict needs."""
        key = (copy.card.section, copy.card.number, copy.parallel)
        by_house = {name: house.forecast(look) for name, house in self.houses.items()}
        if self.prices_true:
            levels = self.world.truth[key]
            raw, graded = Priced(levels[0.0], 0.0, SIGMA), {g: Priced(levels[g], 0.0, SIGMA) for g in GRADES}
            guessed = False
        else:
            guess = self.model.estimate(copy.card, copy.parallel)
            raw, guessed = _priced(guess), guess.found is Found.WIDE
            graded = (
                {g: _priced(self.model.estimate(copy.card, copy.parallel, f"{g:g}")) for g in GRADES}
                if self.model.has_grades
                else {}
            )
        looks = compared(tuple(self.houses.items())) if look is None and graded else {}
        return CopyFacts(
            raw=raw, graded={g: p for g, p in graded.items() if p.amount > 0}, chances=by_house["North"], by_house=by_house,
            inspected=look is not None, looks=looks, guessed=guessed,
        )  # fmt: skip


def _priced(guess: object) -> Priced:
    return Priced(guess.mean, guess.spread, guess.noise)  # type: ignore[attr-defined]


def sight_of(
    world: World, rows: Iterable[PriceRow], *, prices_true: bool = False, houses_true: bool = False
) -> Sight:
    """What the flags see; with parts of it replaced by the truth."""
    seen = {name: quality_from(counts, sum(counts.values())) for name, counts in world.counts.items()}
    biases = told_apart(seen)
    houses = {
        name: world.true_house(name)
        if houses_true
        else house_of(seen[name], Grader(bias=biases[name], noise=0.45, own_noise=0.7), LIMITS[name])
        for name in GRADERS
    }
    return Sight(world, PriceModel(world.product, list(rows), DAY), houses, prices_true)


def by_flags(world: World, sight: Sight) -> list[Act]:
    """Do what the flags say: look where they ask for it, price what has no price, then act."""
    acts = []
    rng = np.random.default_rng(world.seed)
    for copy in world.copies:
        facts, looks = sight.facts(copy, None), 0
        verdict = judge_copy(facts, COSTS, FEES, looking=LOOKING)
        if verdict.go is Go.PRICE:
            facts = _looked_up(world, copy, facts, rng)
            verdict = judge_copy(facts, COSTS, FEES, looking=LOOKING)
        if verdict.go is Go.LOOK:
            seen = sight.facts(copy, copy.look)
            facts = replace(facts, chances=seen.chances, by_house=seen.by_house, inspected=True, looks={})
            verdict, looks = judge_copy(facts, COSTS, FEES, looking=LOOKING), 1
        route = best_route(verdict.routes, COSTS)
        tier = next((t for t in TIERS if t.label == route.tier), None) if route.go is Go.GRADE else None
        acts.append(Act(Go.SELL if route.go in (Go.SELL, Go.LATER) else route.go, tier, looks))
    return acts


def _looked_up(world: World, copy: Copy, facts: CopyFacts, rng: np.random.Generator) -> CopyFacts:
    """One sale of such a card that someone asked about: noisy as any."""
    level = world.truth[(copy.card.section, copy.card.number, copy.parallel)][0.0]
    seen = level * math.exp(float(rng.normal(0, SIGMA)))
    return replace(facts, raw=Priced(seen, SIGMA, SIGMA), guessed=False, graded={}, chances={}, looks={})


def flags(world: World, *, more: bool = False, prices_true: bool = False, houses_true: bool = False) -> list[Act]:
    """Acts by the flags; with more sales, or with inputs replaced by the truth."""
    rows = (*world.rows, *world.more) if more else world.rows
    return by_flags(world, sight_of(world, rows, prices_true=prices_true, houses_true=houses_true))


def oracle(world: World) -> list[Act]:
    """Acts of one who knows the true prices, and the true chances given what can be seen."""
    return flags(world, prices_true=True, houses_true=True)


def sell_raw(world: World) -> list[Act]:
    """Sell all raw; what leaves less than a bulk card goes to bulk."""
    return [
        Act(Go.SELL if worth_of(world, copy, Act(Go.SELL)) > COSTS.bulk_each else Go.BULK) for copy in world.copies
    ]


def _means(world: World) -> tuple[dict[tuple[str, str, str, str], float], dict[tuple[str, str, str], float]]:
    """Mean of the sales of each version and grade, and of its section and finish."""
    own: dict[tuple[str, str, str, str], list[float]] = {}
    level: dict[tuple[str, str, str], list[float]] = {}
    for row in world.rows:
        own.setdefault((row.section, row.number, row.parallel, row.grade), []).append(row.amount)
        level.setdefault((row.section, row.parallel, row.grade), []).append(row.amount)
    return {k: float(np.mean(v)) for k, v in own.items()}, {k: float(np.mean(v)) for k, v in level.items()}


def plain_rule(world: World) -> list[Act]:
    """Mean of the sales (else of its section and finish), shares of the counts, the same fees; no look."""
    own, level = _means(world)
    acts = []
    for copy in world.copies:

        def price(grade: str, copy: Copy = copy) -> float:
            key = (copy.card.section, copy.card.number, copy.parallel, grade)
            return own.get(key, level.get((key[0], key[2], grade), 0.0))

        best = (max(COSTS.bulk_each, float(COSTS.single(np.array([price("")]))[0])), Act(Go.SELL))
        if best[0] <= COSTS.bulk_each:
            best = (COSTS.bulk_each, Act(Go.BULK))
        for tier in TIERS:
            counts = world.counts[tier.house]
            total, net = sum(counts.values()), -tier.fee - FEES.each(tier.house)
            for grade, count in counts.items():
                value = price(f"{grade:g}") or price("")
                net += count / total * float(sale_nets(np.array([value]), COSTS)[0])
            if net > best[0]:
                best = (net, Act(Go.GRADE, tier))
        acts.append(best[1])
    return acts


def grade_above(line: float) -> Collector:
    """Grade everything whose mean raw sale is above a line, in the cheapest tier; sell the rest raw."""

    def decide(world: World) -> list[Act]:
        own, level = _means(world)
        acts = []
        for copy, raw in zip(world.copies, sell_raw(world), strict=True):
            key = (copy.card.section, copy.card.number, copy.parallel)
            price = own.get((*key, ""), level.get((key[0], key[2], ""), 0.0))
            acts.append(Act(Go.GRADE, TIERS[2]) if price > line else raw)
        return acts

    return decide


def three_times(world: World) -> list[Act]:
    """Grade when the top grade brings three times raw plus the fee."""
    own, level = _means(world)
    top = "10" if world.kind.name != "vintage" else "8"
    acts = []
    for copy, raw in zip(world.copies, sell_raw(world), strict=True):
        key = (copy.card.section, copy.card.number, copy.parallel)
        price, best = (own.get((*key, g), level.get((key[0], key[2], g), 0.0)) for g in ("", top))
        acts.append(Act(Go.GRADE, TIERS[2]) if best > 3 * price + TIERS[2].fee else raw)
    return acts


RULES: dict[str, Collector] = {
    "plain rule": plain_rule,
    "grade above 20": grade_above(20.0),
    "grade above 50": grade_above(50.0),
    "three times raw": three_times,
}


def total(world: World, acts: list[Act]) -> float:
    """True worth of all acts."""
    return math.fsum(worth_of(world, copy, act) for copy, act in zip(world.copies, acts, strict=True))


@dataclass(frozen=True)
class Year:
    """What came of a world: gains over selling all raw, and what the oracle gains."""

    gains: dict[str, float]
    best: float


def run_year(kind: Kindness, seed: int, collectors: dict[str, Collector]) -> Year:
    """Let collectors act in the world of a seed."""
    world = make_world(kind, seed)
    floor = total(world, sell_raw(world))
    return Year(
        {name: total(world, act(world)) - floor for name, act in collectors.items()},
        total(world, oracle(world)) - floor,
    )
