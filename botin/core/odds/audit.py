"""What in a product cannot be right, and what the logged boxes say against its print."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from botin.core.catalog.product import Product
from botin.core.counts import CountLaw
from botin.core.odds.auditodds import odds_findings, packs_words
from botin.core.odds.auditrows import rows_findings
from botin.core.odds.boxlaw import BoxLaw, LoggedBoxes
from botin.core.odds.findings import Finding, Severity, finding
from botin.core.odds.lines import Line, box_model
from botin.core.odds.rowrates import LineKey, line_words

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
class Logs:
    """What the logs know that a product's page may not."""

    boxes: tuple[LoggedBoxes, ...] = ()
    stamps: tuple[Stamp, ...] = ()


def audit(
    product: Product, logs: Logs | None = None, *, deep: bool = True, law: BoxLaw | None = None
) -> tuple[Finding, ...]:
    """Audit a product.

    Parameters
    ----------
    product : Product
        As its page states it.
    logs : Logs, optional
        Boxes opened and serials seen.
    deep : bool
        Also say what unprinted odds must be, which takes linear programs.
    law : BoxLaw, optional
        The law of the product's boxes, where it is at hand.

    Returns
    -------
    tuple of Finding
        Errors first; within a severity in the order of the files. Codes are listed in ``docs/findings.md``.
    """
    law = law or BoxLaw(product)
    found = [*rows_findings(product), *odds_findings(law, deep=deep)]
    if logs:
        found += [*_stamps(product, logs.stamps), *_logged(law, logs.boxes)]
    order = {Severity.ERROR: 0, Severity.WARNING: 1, Severity.INFO: 2}
    unique = dict.fromkeys(found)
    return tuple(sorted(unique, key=lambda item: order[item.severity]))


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


def _logged(box_law: BoxLaw, logged: Sequence[LoggedBoxes]) -> Iterator[Finding]:
    """Lines whose logs the printed odds do not explain, corrected for looking at many (Holm)."""
    product = box_law.product
    tested: list[tuple[float, Line, LoggedBoxes]] = []
    for some in logged:
        if some.boxes < ENOUGH_BOXES or some.format not in product.format_by_key:
            continue
        fmt = product.format_by_key[some.format]
        printed = box_law.own_rows(fmt)
        for line in box_model(product, fmt, law=box_law).lines:
            if line.place in printed and line.law is not None and line.law.mean > 0:
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
