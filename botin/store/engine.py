"""Open the SQLite file the safe way: WAL, synchronous=FULL, foreign keys, a busy timeout."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

BUSY_MS = 5_000
MIGRATIONS = Path(__file__).with_name("migrations")


def open_engine(path: Path) -> Engine:
    """Open (or make) the database file; each connection gets the pragmas before it is used.

    A commit has reached the operating system's disk call before it returns (synchronous=FULL); what the disk
    itself does with it is beyond a program.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _pragmas)
    return engine


def _pragmas(connection: sqlite3.Connection, _record: Any) -> None:
    cursor = connection.cursor()
    cursor.execute(f"PRAGMA busy_timeout={BUSY_MS}")
    for pragma in (
        "journal_mode=WAL",
        "synchronous=FULL",
        "foreign_keys=ON",
        "temp_store=MEMORY",
        "cache_size=-32000",
    ):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def migrate(engine: Engine) -> None:
    """Bring the tables up to date; each migration is named and runs once."""
    if _is_current(engine):
        return
    from alembic import command  # noqa: PLC0415  (slow to import, and needed only at start)
    from alembic.config import Config  # noqa: PLC0415

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.connect() as connection:
        # A table that is rebuilt is dropped and renamed: rows that point to it must not be taken for orphans.
        connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
        connection.commit()
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()
        connection.exec_driver_sql("PRAGMA foreign_keys=ON")
        lost = connection.exec_driver_sql("PRAGMA foreign_key_check").first()
        connection.commit()
    if lost is not None:
        message = f"The data file has rows that point nowhere ({lost[0]}). Restore a backup with: botin restore FILE"
        raise RuntimeError(message)


def _is_current(engine: Engine) -> bool:
    """Whether the newest migration has run; asking is much faster than loading Alembic."""
    newest = max(path.name.partition("_")[0] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))
    with engine.connect() as connection:
        if not connection.exec_driver_sql("SELECT 1 FROM sqlite_master WHERE name = 'alembic_version'").first():
            return False
        return connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() == newest


def sessions(engine: Engine) -> sessionmaker[Session]:
    """Return the maker of sessions; loaded records stay readable after a commit."""
    return sessionmaker(engine, expire_on_commit=False)
