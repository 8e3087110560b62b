"""The riders of the league: invented names, clubs, and how sought after each one is."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from importlib.resources import files

import numpy as np

from botin.core.catalog.product import TeamClub

TABLES = files("botin.demo") / "tables"


@dataclass(frozen=True, slots=True)
class Rider:
    """A rider; ``fame`` multiplies what their cards sell for (the median rider has 1)."""

    name: str
    team: str
    rookie: str
    fame: float


def clubs() -> tuple[TeamClub, ...]:
    """Return the clubs of the league and the club that holds the rights of each team."""
    lines = (TABLES / "clubs.csv").read_text("utf-8").splitlines()
    return tuple(TeamClub(row["team"], row["club"]) for row in csv.DictReader(lines))


def riders(count: int, rng: np.random.Generator) -> tuple[Rider, ...]:
    """Draw riders: every name once; one in seven is new this season; fame is spread like e to a normal."""
    given = (TABLES / "given.txt").read_text("utf-8").split()
    family = (TABLES / "family.txt").read_text("utf-8").split()
    teams = [row.team for row in clubs()]
    pairs = rng.permutation(len(given) * len(family))[:count]
    fame = np.exp(rng.normal(0.0, 0.9, count))
    fame[rng.permutation(count)[: max(3, count // 60)]] *= 8
    kinds = rng.choice(["", "yes", "first signed", "debut"], count, p=[0.84, 0.11, 0.02, 0.03])
    return tuple(
        Rider(
            f"{given[pair % len(given)]} {family[pair // len(given)]}",
            teams[int(rng.integers(len(teams)))],
            str(kind),
            float(weight),
        )
        for pair, kind, weight in zip(pairs, kinds, fame, strict=True)
    )
