"""Fill a store with very many boxes, opened: the sizes Botin plans for. Seeded, so that each run is the same."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import numpy as np
from sqlalchemy import func, insert, select, text
from sqlalchemy.orm import Session

from botin.core.odds.lines import box_model
from botin.demo.packing import pack_box
from botin.store.books.postings import add_up_anew
from botin.store.catalog.products import load_product
from botin.store.models import BoxRecord, FormatRecord, ProductRecord, PullRecord
from botin.store.opening.boxes import card_ids

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
    for statement in BOOKS:
        session.execute(text(statement))
    add_up_anew(session)
    session.execute(text("ANALYZE"))
    session.commit()
    return have


BOOKS = (
    """INSERT INTO copy (pull_id, box_id, card_id, parallel, serial, run, made_at)
    SELECT id, box_id, card_id, parallel, serial, run, logged_at FROM pull WHERE client_key LIKE 'c%'
    AND id NOT IN (SELECT pull_id FROM copy WHERE pull_id IS NOT NULL)""",
    """INSERT INTO "transaction" (client_key, day, kind, made_at) SELECT 'buy-box-' || id, bought_on, 'purchase', opened_at
    FROM box WHERE client_key LIKE 'crowd-%' AND 'buy-box-' || id NOT IN (SELECT client_key FROM "transaction")""",
    """INSERT INTO "transaction" (client_key, day, kind, made_at) SELECT 'close-' || id, bought_on, 'opening', closed_at
    FROM box WHERE client_key LIKE 'crowd-%' AND 'close-' || id NOT IN (SELECT client_key FROM "transaction")""",
    *(
        f"""INSERT INTO posting (transaction_id, account, minor, currency, box_id, product_id)
        SELECT t.id, '{account}', {minor}, b.currency, b.id, f.product_id FROM box b JOIN format f ON f.id = b.format_id
        JOIN "transaction" t ON t.client_key = '{key}' || b.id WHERE b.client_key LIKE 'crowd-%'
        AND t.id NOT IN (SELECT transaction_id FROM posting WHERE account = '{account}')"""
        for key, account, minor in (
            ("buy-box-", "boxes", 9_900), ("buy-box-", "cash", -9_900), ("close-", "boxes", -9_900)
        )
    ),
    """INSERT INTO posting (transaction_id, account, minor, currency, box_id, copy_id, product_id)
    SELECT t.id, 'cards', 9900 / n + (place <= 9900 % n), 'EUR', box_id, copy_id, product_id FROM (
      SELECT c.id AS copy_id, c.box_id, f.product_id, count(*) OVER (PARTITION BY c.box_id) AS n,
      row_number() OVER (PARTITION BY c.box_id ORDER BY c.id) AS place
      FROM copy c JOIN box b ON b.id = c.box_id JOIN format f ON f.id = b.format_id WHERE b.client_key LIKE 'crowd-%'
    ) JOIN "transaction" t ON t.client_key = 'close-' || box_id
    WHERE t.id NOT IN (SELECT transaction_id FROM posting WHERE account = 'cards')""",
)  # fmt: skip
"""Copies and books of the crowd, as opening its boxes would have written them, each cost shared equally."""


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
