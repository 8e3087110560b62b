"""How many packs were made, from all numbered lines together.

Every numbered line says how many copies exist; its printed odds say how many lie in a pack. With the odds only known
as rounded, the packs of each format lie in a polytope: its ends come from linear programs, the estimate from least
squares inside it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from botin.core.catalog.product import Format, Kind, Product
from botin.core.odds.packrates import LineKey, PrintedLine, printed_lines, promised_lines
from botin.core.odds.rates import Span
from botin.core.odds.simplex import Polytope

SEPARABLE = 2.0
FloatArray = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Interval:
    """An estimate between two bounds; None where it cannot be known."""

    estimate: float | None
    low: float | None
    high: float | None

    def times(self, factor: float) -> Interval:
        """Return the interval scaled."""
        return Interval(*(None if x is None else x * factor for x in (self.estimate, self.low, self.high)))


UNKNOWN = Interval(None, None, None)


@dataclass(frozen=True, slots=True)
class FormatRun:
    """How much of one format was made.

    ``separable`` is false when the numbered lines cannot tell this format from the others (high ÷ low > 2).
    """

    format: Format
    packs: Interval
    separable: bool

    @property
    def boxes(self) -> Interval:
        """Boxes made."""
        return self.packs.times(1 / self.format.packs_per_box)

    @property
    def cases(self) -> Interval:
        """Cases made; unknown when the size of a case is."""
        return self.boxes.times(1 / self.format.boxes_per_case) if self.format.boxes_per_case else UNKNOWN


@dataclass(frozen=True, slots=True)
class NumberedLine:
    """A numbered line and whether the other lines bear it out (None: they do not reach its formats)."""

    key: LineKey
    copies: int
    agrees: bool | None


@dataclass(frozen=True, slots=True)
class Population:
    """How many copies of each card of an unnumbered line exist."""

    key: LineKey
    per_card: Interval


@dataclass(frozen=True, slots=True)
class MissingOdds:
    """What the unprinted odds of a numbered line must be, in packs per hit."""

    format: str
    key: LineKey
    packs_per_hit: Interval


@dataclass(frozen=True, slots=True)
class PrintRun:
    """Everything that follows from the numbered lines.

    Attributes
    ----------
    formats : dict
        By format key; None for a format that no numbered line reaches.
    slack : float
        Smallest share by which production must differ from print for all lines to hold; 0 when they agree.
    """

    formats: dict[str, FormatRun | None]
    slack: float
    lines: tuple[NumberedLine, ...]
    populations: tuple[Population, ...]
    missing_odds: tuple[MissingOdds, ...]


@dataclass(frozen=True)
class _System:
    """The numbered lines as rows over the formats they reach."""

    formats: tuple[Format, ...]
    lines: tuple[PrintedLine, ...]

    @property
    def copies(self) -> FloatArray:
        return np.array([line.copies or 0 for line in self.lines], dtype=float)

    def rates(self, lines: Sequence[PrintedLine], part: str) -> FloatArray:
        """Matrix of low, mid or high rates; an unprinted rate may be anything from 0 on (mid is nan)."""
        blank = {"low": 0.0, "mid": float("nan"), "high": float("inf")}[part]
        made = np.zeros((len(lines), len(self.formats)))
        for place, line in enumerate(lines):
            for column, fmt in enumerate(self.formats):
                if fmt.key in line.rates:
                    span = line.rates[fmt.key]
                    made[place, column] = getattr(span, part) if span else blank
        return made

    def polytope(self, lines: Sequence[PrintedLine]) -> Polytope:
        copies = np.array([line.copies or 0 for line in lines], dtype=float)
        return Polytope(self.rates(lines, "low"), self.rates(lines, "high"), copies, len(self.formats))


def print_run(product: Product) -> PrintRun:
    """Work out packs per format and all that follows.

    Parameters
    ----------
    product : Product
        With odds as printed and runs as stated.

    Returns
    -------
    PrintRun
        Bounds hold for certain when rounding of the printed odds is the only error. With ``slack`` t above 0 they
        are drawn where up to 2t too many or 4·10^(1/d)·t too few copies lie in the packs, d the lines beyond the
        formats: copies withheld or damaged make lines fall short of print far more often than a surplus does, and
        the lines differ only by what is withheld of one and not of another.

    Notes
    -----
    Low and high of a format are the least and most packs for which every line has Σ packs·low ≤ copies ≤
    Σ packs·high. When no packs satisfy all lines, the copies of every line are widened by the smallest common
    share that makes it possible.

    Where the lines are short by independent even shares, 2t is about the range of n = d + 1 of them, and the smallest
    one exceeds the range c-fold with chance (1 + c)^−d (spacings of a uniform sample are exchangeable; Pyke,
    Spacings, J. R. Statist. Soc. B 27, 1965): 2·10^(1/d)·t reaches the truth in nine of ten. The rounding of the
    odds hides about half of t, hence 4.
    """
    lines = printed_lines(product)
    numbered = tuple(line for line in lines if line.copies)
    telling = (*numbered, *promised_lines(product, lines))
    reached = {key for line in telling for key, span in line.rates.items() if span is not None}
    system = _System(tuple(fmt for fmt in product.formats if fmt.key in reached), _only(telling, reached))
    if not system.formats:
        return PrintRun(dict.fromkeys(product.format_by_key), 0.0, _unjudged(numbered), _unknown(product, lines), ())
    whole = system.polytope(system.lines)
    slack = whole.slack()
    spare = max(1, len(system.lines) - len(system.formats))
    region = whole.widened(over=2 * slack, short=min(1.0, 4 * 10 ** (1 / spare) * slack))
    packs = _packs(system, region)
    found = {fmt.key: FormatRun(fmt, packs[fmt.key], _separable(packs[fmt.key])) for fmt in system.formats}
    return PrintRun(
        formats={key: found.get(key) for key in product.format_by_key},
        slack=slack,
        lines=tuple(NumberedLine(line.key, line.copies or 0, _agrees(system, line, slack)) for line in numbered),
        populations=tuple(_populations(product, system, region, lines, packs)),
        missing_odds=tuple(_missing(system, region, packs)),
    )


def _only(lines: Sequence[PrintedLine], formats: set[str]) -> tuple[PrintedLine, ...]:
    """Drop what lies in formats of which nothing is known; a line that also lies there may be short elsewhere."""
    kept = []
    for line in lines:
        if not formats & line.rates.keys():
            continue
        outside = line.rates.keys() - formats
        rates = {key: span for key, span in line.rates.items() if key in formats}
        if outside:
            rates = {key: Span(s.low, s.mid, float("inf")) if s else None for key, s in rates.items()}
        kept.append(PrintedLine(line.key, line.cards, line.copies, rates))
    return tuple(kept)


def _unjudged(lines: Sequence[PrintedLine]) -> tuple[NumberedLine, ...]:
    return tuple(NumberedLine(line.key, line.copies or 0, None) for line in lines)


def _unknown(product: Product, lines: Sequence[PrintedLine]) -> tuple[Population, ...]:
    keys = [line.key for line in lines if not line.copies] + [(key, "", "") for key in _rest_sections(product, lines)]
    return tuple(Population(key, UNKNOWN) for key in keys)


def _packs(system: _System, region: Polytope) -> dict[str, Interval]:
    bounds = [region.bounds(np.eye(len(system.formats))[place]) for place in range(len(system.formats))]
    best = _least_squares(system, bounds)
    return {
        fmt.key: Interval(None if high is None else float(x), low, high)
        for fmt, (low, high), x in zip(system.formats, bounds, best, strict=True)
    }


def _least_squares(system: _System, bounds: list[tuple[float, float | None]]) -> FloatArray:
    """Packs that fit Σ packs/N = copies best on relative error, each line weighted by how finely it is printed."""
    from scipy.optimize import lsq_linear  # noqa: PLC0415  (slow to import)

    low = np.array([pair[0] for pair in bounds])
    high = np.array([np.inf if pair[1] is None else pair[1] for pair in bounds])
    mid = system.rates(system.lines, "mid")
    known: npt.NDArray[np.bool_] = np.asarray(np.isfinite(mid).all(axis=1))
    if not known.any():
        return low
    rows = mid[known] / system.copies[known][:, None]
    weights = 1 / np.maximum(_fineness(system, known), 1e-6)
    scale = np.maximum(np.where(np.isfinite(high), (low + high) / 2, low), 1.0)
    wide = np.maximum(high / scale, low / scale + 1e-9)
    fit = lsq_linear(rows * scale * weights[:, None], weights, bounds=(low / scale, wide), method="bvls")
    return np.asarray(np.clip(fit.x * scale, low, high))


def _fineness(system: _System, known: npt.NDArray[np.bool_]) -> FloatArray:
    """Relative half-width of each line's rounding; a rate without an upper end counts as coarse."""
    low, mid, high = (system.rates(system.lines, part)[known] for part in ("low", "mid", "high"))
    capped = np.where(np.isfinite(high), high, 2 * mid)
    return np.asarray((capped - low).sum(axis=1) / (2 * np.maximum(mid.sum(axis=1), 1e-300)))


def _separable(packs: Interval) -> bool:
    return bool(packs.low and packs.high and packs.high / packs.low <= SEPARABLE)


def _agrees(system: _System, line: PrintedLine, slack: float) -> bool | None:
    """Whether the line meets the others: exactly where they agree among themselves, else at twice their slack."""
    mine = next((found for found in system.lines if found.key == line.key), None)
    if mine is None:
        return None
    printed = {key for key, span in mine.rates.items() if span}
    others = tuple(found for found in system.lines if found is not mine)
    if not any(found.rates.get(key) for found in others for key in printed):
        return None
    return slack <= 2 * system.polytope(others).slack() + 1e-9


def _populations(
    product: Product,
    system: _System,
    region: Polytope,
    lines: Sequence[PrintedLine],
    packs: dict[str, Interval],
) -> list[Population]:
    """Copies of each card of the unnumbered lines, the rest included."""
    reached = {fmt.key for fmt in system.formats}
    found = []
    for line in [line for line in lines if not line.copies and line.cards]:
        each = _weighed(region, system, line.rates, packs) if line.rates.keys() <= reached else UNKNOWN
        found.append(Population(line.key, each.times(1 / len(line.cards))))
    rest = _rest_rates(product, lines)
    sections = _rest_sections(product, lines)
    total = sum(sections.values())
    for key in sections:
        each = _weighed(region, system, rest, packs) if rest.keys() <= reached else UNKNOWN
        found.append(Population((key, "", ""), each.times(1 / total)))
    return found


def _weighed(
    region: Polytope, system: _System, rates: dict[str, Span | None], packs: dict[str, Interval]
) -> Interval:
    """Σ packs × rate over the formats, between its least and most in the region."""
    spans = [rates.get(fmt.key, Span(0, 0, 0)) for fmt in system.formats]
    low, _ = region.bounds(np.array([span.low if span else 0.0 for span in spans]))
    most = np.array([span.high if span else np.inf for span in spans])
    high = region.bounds(most)[1] if np.isfinite(most).all() else None
    estimates = [packs[fmt.key].estimate for fmt in system.formats]
    if any(span is None or (x is None and span.mid) for span, x in zip(spans, estimates, strict=True)):
        return Interval(None, low, high)
    best = sum((span.mid if span else 0.0) * (x or 0.0) for span, x in zip(spans, estimates, strict=True))
    best = max(best, low) if high is None else min(max(best, low), high)
    return Interval(best, low, high)


def _rest_sections(product: Product, lines: Sequence[PrintedLine]) -> dict[str, int]:
    """Base sections whose plain cards have no odds of their own, with how many cards they have."""
    own = {(line.key[0], card.number) for line in lines if not line.key[1] for card in line.cards}
    return {
        section.key: size
        for section in product.sections
        if section.kind is Kind.BASE
        and (size := sum((section.key, c.number) not in own for c in product.cards_by_section.get(section.key, ())))
    }


def _rest_rates(product: Product, lines: Sequence[PrintedLine]) -> dict[str, Span | None]:
    """Plain base cards per pack: what the other lines in the packs leave."""
    made: dict[str, Span | None] = {}
    for fmt in product.formats:
        spans = [
            line.rates[fmt.key]
            for line in lines
            if fmt.key in line.rates and product.section_by_key[line.key[0]].kind is not Kind.BOX_TOPPER
        ]
        if any(span is None for span in spans):
            made[fmt.key] = None
            continue
        low, mid, high = (sum(getattr(span, part) for span in spans) for part in ("low", "mid", "high"))
        size = fmt.cards_per_pack
        made[fmt.key] = Span(max(0.0, size - high), max(0.0, size - mid), max(0.0, size - low))
    return made


def _missing(system: _System, region: Polytope, packs: dict[str, Interval]) -> list[MissingOdds]:
    """Odds that a numbered line must have where they are unprinted: packs ÷ the copies the others leave."""
    found = []
    for line in system.lines:
        unprinted = [fmt.key for fmt in system.formats if fmt.key in line.rates and line.rates[fmt.key] is None]
        for key in unprinted:
            alone = len(unprinted) == 1
            found.append(MissingOdds(key, line.key, _missing_one(system, region, packs, line, (key, alone))))
    return found


def _missing_one(
    system: _System, region: Polytope, packs: dict[str, Interval], line: PrintedLine, where: tuple[str, bool]
) -> Interval:
    """Packs per hit of one unprinted rate, from the least and most copies left for each pack of the format."""
    key, alone = where
    column = [fmt.key for fmt in system.formats].index(key)
    spans = [None if fmt.key == key else line.rates.get(fmt.key) for fmt in system.formats]
    low, high = (np.array([getattr(s, part) if s else 0.0 for s in spans]) for part in ("low", "high"))
    copies = float(line.copies or 0)
    most = region.ratio(copies, low, column, largest=True)
    least = region.ratio(copies, high, column, largest=False) if alone and np.isfinite(high).all() else None
    here = packs[key].estimate
    taken = sum(s.mid * (packs[f.key].estimate or 0) for s, f in zip(spans, system.formats, strict=True) if s)
    slowest = 1 / least if least and least > 0 else None
    best = here / (copies - taken) if slowest and here and copies > taken else None
    fastest = 1 / most if most and most > 0 else None
    if best is not None:
        best = max(best, fastest or 0.0)
        best = min(best, slowest) if slowest else best
    return Interval(best, fastest, slowest)
