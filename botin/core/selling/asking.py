"""What to ask for a card: to begin with, at least, and lowered by a plan as the days go."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True, slots=True)
class AskPlan:
    """An ask that is lowered: by a share, every so many days, to no less than the floor (major units)."""

    ask: float
    floor: float
    lower: float = 0.0
    every: int = 7

    def on(self, listed_on: date, day: date) -> float:
        """Return what is asked on a day, in whole cents."""
        if day <= listed_on or self.lower <= 0 or self.every < 1:
            return self.ask
        steps = (day - listed_on).days // self.every
        return max(min(self.floor, self.ask), math.floor(100 * self.ask * (1 - self.lower) ** steps + 1e-9) / 100)


def floor_for(net_wanted: float, fee: float, each: float) -> float:
    """Return the least price that leaves a net: (net + what a sale costs whatever the price) ÷ (1 − fee), rounded up.

    Parameters
    ----------
    fee : float
        Share of the price that the channel takes.
    each : float
        Fixed fee, materials, postage and time of a sale (major units).
    """
    return math.ceil(100 * (net_wanted + each) / (1 - fee) - 1e-9) / 100


@dataclass(frozen=True, slots=True)
class Waiting:
    """What waiting with a sale costs or brings: its net now, after some weeks, and how much a week moves."""

    now: float
    later: float
    weeks: float

    @property
    def gain(self) -> float:
        """More after waiting; below nothing, what waiting costs."""
        return self.later - self.now
