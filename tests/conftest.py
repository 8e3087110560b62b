"""Shared fixtures: a fixed clock, a demo database built once, and an app on a copy of it."""

from __future__ import annotations

import gc
import re
import shutil
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from flask import Flask, Response
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from botin.demo.build import build_demo
from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from botin.web.app import create_app
from tests.freshdemo import FreshDemo, TestBench

gc.set_threshold(100_000, 50, 100)
"""Whole products and pages of them are made and dropped in every test: looking for circles each time takes a tenth."""

NOW = datetime(2026, 11, 24, 9, 0, tzinfo=UTC)


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("demo") / DATABASE
    engine = open_engine(path)
    migrate(engine)
    with sessions(engine)() as session:
        build_demo(session, Workbench(sessions(engine), lambda: NOW))
    engine.dispose()
    return path


@pytest.fixture
def home(demo_file: Path, tmp_path: Path) -> Path:
    for file in demo_file.parent.glob(f"{DATABASE}*"):
        shutil.copy(file, tmp_path / file.name)
    return tmp_path


@pytest.fixture(scope="session")
def fresh_demo(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[FreshDemo]:
    """What is worked out of the demo as it was built, once for all tests."""
    home = tmp_path_factory.mktemp("fresh")
    for file in demo_file.parent.glob(f"{DATABASE}*"):
        shutil.copy(file, home / file.name)
    engine = open_engine(home / DATABASE)
    with sessions(engine)() as opened:
        yield FreshDemo(Workbench(sessions(engine), lambda: NOW), opened)
    engine.dispose()


@pytest.fixture
def bench(home: Path, fresh_demo: FreshDemo) -> Iterator[Workbench]:
    engine = open_engine(home / DATABASE)
    made = TestBench(sessions(engine), lambda: NOW, fresh_demo)
    yield made
    made.forget()  # whole products and price models, which would wait for the collector otherwise
    engine.dispose()


@pytest.fixture
def session(bench: Workbench) -> Iterator[Session]:
    with bench.sessions() as opened:
        yield opened


@pytest.fixture(scope="session")
def made_app() -> Flask:
    """One app for all tests, so that its templates are compiled once; each test hangs its own workbench on it."""
    idle = Workbench(sessions(open_engine(Path(":memory:"))), lambda: NOW)
    return create_app(idle, "key for tests only", demo=True)


@pytest.fixture
def app(made_app: Flask, bench: Workbench) -> Iterator[Flask]:
    before = dict(made_app.config)
    made_app.config["ALLOWED_HOSTS"] = {"127.0.0.1", "localhost"}
    made_app.extensions["bench"] = bench
    yield made_app
    made_app.config.clear()
    made_app.config.update(before)


class AsShown(Response):
    """An answer whose text has its lines run together, as a browser shows them: where a template breaks is nothing."""

    def get_data(self, as_text: bool = False) -> Any:
        found = super().get_data(as_text)
        return shown(found) if as_text and self.mimetype == "text/html" else found


def shown(page: str) -> str:
    """Run the lines of a page together; between the cells of a table white space is nothing."""
    return re.sub(r"(?<=>) (?=</?t[dhr]\b)", "", re.sub(r"(?<=\S)(?:\s*\n\s+|  +)(?=\S)", " ", page))


@pytest.fixture
def client(app: Flask) -> FlaskClient:
    return FlaskClient(app, AsShown)
