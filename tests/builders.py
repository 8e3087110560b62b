"""Makers of test data: a small product, boxes, logged cards, in a home of their own; nothing leans on the demo."""

from __future__ import annotations

import atexit
import shutil
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta
from functools import cache
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from botin.core.books.posting import Account
from botin.core.catalog.product import Format, OddsRow, Product
from botin.core.money import Money
from botin.desk.catalog.library import import_files
from botin.desk.opening.rip import close_box, log_entry, open_box, read_entry
from botin.desk.opening.shelf import Purchase, buy_box
from botin.desk.workbench import Workbench
from botin.exchange.catalog.package import write_folder
from botin.home import DATABASE
from botin.store.books.postings import totals
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from botin.store.models import BoxRecord, ProductRecord
from botin.store.models_copies import CopyRecord
from botin.store.opening.boxes import get_box
from botin.store.opening.packs import count_logged
from tests.core.small import product

EUR = "EUR"
START = datetime(2026, 11, 1, 9, 0, tzinfo=UTC)
DAY = START.date()


def eur(minor: int) -> Money:
    """Return an amount of euros (cents)."""
    return Money(minor, EUR)


def small_product(packs: int = 4, cards: int = 3) -> Product:
    """A base set of ten, four signed and two worn cards, in boxes of a few packs."""
    return product(
        OddsRow("hobby", "signed", packs_per_hit="1:8"),
        OddsRow("hobby", "base", "copper", packs_per_hit="1:4"),
        fmt=Format("hobby", "Hobby", packs, cards, 12),
    )


@dataclass
class Home:
    """An open home with one small product; each call to the clock is a second later."""

    session: Session
    bench: Workbench
    record: ProductRecord
    keys: int = field(default=0)

    def key(self) -> str:
        """Return a client key of its own."""
        self.keys += 1
        return f"built-{self.keys}"

    def box(
        self, price: int = 4_000, *, shipping: int = 0, tax: int = 0, bought_on: date = DAY, label: str = ""
    ) -> BoxRecord:
        """Buy a box (minor units)."""
        fmt = self.record.formats[0]
        paid = (Money(minor, EUR) for minor in (price, shipping, tax))
        return buy_box(self.session, self.bench, self.key(), Purchase(fmt.id, bought_on, *paid, label))

    def log(self, box: BoxRecord, *lines: str) -> list[CopyRecord]:
        """Open a box and log a line into each of its packs; return all its copies."""
        open_box(self.session, self.bench, box.id)
        for pack, line in enumerate(lines, 1):
            key = self.key()
            read = read_entry(self.session, self.bench, box, line, pack, key)
            assert not read.problems, read.problems
            log_entry(self.session, self.bench, box, items=read.items, pack=pack, client_key=key)
        return self.copies(box)

    def close(self, box: BoxRecord, rest: str = "") -> BoxRecord:
        """Close a box with what is logged."""
        close_box(self.session, self.bench, box, count_logged(self.session, box.id), rest)
        return get_box(self.session, box.id)

    def opened(self, *lines: str, price: int = 4_000) -> BoxRecord:
        """Buy, open and close a box with these cards."""
        box = self.box(price)
        self.log(box, *lines)
        return self.close(box)

    def copies(self, box: BoxRecord) -> list[CopyRecord]:
        """Return the copies of a box."""
        c = CopyRecord
        wanted = select(c).where(c.box_id == box.id, c.state != "void").order_by(c.id)
        return list(self.session.scalars(wanted.execution_options(populate_existing=True)))

    def copy(self, copy_id: int) -> CopyRecord:
        """Read a copy as it is now."""
        return self.session.get_one(CopyRecord, copy_id, populate_existing=True)


@cache
def empty_database() -> Path:
    """Return a data file with all tables and nothing in them, made once: every upgrade from the first takes a while."""
    path = Path(tempfile.mkdtemp(prefix="botin-empty-")) / DATABASE
    atexit.register(shutil.rmtree, path.parent, ignore_errors=True)
    engine = open_engine(path)
    migrate(engine, keep=False)
    engine.dispose()
    return path


def make_home(folder: Path, made: Product | None = None) -> Home:
    """Make a home with a small product in an empty folder."""
    shutil.copy(empty_database(), folder / DATABASE)
    engine = open_engine(folder / DATABASE)
    clock = [START]

    def now() -> datetime:
        clock[0] += timedelta(seconds=1)
        return clock[0]

    bench = Workbench(sessions(engine), now)
    write_folder(made or small_product(), folder / "small")
    session = bench.sessions()
    record = import_files(session, bench, [folder / "small"]).record
    return Home(session, bench, record)


def names(copies: Sequence[CopyRecord]) -> list[int | None]:
    """Return the cards of copies by their ids."""
    return [copy.card_id for copy in copies]


def sums(home: Home, currency: str = EUR) -> dict[Account, int]:
    """Return what each account of the books holds in a currency (cents); those that hold nothing are left out."""
    found = [one.by_account for one in totals(home.session) if one.currency == currency]
    return {account: minor for account, minor in found[0].items() if minor} if found else {}
