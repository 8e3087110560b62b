"""Open the SQLite file the safe way: WAL, synchronous=FULL, foreign keys, a busy timeout."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

BUSY_MS = 5_000
PATIENT_MS = 60_000


def open_engine(path: Path) -> Engine:
    """Open (or make) the database file; each connection gets the pragmas before it is used.

    A commit has reached the operating system's disk call before it returns (synchronous=FULL); what the disk
    itself does with it is beyond a program.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    own_alone(path)
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _pragmas)
    return engine


def own_alone(path: Path) -> None:
    """Let nobody else on this machine read the data; what SQLite lays beside the file has the same rights."""
    if str(path) == ":memory:":
        return
    with suppress(OSError):  # a folder that cannot be written is answered where the file is opened
        if path.exists():
            path.chmod(0o600)
        else:
            os.close(os.open(path, os.O_RDWR | os.O_CREAT, 0o600))


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


@contextmanager
def patiently(session: Session, milliseconds: int = PATIENT_MS) -> Iterator[None]:
    """Wait longer than usual for the right to write: what was worked out for seconds is not lost to a busy moment.

    Somebody who logs card after card takes that right again and again; whoever waits for it only asks now and then.
    """
    connection = session.connection()
    usual = connection.exec_driver_sql("PRAGMA busy_timeout").scalar_one()
    connection.exec_driver_sql(f"PRAGMA busy_timeout={milliseconds}")
    try:
        yield
    finally:
        session.connection().exec_driver_sql(f"PRAGMA busy_timeout={usual}")


def sessions(engine: Engine) -> sessionmaker[Session]:
    """Return the maker of sessions; loaded records stay readable after a commit."""
    return sessionmaker(engine, expire_on_commit=False)
