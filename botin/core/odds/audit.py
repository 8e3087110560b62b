"""What in a product cannot be right, and what the logged boxes say against its print."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from botin.core.catalog.product import Product
from botin.core.counts import CountLaw
from botin.core.odds.auditodds import odds_findings, packs_words
from botin.core.odds.auditrows import line_words, rows_findings
from botin.core.odds.findings import Finding, Severity, finding
from botin.core.odds.lines import Line, box_model
from botin.core.odds.packrates import LineKey

ENOUGH_BOXES = 3
"""From so many boxes on the logs are held against the odds; a choice, no source."""
LEVEL = 0.01
"""Chance of a false alarm over all lines together (Holm)."""


@dataclass(frozen=True, slots=True)
class Stamp:
    """A serial seen on a card in hand: ``run`` is the number after the stroke."""

    section: str
    number: str
    parallel: str
    run: int


@dataclass(frozen=True, slots=True)
class LoggedBoxes:
    """What came out of the closed boxes of one format."""

    format: str
    boxes: int
    seen: dict[LineKey, int]


@dataclass(frozen=True, slots=True)
class Logs:
    """What the logs know that a product's page may not."""

    boxes: tuple[LoggedBoxes, ...] = ()
    stamps: tuple[Stamp, ...] = ()


def audit(product: Product, logs: Logs | None = None, *, deep: bool = True) -> tuple[Finding, ...]:
    """Audit a product.

    Parameters
    ----------
    product : Product
        As its page states it.
    logs : Logs, optional
        Boxes opened and serials seen.
    deep : bool
        Also hold the numbered lines against each other, which takes linear programs.

    Returns
    -------
    tuple of Finding
        Errors first; within a severity in the order of the files. Codes are listed in ``docs/findings.md``.
    """
    found = [*rows_findings(product), *odds_findings(product)]
    if deep:
        found += _contradictions(product)
    if logs:
        found += [*_stamps(product, logs.stamps), *_logged(product, logs.boxes)]
    order = {Severity.ERROR: 0, Severity.WARNING: 1, Severity.INFO: 2}
    unique = dict.fromkeys(found)
    return tuple(sorted(unique, key=lambda item: order[item.severity]))


def _contradictions(product: Product) -> Iterator[Finding]:
    """Numbered lines that the others do not bear out."""
    from botin.core.odds.printrun import print_run  # noqa: PLC0415  (brings scipy in only where there is something to solve)

    if not any(row.run_text for row in product.parallels):
        return
    found = print_run(product)
    odd = [line for line in found.lines if line.agrees is False]
    if found.slack > 0 and len(odd) == 1:
        name, first = line_words(product, odd[0].key), _first_line(product, odd[0].key)
        message = (
            f"{name} ({odd[0].copies:,} copies) contradicts the other numbered lines by {100 * found.slack:.1f} %. "
            "Look at its run and its odds."
        )
        yield finding("line-contradicts", first, message, Severity.WARNING)
    elif found.slack > 0:
        often = "Some copies may have been withheld" if found.slack < 0.1 else "That is too much for copies withheld"
        message = (
            f"The numbered lines agree only if production differs from print by {100 * found.slack:.1f} %. "
            f"{often}, or a run or odds are wrong."
        )
        yield finding("production-differs", "odds.csv:1", message, Severity.INFO)


def _first_line(product: Product, key: LineKey) -> str:
    lines = [row.line for row in product.odds if (row.section, row.parallel) == key[:2]]
    return f"odds.csv:{min(lines, default=1)}"


def _stamps(product: Product, stamps: Sequence[Stamp]) -> Iterator[Finding]:
    """Serials whose run is not the stated one: the card in hand wins."""
    for stamp in dict.fromkeys(stamps):
        card = product.card_by_number.get((stamp.section, stamp.number))
        row = product.parallel_of(card, stamp.parallel) if card else None
        stated = row.stamped if row else None
        if stated == stamp.run:
            continue
        name = line_words(product, (stamp.section, stamp.parallel, ""))
        says = f"numbered to {stated}" if stated else "not numbered"
        message = (
            f"A card in hand ({stamp.number}) is stamped /{stamp.run}, {name} is stated {says}. "
            "The card wins: take the correction if you read it right."
        )
        yield finding("serial-differs", f"parallels.csv:{row.line if row else 1}", message, Severity.WARNING)


def over_boxes(law: CountLaw, boxes: int) -> CountLaw:
    """Return the law of a count over several independent boxes."""
    return law.times(boxes)


def two_sided(law: CountLaw, seen: int) -> float:
    """Return min(1, 2·min(P(X ≤ seen), P(X ≥ seen)))."""
    return min(1.0, 2 * min(law.at_most(seen), law.at_least(seen)))


def _logged(product: Product, logged: Sequence[LoggedBoxes]) -> Iterator[Finding]:
    """Lines whose logs the printed odds do not explain, corrected for looking at many (Holm)."""
    tested: list[tuple[float, Line, LoggedBoxes]] = []
    for some in logged:
        if some.boxes < ENOUGH_BOXES or some.format not in product.format_by_key:
            continue
        model = box_model(product, product.format_by_key[some.format])
        for line in model.lines:
            if line.law is not None and line.law.mean > 0:
                law = over_boxes(line.law, some.boxes)
                tested.append((two_sided(law, some.seen.get(line.key, 0)), line, some))
    tested.sort(key=lambda item: item[0])
    for place, (p, line, some) in enumerate(tested):
        if p * (len(tested) - place) > LEVEL:
            break
        yield _differs(product, line, some, p)


def _differs(product: Product, line: Line, some: LoggedBoxes, p: float) -> Finding:
    fmt = product.format_by_key[some.format]
    seen, expected = some.seen.get(line.key, 0), (line.expected or 0.0) * some.boxes
    name, packs = line_words(product, line.key), fmt.packs_per_box * some.boxes
    rate = f"about {packs_words(seen / packs)}" if seen else "none at all"
    message = (
        f"{fmt.label}: {some.boxes} boxes gave {seen} of {name} where {line.printed} expects {expected:,.1f} "
        f"(chance {p:.1g}); they speak for {rate}."
    )
    return finding("logs-differ", _first_line(product, line.key), message, Severity.WARNING)
