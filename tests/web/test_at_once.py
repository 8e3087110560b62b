"""Two windows at the same moment: what one checked still holds when it writes."""

from __future__ import annotations

import re
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from botin.core.flags.ways import Go
from botin.desk.flags.everything import judge_all
from botin.desk.opening.rip import open_box
from botin.desk.workbench import Workbench
from botin.store.models import BoxRecord, StepRecord
from botin.store.models_copies import FlagRecord
from botin.store.opening.packs import count_logged
from tests.web.test_fees import token

ROUNDS = 12


def together(*calls: Callable[[], object]) -> None:
    """Begin all calls at the same moment."""
    gate = threading.Barrier(len(calls))

    def run(call: Callable[[], object]) -> None:
        gate.wait(10)
        call()

    threads = [threading.Thread(target=run, args=(call,)) for call in calls]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)


@pytest.fixture
def windows(app: Flask, session: Session, bench: Workbench, home: Path) -> tuple[FlaskClient, FlaskClient, str, str]:
    """Two browsers with box 4 open; each has its own cookie."""
    bench.home = None
    open_box(session, bench, 4)
    session.commit()
    one, other = app.test_client(), app.test_client()
    assert home
    return one, other, token(one), token(other)


def log(client: FlaskClient, csrf: str, key: str) -> int:
    fields = {"csrf_token": csrf, "entry": "12", "pack": "1", "client_key": key}
    return client.post("/rip/4/log", data=fields, headers={"HX-Request": "true"}).status_code


def test_a_box_is_never_closed_over_a_card_that_came_at_the_same_moment(
    windows: tuple[FlaskClient, FlaskClient, str, str], session: Session
) -> None:
    """Either the card was logged first and the form to close is stale, or the box was closed and the card refused."""
    one, other, first, second = windows
    for turn in range(ROUNDS):
        seen = count_logged(session, 4)
        answers: dict[str, int] = {}

        def close(seen: int = seen, answers: dict[str, int] = answers) -> None:
            fields = {"csrf_token": second, "seen": str(seen)}
            answers["closed"] = other.post("/rip/4/close", data=fields).status_code

        def type_it(turn: int = turn, answers: dict[str, int] = answers) -> None:
            answers["logged"] = log(one, first, f"t{turn}")

        together(close, type_it)
        session.expire_all()
        box = session.get_one(BoxRecord, 4)
        closed, logged = box.state == "closed", count_logged(session, 4) - seen
        assert (closed, logged) in {(True, 0), (False, 1)}, answers
        if closed:
            other.post("/rip/4/reopen", data={"csrf_token": second})
            session.expire_all()


def test_two_undos_at_the_same_moment_take_back_two_steps(
    windows: tuple[FlaskClient, FlaskClient, str, str], session: Session
) -> None:
    one, other, first, second = windows
    for turn in range(2 * ROUNDS):
        log(one, first, f"u{turn}")

    def undone() -> int:
        return session.scalar(select(func.count(StepRecord.id)).where(StepRecord.state == "undone")) or 0

    for turn in range(ROUNDS):
        before = undone()
        together(
            lambda turn=turn: one.post("/rip/4/undo", data={"csrf_token": first, "turn_key": f"a{turn}"}),  # type: ignore[misc]
            lambda turn=turn: other.post("/rip/4/undo", data={"csrf_token": second, "turn_key": f"b{turn}"}),  # type: ignore[misc]
        )
        session.expire_all()
        assert undone() == before + 2


def test_one_line_sent_by_two_windows_is_stored_once(
    windows: tuple[FlaskClient, FlaskClient, str, str], session: Session
) -> None:
    one, other, first, second = windows
    for turn in range(ROUNDS):
        before = count_logged(session, 4)
        together(
            lambda turn=turn: log(one, first, f"same{turn}"),  # type: ignore[misc]
            lambda turn=turn: log(other, second, f"same{turn}"),  # type: ignore[misc]
        )
        session.expire_all()
        assert count_logged(session, 4) == before + 1


def test_cards_are_logged_while_all_routes_are_worked_out(
    windows: tuple[FlaskClient, FlaskClient, str, str], bench: Workbench, session: Session
) -> None:
    """Working out takes seconds; nobody waits for it with the right to write."""
    one, _, first, _ = windows
    judging = threading.Event()
    slowest = 0.0

    def judge() -> None:
        try:
            with bench.sessions() as own:
                judge_all(own, bench, lambda _done, _total: judging.set())
        finally:
            judging.clear()  # what fails must not keep the loop below for ever; pytest tells of the failure

    thread = threading.Thread(target=judge)
    thread.start()
    assert judging.wait(30)
    logged = 0
    while judging.is_set():
        start = time.perf_counter()
        assert log(one, first, f"busy{logged}") == 200
        slowest, logged = max(slowest, time.perf_counter() - start), logged + 1
    thread.join(60)
    assert logged >= 5
    assert slowest < 1.5, "a line waited for the right to write"
    session.expire_all()
    assert count_logged(session, 4) == logged


def test_what_is_chosen_while_routes_are_worked_out_is_kept(bench: Workbench, session: Session) -> None:
    judge_all(session, bench)
    row = session.scalars(select(FlagRecord)).first()
    assert row is not None
    card, parallel, word = row.card_id, row.parallel, Go.KEEP.value

    def choose(done: int, _total: int) -> None:
        if not done:
            with bench.sessions() as own:
                own.execute(
                    update(FlagRecord)
                    .where(FlagRecord.card_id == card, FlagRecord.parallel == parallel)
                    .values(chosen=word)
                )
                own.commit()

    judge_all(session, bench, choose)
    session.expire_all()
    found = select(FlagRecord.chosen).where(FlagRecord.card_id == card, FlagRecord.parallel == parallel)
    assert session.scalars(found).one() == word


def test_what_a_window_did_not_see_is_not_taken_back(client: FlaskClient, session: Session) -> None:
    """Window A logs after window B was drawn; B's undo would take A's card away instead of what B shows."""
    key = token(client)

    def seen() -> str:
        found = re.search(r'name="seen" value="(\d+\.\d+)"', client.get("/rip/4").text)
        assert found
        return found[1]

    client.post("/boxes/4/open", data={"csrf_token": key})
    client.post("/rip/4/log", data={"csrf_token": key, "entry": "12", "pack": "1", "client_key": "b1"})
    drawn = seen()
    client.post("/rip/4/log", data={"csrf_token": key, "entry": "45", "pack": "1", "client_key": "a1"})
    fields = {"csrf_token": key, "turn_key": "t1", "seen": drawn}
    refused = client.post("/rip/4/undo", data=fields, headers={"HX-Request": "true"})
    assert refused.status_code == 409
    assert "another window went on meanwhile" in refused.text
    assert session.scalar(select(func.count(StepRecord.id)).where(StepRecord.state == "undone")) == 0
    again = client.post("/rip/4/undo", data={**fields, "seen": seen()}, headers={"HX-Request": "true"})
    assert "Taken back: 45" in again.text
    repeated = client.post("/rip/4/undo", data={**fields, "seen": drawn}, headers={"HX-Request": "true"})
    assert repeated.status_code == 200, "the same turn again is no second one"
