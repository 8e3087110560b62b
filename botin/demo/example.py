"""One ready product for whoever has none yet: the invented hobby product of the demo, without boxes and prices."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from botin.core.catalog.product import Product
from botin.demo.league import riders
from botin.demo.products import make_product
from botin.demo.season import SEASON

START = 20260824
"""Start value of the random generator: the example is the same each time."""
RIDERS = 340
"""Riders of the league."""


def example_product() -> Product:
    """Make the product; its name says that it is an example."""
    rng = np.random.default_rng(START)
    made = make_product(SEASON[0], riders(RIDERS, rng), rng).product
    return replace(made, key=f"{made.key}-example", name=f"{made.name} (example)")
