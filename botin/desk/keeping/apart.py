"""Long work in a process of its own: the server keeps its time for who logs cards, and the work can be stopped.

The child finds what it needs in a folder of its own, lays its answer there, and tells how far it is line by line on
standard output. It writes as everybody does, all or nothing; when it is stopped or dies, nothing of it is stored.
"""

from __future__ import annotations

import json
import os
import pickle
import subprocess
import sys
from collections.abc import Callable, Iterable
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory, TemporaryFile
from typing import TYPE_CHECKING, Any

from botin.core.errors import BotinError
from botin.desk.jobs import Job

if TYPE_CHECKING:
    from botin.desk.workbench import Workbench

MUCH = 256 * 1024
"""Bytes from which a file is read apart; what is smaller is read before a process would have started."""
MANY = 1_000
"""Copies from which routes are worked out apart."""
ASKED, ANSWER = "asked", "answer"
ROOM = 4 * 1024**3
"""Bytes of memory the work may ask for: a machine that swaps logs no card either."""

Tell = Callable[[int, int], None]
Task = Callable[["Workbench", dict[str, Any], Tell], Any]


class StoppedError(BotinError):
    """The user stopped the work."""

    status = 409


class WorkDiedError(RuntimeError):
    """The process of the work ended without an answer."""


def _judge(bench: Workbench, _given: dict[str, Any], tell: Tell) -> int:
    from botin.desk.flags.everything import judge_all  # noqa: PLC0415  (each task loads what it needs)

    with bench.sessions() as session:
        return judge_all(session, bench, tell)


def _read(bench: Workbench, given: dict[str, Any], tell: Tell) -> Any:
    from botin.desk.catalog.drafts import read_given  # noqa: PLC0415

    with bench.sessions() as session:
        return read_given(session, given["files"], given["texts"], given["about"], tell)


def _store(bench: Workbench, given: dict[str, Any], tell: Tell) -> int:
    from botin.desk.catalog.drafts import store_beside  # noqa: PLC0415

    return store_beside(bench, given["draft"], tell, keep_mine=given["keep_mine"])


TASKS: dict[str, Task] = {"judge": _judge, "read": _read, "store": _store}


def run(bench: Workbench, job: Job, task: str, given: dict[str, Any], *, large: bool) -> Any:
    """Do a task and return what came of it: in a process of its own when it is large and the workbench says so.

    Raises
    ------
    StoppedError
        When the user stopped it; nothing of it is stored.
    BotinError
        What the task refuses in words.
    """
    if not (large and bench.apart and bench.home is not None):
        return TASKS[task](bench, given, job.progress)
    return _run_apart(bench.home, job, task, given)


def _run_apart(home: Path, job: Job, task: str, given: dict[str, Any]) -> Any:
    with TemporaryDirectory(dir=home, prefix="working-") as name, TemporaryFile() as said:
        folder = Path(name)
        (folder / ASKED).write_bytes(pickle.dumps(given))
        # -P: a file in the folder where Botin was started must not be taken for a module of its own name.
        command = [sys.executable, "-P", "-m", "botin.desk.keeping.apart", str(home), task, name]
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=said) as process:  # noqa: S603  (this program)
            job.stopper = process.kill
            refused = _heard(process.stdout or (), job)
        job.stopper = None
        if process.returncode == 0 and (folder / ANSWER).is_file():
            return pickle.loads((folder / ANSWER).read_bytes())  # noqa: S301  (from this program, in a folder of its own)
        said.seek(0)
        raise _failed(job, refused, said.read().decode("utf-8", "replace"))


def _heard(lines: Iterable[bytes], job: Job) -> BotinError | None:
    """Follow what the child tells; returns what it refused, if it did."""
    refused = None
    for line in lines:
        told = json.loads(line)
        if "of" in told:
            job.progress(told["done"], told["of"])
        else:
            refused = BotinError(told["refused"])
            refused.status = told["status"]
    return refused


def _failed(job: Job, refused: BotinError | None, said: str) -> Exception:
    if job.stopped:
        return StoppedError("Stopped. Nothing of it was stored; start it again when you like.")
    return refused or WorkDiedError(said.strip()[-2000:] or "the process ended without a word")


def _limit_memory() -> None:
    with suppress(ImportError, ValueError, OSError):
        import resource  # noqa: PLC0415  (not on every system)

        resource.setrlimit(resource.RLIMIT_AS, (ROOM, ROOM))


def child(home: Path, task: str, folder: Path) -> None:
    """Do a task whose input lies in a folder, and lay its answer there; the other end is this program itself."""
    from botin.desk.settings import load_settings  # noqa: PLC0415  (the parent needs none of it to start a child)
    from botin.desk.workbench import Workbench  # noqa: PLC0415
    from botin.home import DATABASE, utc_now  # noqa: PLC0415
    from botin.store.engine import open_engine, sessions  # noqa: PLC0415

    os.umask(0o077)
    with suppress(OSError, AttributeError):
        os.nice(5)  # who logs a card goes first
    _limit_memory()
    given = pickle.loads((folder / ASKED).read_bytes())  # noqa: S301  (from this program, in a folder of its own)
    engine = open_engine(home / DATABASE)
    bench = Workbench(sessions(engine), utc_now, home)
    with bench.sessions() as session:
        bench.live_in(load_settings(session).time_zone)

    def say(**words: object) -> None:
        sys.stdout.write(json.dumps(words) + "\n")
        sys.stdout.flush()

    try:
        answer = TASKS[task](bench, given, lambda done, of: say(done=done, of=of))
        (folder / ANSWER).write_bytes(pickle.dumps(answer))
    except BotinError as exc:
        say(refused=exc.message, status=exc.status)


if __name__ == "__main__":
    child(Path(sys.argv[1]), sys.argv[2], Path(sys.argv[3]))
