"""Where the next sale is said to lie 8 times of 10: on simulated markets its net lies there 75 to 85 times of 100."""

from __future__ import annotations

from datetime import timedelta

import numpy as np
import pytest

from botin.core.flags.nets import sale_interval, sale_nets
from botin.core.flags.ways import Priced
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceRow
from botin.core.selling.costs import SaleCosts
from tests.core.test_pricemodel import DAY, checklist

PLAYERS = 90
COSTS = SaleCosts(fee=0.12, fixed=0.30, postage=1.20)


def covered(seed: int, noise: float) -> list[bool]:
    """One market: levels nobody knows, a few sales of each card, then the next sale of each."""
    rng = np.random.default_rng(seed)
    product = checklist(PLAYERS)
    levels = np.exp(rng.normal(2.5, 0.9, PLAYERS))
    rows = [
        PriceRow(
            "base",
            str(n + 1),
            "",
            "",
            round(float(levels[n] * np.exp(rng.normal(0, noise))), 2),
            DAY - timedelta(int(rng.integers(1, 60))),
        )
        for n in range(PLAYERS)
        for _ in range(int(rng.integers(1, 7)))
    ]
    model, found = PriceModel(product, rows, DAY), []
    for n in range(PLAYERS):
        guess = model.estimate(product.cards[n])
        low, high = sale_interval(Priced(guess.mean, guess.spread, guess.noise))
        after = sale_nets(np.array([low, levels[n] * np.exp(rng.normal(0, noise)), high]), COSTS)
        found.append(bool(after[0] <= after[1] <= after[2]))
    return found


@pytest.mark.parametrize("noise", [0.15, 0.3])
def test_eight_of_ten_nets_lie_where_they_were_expected(noise: float) -> None:
    inside = [one for seed in range(6) for one in covered(seed, noise)]
    assert 0.75 <= np.mean(inside) <= 0.85
