"""A new user with nothing stored: every desk answers, says what to do, and bad addresses are answered in words."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient

from botin.desk.workbench import Workbench
from botin.home import DATABASE
from botin.store.engine import open_engine, sessions
from botin.store.keeping.upgrade import migrate
from tests.conftest import NOW, AsShown


@pytest.fixture
def fresh(made_app: Flask, tmp_path: Path) -> Iterator[FlaskClient]:
    engine = open_engine(tmp_path / DATABASE)
    migrate(engine)
    before = dict(made_app.config)
    made_app.config["ALLOWED_HOSTS"] = {"127.0.0.1", "localhost"}
    made_app.extensions["bench"] = Workbench(sessions(engine), lambda: NOW, tmp_path)
    yield FlaskClient(made_app, AsShown)
    made_app.config.clear()
    made_app.config.update(before)
    engine.dispose()


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("/", "Add a product"),
        ("/buy/", "Add one in the library"),
        ("/rip/", "Rip"),
        ("/recap/", "No box is closed yet"),
        ("/recap/purchase/2026-01-01", "No box is closed yet"),
        ("/sets/", "Sets"),
        ("/prices/", "No product yet"),
        ("/flags/", "No copy has a flag yet"),
        ("/grading/choose", "Work the flags out first"),
        ("/grading/", "No order yet"),
        ("/grading/results", "Nothing came back yet"),
        ("/grading/counts", "No counts of any product yet"),
        ("/fees/", "An example, of no real house"),
        ("/library/", "Library"),
        ("/settings/", "Settings"),
    ],
)
def test_every_desk_answers_a_new_user(fresh: FlaskClient, path: str, words: str) -> None:
    found = fresh.get(path)
    assert found.status_code == 200
    assert words in found.text


@pytest.mark.parametrize(
    "path", ["/recap/1", "/recap/1/cards", "/prices/1/prices.csv", "/prices/card/1", "/buy/1", "/rip/1"]
)
def test_what_is_not_there_is_said(fresh: FlaskClient, path: str) -> None:
    found = fresh.get(path)
    assert found.status_code == 404
    assert "Traceback" not in found.text


@pytest.mark.parametrize("path", ["/flags/", "/today/"])
def test_a_new_user_is_not_told_that_something_changed(fresh: FlaskClient, path: str) -> None:
    assert "changed since" not in fresh.get(path).text


def test_the_first_steps_and_a_ready_product(fresh: FlaskClient) -> None:
    page = fresh.get("/").text
    assert "Three first steps" in page
    assert "Add a box you bought" not in page
    found = re.search(r'name="csrf_token" value="([^"]+)"', page)
    assert found
    page = fresh.post("/library/example", data={"csrf_token": found[1]}, follow_redirects=True).text
    assert "Banked 2026 (example)" in page
    assert "invented product" in page
    for path in ("/", "/today/", "/library/"):
        page = fresh.get(path).text
        assert "Three first steps" in page
        assert "Try with an invented one" not in page
    again = fresh.post("/library/example", data={"csrf_token": found[1]}, follow_redirects=True)
    assert again.status_code == 200
    assert fresh.get("/library/").text.count('class="stock spine"') == 1
