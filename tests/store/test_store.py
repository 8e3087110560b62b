"""The file: pragmas, migrations, constraints, and products that keep their identity."""

from __future__ import annotations

import shutil
import sqlite3
import stat
import threading
from contextlib import closing, nullcontext
from dataclasses import replace
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import delete, select, text
from sqlalchemy.exc import IntegrityError, OperationalError
from sqlalchemy.orm import Session

from botin.home import DATABASE, home_folder, secret_key
from botin.store.catalog.products import load_product, save_product
from botin.store.engine import open_engine, patiently, sessions
from botin.store.models import Base, BoxRecord, CardRecord, ProductRecord, PullRecord
from botin.store.models_copies import FlagRecord
from tests.builders import empty_database
from tests.core.small import product


def test_every_connection_is_opened_the_safe_way(session: Session) -> None:
    found = {name: session.scalar(text(f"PRAGMA {name}")) for name in ("journal_mode", "synchronous", "foreign_keys")}
    assert found == {"journal_mode": "wal", "synchronous": 2, "foreign_keys": 1}
    assert session.scalar(text("PRAGMA busy_timeout")) >= 1000


def test_migrations_and_models_agree(session: Session) -> None:
    with session.get_bind().connect() as connection:  # type: ignore[union-attr]
        mine = {"include_name": lambda name, _type, _parents: not (name or "").startswith("card_search")}
        assert compare_metadata(MigrationContext.configure(connection, opts=mine), Base.metadata) == []


def test_secret_key_is_made_once_and_private(tmp_path: Path) -> None:
    folder = home_folder(tmp_path / "new")
    key = secret_key(folder)
    assert len(key) == 64
    assert secret_key(folder) == key
    assert stat.S_IMODE((folder / "secret-key").stat().st_mode) == 0o600


def test_a_product_comes_back_as_it_was_stored(session: Session) -> None:
    made = product(promises=())
    record = save_product(session, made)
    assert load_product(session, record) == made


def test_a_second_import_keeps_cards_that_copies_hang_on(session: Session) -> None:
    record = session.scalars(select(ProductRecord).where(ProductRecord.key == "banked-2026")).one()
    before = load_product(session, record)
    pulled = set(session.scalars(select(PullRecord.card_id)))
    ids = dict(session.execute(select(CardRecord.id, CardRecord.number)).all())
    revision = record.revision
    save_product(session, replace(before, cards=tuple(replace(c, name=f"{c.name} II") for c in before.cards[:10])))
    session.commit()
    after = dict(session.execute(select(CardRecord.id, CardRecord.number)).all())
    assert pulled <= set(after)
    assert {card: ids[card] for card in after} == after
    assert record.revision == revision + 1
    renamed = load_product(session, record).card_by_number[("base", "1")]
    assert renamed.name.endswith(" II")


@pytest.mark.parametrize(
    "values",
    [{"serial": 26, "run": 25}, {"serial": 0, "run": 25}, {"pack": -1}, {"card_id": 10**9}, {"box_id": 10**9}],
)
def test_the_store_itself_refuses_nonsense(session: Session, values: dict[str, int]) -> None:
    good = session.scalars(select(PullRecord).order_by(PullRecord.id).limit(1)).one()
    cells = {
        "box_id": good.box_id,
        "card_id": good.card_id,
        "client_key": "x:0",
        "pack": 1,
        "logged_at": good.logged_at,
    }
    session.add(PullRecord(**{**cells, **values}))
    with pytest.raises(IntegrityError):
        session.commit()


def test_a_negative_price_is_refused_by_the_store(session: Session) -> None:
    session.scalars(select(BoxRecord).limit(1)).one().price_minor = -1
    with pytest.raises(IntegrityError):
        session.commit()


@pytest.mark.parametrize("patient", [True, False])
def test_what_was_worked_out_waits_longer_for_the_right_to_write(tmp_path: Path, patient: bool) -> None:
    """Another holds it for half a second, the usual patience is a tenth."""
    shutil.copy(empty_database(), tmp_path / DATABASE)
    engine = open_engine(tmp_path / DATABASE)
    holds, done = threading.Event(), threading.Event()

    def hold() -> None:
        with closing(sqlite3.connect(tmp_path / DATABASE, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            holds.set()
            done.wait(0.5)
            other.execute("COMMIT")

    thread = threading.Thread(target=hold)
    thread.start()
    assert holds.wait(10)
    with sessions(engine)() as session:
        session.connection().exec_driver_sql("PRAGMA busy_timeout=100")
        waits = patiently(session) if patient else nullcontext()
        fails = nullcontext() if patient else pytest.raises(OperationalError, match="locked")
        with fails, waits:
            session.execute(delete(FlagRecord).where(FlagRecord.id < 0))
        assert session.connection().exec_driver_sql("PRAGMA busy_timeout").scalar_one() == 100
        session.rollback()
    done.set()
    thread.join()
    engine.dispose()
