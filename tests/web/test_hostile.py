"""What a hostile page, file or word could try against a program on one's own machine."""

from __future__ import annotations

import logging
import re
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from markupsafe import escape
from sqlalchemy import text
from sqlalchemy.orm import Session

from tests.web.test_fees import token

ROOT = Path(__file__).parents[2]
WORDS = ("<script>alert(1)</script>", '"><img src=x onerror=alert(1)>', "{{ 7 * 7 }}", "'; DROP TABLE pull; --")


def test_every_form_there_is_needs_the_token(app: Flask, client: FlaskClient) -> None:
    """Found in the app itself, so that a new form cannot be forgotten."""
    rules = [rule for rule in app.url_map.iter_rules() if "POST" in (rule.methods or ())]
    assert len(rules) > 45
    for rule in rules:
        path = re.sub(r"<int:\w+>", "1", rule.rule)
        path = re.sub(r"<\w+>", "x", path)
        assert client.post(path, data={"entry": "12"}).status_code == 400, path


@pytest.mark.parametrize("method", ["PUT", "DELETE", "PATCH", "TRACE"])
def test_other_methods_are_not_answered(client: FlaskClient, method: str) -> None:
    assert client.open("/rip/4/log", method=method).status_code == 405


def test_what_is_typed_is_shown_as_it_was_typed_and_never_run(client: FlaskClient, session: Session) -> None:
    key = token(client)
    client.post("/boxes/4/open", data={"csrf_token": key})
    before = session.scalar(text("SELECT count(*) FROM pull"))
    for place, word in enumerate(WORDS):
        for entry in (f'+ rider note:"x" {word}', f'12 "{word}"'):
            fields = {"csrf_token": key, "entry": entry, "pack": str(place + 1), "client_key": f"h{entry}"[:60]}
            client.post("/rip/4/log", data=fields)
    for page in ("/rip/4", *(f"/library/?q={word}" for word in WORDS), *(f"/flags/?q={word}" for word in WORDS)):
        answer = client.get(page)
        assert answer.status_code == 200
        assert "<script>alert" not in answer.text
        assert "<img src=x" not in answer.text
    for place, word in enumerate(WORDS):
        assert str(escape(word)) in client.get(f"/rip/4?pack={place + 1}").text, (
            "as it was typed, and nothing worked out"
        )
    assert session.scalar(text("SELECT count(*) FROM pull")) > (before or 0) > 1_000


@pytest.mark.parametrize("back", ["https://evil.example/", "//evil.example/sets/", "/\\evil.example", "javascript:x"])
def test_a_form_leads_nowhere_else(client: FlaskClient, back: str) -> None:
    fields = {"csrf_token": token(client), "product_id": "4", "section": "base", "numbers": "1", "back": back}
    answer = client.post("/sets/arrive", data={**fields, "client_key": "k", "cost": "1"})
    assert answer.headers["Location"].startswith("/sets/")


def test_an_address_writes_no_line_of_its_own_into_the_log(
    app: Flask, client: FlaskClient, caplog: pytest.LogCaptureFixture, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(**_given: object) -> str:
        raise RuntimeError

    monkeypatch.setitem(app.view_functions, "keeping.give", broken)
    with caplog.at_level(logging.ERROR):
        assert client.get("/keeping/x%0aERROR%20forged").status_code == 500
    assert "\nERROR forged" not in caplog.text


def test_the_table_of_what_holds_names_tests_that_there_are() -> None:
    named = re.findall(r"`(tests/[\w/]+\.py)::(\w+)`", (ROOT / "docs" / "security.md").read_text("utf-8"))
    assert len(named) > 30
    missing = [f"{path}::{name}" for path, name in named if f"def {name}(" not in (ROOT / path).read_text("utf-8")]
    assert missing == []
