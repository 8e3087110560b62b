"""A short year in seeded worlds: the flags earn what they promise. `make year` runs the long one."""

from __future__ import annotations

import pytest

from tests.yearworld import RULES, WORLDS, flags, run_year


@pytest.mark.parametrize(("name", "least"), [("modern", 0.8), ("vintage", 0.8), ("thin", 0.4)])
def test_flags_keep_most_of_what_an_oracle_gains(name: str, least: float) -> None:
    """Two worlds of 160 copies each; the rules of thumb keep less."""
    years = [run_year(WORLDS[name], seed, {"flags": flags, **RULES}) for seed in (0, 1)]
    best = sum(year.best for year in years)
    assert sum(year.gains["flags"] for year in years) >= least * best
    for rule in RULES:
        assert sum(year.gains["flags"] for year in years) > sum(year.gains[rule] for year in years)
