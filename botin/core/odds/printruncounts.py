"""The print run once more, from how many numbered cards a box holds: as promised, as believed, as logged."""

from __future__ import annotations

from dataclasses import dataclass

from botin.core.catalog.product import Format, Product
from botin.core.figure import Figure, Input
from botin.core.odds.packrates import PrintedLine, printed_lines
from botin.core.odds.printrun import PrintRun
from botin.core.odds.rates import parse_printed

PRIOR_BOXES = 4.0
"""How many boxes the printed odds weigh against the logs; a choice, shown on the screen."""


@dataclass(frozen=True, slots=True)
class PerBox:
    """Numbered cards in a box: an estimate with its 95 % interval."""

    mean: float
    low: float
    high: float


def gamma_per_box(prior: float, seen: int, boxes: int, weight: float = PRIOR_BOXES) -> PerBox:
    """Average count a box, learned from logs: Gamma(prior·weight + seen, weight + boxes).

    Parameters
    ----------
    prior : float
        What the printed odds expect a box.
    seen, boxes : int
        Cards seen in that many boxes.
    weight : float
        How many boxes the prior counts for.

    References
    ----------
    The conjugate pair of Gamma and Poisson: Gelman et al., Bayesian Data Analysis, 3rd ed., section 2.6.
    """
    from scipy.special import gammaincinv  # noqa: PLC0415  (slow to import)

    shape, rate = prior * weight + seen, weight + boxes
    low, high = (float(gammaincinv(shape, p)) / rate for p in (0.025, 0.975))
    return PerBox(shape / rate, low, high)


def numbered_copies(product: Product, run: PrintRun, fmt: Format) -> float | None:
    """Numbered copies that went into one format: all of a line's own, or its share by the packs found.

    None when a line that is shared has unprinted odds or formats of unknown size.
    """
    total = 0.0
    for line in printed_lines(product):
        if line.copies and fmt.key in line.rates:
            share = _share(line, run, fmt.key)
            if share is None:
                return None
            total += line.copies * share
    return total or None


def _share(line: PrintedLine, run: PrintRun, fmt: str) -> float | None:
    if set(line.rates) == {fmt}:
        return 1.0
    parts: dict[str, float] = {}
    for key, span in line.rates.items():
        found = run.formats.get(key)
        if span is None or found is None or found.packs.estimate is None:
            return None
        parts[key] = found.packs.estimate * span.mid
    return parts[fmt] / sum(parts.values())


def expected_numbered(product: Product, fmt: Format) -> float:
    """Numbered cards that the printed odds expect in a box."""
    spans = [line.rates.get(fmt.key) for line in printed_lines(product) if line.copies]
    return sum(span.mid for span in spans if span) * fmt.packs_per_box


def boxes_from_counts(copies: float, per_box: PerBox, source: str) -> Figure:
    """Boxes made = numbered copies ÷ numbered cards a box; five a box instead of four is a fifth fewer boxes."""
    inputs = (Input("numbered copies", copies), Input("numbered cards a box", per_box.mean, "number"))
    return Figure(
        label="boxes made",
        value=copies / per_box.mean,
        unit="count",
        formula="numbered copies ÷ numbered cards a box",
        inputs=inputs,
        assumptions=(source,),
        low=copies / per_box.high,
        high=copies / per_box.low,
    )


def promised_numbered(product: Product, fmt: Format) -> float | None:
    """Numbered cards a box as promised, where promises cover just the numbered lines of the format."""
    lines = [line for line in printed_lines(product) if line.copies and fmt.key in line.rates]
    numbered = {line.key[:2] for line in lines}
    all_lines = [line for line in printed_lines(product) if fmt.key in line.rates]
    for row in product.promises:
        if row.format not in ("", fmt.key) or row.per == "case":
            continue
        covered = {line.key[:2] for line in all_lines if product.covers(row, line.key[0], line.key[1])}
        if covered and covered == numbered:
            return parse_printed(row.count).value * (fmt.packs_per_box if row.per == "pack" else 1)
    return None
