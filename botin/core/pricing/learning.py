"""Learn a product's prices: what sales, none, and graded ones say of players, finishes and grades together."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from botin.core.catalog.versions import Versions
from botin.core.counts import FloatArray
from botin.core.pricing.cells import BoolArray, Ints
from botin.core.pricing.fit import PART, Design, Evidence, Fit, design_of, learn
from botin.core.pricing.gradeprices import Ratios, learn_ratios
from botin.core.pricing.market import Market
from botin.core.pricing.salecounts import STEEPNESS, WHOLE, Held, LeftOut, SaleChance, judged, levelled, never_sold

USUAL_NOISE = 0.2
"""A usual price of a section and finish is what its cards sell for, give or take so much (log scale); a choice."""
FEWEST = 3
"""With fewer priced versions than this nothing is said of other cards."""
MOST_UNSOLD = 12_000
"""Versions never sold that are looked at one by one; of more, every so-manyth stands for its neighbours."""
FIRST, LAST, SETTLE = 4, 4, 4
"""Rounds of learning before and after the steepness of sales is found, and turns in which each is tried."""


@dataclass(frozen=True)
class Learned:
    """Everything that was learned.

    Attributes
    ----------
    place : dict
        Row of the evidence by version, for those left out of their own prior.
    mean, variance : array (rows)
        Log price of each row as all others see it.
    """

    fit: Fit
    ratios: Ratios
    chance: SaleChance
    place: dict[int, int]
    mean: FloatArray
    variance: FloatArray


@dataclass(frozen=True)
class Told:
    """What the fit is told: versions sold (first) and never sold, and usual prices of whole levels."""

    place: Ints
    sold: FloatArray
    copies: FloatArray
    usual: tuple[tuple[int, float], ...]


@dataclass(frozen=True)
class State:
    """The fit between two turns."""

    fit: Fit
    rows: Evidence
    ratios: Ratios
    chance: SaleChance

    def left_out(self, size: int) -> tuple[FloatArray, FloatArray]:
        """Mean and variance of the first rows as the others see them."""
        mean, variance = self.fit.without(self.rows)
        return mean[:size], np.minimum(variance[:size], 4.0)


def no_ratios() -> Ratios:
    """Return the curve of grades before any graded sale is known."""
    none = np.zeros(0)
    return learn_ratios(none, none, none, none)


def design_for(versions: Versions) -> Design:
    """Return the columns of a product's sections and finishes."""
    sections = {key: at for at, key in enumerate(dict.fromkeys(section for section, _ in versions.levels))}
    finishes = {key: at for at, key in enumerate(dict.fromkeys(finish for _, finish in versions.levels))}
    return design_of(
        np.array([sections[section] for section, _ in versions.levels]),
        np.array([finishes[finish] for _, finish in versions.levels]),
        versions.runs,
        len(versions.people),
    )


class Learning:
    """Learns from one market."""

    def __init__(self, market: Market) -> None:
        self.market, self.places = market, market.places
        self.versions = market.versions
        self.steepness = 0.0

    def learn(self, like: float | None = None) -> Learned:
        """Learn everything; ``like`` keeps a steepness that was found for nearly the same sales."""
        m = self.market
        unsold, copies = self._unsold()
        place = np.concatenate((self.places.sold, unsold))
        told = Told(
            place=place,
            sold=(np.arange(len(place)) < len(self.places.sold)).astype(np.float64),
            copies=np.concatenate((np.ones(len(self.places.sold)), copies)),
            usual=m.usual,
        )
        start = self._turn(self._start(design_for(self.versions), told), told, rounds=FIRST)
        self.steepness = self._steepest(start, told) if like is None else like
        state = self._settled(start, told, self.steepness)
        where = {int(version): at for at, version in enumerate(place)}
        return Learned(state.fit, state.ratios, state.chance, where, *state.fit.without(state.rows))

    def _settled(self, state: State, told: Told, steepness: float) -> State:
        """Let the fit settle at a steepness: the same way whether it was just found or is kept from before."""
        for _ in range(SETTLE if steepness else 1):
            state = self._turn(state, told, rounds=2, steepness=steepness)
        return self._turn(state, told, rounds=LAST)

    def _start(self, design: Design, told: Told) -> State:
        """Fit the sales alone."""
        ratios = no_ratios()
        rows = self._evidence(told, *self._version_evidence(ratios, told))
        fit = learn(design, rows, None, rounds=2)
        return State(fit, rows, ratios, SaleChance(0.0, np.zeros(len(self.versions.levels))))

    def _turn(self, state: State, told: Told, rounds: int, steepness: float | None = None) -> State:
        """Once around: what sales and their absence say, the fit, the chance to be sold, the curve of grades."""
        chance, v = state.chance, self.versions
        value, precision = self._version_evidence(state.ratios, told)
        level = v.level[told.place]
        mean, variance = state.left_out(len(told.place))
        scale = np.sqrt(state.fit.spreads.own**2 + PART * variance)
        silent = chance.tells(level) & (told.sold == 0)
        if silent.any():
            value[silent], precision[silent] = never_sold(chance, mean[silent], scale[silent], level[silent])
        rows = self._evidence(told, value, precision)
        fit = learn(state.fit.design, rows, state.fit.spreads, rounds)
        prior = 1 / (WHOLE * scale**2)
        held = Held(
            level,
            told.sold,
            told.copies,
            (mean * prior + value * precision) / (prior + precision),
            1 / (prior + precision),
        )
        steep = chance.steepness if steepness is None else steepness
        ratios = self._learn_ratios(state.ratios, fit, *fit.without(rows))
        return State(fit, rows, ratios, levelled(held, steep, len(v.levels), chance.base if silent.any() else None))

    def _steepest(self, state: State, told: Told) -> float:
        """Try steeper and steeper, each until its fit has settled, as long as that is likelier than what came before.

        Far beyond the likeliest lies a second top, where what was never sold is driven away from what was (the
        separation of a logistic regression): it is not looked for.
        """
        if told.sold.all() or len(self.places.sold) < FEWEST:
            return 0.0
        best, found, tried, falls = -math.inf, 0.0, state, 0
        for steepness in STEEPNESS:
            for _ in range(SETTLE if steepness else 1):
                tried = self._turn(tried, told, rounds=2, steepness=steepness)
            likely = self._likelihood(tried, told)
            falls = 0 if likely > best else falls + 1
            best, found = (likely, steepness) if likely > best else (best, found)
            if falls == 2:
                break
        return found

    def _likelihood(self, tried: State, told: Told) -> float:
        """How likely sales and their absence are in a fit, each version by what the others say."""
        value, precision = self._version_evidence(tried.ratios, told)
        mean, variance = tried.left_out(len(told.place))
        scale = np.sqrt(tried.fit.spreads.own**2 + PART * variance)
        level = self.versions.level[told.place]
        return judged(
            LeftOut(
                level=level,
                sold=told.sold,
                copies=told.copies,
                mean=mean,
                scale=scale,
                value=value,
                precision=precision,
            ),
            tried.chance,
        )

    def _unsold(self) -> tuple[Ints, FloatArray]:
        """Versions without any sale, in levels where something was sold, and how many each stands for."""
        v = self.versions
        without = np.ones(len(v.person), bool)
        without[self.places.sold] = False
        met = np.zeros(len(v.levels), bool)
        met[list(self.market.met)] = True
        found = np.flatnonzero(without & met[v.level])
        step = 1 + len(found) // MOST_UNSOLD
        kept = found[step // 2 :: step]
        return kept, np.full(len(kept), len(found) / max(len(kept), 1))

    def _version_evidence(self, ratios: Ratios, told: Told) -> tuple[FloatArray, FloatArray]:
        """What the sales of each version say of its raw log price, all grades together."""
        facts = self.places.facts
        here = (facts.place >= 0) & (facts.grade >= 0)
        ratio, variance = self._cell_ratios(ratios)
        row, size = self.places.row[here], len(told.place)
        precision = 1 / (1 / self.market.middles.precision[here] + variance[here])
        weight = np.bincount(row, precision, size)
        total = np.bincount(row, precision * (self.market.middles.middle[here] - ratio[here]), size)
        return np.asarray(total / np.maximum(weight, 1e-12)), weight.astype(np.float64)

    def _evidence(self, told: Told, value: FloatArray, precision: FloatArray) -> Evidence:
        v, more = self.versions, len(told.usual)
        return Evidence(
            person=np.append(v.person[told.place], np.full(more, -1)),
            level=np.append(v.level[told.place], np.array([level for level, _ in told.usual], np.int64)),
            value=np.append(value, [amount for _, amount in told.usual]),
            precision=np.append(np.maximum(precision, 1e-9), np.full(more, 1 / USUAL_NOISE**2)),
            own=np.append(np.ones(len(told.place)), np.zeros(more)),
            copies=np.append(told.copies, np.ones(more)),
        )

    def _learn_ratios(self, before: Ratios, fit: Fit, mean: FloatArray, variance: FloatArray) -> Ratios:
        """Learn the grade curve from versions sold in grades, each held against its raw price without that grade."""
        graded = self.places.facts.grade > 0
        if not graded.any():
            return before
        ratio, spread = self._cell_ratios(before)
        own = graded & (self.places.facts.place >= 0)
        raw, unsure = self._raw_without(own, (ratio, spread), mean, variance + fit.spreads.own**2)
        noise = unsure + 1 / self.market.middles.precision[own]
        whole = [self._whole_ratio(cell, fit) for cell in np.flatnonzero(graded & ~own).tolist()]
        more = np.array([found for found in whole if found is not None]).reshape(-1, 3)
        return learn_ratios(
            np.append(self.places.facts.section[own].astype(np.float64), more[:, 0]),
            np.append(self.places.facts.grade[own], more[:, 1]),
            np.append(self.market.middles.middle[own] - raw, more[:, 2]),
            np.append(noise, np.full(len(more), USUAL_NOISE**2)),
        )

    def _whole_ratio(self, cell: int, fit: Fit) -> tuple[float, float, float] | None:
        """Section, grade and log ratio of a usual graded price, against the usual raw one or the level's middle."""
        section, number, parallel, _ = self.market.cells.keys[cell]
        level = self.versions.levels.get((section, parallel))
        if number or level is None:
            return None
        usual = self.places.cell_of.get((section, "", parallel, ""))
        raw = (
            self.market.middles.middle[usual] if usual is not None else fit.mean(np.array([-1]), np.array([level]))[0]
        )
        ratio = float(self.market.middles.middle[cell] - raw)
        return float(self.places.facts.section[cell]), float(self.places.facts.grade[cell]), ratio

    def _raw_without(
        self, wanted: BoolArray, ratios: tuple[FloatArray, FloatArray], mean: FloatArray, variance: FloatArray
    ) -> tuple[FloatArray, FloatArray]:
        """Raw log price behind each wanted cell and its variance, from everything but the sales of that cell."""
        here = (self.places.facts.place >= 0) & (self.places.facts.grade >= 0)
        precision = np.where(here, 1 / (1 / self.market.middles.precision + ratios[1]), 0.0)
        value = precision * (self.market.middles.middle - ratios[0])
        row = self.places.row
        total = np.bincount(row, np.where(here, value, 0.0), len(self.places.sold))
        weight = np.bincount(row, precision, len(self.places.sold))
        mine = row[wanted]
        left = 1 / variance[mine] + np.maximum(weight[mine] - precision[wanted], 0.0)
        return (mean[mine] / variance[mine] + total[mine] - value[wanted]) / left, 1 / left

    def _cell_ratios(self, ratios: Ratios) -> tuple[FloatArray, FloatArray]:
        """Log ratio to raw of each cell, and its variance for a single version: 0 and 0 for raw cells."""
        found, variance = np.zeros(len(self.market.cells.keys)), np.zeros(len(self.market.cells.keys))
        graded, kinds, which = self.places.graded
        if len(graded):
            each = np.array([ratios.at(section, grade) for section, grade in kinds])
            found[graded] = each[which, 0]
            variance[graded] = each[which, 1] + ratios.spread**2
        return found, variance
