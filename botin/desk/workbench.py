"""What every desk needs at hand: sessions, the clock, and products kept ready until they change."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from datetime import UTC, date, datetime, timedelta, tzinfo
from errno import ENOSPC
from functools import cached_property
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from cachetools import LRUCache
from sqlalchemy.orm import Session, sessionmaker

from botin.core.catalog.product import Product
from botin.core.errors import NotFoundError, TimeZoneError
from botin.core.odds.boxlaw import BoxLaw
from botin.core.odds.lines import BoxModel, box_model
from botin.core.opening.entry import EntryReader
from botin.core.pricing.modelbook import ModelBook
from botin.core.pricing.pricemodel import PriceModel
from botin.core.pricing.prices import PriceBook, PriceRow
from botin.desk.jobs import Job, Jobs
from botin.desk.troubles import Troubles
from botin.home import DATABASE, home_id_of
from botin.store.catalog.products import load_product
from botin.store.keeping.backup import FOLDER, rolling_backup
from botin.store.models import ProductRecord
from botin.store.once import once
from botin.store.pricing.prices import load_prices

Made = TypeVar("Made")
Cache = LRUCache[Hashable, Any]
KEPT, KEPT_SMALL = 256, 8_192
OF_A_REVISION = frozenset(
    ("product", "reader", "prices", "price model", "rows", "model", "judging", "printrun", "prices of")
)
"""Kinds of what is kept whose key goes on with a product and its revision; they are what takes room."""


BACKING_UP = "Backing up the data file"
ADVICE = "The log in the data directory has the rest."


def _plainly(error: BaseException) -> str:
    """Say what a failure of the system means for the user."""
    text = str(error).splitlines()[0] if str(error) else type(error).__name__
    if (isinstance(error, OSError) and error.errno == ENOSPC) or "disk is full" in text:
        return "the disk is full. Make room"
    return text.rstrip(".")


def _back_up(home: Path, now: datetime) -> int:
    rolling_backup(home / DATABASE, home / FOLDER, now)
    return 0


def zone_of(name: str) -> tzinfo | None:
    """Find a time zone by its name; None, the machine's own, when it is empty.

    Raises
    ------
    TimeZoneError
        When there is none of that name.
    """
    if not name.strip():
        return None
    try:
        return ZoneInfo(name.strip())
    except (ValueError, OSError, ZoneInfoNotFoundError) as exc:
        raise TimeZoneError(name) from exc


class Workbench:
    """Shared by all requests.

    Parameters
    ----------
    sessions : sessionmaker
        Opens sessions on the store.
    now : callable
        The clock (UTC, aware); passed in so that tests can set it.
    home : Path, optional
        Data directory, for photos and backups; without it there are none.

    Attributes
    ----------
    apart : bool
        Whether long work is done in a process of its own, as the server does.
    """

    def __init__(
        self, sessions: sessionmaker[Session], now: Callable[[], datetime], home: Path | None = None
    ) -> None:
        self.sessions = sessions
        self._clock = now
        self._ahead = timedelta()
        self.home = home
        self._kept: Cache = LRUCache(KEPT)
        self._small: Cache = LRUCache(KEPT_SMALL)
        self._lock = Lock()
        self.troubles = Troubles(home)
        self.jobs = Jobs(self._job_failed, self._job_went_well)
        self.zone: tzinfo | None = None
        self.apart = False

    def now(self) -> datetime:
        """Return the time (UTC, aware)."""
        return self._clock() + self._ahead

    def let_pass(self, days: int) -> None:
        """Let days pass for everything on this bench: the demo plays months in minutes."""
        self._ahead += timedelta(days=days)

    def _job_failed(self, job: Job, error: BaseException) -> None:
        """Say on every screen what broke beside a request, until it is dealt with or goes well."""
        self.troubles.note(job.words, f"{job.words} failed: {_plainly(error)}. {ADVICE}", self.now())

    def _job_went_well(self, job: Job) -> None:
        self.troubles.settle(job.words)

    @cached_property
    def home_id(self) -> str:
        """Id of the data directory: what a browser keeps for one must never be sent to another."""
        return home_id_of(self.home) if self.home else "none"

    def live_in(self, name: str) -> None:
        """Take the user's own time zone; the machine's when the name is empty.

        Raises
        ------
        TimeZoneError
            When there is no such zone.
        """
        self.zone = zone_of(name)

    def after_closing(self) -> None:
        """Take a backup when an opening is closed, beside the request; the last ten are kept."""
        if self.home is None:
            return
        home, now = self.home, self.now()
        self.jobs.start(f"backup-{now:%Y%m%d%H%M%S%f}", BACKING_UP, lambda _job: _back_up(home, now))

    def today(self) -> date:
        """Return the user's own day: what is east of Greenwich is tomorrow before UTC is."""
        return self.now().astimezone(self.zone).date()

    def day_of(self, moment: datetime) -> date:
        """Return the user's own day of a moment; one stored without a zone is UTC."""
        aware = moment if moment.tzinfo is not None else moment.replace(tzinfo=UTC)
        return aware.astimezone(self.zone).date()

    def product(self, session: Session, record: ProductRecord) -> Product:
        """Return a whole product, read once per revision."""
        return self.keep(("product", record.id, record.revision), lambda: load_product(session, record))

    def record(self, session: Session, product_id: int) -> ProductRecord:
        """Return a product's record.

        Raises
        ------
        NotFoundError
            When there is none.
        """
        found = once(session, ("product", product_id), lambda: session.get(ProductRecord, product_id))
        if found is None:
            message = f"There is no product {product_id}. Go back to the shelf and pick one."
            raise NotFoundError(message)
        return found

    def reader(self, session: Session, record: ProductRecord) -> EntryReader:
        """Return the entry line's reader of a product."""
        make = lambda: EntryReader(self.product(session, record))  # noqa: E731
        return self.keep(("reader", record.id, record.revision), make)

    def prices(self, session: Session, record: ProductRecord) -> PriceBook:
        """Return the price book of a product as of today, by its price model."""
        make = lambda: ModelBook(self.price_model(session, record), self.price_rows(session, record))  # noqa: E731
        return self.keep(("prices", record.id, record.revision, self.today()), make)

    def price_model(self, session: Session, record: ProductRecord) -> PriceModel:
        """Return the price model of a product, fitted once per revision and day."""
        product, today = self.product(session, record), self.today()
        make = lambda: PriceModel(product, self.price_rows(session, record), today)  # noqa: E731
        return self.keep(("price model", record.id, record.revision, today), make)

    def price_rows(self, session: Session, record: ProductRecord) -> list[PriceRow]:
        """Return all prices of a product as they are stored."""
        return self.keep(("rows", record.id, record.revision), lambda: load_prices(session, record.id))

    def box_law(self, session: Session, record: ProductRecord) -> BoxLaw:
        """Return what is known of the boxes of a product, worked out once per revision."""
        make = lambda: BoxLaw(self.product(session, record))  # noqa: E731
        return self.keep(("box law", record.id, record.revision), make)

    def model(self, session: Session, record: ProductRecord, format_key: str) -> BoxModel:
        """Return the lines of a format."""
        product = self.product(session, record)
        law = self.box_law(session, record)
        make = lambda: box_model(product, product.format_by_key[format_key], law=law)  # noqa: E731
        return self.keep(("model", record.id, record.revision, format_key), make)

    def keep(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """Return what was made for this key before, or make it; the least used is dropped."""
        return self._keep(self._kept, key, make)

    def forget(self) -> None:
        """Drop everything that is kept: the data behind it was replaced."""
        with self._lock:
            self._kept.clear()
            self._small.clear()

    def keep_small(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """Do the same for a word or a verdict: thousands of them must not push out what takes long to make."""
        return self._keep(self._small, key, make)

    def _keep(self, kept: Cache, key: Hashable, make: Callable[[], Made]) -> Made:
        with self._lock:
            if key in kept:
                found: Made = kept[key]
                return found
        made = make()
        with self._lock:
            if key not in kept:
                self._drop_older(kept, key)
            kept[key] = made
        return made

    @staticmethod
    def _drop_older(kept: Cache, key: Hashable) -> None:
        """Drop what rests on an earlier revision of the same product: nobody asks for it any more."""
        if isinstance(key, tuple) and key[0] in OF_A_REVISION:
            same = (other for other in kept if isinstance(other, tuple) and other[0] in OF_A_REVISION)
            older = [other for other in same if other[1] == key[1] and other[2] < key[2]]
            for other in older:
                del kept[other]
