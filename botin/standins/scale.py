"""A scale, simulated: a protocol a real one could stand behind, and a stand-in that adds up what is in a parcel.

Weights are round figures from memory, of no measured parcel.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Protocol

NAME = "simulated scale"
CARD, HELD, SLAB = 2.0, 8.0, 48.0
"""Grams: a raw card; its sleeve, tab and semi-rigid holder; a slab with its card."""
PACKED = 1.3
"""A card in a sealed box weighs so much more, with its part of wrapper and box."""
BOARDS, BANDS, WRAP, SMALL_BOX, FILLER, FORMS = 24.0, 2.0, 14.0, 112.0, 20.0, 10.0
"""Grams of what goes around the stack."""


@dataclass(frozen=True, slots=True)
class Contents:
    """What is in a parcel: raw cards in their holders, slabs, cards inside sealed boxes, and what is around them."""

    cards: int = 0
    slabs: int = 0
    boxed: bool = True
    sealed: int = 0


class Scale(Protocol):
    """What a scale must offer."""

    name: str

    def weigh(self, contents: Contents, stamp: str = "") -> int:
        """Return grams."""
        ...


class SimulatedScale:
    """The stand-in: the sum of the parts, off by up to two grams as kitchen scales are."""

    name = NAME

    def weigh(self, contents: Contents, stamp: str = "") -> int:
        """Return grams; the same parcel weighs the same again."""
        inside = contents.cards * (CARD + HELD) + contents.slabs * SLAB + contents.sealed * CARD * PACKED
        around = BOARDS + BANDS + WRAP + SMALL_BOX + FILLER + FORMS if contents.boxed else 0.0
        off = hashlib.sha256(f"{contents}{stamp}".encode()).digest()[0] % 5 - 2
        return max(1, round(inside + around) + off)
