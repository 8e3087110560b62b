"""Work that may take longer than a moment: done beside the request, its progress told."""

from __future__ import annotations

import logging
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as NotYetError
from dataclasses import dataclass, field
from threading import Lock

from botin.core.errors import BotinError, NotFoundError

log = logging.getLogger(__name__)

MOMENT = 0.8
"""Seconds a request waits for a job before it shows a progress bar."""
KEPT = 50


@dataclass
class Job:
    """One piece of work; its result is an id to go to, ``typed`` what the form held, should it fail.

    Attributes
    ----------
    stopper : callable or None
        Ends it at once while it runs in a process of its own; None when it cannot be stopped.
    """

    key: str
    words: str
    done: int = 0
    total: int = 0
    typed: dict[str, str] = field(default_factory=dict)
    future: Future[int] = field(default_factory=Future)
    stopper: Callable[[], object] | None = None
    stopped: bool = False

    def stop(self) -> bool:
        """End it at once; says whether it could be stopped."""
        stopper = self.stopper
        if stopper is None:
            return False
        self.stopped = True
        stopper()
        return True

    def progress(self, done: int, total: int) -> None:
        """Note how far it is."""
        self.done, self.total = done, total

    def wait(self, seconds: float) -> bool:
        """Whether it is finished, within so many seconds; a failure counts as finished."""
        try:
            self.future.exception(seconds)
        except NotYetError:
            return False
        return True


class Jobs:
    """The jobs of this process, one at a time in the order they came; long ones wait for each other only.

    Parameters
    ----------
    failed : callable
        Told of every job that broke, with what it broke on; what a job refuses in words is told where it was asked.
    went_well : callable
        Told of every job that did not.
    """

    def __init__(
        self,
        failed: Callable[[Job, BaseException], None] = lambda _job, _error: None,
        went_well: Callable[[Job], None] = lambda _job: None,
    ) -> None:
        self._failed, self._went_well = failed, went_well
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="job")
        self._long = ThreadPoolExecutor(max_workers=1, thread_name_prefix="long-job")
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = Lock()

    def start(
        self,
        key: str,
        words: str,
        work: Callable[[Job], int],
        typed: dict[str, str] | None = None,
        *,
        long: bool = False,
    ) -> Job:
        """Start a job; the same key again gives the same job. A backup never waits for a long one."""
        with self._lock:
            known = self._jobs.get(key)
            if known is not None:
                return known
            job = Job(key, words, typed=typed or {})
            self._jobs[key] = job
            while len(self._jobs) > KEPT:
                self._jobs.popitem(last=False)
        job.future = (self._long if long else self._pool).submit(self._run, work, job)
        return job

    def _run(self, work: Callable[[Job], int], job: Job) -> int:
        try:
            found = work(job)
        except BotinError:
            raise
        except BaseException as exc:
            log.exception("job failed: %s", job.words)
            self._failed(job, exc)
            raise
        self._went_well(job)
        return found

    def get(self, key: str) -> Job:
        """Return a job.

        Raises
        ------
        NotFoundError
            When it is not of this process, or long ago.
        """
        with self._lock:
            found = self._jobs.get(key)
        if found is None:
            message = "That piece of work is not known any more, perhaps because Botin was restarted. Start it again."
            raise NotFoundError(message)
        return found
