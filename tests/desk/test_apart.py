"""Long work in a process of its own: the same answer, refusals in words, stopped at once, never before a backup."""

from __future__ import annotations

import time
from pathlib import Path
from threading import Event

import pytest
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from botin.core.errors import BotinError
from botin.desk.catalog.drafts import keep_read, view_draft
from botin.desk.flags.everything import judge_all
from botin.desk.jobs import Job
from botin.desk.keeping.apart import StoppedError, WorkDiedError, run
from botin.desk.troubles import Troubles
from botin.desk.workbench import OF_A_REVISION, Workbench
from botin.exchange.catalog.interpret import About
from botin.home import utc_now
from botin.store.models import DraftRecord
from botin.store.models_copies import FlagRecord


@pytest.fixture
def apart(bench: Workbench, home: Path) -> Workbench:
    bench.home, bench.apart, bench.troubles = home, True, Troubles(home)
    return bench


def routes(session: Session) -> list[tuple[int, str, str, int]]:
    v = FlagRecord
    rows = session.execute(select(v.card_id, v.parallel, v.go, v.net).order_by(v.card_id, v.parallel))
    return [tuple(row) for row in rows]  # type: ignore[misc]


def test_the_answer_is_the_same_and_its_progress_is_told(apart: Workbench, session: Session) -> None:
    apart.now = utc_now  # the child has no other clock
    count = judge_all(session, apart)
    here = routes(session)
    session.execute(delete(FlagRecord))
    session.commit()
    job = Job("k", "Working out the flags")
    assert run(apart, job, "judge", {}, large=True) == count > 100
    session.expire_all()
    assert routes(session) == here
    assert job.total == count
    assert 0 < job.done < count
    assert job.stopper is None


def test_what_is_small_is_done_here(apart: Workbench, session: Session) -> None:
    start = time.process_time()
    assert run(apart, Job("k", "Working"), "judge", {}, large=False) > 100
    assert time.process_time() - start > 0.1, "in this process"


def test_a_refusal_comes_back_in_words(apart: Workbench, session: Session) -> None:
    task = {"files": [("list.xlsx", b"no workbook")], "texts": {}, "about": About(name="A")}
    with pytest.raises(BotinError, match="cannot be opened") as found:
        run(apart, Job("k", "Reading"), "read", task, large=True)
    with pytest.raises(BotinError) as here:
        run(apart, Job("k", "Reading"), "read", task, large=False)
    assert (found.value.message, found.value.status) == (here.value.message, here.value.status)
    assert session.scalar(select(func.count()).select_from(DraftRecord)) == 0


def test_a_large_file_is_read_apart_and_shown_without_being_read_again(apart: Workbench, session: Session) -> None:
    rows = "".join(f"{number},Rider {number}\n" for number in range(1, 400))
    task = {"files": [("base.csv", f"number,name\n{rows}".encode())], "texts": {}, "about": About(name="A")}
    job = Job("k", "Reading")
    sources, draft = run(apart, job, "read", task, large=True)
    assert session.scalar(select(func.count()).select_from(DraftRecord)) == 0, "nothing is stored while it is read"
    made = keep_read(apart, "k", About(name="A"), sources, draft)
    record = session.get_one(DraftRecord, made)

    def again(_done: int, _of: int) -> None:
        raise AssertionError

    assert len(view_draft(session, apart, record, again).draft.reading.product.cards) == 399
    assert list((apart.home or Path()).glob("working-*")) == []


def test_it_is_stopped_at_once_and_nothing_of_it_is_stored(apart: Workbench, session: Session) -> None:
    judge_all(session, apart)
    before = routes(session)
    job = apart.jobs.start("k", "Working", lambda job: run(apart, job, "judge", {}, large=True), long=True)
    while not job.stop():
        time.sleep(0.01)
    assert job.wait(10)
    assert isinstance(job.future.exception(), StoppedError)
    session.expire_all()
    assert routes(session) == before
    assert apart.troubles.all() == (), "what the user stopped is no trouble"
    assert not job.stop()


def test_a_process_that_dies_is_said_on_every_screen(apart: Workbench) -> None:
    job = apart.jobs.start("k", "Reading", lambda job: run(apart, job, "no such task", {}, large=True), long=True)
    assert job.wait(30)
    assert isinstance(job.future.exception(), WorkDiedError)
    assert "no such task" in str(job.future.exception())
    assert "Reading failed" in apart.troubles.all()[0].words


def test_a_backup_does_not_wait_for_long_work(apart: Workbench) -> None:
    go_on = Event()
    long = apart.jobs.start("long", "Reading", lambda _job: int(go_on.wait(30)), long=True)
    apart.after_closing()
    backup = apart.jobs.get(f"backup-{apart.now():%Y%m%d%H%M%S%f}")
    assert backup.wait(30)
    assert not long.wait(0)
    go_on.set()
    assert long.wait(10)


def test_what_rests_on_an_earlier_revision_is_not_kept(bench: Workbench, session: Session) -> None:
    """Forty typed prices once kept forty whole products."""
    record = bench.record(session, 1)
    for _ in range(5):
        bench.price_model(session, record)
        bench.reader(session, record)
        record.revision += 1
        session.flush()
    mine = [key for key in bench._kept if isinstance(key, tuple) and key[1] == record.id]
    assert {key[2] for key in mine if key[0] in OF_A_REVISION} == {record.revision - 1}
