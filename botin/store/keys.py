"""What is stored under a key that a form, an import or the browser made: twice sent is once stored."""

from __future__ import annotations

from functools import cache
from typing import TypeVar

from sqlalchemy import Select, bindparam, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from botin.store.models import Base

T = TypeVar("T", bound=Base)

TakenError = IntegrityError
"""What a store says when a key that may be there once is there already: another request was quicker."""


def stored_under(session: Session, model: type[T], client_key: str) -> T | None:
    """Return the row of a table that was stored under a key."""
    found: T | None = session.scalar(_under(model), {"key": client_key})
    return found


# Built once a table: at the speed of logging, making a statement costs as much as running it.
@cache
def _under(model: type[T]) -> Select[T]:
    return select(model).where(model.__table__.c.client_key == bindparam("key"))


@cache
def _together(model: type[T]) -> Select[T]:
    table = model.__table__
    wanted = select(model).where(table.c.client_key.between(bindparam("first"), bindparam("last")))
    return wanted.order_by(table.c.id).execution_options(populate_existing=True)


def stored_together(session: Session, model: type[T], client_key: str) -> list[T]:
    """Return the rows that were stored by one form, as they stand now: each has the form's key and its own place."""
    return list(session.scalars(_together(model), {"first": f"{client_key}:", "last": f"{client_key}:~"}))


def stored_meanwhile(session: Session, model: type[T], client_key: str) -> T:
    """Return the row that another request stored under the same key, or this one just now."""
    found: T = session.scalars(_under(model), {"key": client_key}).one()
    return found


def keys_beginning(session: Session, model: type[T], stamp: str) -> set[str]:
    """Return the keys of a table that begin with a stamp and a dash."""
    column = model.__table__.c.client_key
    return set(session.scalars(select(column).where(column.like(f"{stamp}-%"))))
