"""Every form of the demo, sent as nobody would fill it in: answered in words, quickly, all stored or nothing."""

from __future__ import annotations

import gc
import io
import logging
import re
import shutil
import sqlite3
import time
import traceback
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from threading import get_ident

import numpy as np
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import event
from sqlalchemy.orm import Session

from botin.desk.troubles import Troubles
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from tests.crawling import Form, crawl
from tests.fuzzing.mutate import PLAIN, WORDS, Rng, spoil
from tests.fuzzing.run import MOST_SECONDS, Found

IDS = ("0", "1", "2", "7", "999999", "9223372036854775808", "99999999999999999999", "²", "-1", "x")
FRESH_AFTER = 400
"""Inputs after which the home is made anew: what they stored makes every page longer."""
EXTRA = (
    ("/rip/2/card/1", "entry serial marks note owner place finish"),
    ("/rip/2/card/1/remove", "client_key"),
    ("/rip/2/card/1/settle", "is client_key"),
    ("/rip/2/card/1/list", "section number name client_key"),
    ("/cards/1/back", "copy client_key"),
    ("/prices/card/1/forget-feed", "finish"),
    ("/library/look-again/1", "done choice"),
    ("/library/drafts/1/about", "name maker season sport currency released_on formats"),
    ("/library/drafts/1/line", "sheet line cells text"),
    ("/library/drafts/1/leave-out", "line sheet"),
    ("/library/drafts/1/store", "client_key"),
    ("/library/drafts/1/discard", "client_key"),
    ("/fees/other", "body valid_from"),
    ("/keeping/settle", "kind"),
)
"""Forms that show themselves only on the way: in a fragment, or when something is unsettled."""


class _Broken(logging.Handler):
    """Remembers where the last request broke."""

    place = ""

    def emit(self, record: logging.LogRecord) -> None:
        """Keep the last own line on the way."""
        exception = record.exc_info[1] if record.exc_info else None
        if exception is not None:
            own = [frame for frame in traceback.extract_tb(exception.__traceback__) if "/botin/" in frame.filename]
            place = f"{Path(own[-1].filename).name}:{own[-1].lineno}" if own else "?"
            self.place = f"{type(exception).__name__}: {str(exception)[:90]!r} at {place}"


class House:
    """The demo in a folder of its own, behind one app."""

    def __init__(self, app: Flask, pristine: Path, folder: Path, now: datetime) -> None:
        self.app, self.pristine, self.folder, self.now = app, pristine, folder, now
        self.made = 0
        self.broken = _Broken(logging.ERROR)
        logging.getLogger("botin.web.errors").addHandler(self.broken)
        self.watch: sqlite3.Connection | None = None
        self.anew()

    def anew(self) -> None:
        """Start again on a fresh copy."""
        self.made += 1
        self.home = self.folder / f"home-{self.made}"
        self.home.mkdir()
        for file in self.pristine.parent.glob(f"{DATABASE}*"):
            shutil.copy(file, self.home / file.name)
        self.engine = open_engine(self.home / DATABASE)
        if self.watch is not None:
            self.watch.close()
            self.engine.dispose()
            self.bench.forget()
            gc.collect()  # a home that is left behind leaves its memory
        self.watch = sqlite3.connect(self.home / DATABASE)
        self.bench = Workbench(sessions(self.engine), lambda: self.now, self.home)
        self.bench.troubles = Troubles(self.home)
        self.app.extensions["bench"] = self.bench
        self.client: FlaskClient = self.app.test_client()
        found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', self.client.get("/boxes/new").text)
        assert found
        self.token = found[1]

    def settle(self) -> None:
        """Wait until what was started beside the requests is done."""
        for long in (True, False):
            key = f"nothing-{long}-{time.monotonic_ns()}"
            self.bench.jobs.start(key, "Waiting", lambda _job: 0, long=long).wait(120)

    def stored(self) -> int:
        """Something that changes with every commit that changes anything, as another connection sees it."""
        assert self.watch is not None
        return int(self.watch.execute("PRAGMA data_version").fetchone()[0])


def forms_of(house: House, each: int = 2) -> list[Form]:
    """Return every form that a walk through the demo meets (each kind so many times), and those it does not."""

    def get(path: str) -> tuple[int, str, str]:
        with house.client.get(path) as found:
            return found.status_code, found.mimetype, found.text if "html" in found.mimetype else ""

    found = crawl(get, each=each)
    extra = [Form(path, "post", path, fields=[(name, "") for name in names.split()]) for path, names in EXTRA]
    return [form for form in (*found.forms, *extra) if form.method in ("get", "post")]


def spoiled(form: Form, rng: Rng) -> Form:
    """Fill a form in as nobody would: words in place of values, fields twice or not at all, other things' ids."""
    fields = [(name, value) for name, value in form.fields if rng.random() > 0.04]
    for _ in range(int(rng.integers(1, 4))):
        if fields:
            at = int(rng.integers(0, len(fields)))
            name, value = fields[at]
            fields[at] = (name, _value(value, rng))
            if rng.random() < 0.05:
                fields.append((name, _value(value, rng)))
    path = form.action
    if rng.random() < 0.25:
        path = re.sub(r"(?<=/)\d+", lambda found: str(rng.choice(IDS)) if rng.random() < 0.7 else found[0], path)
    return replace(form, action=path, fields=fields)


def _value(value: str, rng: Rng) -> str:
    if rng.random() < 0.5:
        return str(rng.choice(WORDS))
    mutation = PLAIN[int(rng.integers(0, len(PLAIN)))]
    return mutation(value.encode("utf-8", "replace"), rng).decode("utf-8", "replace")


def run_forms(house: House, forms: list[Form], numbers: Iterable[int], seed: int) -> Found:
    """Send each form spoiled."""
    found = Found()
    for number in numbers:
        if found.inputs and found.inputs % FRESH_AFTER == 0:
            house.anew()
        rng = np.random.default_rng([seed, number])
        form = spoiled(forms[number % len(forms)], rng)
        wrong = _sent(house, form, rng, found)
        if wrong:
            found.wrong.append(f"{form.method} {form.action} #{number}: {wrong}")
    return found


def _sent(house: House, form: Form, rng: Rng, found: Found) -> str:
    before, start = house.stored(), time.thread_time()
    with counted_commits() as commits:
        status = _status(house, form, rng)
    took = time.thread_time() - start
    house.settle()
    found.slowest = max(found.slowest, (took, f"{form.method} {form.action}"))
    found.answers["read" if status < 400 else "refused in words" if status < 500 else "crashed"] += 1
    troubles = house.bench.troubles.all()
    for trouble in troubles:
        house.bench.troubles.settle(trouble.kind)
    if status >= 500:
        return f"{house.broken.place} to {form.fields}"
    if troubles:
        return f"failed beside the request: {troubles[0].words[:120]}"
    if status >= 400 and house.stored() != before:
        return f"answered {status} and stored something of {form.fields}"
    if len(commits) > 1:
        return f"committed {len(commits)} times: what breaks between them leaves a part"
    return f"took {took:.1f} s" if took > MOST_SECONDS else ""


@contextmanager
def counted_commits() -> Iterator[list[int]]:
    """Count the commits of this thread: a request is one transaction."""
    found: list[int] = []
    here = get_ident()

    def note(_session: Session) -> None:
        if get_ident() == here:
            found.append(1)

    event.listen(Session, "before_commit", note)
    try:
        yield found
    finally:
        event.remove(Session, "before_commit", note)


def _status(house: House, form: Form, rng: Rng) -> int:
    headers = {"HX-Request": "true"} if rng.random() < 0.4 else {}
    data: dict[str, list[object]] = {}
    for name, value in form.fields:
        data.setdefault(name, []).append(value)
    if form.method == "get":
        query = [(name, str(value)) for name, values in data.items() for value in values]
        with house.client.get(form.action.partition("?")[0], query_string=query, headers=headers) as answer:
            return answer.status_code
    data["csrf_token"] = [house.token]
    for name in form.files if rng.random() < 0.7 else ():
        content = spoil(b"product,section,number,came,cost\ntrackside-1988,base,1,bought,2\n", rng)
        data[name] = [(io.BytesIO(content), str(rng.choice(("a.csv", "a.xlsx", "a.zip", "a.db", "a.txt", ""))))]
    kind = "multipart/form-data" if form.multipart or form.files else None
    with house.client.post(form.action, data=data, headers=headers, content_type=kind) as answer:
        return answer.status_code
