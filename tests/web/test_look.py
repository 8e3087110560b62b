"""Look over HTTP: pages, bad input, another's scan, pictures."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from botin.desk.workbench import Workbench
from botin.standins.scanner import SimulatedScanner, Subject
from botin.store.models_copies import ME, CopyRecord, FlagRecord, InspectionRecord, PinRecord, ScanRecord
from tests.web.test_pages import token


@pytest.fixture(autouse=True)
def with_a_place_for_photos(bench: Workbench, home: Path) -> None:
    bench.home = home


SUBJECT = Subject(5, "Banked 2026", "SB-28", "Osric Eskeland")


def first(client: FlaskClient) -> int:
    found = re.search(r'href="/look/(\d+)"', client.get("/look/").text)
    assert found
    return int(found[1])


def test_the_list_orders_by_what_a_look_earns(client: FlaskClient) -> None:
    page = client.get("/look/").text
    gains = [float(text) for text in re.findall(r"<b>€(\d+\.\d\d)</b> <span class=\"soft\">a look earns", page)]
    assert len(gains) > 5
    assert gains == sorted(gains, reverse=True)


def test_scan_rulers_and_pictures(client: FlaskClient, session: Session) -> None:
    copy = first(client)
    files = {side: (io.BytesIO(SimulatedScanner().scan(SUBJECT, side)), f"{side}.jpg") for side in ("front", "back")}
    data = {"csrf_token": token(client), **files}
    where = f"/look/{copy}/scan"
    page = client.post(where, data=data, content_type="multipart/form-data", follow_redirects=True).text
    front, back = session.scalars(select(ScanRecord).order_by(ScanRecord.id)).all()
    assert (front.side, back.side, front.simulated) == ("front", "back", False)
    assert page.count('role="slider"') == 4
    for which in ("card", "given"):
        answer = client.get(f"/look/scan/{front.id}/{which}")
        assert (answer.status_code, answer.mimetype) == (200, "image/jpeg")
    assert client.get(f"/look/scan/{front.id}/other").status_code == 404
    assert client.get(f"/look/{copy}/thumb").status_code == 200
    assert client.get("/look/scan/999/card").status_code == 404

    where, data = f"/look/{copy}/rulers/{front.id}", {"csrf_token": token(client), "left": "3", "right": "x"}
    assert "“x” is no width of the right border" in client.post(where, data=data, follow_redirects=True).text
    data |= {"right": "31"}
    assert "0 to 30" in client.post(where, data=data, follow_redirects=True).text
    session.refresh(front)
    assert front.rulers == ""
    data |= {"right": "2,5", "top": "3", "bottom": "3"}
    assert "stay where you put them" in client.post(where, data=data, follow_redirects=True).text
    session.refresh(front)
    assert '"right": 2.5' in front.rulers
    other = client.post(f"/look/{copy + 1}/rulers/{front.id}", data=data)
    assert other.status_code == 404


@pytest.mark.parametrize(
    ("file", "words"),
    [
        ((io.BytesIO(b"no picture"), "a.jpg"), "no picture Botin reads"),
        ((io.BytesIO(b""), "a.jpg"), "The file is empty"),
        (None, "No picture was given"),
    ],
)
def test_what_is_no_scan_is_said(client: FlaskClient, session: Session, file: object, words: str) -> None:
    copy = first(client)
    data = {"csrf_token": token(client), **({"front": file} if file else {})}
    answer = client.post(f"/look/{copy}/scan", data=data, content_type="multipart/form-data", follow_redirects=True)
    assert answer.status_code == 200
    assert words in answer.text
    assert session.scalar(select(func.count(ScanRecord.id))) == 0


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({}, "Nothing is filled in yet"),
        ({"corners": "11"}, "“11” for the corners is no grade"),
        ({"corners": "9.3"}, "in halves"),
        ({"edges": "<b>"}, "“&lt;b&gt;” for the edges is no grade"),
        ({"front": "30/60"}, "“30/60” is no centering of the front"),
        ({"back": "nan"}, "is no centering of the back"),
    ],
)
def test_a_look_that_cannot_be_is_refused_in_words(
    client: FlaskClient, session: Session, typed: dict[str, str], words: str
) -> None:
    before = session.scalar(select(func.count(InspectionRecord.id)))
    answer = client.post(f"/look/{first(client)}", data={"csrf_token": token(client), **typed})
    assert answer.status_code == 422
    assert words in answer.text
    session.expire_all()
    assert session.scalar(select(func.count(InspectionRecord.id))) == before


def test_a_look_goes_on_to_the_next_card(client: FlaskClient) -> None:
    copy = first(client)
    data = {"csrf_token": token(client), "corners": "9.5", "next": "1"}
    answer = client.post(f"/look/{copy}", data=data)
    assert answer.status_code == 303
    assert answer.headers["Location"] != f"/look/{copy}"
    assert "Its flag" in client.get(answer.headers["Location"]).text


def test_pins_that_cannot_be_are_refused(client: FlaskClient, session: Session) -> None:
    where = f"/look/{first(client)}/pin"
    data = {"csrf_token": token(client), "side": "front", "kind": "nick", "size": "-1", "client_key": "p"}
    assert "“-1” is no size" in client.post(where, data=data, follow_redirects=True).text
    assert client.post(where, data={**data, "size": "", "kind": "love"}).status_code == 404
    assert session.scalar(select(func.count(PinRecord.id))) == 0
    client.post(where, data={**data, "size": "0,5", "x": "99999", "y": "12"})
    row = session.scalars(select(PinRecord)).one()
    assert (row.x_permille, row.y_permille, row.size_um) == (500, 12, 500)
    assert client.post(f"/look/{row.copy_id}/unpin/99", data={"csrf_token": token(client)}).status_code == 404


def test_a_copy_that_is_not_there_is_answered(client: FlaskClient, app: Flask) -> None:
    app.config["DEMO"] = False
    assert client.get("/look/999999").status_code == 404
    simulated = client.post(f"/look/{first(client)}/simulate", data={"csrf_token": token(client)})
    assert simulated.status_code == 404  # the stand-in is part of the demo alone


def test_counts_come_from_a_file_whose_column_is_asked_for_once(client: FlaskClient) -> None:
    data = {
        "csrf_token": token(client),
        "product": "4",
        "file": (io.BytesIO(b"Stufe x,Stueck y\n10,7\n9,3\n"), "p.csv"),
    }
    page = client.post("/grading/counts", data=data, content_type="multipart/form-data")
    assert page.status_code == 422
    assert "No column says “grade”" in page.text
    shape = re.search(r'name="shape" value="([^"]*)"', page.text)
    action = re.search(r'action="(/grading/counts[^"]*)"', page.text)
    assert shape
    assert action
    told = {"shape": shape[1], "carried": "Stufe x,Stueck y\n10,7\n9,3\n", "carried_name": "p.csv"}
    told |= {"column-0": "grade", "column-1": "count", "csrf_token": token(client)}
    page = client.post(action[1], data=told, follow_redirects=True)
    assert "Kept: 10 graded copies of" in page.text


def test_counts_are_borrowed_and_said_so(client: FlaskClient) -> None:
    data = {"csrf_token": token(client), "product": "6", "sister": "1"}
    page = client.post("/grading/borrow", data=data, follow_redirects=True).text
    assert "borrows the counts of" in page
    page = client.post("/grading/borrow", data={**data, "sister": ""}, follow_redirects=True).text
    assert "borrows no counts any more" in page
    assert (
        "no counts to lend"
        in client.post("/grading/borrow", data={**data, "sister": "6"}, follow_redirects=True).text
    )


def test_a_sheet_is_told_apart_and_matched(client: FlaskClient, session: Session) -> None:
    subjects = [Subject(at, "Banked 2026", "SB-28", "Osric Eskeland") for at in range(2)]
    data = {
        "csrf_token": token(client),
        "side": "front",
        "scan": (io.BytesIO(SimulatedScanner().sheet(subjects, "front")), "s.jpg"),
    }
    answer = client.post("/look/sheet", data=data, content_type="multipart/form-data")
    where = answer.headers["Location"]
    page = client.get(where).text
    assert "2 cards, by their front" in page
    assert page.count('<option value="">left out</option>') == 2
    assert client.get(where.split("?")[0] + "/1.jpg").mimetype == "image/jpeg"
    assert client.get(where.split("?")[0] + "/2.jpg").status_code == 404
    copy = first(client)
    sent = {"csrf_token": token(client), "side": "front", "copy-0": str(copy), "copy-1": str(copy)}
    assert "chosen for two cards" in client.post(where.split("?")[0], data=sent, follow_redirects=True).text
    sent |= {"copy-1": ""}
    assert "1 card is kept with its copy" in client.post(where.split("?")[0], data=sent, follow_redirects=True).text
    assert session.scalars(select(ScanRecord.copy_id)).all() == [copy]
    assert client.get(f"/look/{copy}/thumb").mimetype == "image/jpeg"
    assert client.get("/look/sheet/never").status_code == 404
    data = {"csrf_token": token(client), "scan": (io.BytesIO(b"x"), "s.jpg")}
    page = client.post("/look/sheet", data=data, content_type="multipart/form-data", follow_redirects=True).text
    assert "no picture Botin reads" in page


@pytest.mark.parametrize(
    ("which", "words"),
    [(CopyRecord.owner_id != ME, "It is not yours"), (CopyRecord.state == "sold", "It is not here any more")],
)
def test_a_look_at_what_is_not_mine_or_not_here_claims_no_flag(
    client: FlaskClient, session: Session, which: ColumnElement[bool], words: str
) -> None:
    copy = session.scalars(select(CopyRecord.id).where(which, CopyRecord.card_id.is_not(None))).first()
    before = session.scalar(select(func.count(FlagRecord.id)))
    assert words in client.get(f"/look/{copy}").text
    data = {"csrf_token": token(client), "corners": "9.5"}
    page = client.post(f"/look/{copy}", data=data, follow_redirects=True).text
    assert f"Kept. {words}" in page
    assert "Its flag" not in re.findall(r'<div class="said".*?</div>', page)[0]
    session.expire_all()
    assert session.scalar(select(func.count(FlagRecord.id))) == before
