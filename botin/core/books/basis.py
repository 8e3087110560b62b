"""What a copy cost: its own price, or its share of its box by a stated rule."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum


class CostRule(StrEnum):
    """How the cost of a box is shared over its copies."""

    EQUAL = "equal"
    BY_VALUE = "by value"
    HITS = "hits only"


def share_cost(total_minor: int, values: Sequence[float], rule: CostRule) -> list[int]:
    """Share a box's cost over its copies in minor units, exactly: what rounding leaves goes to the largest parts.

    Parameters
    ----------
    total_minor : int
        Cost of the box.
    values : sequence of float
        Value of each copy; by value, copies without one cost nothing unless none has any.
    rule : CostRule
        Equal or by value; for hits only, everything else has no value.
    """
    if not values:
        return []
    weights = [max(0.0, value) for value in values]
    if rule is CostRule.EQUAL or not sum(weights):
        weights = [1.0] * len(values)
    total = sum(weights)
    exact = [total_minor * weight / total for weight in weights]
    parts = [int(part) for part in exact]
    order = sorted(range(len(parts)), key=lambda at: parts[at] - exact[at])
    for at in order[: total_minor - sum(parts)]:
        parts[at] += 1
    return parts
