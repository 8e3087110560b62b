"""All rows of a data file, out as they lie there and into a new one."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from contextlib import closing, contextmanager
from itertools import islice
from pathlib import Path

from sqlalchemy import Boolean, Date, DateTime, Integer, Table
from sqlalchemy.orm import Session

from botin.core.errors import ImportRefusedError, UnreadableFileError
from botin.core.records import Cell, Field, Link, RecordTable
from botin.store.catalog.index import index_cards
from botin.store.engine import open_engine
from botin.store.keeping.revisions import REVISIONS
from botin.store.keeping.upgrade import migrate
from botin.store.models import Base

_KINDS = ((Boolean, "boolean"), (DateTime, "datetime"), (Date, "date"), (Integer, "integer"))
_FORMS = {
    "DATE": re.compile(r"\d{4}-\d\d-\d\d"),
    "DATETIME": re.compile(r"\d{4}-\d\d-\d\d \d\d:\d\d:\d\d\.\d{6}"),
}
_FILLED = ("product", "box", "copy", "draft", "terms", "exchange_rate", "grading_order")
"""Tables that hold what somebody put there; settings alone do not fill a home."""
_AT_ONCE = 2_000
_LARGEST = 2**63


def shapes() -> list[RecordTable]:
    """Return the tables of a home, those first that others point to."""
    import botin.store.keeping.everytable  # noqa: F401, PLC0415  (adds all tables)

    about = {mapper.local_table.name: mapper.class_.__doc__ or "" for mapper in Base.registry.mappers}  # type: ignore[attr-defined]
    return [_shape(table, about[table.name]) for table in Base.metadata.sorted_tables]


def _shape(table: Table, about: str) -> RecordTable:
    fields = tuple(
        Field(
            column.name,
            next((kind for type_, kind in _KINDS if isinstance(column.type, type_)), "string"),
            not column.nullable,
        )
        for column in table.columns
    )
    links = tuple(
        Link(key.parent.name, key.column.table.name, key.column.name)
        for key in sorted(table.foreign_keys, key=lambda key: key.parent.name)
    )
    return RecordTable(table.name, about, fields, tuple(column.name for column in table.primary_key), links)


@contextmanager
def snapshot(path: Path) -> Iterator[sqlite3.Connection]:
    """Open a data file to read it as it is at this moment, whatever is written meanwhile."""
    with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, isolation_level=None)) as data:
        data.execute("BEGIN")
        yield data


def revision_of(data: sqlite3.Connection) -> str:
    """Return the revision of the tables."""
    return str(data.execute("SELECT version_num FROM alembic_version").fetchone()[0])


def rows_of(data: sqlite3.Connection, shape: RecordTable) -> Iterator[tuple[Cell, ...]]:
    """Yield the rows of a table in the order of their keys, as they lie there."""
    names, keys = (", ".join(f'"{name}"' for name in some) for some in (shape.names, shape.key))
    yield from data.execute(f'SELECT {names} FROM "{shape.name}" ORDER BY {keys}')  # noqa: S608  (names of the models)


def is_empty(data: sqlite3.Connection) -> bool:
    """Whether nobody put anything into the home yet."""
    return not any(data.execute(f'SELECT 1 FROM "{name}" LIMIT 1').fetchone() for name in _FILLED)  # noqa: S608


Rows = Iterable[tuple[int, Sequence[str]]]
"""Rows of text with the line each stands on."""


def fill(path: Path, revision: str, tables: Iterable[tuple[str, Sequence[str], Rows]]) -> None:
    """Make a new data file of rows written at some revision, and bring it up to date.

    Parameters
    ----------
    path : Path
        Where it is made.
    revision : str
        Revision of the tables that the rows were in.
    tables : iterable
        Name, names of the columns, and rows of text of each table.

    Raises
    ------
    ImportRefusedError
        When a table, a column or a value does not fit; what was made is of no use then.
    """
    if revision not in REVISIONS:
        message = "It was written by a newer Botin. Install that one first; nothing was taken in."
        raise ImportRefusedError(message)
    engine = open_engine(path)
    try:
        migrate(engine, keep=False, to=revision)
        with closing(sqlite3.connect(path, isolation_level=None)) as data:
            data.execute("PRAGMA foreign_keys=OFF")  # rows come table by table; all links are checked at the end
            data.execute("PRAGMA synchronous=OFF")  # a copy that is cut short is thrown away
            data.execute("BEGIN")
            _insert_all(data, tables)
            data.execute("COMMIT")
        migrate(engine, keep=False)
        with closing(sqlite3.connect(path)) as data:
            _agree(data)
        with Session(engine) as session:
            _index(session)
    finally:
        engine.dispose()


_AGREE = (
    (
        """SELECT transaction_id FROM posting GROUP BY transaction_id, currency HAVING sum(minor) <> 0""",
        "The postings of entry {0} in posting.csv do not add up to nothing.",
    ),
    (
        """SELECT month, account FROM (
             SELECT substr(t.day, 1, 7) AS month, t.kind AS kind, coalesce(p.product_id, 0) AS product,
                    p.account AS account, p.currency AS currency, p.minor AS minor
             FROM posting p JOIN "transaction" t ON t.id = p.transaction_id
             UNION ALL SELECT month, kind, product_id, account, currency, -minor FROM month_sum)
           GROUP BY month, kind, product, account, currency HAVING sum(minor) <> 0""",
        "month_sum.csv says something else for {1} in {0} than the postings do.",
    ),
    (
        """SELECT p.id FROM pull p LEFT JOIN copy c ON c.pull_id = p.id WHERE p.undone_at IS NULL AND c.id IS NULL""",
        "The line {0} of pull.csv has no card in copy.csv.",
    ),
)
"""What rows must agree on beyond their links: a row that is found breaks the rule."""


def _agree(data: sqlite3.Connection) -> None:
    for statement, words in _AGREE:
        broken = data.execute(f"{statement} LIMIT 1").fetchone()
        if broken is not None:
            message = f"{words.format(*broken)} Nothing was taken in."
            raise ImportRefusedError(message)


def _index(session: Session) -> None:
    for (product,) in session.connection().exec_driver_sql("SELECT id FROM product").all():
        index_cards(session, product)
    session.commit()


def _insert_all(data: sqlite3.Connection, tables: Iterable[tuple[str, Sequence[str], Rows]]) -> None:
    known = _tables(data)
    missing = set(known)
    for name, names, rows in tables:
        if name not in known:
            message = f"There is no table {name[:60]} in Botin. Nothing was taken in."
            raise ImportRefusedError(message)
        data.execute(f'DELETE FROM "{name}"')  # noqa: S608  (what a migration put there comes with the rows)
        _insert(data, name, names, rows)
        missing.discard(name)
    if missing:
        message = f"It lacks {', '.join(f'{name}.csv' for name in sorted(missing))}. Nothing was taken in."
        raise ImportRefusedError(message)
    lost = data.execute("PRAGMA foreign_key_check").fetchone()
    if lost is not None:
        message = f"A row of {lost[0]}.csv points to a row of {lost[2]}.csv that is not there. Nothing was taken in."
        raise ImportRefusedError(message)


def _tables(data: sqlite3.Connection) -> frozenset[str]:
    """Tables that hold rows of their own: not the revision, and not the search index, which is made anew."""
    names = (name for (name,) in data.execute("SELECT name FROM sqlite_master WHERE type = 'table'"))
    return frozenset(name for name in names if not name.startswith(("alembic_", "sqlite_", "card_search")))


def _insert(data: sqlite3.Connection, table: str, names: Sequence[str], rows: Rows) -> None:
    columns = {
        name: (kind, bool(needed)) for _, name, kind, needed, *_ in data.execute(f'PRAGMA table_info("{table}")')
    }
    if set(names) != set(columns) or len(names) != len(columns):
        odd = sorted(set(names) ^ set(columns)) or sorted(names)
        message = f"{table}.csv does not have the columns it should ({', '.join(odd)[:200]}). Nothing was taken in."
        raise ImportRefusedError(message)
    kinds = [columns[name] for name in names]
    marks, listed = ", ".join("?" * len(names)), ", ".join(f'"{name}"' for name in names)
    statement = f'INSERT INTO "{table}" ({listed}) VALUES ({marks})'  # noqa: S608  (names of the file's own tables)
    coming = iter(rows)
    while some := list(islice(coming, _AT_ONCE)):
        try:
            data.executemany(statement, [_values(table, line, cells, kinds) for line, cells in some])
        except sqlite3.IntegrityError as exc:
            message = f"{table}.csv, lines {some[0][0]} to {some[-1][0]}: {exc}. Nothing was taken in."
            raise ImportRefusedError(message) from exc


def _values(table: str, line: int, cells: Sequence[str], kinds: Sequence[tuple[str, bool]]) -> list[Cell]:
    if len(cells) != len(kinds):
        message = f"{table}.csv:{line} has {len(cells)} cells instead of {len(kinds)}. Nothing was taken in."
        raise UnreadableFileError(message)
    try:
        return [_value(cell, kind, needed) for cell, (kind, needed) in zip(cells, kinds, strict=True)]
    except ValueError as exc:
        message = f"{table}.csv:{line}: “{str(exc)[:60]}” does not fit its column. Nothing was taken in."
        raise ImportRefusedError(message) from exc


def _value(cell: str, kind: str, needed: bool) -> Cell:
    """Read one cell as its column holds it."""
    if not cell and not needed:
        return None
    if kind in ("INTEGER", "BOOLEAN"):
        digits = cell.removeprefix("-")
        if not (digits.isascii() and digits.isdecimal() and len(digits) < 20 and -_LARGEST <= int(cell) < _LARGEST):
            raise ValueError(cell)
        return int(cell)
    if kind in _FORMS and not _FORMS[kind].fullmatch(cell):
        raise ValueError(cell)
    return cell
