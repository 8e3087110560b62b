"""What every version of a product sells for, raw and in each grade: own sales first, then what all others say.

Own sales are never overruled: the belief before them is Student's t around what player, section and finish say
*without this version*, so one sale far off is believed. Money is the mean of the belief, what is said in words its
middle 80 %.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import date
from functools import cached_property

import numpy as np

from botin.core.catalog.product import Card, Product
from botin.core.catalog.versions import Versions, versions_of, with_priced
from botin.core.counts import FloatArray
from botin.core.pricing.cells import Ints, Key
from botin.core.pricing.comps import CompEstimate, comp_estimate
from botin.core.pricing.fit import PART
from botin.core.pricing.grid import Ask, Belief, Sales, believe, in_grade, sales_of
from botin.core.pricing.guess import NO_SPREAD, NOTHING, Z80, Found, Guess, plain_guess
from botin.core.pricing.learning import FEWEST, Learned, Learning, no_ratios
from botin.core.pricing.market import Market, grade_number, market_of
from botin.core.pricing.prices import PriceKind, PriceRow
from botin.core.pricing.rows import Given, given

GUIDE_NOISE = 0.6
CARE = 1.05
"""The learned spreads are themselves unsure: beliefs are so much wider; held against simulated coverage."""


class PriceModel:
    """Estimates of every version of a product.

    Parameters
    ----------
    product : Product
        For players, finishes, runs and groups.
    rows : iterable of PriceRow
        Prices of all kinds.
    as_of : date
        Day ages are counted from.
    like : PriceModel, optional
        Model of nearly the same sales: its steepness of being sold is kept, which is most of the work. The rest is
        learned anew, so the answer is that of a fresh model unless that would find another steepness.
    """

    def __init__(
        self, product: Product, rows: Iterable[PriceRow], as_of: date, like: PriceModel | None = None
    ) -> None:
        self.product, self.as_of = product, as_of
        same = like is not None and like.product is product
        self.given: Given = given(list(rows), like.given if like is not None else None)
        listed = like.listed if like is not None and same else versions_of(product)
        self.listed: Versions = listed
        self.versions: Versions = with_priced(listed, product, (key[:3] for key in self.given.number))
        before = like.market.places if like is not None and same else None
        self.market: Market = market_of(product, self.versions, self.given, as_of, before)
        self.noise = self.market.noise
        self._known: dict[Key, Guess] = {}
        self._ratios: dict[tuple[str, float], tuple[float, float]] = {}
        self._beliefs: dict[tuple[str, str, str], Belief] = {}
        self._grade_beliefs: dict[Key, Belief] = {}
        learning = Learning(self.market)
        kept = like.steepness if like is not None else None
        self.learned = learning.learn(kept) if len(self.market.places.sold) else None
        self.steepness: float = learning.steepness

    # what was given

    def rows(self, card: Card, parallel: str, grade: str = "") -> list[PriceRow]:
        """Return the prices of one version in one grade, of every kind."""
        return self.given.under((card.section, card.number, parallel, grade))

    def grades(self, card: Card, parallel: str) -> list[str]:
        """Return the grades in which a version has prices, raw first."""
        return sorted({key[3] for key in self.given.number if key[:3] == (card.section, card.number, parallel)})

    def own(self, key: Key) -> CompEstimate | None:
        """Return what a version's own sales say by themselves."""
        return comp_estimate(self.given.under(key), self.as_of) if key in self.given.number else None

    @property
    def has_grades(self) -> bool:
        """Whether any graded price is known at all."""
        return bool((self.market.places.facts.grade > 0).any())

    @cached_property
    def _priced_people(self) -> frozenset[int]:
        """Players of whom anything was sold."""
        return frozenset(self.versions.person[self.market.places.sold].tolist())

    # what is answered

    def estimate(self, card: Card, parallel: str = "", grade: str = "") -> Guess:
        """Return the best estimate there is, and what it rests on."""
        key = (card.section, card.number, parallel, grade)
        if key not in self._known:
            self._known[key] = self._graded(card, key) if grade else self._raw(card, key)
        return self._known[key]

    def prepare(self, cards: Sequence[Card], parallel: str) -> None:
        """Work out the raw prices of many cards of one finish at once."""
        self.prepare_all([(card.section, card.number, parallel) for card in cards])

    def prepare_all(self, versions: Sequence[tuple[str, str, str]]) -> None:
        """Work out the raw prices of many versions at once."""
        missing = [key for key in versions if key not in self._beliefs and self._levelled(key)]
        if self.learned is not None:
            for start in range(0, len(missing), 512):
                self._believe(missing[start : start + 512])

    def prepare_grades(self, versions: Collection[tuple[str, str, str]] | None = None) -> None:
        """Work out versions (all when not given) at once, each in the grades it was sold in."""
        if self.learned is None:
            return
        wanted = None if versions is None else frozenset(versions)
        cells, facts = self.market.cells, self.market.places.facts
        keys = [
            cells.keys[at]
            for at in np.flatnonzero((facts.grade > 0) & (facts.place >= 0)).tolist()
            if cells.keys[at] not in self._grade_beliefs and (wanted is None or cells.keys[at][:3] in wanted)
        ]
        for start in range(0, len(keys), 256):
            self._believe_grades(keys[start : start + 256])

    def usual(self, section: str, parallel: str) -> Guess:
        """Return what a card of a section and finish usually sells for, whoever is on it."""
        own = self.own((section, "", parallel, ""))
        if own is not None:
            wide = math.exp(Z80 * NO_SPREAD / 1.5)
            low, high, spread = own.amount / wide, own.amount * wide, NO_SPREAD / 1.5
            return Guess(own.amount, low, high, Found.TIER, spread, len(own.used), mean=own.amount)
        level = self.versions.levels.get((section, parallel))
        if self.learned is None or level is None or level not in self.market.met:
            return NOTHING
        fit = self.learned.fit
        middle = float(fit.mean(np.array([-1]), np.array([level]))[0])
        spread = math.sqrt(fit.spreads.person**2 + fit.spreads.own**2 + fit.level_variance[level])
        return plain_guess(middle, spread, Found.TIER, self.noise)

    def grade_ratio(self, section: str, grade: float) -> tuple[float, float]:
        """Log ratio of a grade to raw in a section, and its spread for a single version."""
        known = (section, grade)
        if known not in self._ratios:
            ratios = self.learned.ratios if self.learned else no_ratios()
            ratio, variance = ratios.at(self.market.places.sections.get(section, -1), grade)
            self._ratios[known] = ratio, math.sqrt(variance + ratios.spread**2)
        return self._ratios[known]

    # how it is worked out

    def _levelled(self, key: tuple[str, str, str]) -> bool:
        return (key[0], key[2]) in self.versions.levels

    def _raw(self, card: Card, key: Key) -> Guess:
        version = key[:3]
        if self.learned is not None and self._levelled(version):
            if version not in self._beliefs:
                self._believe([version])
            found = self._raw_found(card, key)
            if found.known or key not in self.given.number:
                return found
        own = self.own(key)
        if own is not None:
            return replace(
                plain_guess(math.log(own.amount), own.error, Found.COMPS, self.noise), sales=len(own.used), own=own
            )
        usual = self.usual(card.section, key[2])
        if usual.known:
            return usual
        guide = comp_estimate(self.rows(card, key[2]), self.as_of, PriceKind.GUIDE)
        if guide is None:
            return NOTHING
        return replace(
            plain_guess(math.log(guide.amount), GUIDE_NOISE, Found.GUIDE, self.noise), sales=len(guide.used)
        )

    def _raw_found(self, card: Card, key: Key) -> Guess:
        belief = self._beliefs[key[:3]]
        own = self.own(key)
        found = self._basis(card, key)
        if found is Found.WIDE and (guide := comp_estimate(self.rows(card, key[2]), self.as_of, PriceKind.GUIDE)):
            return replace(
                plain_guess(math.log(guide.amount), GUIDE_NOISE, Found.GUIDE, self.noise), sales=len(guide.used)
            )
        if found is Found.NONE:
            return NOTHING
        newest = max((row.sold_on for row in own.used if row.sold_on), default=None) if own else None
        return Guess(
            amount=float(np.exp(belief.median[0])),
            low=float(np.exp(belief.low[0])),
            high=float(np.exp(belief.high[0])),
            found=found,
            spread=float(belief.spread[0]),
            sales=len(own.used) if own else 0,
            newest=newest,
            own=own,
            mean=float(belief.mean[0]),
            noise=self._noise_of(key),
        )

    def _basis(self, card: Card, key: Key) -> Found:
        if key in self.market.places.cell_of:
            return Found.COMPS
        if key[:3] in self.market.places.graded_of:
            return Found.GRADE
        if self.versions.levels.get((key[0], key[2])) not in self.market.met:
            return Found.WIDE if len(self.market.places.sold) >= FEWEST else Found.NONE
        if len(self.market.places.sold) < FEWEST and (key[0], "", key[2], "") not in self.market.places.cell_of:
            return Found.NONE
        return Found.MODEL if self.versions.person_of(card) in self._priced_people else Found.TIER

    def _noise_of(self, key: Key) -> float:
        """Spread of a single sale: that of the product, drawn to the version's own when it has many sales."""
        at = self.market.places.cell_of.get(key)
        if at is None:
            return self.noise
        return float(self.market.middles.noise[at])

    def _graded(self, card: Card, key: Key) -> Guess:
        raw, grade = self.estimate(card, key[2]), grade_number(key[3])
        own = self.own(key)
        if grade < 0 or raw.found is Found.NONE:
            if own is None:
                return NOTHING
            plain = plain_guess(math.log(own.amount), own.error, Found.COMPS, self.noise)
            return replace(plain, sales=len(own.used), own=own)
        ratio, spread = self.grade_ratio(card.section, grade)
        if own is None or key[:3] not in self._beliefs:
            found = Found.WIDE if raw.found is Found.WIDE else Found.GRADE
            wide = math.hypot(raw.spread, spread)
            middle = math.log(raw.amount) + ratio
            mean = raw.mean * math.exp(ratio + min(spread, 1.0) ** 2 / 2)
            return plain_guess(middle, wide, found, self.noise, mean)
        if key not in self._grade_beliefs:
            self._believe_grades([key])
        belief = self._grade_beliefs[key]
        newest = max((row.sold_on for row in own.used if row.sold_on), default=None)
        return Guess(
            amount=float(np.exp(belief.median[0])),
            low=float(np.exp(belief.low[0])),
            high=float(np.exp(belief.high[0])),
            found=Found.COMPS,
            spread=float(belief.spread[0]),
            sales=len(own.used),
            newest=newest,
            own=own,
            mean=float(belief.mean[0]),
            noise=self._noise_of(key),
        )

    def _believe_grades(self, keys: Sequence[Key]) -> None:
        """Beliefs of versions in one grade each: raw prices without that grade's sales, the ratio, these sales."""
        ask, sales = self._ask([key[:3] for key in keys], without=dict(enumerate(keys)))
        raw = believe(ask, sales, self._learned_now.chance)
        ratios = np.array([self.grade_ratio(key[0], grade_number(key[3])) for key in keys])
        which = [self._cell_sales(self.market.places.cell_of[key]) for key in keys]
        rows = np.repeat(np.arange(len(keys)), [len(found) for found in which])
        own = self._sales(rows, np.concatenate(which), len(keys))
        found = in_grade(raw, ratios[:, 0], ratios[:, 1], own)
        for at, key in enumerate(keys):
            self._grade_beliefs[key] = found.row(at)

    def _cell_sales(self, cell: int) -> Ints:
        """Places of the sales of a cell."""
        first = int(self.market.cells.start[cell])
        return np.arange(first, first + int(self.market.cells.sales[cell]))

    @property
    def _learned_now(self) -> Learned:
        if self.learned is None:
            message = "nothing was learned"
            raise LookupError(message)
        return self.learned

    def _believe(self, keys: Sequence[tuple[str, str, str]]) -> None:
        if not keys:
            return
        ask, sales = self._ask(keys)
        found = believe(ask, sales, self._learned_now.chance)
        for at, key in enumerate(keys):
            self._beliefs[key] = found.row(at)

    def _ask(
        self, keys: Sequence[tuple[str, str, str]], without: Mapping[int, Key] | None = None
    ) -> tuple[Ask, Sales]:
        """Gather the prior, the own sales and what other grades say of some versions."""
        learned = self._learned_now
        size = len(keys)
        mean, variance, level = np.zeros(size), np.zeros(size), np.zeros(size, np.int64)
        sold = np.zeros(size)
        aside, precise = np.zeros(size), np.zeros(size)
        which: list[Ints] = []
        rows: list[Ints] = []
        for at, key in enumerate(keys):
            place = self.versions.number_of.get(key)
            level[at] = self.versions.levels[(key[0], key[2])]
            row = -1 if place is None else learned.place.get(place, -1)
            if row >= 0:
                mean[at], variance[at] = learned.mean[row], learned.variance[row]
            else:
                card = self.product.card_by_number.get(key[:2])
                who = -1 if card is None else self.versions.person_of(card)
                mean[at], variance[at] = self._prior(who, int(level[at]))
            cell = self.market.places.cell_of.get((*key, ""))
            if cell is not None:
                found = self._cell_sales(cell)
                which.append(found)
                rows.append(np.full(len(found), at))
            sold[at] = float(cell is not None or key in self.market.places.graded_of)
            aside[at], precise[at] = self._others(key, (without or {}).get(at))
        flat = np.concatenate(which) if which else np.zeros(0, np.int64)
        which_row = np.concatenate(rows) if rows else np.zeros(0, np.int64)
        sales = self._sales(which_row, flat, size)
        scale = CARE * np.sqrt(learned.fit.spreads.own**2 + PART * variance)
        return Ask(
            centre=self._centres(keys, mean, aside, precise),
            mean=mean,
            scale=scale,
            aside=aside,
            aside_precision=precise,
            level=level,
            sold=sold,
        ), sales

    def _sales(self, rows: Ints, which: Ints, size: int) -> Sales:
        """Lay out some sales by the row they belong to."""
        cells = self.market.cells
        noise = CARE * self.market.middles.noise[cells.cell[which]]
        return sales_of(rows, cells.logs[which], cells.weights[which], noise, size)

    def _prior(self, person: int, level: int) -> tuple[float, float]:
        fit = self._learned_now.fit
        who, where = np.array([person]), np.array([level])
        extra = fit.spreads.person**2 if person < 0 else 0.0
        return float(fit.mean(who, where)[0]), float(fit.variance(who, where)[0]) + extra

    def _centres(
        self, keys: Sequence[tuple[str, str, str]], mean: FloatArray, aside: FloatArray, precise: FloatArray
    ) -> FloatArray:
        """Centre of the wide grid: own sales, else what other grades say, else the others."""
        found = np.where(precise > 0, aside, mean)
        for at, key in enumerate(keys):
            cell = self.market.places.cell_of.get((*key, ""))
            if cell is not None:
                found[at] = self.market.middles.middle[cell]
        return found

    def _others(self, key: tuple[str, str, str], without: Key | None) -> tuple[float, float]:
        """What the sales of a version in other grades say of its raw price: a log price and its precision."""
        total = weight = 0.0
        for cell in self.market.places.graded_of.get(key, ()):
            if self.market.cells.keys[cell] == without:
                continue
            ratio, spread = self.grade_ratio(key[0], float(self.market.places.facts.grade[cell]))
            precision = 1 / (1 / self.market.middles.precision[cell] + spread**2)
            total += precision * (self.market.middles.middle[cell] - ratio)
            weight += precision
        return (total / weight, weight) if weight else (0.0, 0.0)
