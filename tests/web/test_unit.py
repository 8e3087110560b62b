"""One transaction a request: all that was done is committed before the answer, or none of it is."""

from __future__ import annotations

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from botin.desk.workbench import Workbench
from botin.store.models_books import TransactionRecord
from botin.store.unit import afterwards, commit_what_is_done, finish, set_edge
from tests.web.test_fees import token

NOTE = {
    "client_key": "u1",
    "currency": "EUR",
    "what": "materials",
    "amount": "3",
    "words": "tape",
    "day": "2026-11-20",
}


def notes(session: Session) -> int:
    session.expire_all()
    return session.scalar(select(func.count()).where(TransactionRecord.client_key.like("u%"))) or 0


def test_a_request_that_breaks_after_its_use_case_stores_nothing_of_it(
    client: FlaskClient, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    csrf = {"csrf_token": token(client)}

    def broken(*_args: object, **_more: object) -> None:
        raise RuntimeError

    monkeypatch.setattr("botin.web.books.routes.redirect", broken)
    assert client.post("/books/note", data={**NOTE, **csrf}).status_code == 500
    assert notes(session) == 0
    monkeypatch.undo()
    assert client.post("/books/note", data={**NOTE, **csrf}).status_code == 303
    assert notes(session) == 1


def test_a_commit_that_fails_is_answered_in_words_and_says_nowhere_that_it_was_stored(
    client: FlaskClient, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    csrf = {"csrf_token": token(client)}

    def full(_session: Session) -> None:
        raise OperationalError("COMMIT", {}, Exception("database or disk is full"))

    monkeypatch.setattr("botin.web.requests.commit_what_is_done", full)
    answer = client.post("/books/note", data={**NOTE, **csrf})
    assert answer.status_code == 507
    assert "The disk is full" in answer.text
    monkeypatch.undo()
    assert "Written into the books" not in client.get("/books/").text
    assert notes(session) == 0


def test_what_waits_for_the_commit_is_done_after_it_and_not_after_a_rollback(bench: Workbench) -> None:
    told: list[int] = []
    with bench.sessions() as edge, bench.sessions() as other:
        set_edge(edge)
        edge.add(TransactionRecord(client_key="u7", day=bench.today(), kind="expense", words="", made_at=bench.now()))
        finish(edge)
        afterwards(edge, lambda: told.append(notes(other)))
        assert told == []
        assert notes(other) == 0
        edge.rollback()
        commit_what_is_done(edge)
        assert told == [], "nothing was done"
        edge.add(TransactionRecord(client_key="u8", day=bench.today(), kind="expense", words="", made_at=bench.now()))
        finish(edge)
        afterwards(edge, lambda: told.append(notes(other)))
        commit_what_is_done(edge)
        assert told == [1]
        afterwards(edge, lambda: told.append(0))
        assert told == [1, 0], "where all is committed it is done at once"
