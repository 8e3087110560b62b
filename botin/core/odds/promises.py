"""Promises that span lines: one joint count, and how it is shared among the lines it covers.

Printed lines keep what their odds expect; what is left of the count goes to those without printed odds: by copies
when all of these are numbered, all of it to the one that is not numbered, evenly when several are not.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from botin.core.catalog.product import Format, Product, PromiseRow
from botin.core.counts import CountLaw, promised_law
from botin.core.errors import BadOddsError
from botin.core.odds.rates import parse_printed

if TYPE_CHECKING:
    from botin.core.odds.lines import JointPromise, Line, Logged

LineKey = tuple[str, str, str]
OVER = 1e-6


def tie(
    product: Product, fmt: Format, lines: list[Line], seeding: str, logged: Logged
) -> tuple[list[Line], list[JointPromise], list[str]]:
    """Give the lines that a promise covers their share of its joint count; and say what had to be assumed."""
    joint: list[JointPromise] = []
    notes: list[str] = []
    shares: dict[LineKey, float | None] = {}
    for row in product.promises:
        if row.format not in ("", fmt.key):
            continue
        covered = [line for line in lines if line.key not in shares and product.covers(row, line.key[0], line.key[1])]
        tied = _joint(product, fmt, row, covered, seeding, logged) if covered else None
        if tied is not None:
            one, said, expected = tied
            joint.append(one)
            notes += said
            shares |= expected
    return [_with_share(line, shares) for line in lines], joint, notes


def _with_share(line: Line, shares: Mapping[LineKey, float | None]) -> Line:
    return replace(line, law=None, case_law=None, expected=shares[line.key]) if line.key in shares else line


def _joint(
    product: Product, fmt: Format, row: PromiseRow, covered: list[Line], seeding: str, logged: Logged
) -> tuple[JointPromise, list[str], dict[LineKey, float | None]] | None:
    """Joint law, assumptions and expected counts of one promise."""
    from botin.core.odds.lines import JointPromise, case_law_of  # noqa: PLC0415  (lines are made of promises too)

    try:
        count = parse_printed(row.count).value
    except BadOddsError:
        return None
    printed = [line.law.mean for line in covered if line.law is not None]
    expect = math.fsum(printed) if printed else None
    counts = logged.get(("promise", row.label, ""), ())
    known = expect is not None and (len(printed) == len(covered) or expect > count)
    whole = expect if known else None  # printed lines alone may already expect more than is guaranteed
    law = joint_law(row, fmt, count, whole, seeding, counts)
    if law is None:
        return None
    parts, notes = shared_out(product, fmt, covered, law.mean)
    total = math.fsum(part for part in parts.values() if part)
    weights = {key: (part or 0.0) / total if total else 1 / len(parts) for key, part in parts.items()}
    of_case = case_law_of(row.count, row.promise, fmt.boxes_per_case, seeding) if row.per == "case" else None
    shares = {key: None if part is None else law.mean * weights[key] for key, part in parts.items()}
    return JointPromise(row, law, weights, of_case), notes, shares


def joint_law(
    row: PromiseRow, fmt: Format, count: float, expect: float | None, seeding: str, counts: Sequence[int] = ()
) -> CountLaw | None:
    """Law of a promise's count in one box; None when the size of a case is unknown."""
    from botin.core.odds.lines import case_share_law  # noqa: PLC0415

    if row.per == "case":
        if not fmt.boxes_per_case:
            return None
        return case_share_law(count, row.promise, fmt.boxes_per_case, seeding)
    per_box = count * fmt.packs_per_box if row.per == "pack" else count
    return promised_law(per_box, row.promise, expect, seeding, counts)


def shared_out(
    product: Product, fmt: Format, covered: Sequence[Line], count: float
) -> tuple[dict[LineKey, float | None], list[str]]:
    """Expected count of each covered line in a box; None where nothing tells it; and what was assumed."""
    parts: dict[LineKey, float | None] = {line.key: None if line.law is None else line.law.mean for line in covered}
    open_lines = [line for line in covered if line.law is None]
    if not open_lines:
        return parts, []
    left = max(0.0, count - math.fsum(part or 0.0 for part in parts.values()))
    copies = {line.key: copies_of_line(product, line) for line in open_lines}
    plain = [line for line in open_lines if copies[line.key] is None]
    if not plain:
        total = math.fsum(copies[line.key] or 0 for line in open_lines)
        parts |= {line.key: left * (copies[line.key] or 0) / total for line in open_lines}
        return parts, [f"{_named(open_lines)} share {left:.3g} a box by their copies"] if len(open_lines) > 1 else []
    numbered = [line for line in open_lines if copies[line.key] is not None]
    notes: list[str] = []
    if numbered:
        boxes = _boxes_made(product, fmt)
        for line in numbered:
            parts[line.key] = None if boxes is None else min(left, (copies[line.key] or 0) / boxes)
        left = max(0.0, left - math.fsum(parts[line.key] or 0.0 for line in numbered))
        how = "come by their copies and the boxes made" if boxes else "are unknown: no print run tells how many boxes"
        notes.append(f"{_named(numbered)} {how}")
    parts |= {line.key: left / len(plain) for line in plain}
    if len(plain) > 1:
        notes.append(f"{_named(plain)} are taken to share {left:.3g} a box evenly: their odds are not printed")
    else:
        notes.append(f"{_named(plain)} takes what is left of the promise: {left:.3g} a box")
    return parts, notes


def _named(lines: Sequence[Line]) -> str:
    return ", ".join(f"{line.section.label} {line.parallel} {line.group}".strip() for line in lines)


def copies_of_line(product: Product, line: Line) -> int | None:
    """Copies of a line: the run of each of its cards added up; None when one of them is not numbered."""
    total = 0
    for card in line.cards:
        row = product.parallel_of(card, line.parallel)
        run = product.run_of(row) if row else None
        if run is None:
            return None
        total += run
    return total or None


def _boxes_made(product: Product, fmt: Format) -> float | None:
    """Boxes of a format, by the numbered lines whose odds are printed; None when they do not tell."""
    from botin.core.odds.printrun import print_run  # noqa: PLC0415  (programs are only solved where a promise needs one)

    found = print_run(product).formats.get(fmt.key)
    return found.boxes.estimate if found is not None and found.separable and found.boxes.estimate else None
