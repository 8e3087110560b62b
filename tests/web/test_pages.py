"""Pages at the server: safe by default, friendly when something is wrong, nothing stored twice."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.store.models import BoxRecord, PullRecord

PAGES = ["/", "/boxes/new", "/rip/19", "/recap/", "/recap/1", "/recap/2", "/recap/3", "/settings/"]
HX = {"HX-Request": "true"}


def token(client: FlaskClient) -> str:
    found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', client.get("/boxes/new").text)
    assert found
    return found[1]


def count(session: Session, table: type) -> int:
    return session.scalar(select(func.count()).select_from(table)) or 0


@pytest.mark.parametrize("page", PAGES)
def test_every_page_answers_with_the_safe_headers(client: FlaskClient, page: str) -> None:
    answer = client.get(page)
    assert answer.status_code == 200
    policy = answer.headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "unsafe" not in policy
    assert answer.headers["X-Content-Type-Options"] == "nosniff"
    assert not re.search(r"<script(?![^>]*src=)|\son\w+=|\sstyle=|javascript:", answer.text)
    assert not re.search(r"(src|href)=[\"']https?://", answer.text)


def test_cookies_are_same_site_and_unreadable(client: FlaskClient) -> None:
    cookie = client.get("/boxes/new").headers["Set-Cookie"]
    assert "SameSite=Strict" in cookie
    assert "HttpOnly" in cookie


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "evil.example:8321", ""])
def test_other_hosts_are_turned_away(client: FlaskClient, host: str) -> None:
    answer = client.get("/", headers={"Host": host})
    assert answer.status_code == 400
    assert "not one Botin answers to" in answer.text


@pytest.mark.parametrize("page", ["/boxes/new", "/boxes/4/open", "/rip/4/log", "/rip/4/close", "/settings/"])
def test_every_write_needs_the_token(client: FlaskClient, session: Session, page: str) -> None:
    answer = client.post(page, data={"entry": "12"})
    assert answer.status_code == 400
    assert "too old" in answer.text
    assert session.get(BoxRecord, 4).state == "sealed"  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("page", "status"), [("/nowhere", 404), ("/recap/999", 404), ("/rip/999", 404), ("/boxes/4/open", 405)]
)
def test_friendly_pages(client: FlaskClient, page: str, status: int) -> None:
    answer = client.get(page)
    assert answer.status_code == status
    assert "To the shelf" in answer.text
    assert "Traceback" not in answer.text


def test_a_broken_request_shows_no_stack(app: Flask, client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> None:
        message = "secret detail"
        raise RuntimeError(message)

    monkeypatch.setattr("botin.web.shelf.routes.desk.shelf", broken)
    answer = client.get("/")
    assert answer.status_code == 500
    assert "secret detail" not in answer.text
    assert "What was shown as saved is saved" in answer.text


def test_a_large_upload_is_refused_in_words(app: Flask, client: FlaskClient) -> None:
    app.config["MAX_CONTENT_LENGTH"] = 1000
    answer = client.post("/boxes/new", data={"label": "x" * 2000})
    assert answer.status_code == 413
    assert "Too large" in answer.text


GOOD = {"client_key": "k1", "format_id": "1", "bought_on": "2026-11-20", "price": "99.50", "shipping": "", "tax": "1"}


@pytest.mark.parametrize(
    ("field", "typed", "says"),
    [
        ("price", "-5", "not negative"),
        ("price", "a lot", "is not an amount"),
        ("price", "", "Write what the box cost"),
        ("shipping", "-1", "not negative"),
        ("bought_on", "yesterday", "is no day. Write it like"),
        ("format_id", "999", "Not a valid choice"),
    ],
)
def test_a_bad_purchase_is_answered_at_the_field(
    client: FlaskClient, session: Session, field: str, typed: str, says: str
) -> None:
    before = count(session, BoxRecord)
    answer = client.post("/boxes/new", data={**GOOD, field: typed, "label": "my note", "csrf_token": token(client)})
    assert answer.status_code == 422
    assert says in answer.text
    assert "my note" in answer.text
    assert f'value="{typed}"' in answer.text or field in ("format_id", "bought_on")
    assert count(session, BoxRecord) == before


def test_a_purchase_sent_twice_is_one_box(client: FlaskClient, session: Session) -> None:
    before = count(session, BoxRecord)
    for _ in range(2):
        assert client.post("/boxes/new", data={**GOOD, "csrf_token": token(client)}).status_code == 303
    assert count(session, BoxRecord) == before + 1
    box = session.scalars(select(BoxRecord).order_by(BoxRecord.id.desc()).limit(1)).one()
    assert (box.price_minor, box.shipping_minor, box.tax_minor, box.currency) == (9950, 0, 100, "EUR")


@pytest.fixture
def csrf(client: FlaskClient) -> str:
    found = token(client)
    assert client.post("/boxes/4/open", data={"csrf_token": found}).status_code == 303
    return found


@pytest.mark.parametrize(
    ("entry", "says"),
    [
        ("12 999", "no card 999"),
        ("12 cinder 60/50", "cannot be"),
        ("12 cinder 3/99", "type 3/99!"),
        ("12 velvet", "is no parallel of card 12"),
        ("<b>12", "no card"),
    ],
)
def test_a_bad_line_keeps_what_was_typed(
    client: FlaskClient, session: Session, csrf: str, entry: str, says: str
) -> None:
    before = count(session, PullRecord)
    for headers in ({}, HX):
        data = {"csrf_token": csrf, "entry": entry, "pack": "1", "client_key": "k"}
        answer = client.post("/rip/4/log", data=data, headers=headers)
        assert answer.status_code == 422
        assert says in answer.text
        assert f'value="{entry}"'.replace("<", "&lt;").replace(">", "&gt;") in answer.text
    assert count(session, PullRecord) == before


def test_logging_works_without_scripts(client: FlaskClient, session: Session, csrf: str) -> None:
    data = {"csrf_token": csrf, "entry": "12 45", "pack": "2", "client_key": "k"}
    answer = client.post("/rip/4/log", data=data)
    assert answer.status_code == 303
    assert answer.headers["Location"].endswith("/rip/4?pack=2")
    again = client.post("/rip/4/log", data=data, follow_redirects=True)
    assert "nothing was stored twice" in again.text
    turned = client.post("/rip/4/log", data={**data, "entry": "", "client_key": "k2"})
    assert turned.headers["Location"].endswith("pack=3")


def test_a_line_into_a_closed_box_is_refused_and_kept(client: FlaskClient, csrf: str) -> None:
    client.post("/rip/4/close", data={"csrf_token": csrf, "seen": "0"})
    answer = client.post("/rip/4/log", data={"csrf_token": csrf, "entry": "12", "pack": "1", "client_key": "k"})
    assert answer.status_code == 409
    assert "closed meanwhile" in answer.text
    assert 'value="12"' in answer.text


def test_settings_change_the_verdicts(client: FlaskClient, csrf: str) -> None:
    page = client.get("/recap/1").text
    name = re.search(r'best-who">\s*<b>([^<]+)</b>', page)
    assert name
    form = {
        "csrf_token": csrf, "hit_kinds": ["autograph"], "hit_numbered_to": "0", "selling_fee_percent": "10",
        "selling_fixed": "0", "postage": "1", "bulk_below": "0.5", "grading_cost": "20", "top_grade": "10",
        "gem_chance_percent": "30", "my_name": "me", "authenticate_above": "250", "sale_materials": "0", "sale_minutes": "6", "hourly": "0", "rip_budget": "0",
        "single_postage": "1.5", "fade_half_life": "3", "fade_floor_percent": "60", "hold_years": "3",
        "hold_yearly": "2", "hold_growth_percent": "0", "sleeve_from": "5", "look_minutes": "8", "damage": "gum stain; 50", "time_zone": "Asia/Tokyo", "school": "each pack for itself", "collected": f"{name[1]}\nSomebody Else",
    }  # fmt: skip
    assert client.post("/settings/", data={**form, "gem_chance_percent": "130"}).status_code == 422
    assert "is not a kind and a percentage" in client.post("/settings/", data={**form, "damage": "gum; lots"}).text
    assert "is no time zone" in client.post("/settings/", data={**form, "time_zone": "Mars/Base"}).text
    assert client.post("/settings/", data=form).status_code == 303
    after = client.get("/recap/1").text
    assert "it is in your collection" in after.replace("It is", "it is")
    assert "A hit is: autograph" in after


def test_templates_hold_no_inline_script() -> None:
    for path in Path("botin/web").rglob("*.html"):
        text = path.read_text("utf-8")
        assert "style=" not in text, path
        assert not re.search(r"<script(?![^>]*src=)", text), path
