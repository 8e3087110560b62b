"""How well and how fast cards on scans are measured: simulated scans with a known truth, many of each kind."""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from botin.core.looking.measure import measure_picture
from botin.exchange.looking.pixels import Pixels
from botin.exchange.looking.readbacks import BackReader
from tests.scans.backs import design_of, product_of, scan_backs
from tests.scans.score import scans, score

KINDS: list[tuple[str, str, int, dict[str, object]]] = [
    ("one card, 300 dpi", "one", 60, {"worn": 0.6}),
    ("full bleed", "one", 50, {"bleed": True, "worn": 0.3}),
    ("thin borders", "one", 20, {"thin": True}),
    ("150 dpi", "one", 20, {"dpi": 150}),
    ("in a soft sleeve", "sleeve", 20, {}),
    ("two touching", "touching", 15, {}),
    ("a tilted photo", "photo", 20, {}),
    ("nine on a sheet", "nine", 3, {}),
]


def main() -> None:
    """Print a line a kind, then the times."""
    first = 1000
    for name, kind, count, how in KINDS:
        print(f"  {name:<20} {score(scans(kind, range(first, first + count), **how)).line()}")
    for name, kind in (("one card", "one"), ("nine on a sheet", "nine")):
        (made,) = scans(kind, range(first, first + 1))
        rgb = np.ascontiguousarray(made.picture[:, :, ::-1])
        times = []
        for _ in range(3):
            start = time.perf_counter()
            measure_picture(rgb, 300)
            times.append(time.perf_counter() - start)
        print(f"  {name:<20} measured in {1000 * min(times):,.0f} ms")
    backs(8)


def backs(sheets: int) -> None:
    """Print how many of nine backs a sheet are filled, how many of those are right, and the time a card."""
    filled = right = cards = 0
    took = 0.0
    for seed in range(2000, 2000 + sheets):
        rng = random.Random(seed)  # noqa: S311  (a scan, no secret)
        product = product_of(rng)
        scan = scan_backs(rng, product, design_of(rng))
        reader = BackReader(product)
        pixels = Pixels(np.ascontiguousarray(scan.picture[:, :, ::-1]), float(scan.dpi))
        start = time.perf_counter()
        found = reader.read(pixels)
        took += time.perf_counter() - start
        for one, true in zip(found, scan.truth, strict=True):
            cards += 1
            filled += one.back.sure
            right += one.back.sure and (one.back.section, one.back.number, one.back.parallel) == true
    share = f"filled {100 * filled / cards:.1f} %, right {100 * right / max(1, filled):.1f} % of those"
    print(f"  {'backs':<20} {cards} cards, {share}, {1000 * took / cards:,.0f} ms a card")


if __name__ == "__main__":
    main()
