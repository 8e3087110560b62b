"""Everything a product's page says: formats side by side, lines, print run, findings, what waits."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from botin.core.catalog.product import Format, Kind, Product
from botin.core.figure import Figure, Input, ratio
from botin.core.odds.audit import Logs, Stamp, audit
from botin.core.odds.boxlaw import BoxLaw, LoggedBoxes
from botin.core.odds.findings import Finding
from botin.core.odds.lines import BoxModel, Line
from botin.core.odds.printrun import PrintRun, print_run
from botin.core.odds.rowrates import LineKey
from botin.desk.catalog.corrections import words_of
from botin.desk.catalog.lookagain import ToLookAt, waiting
from botin.desk.workbench import Workbench
from botin.store.catalog.corrections import corrections_of
from botin.store.models import ProductRecord
from botin.store.opening.closed import count_by_line, latest_closed, serials_read

SIGNED = (Kind.AUTOGRAPH, Kind.AUTOGRAPH_RELIC)
LATEST = 100
"""How many of the latest closed boxes speak against the print."""
WORN = (Kind.RELIC, Kind.AUTOGRAPH_RELIC)


@dataclass(frozen=True)
class FormatFacts:
    """One format beside the others; counts are what the model expects in a box."""

    format: Format
    model: BoxModel
    per_card: Figure | None
    per_pack: Figure | None
    promises: tuple[str, ...]
    expected: dict[str, float]


@dataclass(frozen=True, slots=True)
class SectionFacts:
    """A section with its size and finishes."""

    key: str
    label: str
    kind: Kind
    cards: int
    finishes: tuple[str, ...]
    back_code: str
    cue: str


@dataclass(frozen=True, slots=True)
class StampProposal:
    """A run that cards in hand say otherwise: how many cards, and the run they carry."""

    section: str
    parallel: str
    group: str
    label: str
    stated: str
    seen: int
    cards: int


@dataclass(frozen=True, slots=True)
class PastCorrection:
    """A correction as the page lists it."""

    when: str
    who: str
    words: str
    why: str


@dataclass(frozen=True)
class ProductPage:
    """All the product's page shows."""

    record: ProductRecord
    product: Product
    formats: tuple[FormatFacts, ...]
    sections: tuple[SectionFacts, ...]
    run: PrintRun
    findings: tuple[Finding, ...]
    stamps: tuple[StampProposal, ...]
    look_again: tuple[ToLookAt, ...]
    corrections: tuple[PastCorrection, ...]


def printed_run(session: Session, bench: Workbench, record: ProductRecord) -> PrintRun:
    """Return the print run of a product by all that is said of it and its logged boxes; kept until either changes."""
    product = bench.product(session, record)
    logged = logged_boxes(session, bench, record)
    key = ("printrun", record.id, record.revision, _state_of(logged))
    return bench.keep(key, lambda: print_run(product, BoxLaw(product, logs=logged)))


def product_page(session: Session, bench: Workbench, record: ProductRecord) -> ProductPage:
    """Work out the page; what rests on the product alone is kept until it changes."""
    product = bench.product(session, record)
    run = printed_run(session, bench, record)
    logged, stamps = logged_boxes(session, bench, record), stamps_of(session, record.id)
    state = ("audit", record.id, record.revision, _state_of(logged), tuple(stamps))
    findings = bench.keep(
        state, lambda: audit(product, Logs(tuple(logged), tuple(stamps)), law=bench.box_law(session, record))
    )
    return ProductPage(
        record=record,
        product=product,
        formats=tuple(format_facts(product, fmt, bench.model(session, record, fmt.key)) for fmt in product.formats),
        sections=tuple(_section(product, section.key) for section in product.sections),
        run=run,
        findings=findings,
        stamps=tuple(_proposals(product, stamps)),
        look_again=tuple(waiting(session, record.id)),
        corrections=tuple(
            PastCorrection(f"{c.made_at:%Y-%m-%d %H:%M}", c.who, words_of(c), c.why)
            for c in corrections_of(session, record.id)
        ),
    )


def _state_of(logged: list[LoggedBoxes]) -> tuple[tuple[str, int, int], ...]:
    return tuple((some.format, some.boxes, sum(some.seen.values())) for some in logged)


def logged_boxes(session: Session, bench: Workbench, record: ProductRecord) -> list[LoggedBoxes]:
    """Count what the latest closed boxes of a product gave, line by line and format by format."""
    boxes = latest_closed(session, record.id, LATEST)
    state = ("logged", record.id, record.revision, tuple((box, closed) for box, closed, _ in boxes))
    return bench.keep(state, lambda: _count_lines(session, bench, record, {box: key for box, _, key in boxes}))


def _count_lines(
    session: Session, bench: Workbench, record: ProductRecord, formats: dict[int, str]
) -> list[LoggedBoxes]:
    seen: dict[str, Counter[LineKey]] = {key: Counter() for key in formats.values()}
    for box, section, group, parallel, count in count_by_line(session, formats):
        line = _line_key(bench.model(session, record, formats[box]), section, group, parallel)
        if line is not None:
            seen[formats[box]][line] += count
    boxes = Counter(formats.values())
    return [LoggedBoxes(key, boxes[key], dict(lines)) for key, lines in seen.items()]


def _line_key(model: BoxModel, section: str, group: str, parallel: str) -> LineKey | None:
    """Return the line that cards of a group belong to; one of their own group first."""
    keys = {line.key for line in model.lines}
    return next((key for key in ((section, parallel, group), (section, parallel, "")) if key in keys), None)


def stamps_of(session: Session, product_id: int) -> list[Stamp]:
    """Return the serials read off cards of a product."""
    return [Stamp(*row) for row in serials_read(session, product_id)]


def _proposals(product: Product, stamps: list[Stamp]) -> list[StampProposal]:
    """Runs that the cards in hand correct: only where all cards of a finish that were seen agree."""
    seen: dict[tuple[str, str, str], Counter[int]] = {}
    for stamp in stamps:
        card = product.card_by_number.get((stamp.section, stamp.number))
        row = product.parallel_of(card, stamp.parallel) if card else None
        if row is not None and row.stamped != stamp.run:
            seen.setdefault((row.section, row.key, row.group), Counter())[stamp.run] += 1
    found = []
    for (section, key, group), runs in seen.items():
        row = next(r for r in product.parallels if (r.section, r.key, r.group) == (section, key, group))
        run, cards = runs.most_common(1)[0]
        label = f"{product.section_by_key[section].label} {row.label}"
        found.append(
            StampProposal(
                section=section, parallel=key, group=group, label=label, stated=row.run_text, seen=run, cards=cards
            )
        )
    return found


def format_facts(product: Product, fmt: Format, model: BoxModel) -> FormatFacts:
    """Return the facts of one format."""
    per_card = per_pack = None
    if fmt.list_price is not None:
        price = Input("list price", fmt.list_price.major, "money")
        per_card = ratio("list price per card", "money", price, Input("cards in the packs", fmt.cards_per_box))
        per_pack = ratio("list price per pack", "money", price, Input("packs", fmt.packs_per_box))
    return FormatFacts(
        format=fmt,
        model=model,
        per_card=per_card,
        per_pack=per_pack,
        promises=tuple(row.label for row in product.promises if row.format in ("", fmt.key)),
        expected=_expected(model.lines),
    )


def _expected(lines: tuple[Line, ...]) -> dict[str, float]:
    """What a box holds on average, by what people look for."""
    groups: dict[str, Callable[[Line], bool]] = {
        "autographs": lambda line: line.section.kind in SIGNED,
        "relics": lambda line: line.section.kind in WORN,
        "numbered cards": lambda line: line.run is not None,
        "inserts": lambda line: line.section.kind is Kind.INSERT,
        "short prints and variations": lambda line: line.section.kind in (Kind.SHORT_PRINT, Kind.VARIATION),
        "base cards": lambda line: line.is_rest,
    }
    return {name: sum(line.expected or 0.0 for line in lines if belongs(line)) for name, belongs in groups.items()}


def _section(product: Product, key: str) -> SectionFacts:
    section = product.section_by_key[key]
    rows = product.parallels_by_section.get(key, ())
    finishes = [f"{row.label} /{row.run_text}" if row.run_text else row.label for row in rows if row.key]
    return SectionFacts(
        key=key,
        label=section.label,
        kind=section.kind,
        cards=len(product.cards_by_section.get(key, ())),
        finishes=tuple(dict.fromkeys(finishes)),
        back_code=section.back_code,
        cue=section.cue,
    )
