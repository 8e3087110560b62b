"""What all logged boxes of a product say: averages, seeding, dependence, repeats, pack anatomy, sequence."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np
from sqlalchemy.orm import Session

from botin.core.catalog.product import Format, Kind, Product
from botin.core.insight.learning import (
    LEVEL,
    Dependence,
    Dispersion,
    PerBox,
    Seeding,
    dependence,
    dispersion,
    per_box,
)
from botin.core.insight.luck import holm, line_luck
from botin.core.insight.measured import ENOUGH_BOXES, Measured
from botin.core.odds.anatomy import Runs, Slot, runs_of, slots_of
from botin.core.odds.collation import Repeats
from botin.core.odds.countlaws import PROMISED
from botin.core.odds.lines import BoxModel, Line
from botin.core.odds.printrun import Interval, PrintRun
from botin.core.odds.repeats import BoxCounts, RepeatFit, fit_repeats
from botin.desk.boxlogs import BoxLog, box_logs
from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord

SEED = 1
MOST_PAIRS = 15


@dataclass(frozen=True)
class LineLearned:
    """A line over all boxes of a format."""

    line: Line
    seen: int
    average: PerBox
    dispersion: Dispersion


@dataclass(frozen=True)
class PairLearned:
    """Two lines that were tested against each other."""

    one: str
    other: str
    found: Dependence


@dataclass(frozen=True)
class FormatLearned:
    """All that the boxes of one format say."""

    format: Format
    boxes: tuple[BoxLog, ...]
    lines: tuple[LineLearned, ...]
    pairs: tuple[PairLearned, ...]
    repeats: RepeatFit | None
    base_boxes: tuple[BoxCounts, ...]
    set_size: int
    slots: tuple[Slot, ...]
    runs: Runs

    @property
    def opened(self) -> float:
        """Boxes by the packs that were opened of them."""
        return sum(log.packs for log in self.boxes) / self.format.packs_per_box


def learned(session: Session, bench: Workbench, record: ProductRecord) -> tuple[FormatLearned, ...]:
    """Learn from every format of a product that has closed boxes."""
    logs = box_logs(session, bench, record)
    product = bench.product(session, record)
    key = ("learned", record.id, record.revision, tuple((log.id, log.closed_at) for log in logs))

    def make() -> tuple[FormatLearned, ...]:
        by_format: dict[str, list[BoxLog]] = defaultdict(list)
        for log in logs:
            by_format[log.format].append(log)
        return tuple(
            _format(product, bench.model(session, record, fmt.key), by_format[fmt.key])
            for fmt in product.formats
            if by_format.get(fmt.key)
        )

    return bench.keep(key, make)


def _format(product: Product, model: BoxModel, logs: list[BoxLog]) -> FormatLearned:
    lines, counts, rng = _line_rows(product, model, [log for log in logs if log.packs])
    rest = _rest(model)
    boxes = [found for log in logs if (found := log.base_counts(rest)) is not None]
    return FormatLearned(
        format=model.format,
        boxes=tuple(logs),
        lines=tuple(lines),
        pairs=tuple(_pairs(lines, counts, [log.packs for log in logs if log.packs], rng)),
        repeats=_repeats(boxes, logs, rest),
        base_boxes=tuple(boxes),
        set_size=len(rest),
        slots=_slots(product, logs, model.format),
        runs=runs_of(_base_packs(logs, rest)),
    )


def _pairs(
    lines: list[LineLearned],
    counts: Sequence[Mapping[tuple[str, str, str], int]],
    packs: list[int],
    rng: np.random.Generator,
) -> list[PairLearned]:
    """Test the lines that came most often against each other, the clearest first."""
    scarce = [row for row in lines if row.seen and row.average.mean < 0.6 * max(packs)]
    chosen = sorted(scarce, key=lambda row: -row.seen)[:6]
    found = []
    for a, b in combinations(chosen, 2):
        one, other = ([count.get(row.line.key, 0) for count in counts] for row in (a, b))
        at_random = not {a.dispersion.seeding, b.dispersion.seeding} & {Seeding.EVEN, Seeding.CLUMPED}
        tested = dependence(one, other, packs, rng, 1000, at_random=at_random)
        found.append(PairLearned(_name(a.line), _name(b.line), tested))
    adjusted = holm([pair.found.p for pair in found])
    fair = [replace(pair, found=replace(pair.found, p=p)) for pair, p in zip(found, adjusted, strict=True)]
    return sorted(fair, key=lambda pair: pair.found.p)[:MOST_PAIRS]


def _name(line: Line) -> str:
    return " ".join(filter(None, (line.section.label, line.parallel, line.group)))


def _repeats(boxes: list[BoxCounts], logs: list[BoxLog], rest: frozenset[tuple[str, str]]) -> RepeatFit | None:
    if not boxes or not rest:
        return None
    seen = {(section, number) for log in logs if log.complete for _, section, number, p in log.copies if not p}
    return fit_repeats(len(rest), boxes, len(seen & rest) if len(boxes) > 1 else None)


def _slots(product: Product, logs: list[BoxLog], fmt: Format) -> tuple[Slot, ...]:
    packs: dict[tuple[int, int], list[str]] = defaultdict(list)
    for log in logs:
        for pack, section, _, parallel in log.copies if log.complete else ():
            if pack:
                label = product.section_by_key[section].label
                packs[(log.id, pack)].append(f"{label} {parallel}".strip())
    return slots_of(list(packs.values()), fmt.cards_per_pack) if fmt.cards_per_pack <= 20 else ()


def _base_packs(logs: list[BoxLog], rest: frozenset[tuple[str, str]]) -> list[tuple[int, int, list[str]]]:
    packs: dict[tuple[int, int], list[str]] = defaultdict(list)
    for log in logs:
        for pack, section, number, parallel in log.copies if log.complete else ():
            if pack and not parallel and (section, number) in rest:
                packs[(log.id, pack)].append(number)
    return [(box, pack, numbers) for (box, pack), numbers in packs.items()]


def measured_repeats(session: Session, bench: Workbench, record: ProductRecord, fmt: str) -> Repeats | None:
    """Return the measured repeat model of a format; None when no box of it was logged whole."""
    found = measured_fit(session, bench, record, fmt)
    return Repeats(round(found.pooled.factor, 4)) if found else None


def measured_fit(session: Session, bench: Workbench, record: ProductRecord, fmt: str) -> RepeatFit | None:
    """Return the fit behind it; only the repeats are worked out, not everything else that is learned."""
    logs = [log for log in box_logs(session, bench, record) if log.format == fmt]
    if not logs:
        return None
    key = ("repeats", record.id, record.revision, fmt, tuple((log.id, log.closed_at) for log in logs))

    def make() -> tuple[RepeatFit | None]:
        rest = _rest(bench.model(session, record, fmt))
        boxes = [found for log in logs if (found := log.base_counts(rest)) is not None]
        return (_repeats(boxes, logs, rest),)

    return bench.keep(key, make)[0]


def measured_lines(
    session: Session, bench: Workbench, record: ProductRecord, fmt: str
) -> Mapping[tuple[str, str, str], Measured]:
    """Return what the boxes of a format that were opened whole say of each line. Empty with too few."""
    product, model = bench.product(session, record), bench.model(session, record, fmt)
    whole = model.format.fewest_packs
    logs = [log for log in box_logs(session, bench, record) if log.format == fmt and log.packs >= whole]
    if len(logs) < ENOUGH_BOXES:
        return {}
    key = ("measured", record.id, record.revision, fmt, tuple((log.id, log.closed_at) for log in logs))

    def make() -> dict[tuple[str, str, str], Measured]:
        rows, counts, _ = _line_rows(product, model, logs)
        luck = line_luck(model, {row.line.key: row.seen for row in rows}, len(logs))
        surprise = {one.line.key: one.adjusted for one in luck if one.adjusted is not None}
        seedings = _clear([row.dispersion for row in rows])
        return {
            row.line.key: Measured(
                row.average,
                seeding,
                surprise.get(row.line.key, 1.0),
                tuple(count[row.line.key] for count in counts),
            )
            for row, seeding in zip(rows, seedings, strict=True)
        }

    return bench.keep(key, make)


def _clear(found: Sequence[Dispersion]) -> list[Seeding]:
    """Return the spreads that stay clear after Holm’s correction for all lines; the others are at random."""
    adjusted = holm([min(1.0, 2 * min(one.even_p, one.clumped_p)) for one in found])
    odd = (Seeding.EVEN, Seeding.CLUMPED)
    return [
        one.seeding if one.seeding not in odd or p <= LEVEL else Seeding.RANDOM
        for one, p in zip(found, adjusted, strict=True)
    ]


def _line_rows(
    product: Product, model: BoxModel, logs: Sequence[BoxLog]
) -> tuple[list[LineLearned], list[Counter[tuple[str, str, str]]], np.random.Generator]:
    """Average and spread of every line but the rest, with the counts of the boxes."""
    counts = [log.line_counts(model, product) for log in logs]
    packs = [log.packs for log in logs]
    boxes = sum(packs) / model.format.packs_per_box
    rng = np.random.default_rng(SEED)
    lines = []
    for line in model.lines:
        if not line.is_rest:
            each = [count[line.key] for count in counts]
            average = per_box(sum(each), boxes, line.expected)
            spread = dispersion(each, packs, rng, slots=_slots_of_a_pack(line, model.format))
            lines.append(LineLearned(line, sum(each), average, spread))
    return lines, counts, rng


def _slots_of_a_pack(line: Line, fmt: Format) -> int:
    """Copies of a line that every pack holds for certain (odds below 1:1, or a fixed slot)."""
    return line.law.fixed // fmt.packs_per_box if line.law is not None and not line.promise else 0


@dataclass(frozen=True, slots=True)
class RunFollows:
    """What follows for the print run if all boxes were like the logged ones.

    Attributes
    ----------
    ratio, low, high : float
        Numbered cards seen against printed, with its 95 % interval: 1.25 makes the run a fifth smaller.
    boxes : Interval
        Boxes of the format by the printed odds.
    """

    ratio: float
    low: float
    high: float
    boxes: Interval


def run_follows(learned: FormatLearned, printed: PrintRun) -> RunFollows | None:
    """Hold the numbered cards of the logged boxes against their odds; None without numbered lines."""
    rows = [row for row in learned.lines if row.line.run and row.line.expected and row.line.promise not in PROMISED]
    expected = sum(row.line.expected or 0.0 for row in rows) * learned.opened
    run = printed.formats.get(learned.format.key)
    if not expected or run is None or not run.separable or run.boxes.estimate is None:
        return None
    found = per_box(sum(row.seen for row in rows), learned.opened, None)
    scale = learned.opened / expected
    return RunFollows(found.mean * scale, found.low * scale, found.high * scale, run.boxes)


def _rest(model: BoxModel) -> frozenset[tuple[str, str]]:
    return frozenset((line.section.key, number) for line in model.rest for number in line.numbers)


def usual_slots(session: Session, bench: Workbench, record: ProductRecord, fmt: str) -> tuple[str, ...]:
    """Return what each slot of a pack usually holds, where it is not base; empty words where nothing is usual."""
    product = bench.product(session, record)
    logs = [log for log in box_logs(session, bench, record) if log.format == fmt]
    base = {section.label for section in product.sections if section.kind is Kind.BASE}
    found = _slots(product, logs, product.format_by_key[fmt]) if logs else ()
    return tuple("" if slot.usually in base else slot.usually for slot in found)
