"""Reads the backs on a scan: each card found, straightened and read, cards side by side."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

from botin.core.catalog.product import Product
from botin.core.looking.backs import Back, Checklist, read_back
from botin.core.looking.measure import find_cards, straight_card
from botin.core.looking.measured import Measured
from botin.exchange.looking.ocr import LineReader
from botin.exchange.looking.pixels import Pixels

MOST_THREADS = 4


@dataclass(frozen=True, slots=True)
class CardBack:
    """A card on a scan of backs, and what its back says."""

    card: Measured
    back: Back

    def document(self) -> dict[str, Any]:
        """Shape it as the contract has it."""
        back = self.back
        return {
            "corners": [[round(x, 2), round(y, 2)] for x, y in self.card.corners],
            "number": back.number, "section": back.section, "parallel": back.parallel, "code": back.code or None,
            "sure": back.sure,
            "candidates": [
                {"section": section, "number": number, "parallel": parallel}
                for section, number, parallel in back.candidates
            ],
        }  # fmt: skip


class BackReader:
    """Reads backs of one product.

    Raises
    ------
    NoReaderError
        When the extra that reads print is not installed.
    """

    def __init__(self, product: Product) -> None:
        self._checklist, self._lines = Checklist.of(product), LineReader()

    def read(self, pixels: Pixels, dpi: float | None = None) -> list[CardBack]:
        """Read every card on a picture, in reading order."""
        cards = find_cards(pixels.rgb, dpi or pixels.dpi)

        def one(card: Measured) -> CardBack:
            straight = straight_card(pixels.rgb, card)
            return CardBack(card, read_back(straight, card.per_mm, self._checklist, self._lines.read))

        with ThreadPoolExecutor(min(MOST_THREADS, os.cpu_count() or 1)) as pool:
            return list(pool.map(one, cards))
