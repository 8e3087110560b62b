"""Productions whose truth is known: packs made, copies numbered, odds as a wrapper would round them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from botin.core.catalog.product import Card, Format, Kind, OddsRow, Parallel, Product, Section

RUNS = (5, 10, 25, 50, 99, 150, 199, 299)


@dataclass(frozen=True)
class Production:
    product: Product
    packs: dict[str, int]
    shares: dict[str, dict[str, float]]


def rounded(packs_per_hit: float) -> str:
    """Odds as printed: a decimal below 10, whole numbers with a thousands comma above."""
    return f"{packs_per_hit:.1f}" if packs_per_hit < 10 else f"{packs_per_hit:,.0f}"


def production(
    rng: np.random.Generator, formats: int, lines: int, withheld: float = 0.0, proportional: bool = False
) -> Production:
    """Draw one production: each line is shared out over the formats, up to ``withheld`` of it never packed."""
    fmts = tuple(Format(f"f{i}", f"Format {i}", int(rng.integers(8, 37)), 8, 12) for i in range(formats))
    packs = {fmt.key: int(rng.integers(300, 20_000)) * 12 * fmt.packs_per_box for fmt in fmts}
    alike = rng.dirichlet(np.full(formats, 2.0))
    parallels, odds, shares = [], [], {}
    size = int(rng.integers(50, 301))
    for line in range(lines):
        run = int(rng.choice(RUNS))
        split = alike if proportional else rng.dirichlet(np.full(formats, 1.5))
        key = f"p{line}"
        parallels.append(Parallel(key, key, "base", run_text=str(run)))
        shares[key] = {}
        for fmt, share in zip(fmts, split, strict=True):
            copies = size * run * share * (1 - withheld * rng.random())
            odds.append(OddsRow(fmt.key, "base", key, packs_per_hit=rounded(packs[fmt.key] / copies)))
            shares[key][fmt.key] = copies
    cards = tuple(Card("base", str(n), f"Rider {n}") for n in range(1, size + 1))
    made = Product("made", "Made", formats=fmts, sections=(Section("base", "Base", Kind.BASE),), cards=cards,
                   parallels=tuple(parallels), odds=tuple(odds))  # fmt: skip
    return Production(made, packs, shares)
