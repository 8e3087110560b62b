"""Products, price models and readers of the demo as it was built: the same in every test until a test changes them.

Fitting them anew for each of two thousand tests would take minutes. A test that changes a product, a price or a
correction gives it a new revision, and what rests on that is worked out for it alone.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from botin.desk.workbench import Workbench
from botin.store.models import ProductRecord

SHARED = frozenset(("product", "reader", "prices", "price model", "rows", "model"))
"""Kinds of what is kept that rest on a product and its prices alone, and on nothing else of a home."""


class FreshDemo:
    """The demo as it was built, open for reading."""

    def __init__(self, bench: Workbench, session: Session) -> None:
        self.bench, self.session = bench, session
        self.revisions = {record.id: record.revision for record in session.scalars(select(ProductRecord))}

    def has(self, key: Any) -> bool:
        """Whether a key of what is kept is of the demo as it was built, on the day of the tests."""
        kind, product, revision, *rest = key
        days = [one for one in rest if not isinstance(one, str)]
        return kind in SHARED and self.revisions.get(product) == revision and days in ([], [self.bench.today()])

    def made(self, key: Any) -> Any:
        """Work it out, once."""
        kind, product, _revision, *rest = key
        record = self.session.get_one(ProductRecord, product)
        if kind == "model":
            return self.bench.model(self.session, record, rest[0])
        named = {"rows": "price_rows", "price model": "price_model"}
        return getattr(self.bench, named.get(kind, kind))(self.session, record)


class TestBench(Workbench):
    """A workbench that takes what nothing has changed from the demo as it was built."""

    __test__ = False

    def __init__(self, sessions: sessionmaker[Session], now: Callable[[], datetime], fresh: FreshDemo) -> None:
        super().__init__(sessions, now)
        self.fresh = fresh

    def keep(self, key: Hashable, make: Callable[[], Any]) -> Any:
        """Return what is kept for a key; of the demo as it was built when it is that."""
        if isinstance(key, tuple) and len(key) > 2 and key[0] in SHARED and self.fresh.has(key):
            return super().keep(key, lambda: self.fresh.made(key))
        return super().keep(key, make)
