"""The checklist as the browser searches it while one types."""

from __future__ import annotations

from typing import Any

from botin.core.catalog.product import Product


def card_index(product: Product) -> dict[str, Any]:
    """Return cards, sections and finishes, as short as they go."""
    places = {section.key: place for place, section in enumerate(product.sections)}
    finishes: dict[int, dict[str, str]] = {place: {} for place in places.values()}
    for row in product.parallels:
        if row.key and row.section in places:
            text = f"{row.label} /{row.run_text}" if row.run_text else row.label
            finishes[places[row.section]][row.key] = text
    return {
        "sections": [[section.label, section.kind.value, section.cue] for section in product.sections],
        "finishes": [list(finishes[place].items()) for place in places.values()],
        "cards": [
            [card.number, card.name, card.team, places[card.section]]
            for card in product.cards
            if card.section in places
        ],
    }
