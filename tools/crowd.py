"""Fill a store with very many boxes, opened: the sizes Botin plans for. Seeded, so that each run is the same."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np
from sqlalchemy import func, insert, select, text
from sqlalchemy.orm import Session

from botin.core.lines import box_model
from botin.demo.packing import pack_box
from botin.store.boxes import card_ids
from botin.store.catalog import load_product
from botin.store.models import BoxRecord, FormatRecord, ProductRecord, PullRecord

OPENED = datetime(2026, 9, 1, 18, 0, tzinfo=UTC)
PATTERNS = 40
BATCH = 50_000


def patterns(session: Session, fmt: FormatRecord, rng: np.random.Generator) -> list[list[dict[str, object]]]:
    """Contents of some boxes as rows; the crowd repeats them under other keys."""
    product = load_product(session, session.get_one(ProductRecord, fmt.product_id))
    model = box_model(product, product.format_by_key[fmt.key])
    found = []
    for _ in range(PATTERNS):
        packed = pack_box(product, model, rng)
        ids = card_ids(session, fmt.product_id, [(copy.card.section, copy.card.number) for copy in packed])
        found.append(
            [
                {
                    "card_id": ids[(copy.card.section, copy.card.number)],
                    "pack": copy.pack,
                    "parallel": copy.parallel,
                    "serial": copy.serial,
                    "run": copy.run,
                }
                for copy in packed
            ]
        )
    return found


def fill(session: Session, cards: int, start: int = 5) -> int:
    """Add closed boxes until ``cards`` copies are logged; return how many there are."""
    rng = np.random.default_rng(start)
    formats = list(session.scalars(select(FormatRecord)))
    contents = {fmt.id: patterns(session, fmt, rng) for fmt in formats}
    have = session.scalar(select(func.count()).select_from(PullRecord)) or 0
    number = (session.scalar(select(func.max(BoxRecord.id))) or 0) + 1
    boxes: list[dict[str, object]] = []
    pulls: list[dict[str, object]] = []
    while have < cards:
        fmt = formats[number % len(formats)]
        content = contents[fmt.id][int(rng.integers(PATTERNS))]
        boxes.append(_box(number, fmt))
        for place, row in enumerate(content):
            pulls.append({**row, "box_id": number, "client_key": f"c{number}:{place}", "logged_at": OPENED})
        have += len(content)
        number += 1
        if len(pulls) >= BATCH:
            _store(session, boxes, pulls)
            boxes, pulls = [], []
    _store(session, boxes, pulls)
    session.execute(text("ANALYZE"))
    session.commit()
    return have


def _box(number: int, fmt: FormatRecord) -> dict[str, object]:
    bought = OPENED.date() - timedelta(days=number % 900)
    return {
        "id": number, "client_key": f"crowd-{number}", "format_id": fmt.id, "bought_on": bought,
        "price_minor": 9_900, "shipping_minor": 0, "tax_minor": 0, "currency": "EUR", "state": "closed",
        "opened_at": OPENED, "closed_at": OPENED, "pack": fmt.packs_per_box,
    }  # fmt: skip


def _store(session: Session, boxes: list[dict[str, object]], pulls: list[dict[str, object]]) -> None:
    for table, rows in ((BoxRecord, boxes), (PullRecord, pulls)):
        if rows:
            session.execute(insert(table), rows)
    session.commit()
