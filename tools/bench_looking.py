"""How well and how fast cards on scans are measured: simulated scans with a known truth, many of each kind."""

from __future__ import annotations

import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from botin.core.looking.measure import measure_picture
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


if __name__ == "__main__":
    main()
