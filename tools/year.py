"""A collector's year in seeded worlds: the share of the oracle's gain that the flags keep, and what the rest is lost by.

python tools/year.py [SEEDS]
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.yearworld import RULES, WORLDS, Year, flags, run_year


def shares(years: list[Year], name: str) -> tuple[float, float]:
    """Share of the oracle's gain over all seeds, and its standard error by leaving seeds out."""
    gains, best = np.array([year.gains[name] for year in years]), np.array([year.best for year in years])
    whole = gains.sum() / best.sum()
    left = (gains.sum() - gains) / (best.sum() - best)
    return float(whole), float(np.sqrt((len(years) - 1) * left.var()))


def behind(years: list[Year], one: str, other: str) -> tuple[float, float]:
    """Mean of one's gain less the other's over the seeds, in shares of the mean best gain, and its standard error."""
    gaps = np.array([year.gains[one] - year.gains[other] for year in years]) / np.mean([year.best for year in years])
    return float(gaps.mean()), float(gaps.std(ddof=1) / np.sqrt(len(gaps)))


def main() -> None:
    seeds = int(sys.argv[1]) if len(sys.argv) > 1 else 12
    collectors = {
        "flags": flags,
        "flags, twice the sales": lambda world: flags(world, more=True),
        "flags, true prices": lambda world: flags(world, prices_true=True),
        "flags, true chances": lambda world: flags(world, houses_true=True),
        **RULES,
    }
    for name, kind in WORLDS.items():
        start = time.perf_counter()
        years = [run_year(kind, seed, collectors) for seed in range(seeds)]
        best = np.mean([year.best for year in years])
        print(
            f"\n{name}: {seeds} seeds, oracle gains {best:,.0f} over selling all raw; {time.perf_counter() - start:.0f} s"
        )
        for one in collectors:
            share, error = shares(years, one)
            gap, unsure = behind(years, "flags", one)
            beside = "" if one == "flags" else f"   flags ahead by {gap:+.2f} ± {1.96 * unsure:.2f}"
            print(f"  {one:26} {share:6.2f} ± {1.96 * error:.2f}{beside}")


if __name__ == "__main__":
    main()
