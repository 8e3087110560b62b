"""Lines of a log as the core reads them."""

from __future__ import annotations

from collections.abc import Sequence

from botin.core.catalog.product import Product
from botin.core.insight.recap import Pulled
from botin.store.opening.boxes import PullRow


def pulled_copies(product: Product, rows: Sequence[PullRow]) -> list[Pulled]:
    """Logged rows as the core reads them; a run that the card in hand shows wins over the checklist.

    What is not on this product's checklist (unlisted, or of another product in a mixed box) is left out.
    """
    copies = []
    for row in rows:
        card = product.card_by_number.get((row.section, row.number))
        if card is None or row.unlisted or card.name != row.name:
            continue
        stated = product.parallel_of(card, row.parallel)
        run = row.run or (product.run_of(stated) if stated else None)
        kind = product.section_by_key[row.section].kind
        copies.append(
            Pulled(id=row.id, card=card, kind=kind, parallel=row.parallel, run=run, pack=row.pack, mine=row.mine)
        )
    return copies
