"""Sets, cards and recaps over HTTP."""

from __future__ import annotations

import io
import re

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session
from werkzeug.test import TestResponse

from botin.store.models_copies import CopyRecord, DisposalRecord


def token(client: FlaskClient, path: str) -> str:
    found = re.search(r'name="csrf_token"[^>]*value="([^"]+)"', client.get(path).text)
    assert found
    return found[1]


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("/sets/", "Every section is a set"),
        ("/sets/board?part=4:base", "Needs and spares"),
        ("/sets/finish?part=4:base&format=cello&price=79", "missing costs"),
        ("/sets/finish?part=1:night&format=hobby&price=x", "is not an amount"),
        ("/recap/", "All of them together"),
        ("/recap/year/2026", "Recap of 2026"),
        ("/recap/product/1", "True average"),
        ("/recap/product/6", "No box of it is closed"),
        ("/recap/compare?box=1&box=5&box=11", "Side by side"),
        ("/recap/1", "In value this box was"),
        ("/prices/card/1", "All versions"),
    ],
)
def test_pages(client: FlaskClient, path: str, words: str) -> None:
    found = client.get(path, follow_redirects=True)
    assert found.status_code == 200
    assert words in found.text


def test_addresses_that_name_nothing(client: FlaskClient) -> None:
    for path in (
        "/sets/board",
        "/sets/board?part=1:none",
        "/sets/board?part=x",
        "/cards/999999",
        "/recap/product/77",
    ):
        assert client.get(path, follow_redirects=True).status_code == 404
    assert "Tick two boxes" in client.get("/recap/compare?box=1", follow_redirects=True).text


def test_copies_come_and_leave_by_the_forms(client: FlaskClient, session: Session) -> None:
    path = "/sets/board?part=4:base"
    fields = {
        "csrf_token": token(client, path), "client_key": "w1", "product_id": "4", "section": "base", "numbers": "1, 2x2",
        "came": "trade", "cost": "3", "got_on": "2026-11-20", "back": path,
    }  # fmt: skip
    assert client.post("/sets/arrive", data=fields).location.endswith(path)
    assert (
        len(
            session.scalars(
                select(CopyRecord).where(CopyRecord.pull_id.is_(None), CopyRecord.purchase_id.is_(None))
            ).all()
        )
        == 3
    )
    refused = client.post(
        "/sets/arrive", data={**fields, "client_key": "w2", "numbers": "9999"}, follow_redirects=True
    )
    assert "not on the checklist" in refused.text
    elsewhere = client.post("/sets/arrive", data={**fields, "client_key": "w3", "back": "//other.example/"})
    assert elsewhere.location == "/sets/"
    pull = session.scalars(select(CopyRecord).where(CopyRecord.card_id.is_not(None)).limit(1)).one()
    left = {
        "csrf_token": fields["csrf_token"], "copy": pull.id, "client_key": "l1", "went": "sold", "price": "9.50",
        "costs": "1.20", "left_on": "2026-11-21",
    }  # fmt: skip
    page = client.post(f"/cards/{pull.card_id}/leave", data=left, follow_redirects=True).text
    assert "sold 21 Nov 2026 for €9.50" in page
    made = session.scalars(select(DisposalRecord).where(DisposalRecord.copy_id == pull.id)).one()
    back = {"csrf_token": fields["csrf_token"], "disposal": made.id}
    assert "Taken back" in client.post(f"/cards/{pull.card_id}/back", data=back, follow_redirects=True).text
    bad = client.post(f"/cards/{pull.card_id}/leave", data={**left, "left_on": "soon"}, follow_redirects=True)
    assert "is no day" in bad.text


def test_the_picture_to_share_holds_nothing_private(client: FlaskClient) -> None:
    found = client.get("/recap/1/picture.svg")
    assert found.mimetype == "image/svg+xml"
    assert "€" not in found.text
    assert "club night" not in found.text


def test_named_sets_are_kept_beside_the_settings(client: FlaskClient) -> None:
    line = "All of it = banked-2026:base + banked-two-2026:base"
    client.post("/sets/name", data={"csrf_token": token(client, "/sets/"), "sets": line})
    assert "All of it" in client.get("/sets/").text


def test_a_have_list_asks_for_its_column_once_and_comes_at_no_cost(client: FlaskClient, session: Session) -> None:
    rows = b"Thing;Set;Shoebox\n1;base;9\n2-3;base;9\n"
    before = session.scalar(select(func.count(CopyRecord.id))) or 0

    def send(**more: object) -> TestResponse:
        data = {"csrf_token": token(client, "/sets/"), "product": "4", "file": (io.BytesIO(rows), "mine.csv"), **more}
        return client.post("/sets/have", data=data, content_type="multipart/form-data", follow_redirects=True)

    page = send()
    assert page.status_code == 422
    assert "No column says “number”" in page.text
    fields = dict(re.findall(r'<input type="hidden" name="(shape|carried_name)"\s+value="([^"]*)"', page.text))
    action = re.search(r'action="(/sets/have[^"]*)"', page.text)
    assert action
    told = {"column-0": "number", "column-1": "section", "column-2": ""}
    data = {"csrf_token": token(client, "/sets/"), "carried": rows.decode(), **fields, **told}
    page = client.post(action[1], data=data, follow_redirects=True)
    assert "3 copies taken in, at no cost" in page.text
    assert "Not used: the column Shoebox" in page.text
    assert session.scalar(select(func.count(CopyRecord.id))) == before + 3
    assert "0 copies taken in, at no cost. 3 of this file were here already" in send().text


def test_a_have_list_that_cannot_be_used_is_answered_in_words(client: FlaskClient) -> None:
    data = {
        "csrf_token": token(client, "/sets/"), "product": "4",
        "file": (io.BytesIO(b"section,number\nbase,99999\n"), "mine.csv"),
    }  # fmt: skip
    page = client.post("/sets/have", data=data, content_type="multipart/form-data", follow_redirects=True)
    assert "mine.csv, line 2: base has no card “99999”. Nothing was stored." in page.text
    gone = client.post("/sets/have", data={"csrf_token": token(client, "/sets/"), "product": "x"})
    assert gone.status_code == 404
