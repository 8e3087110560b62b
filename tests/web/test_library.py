"""The library's pages at the server: add, preview, mend, store; correct; search; bad input kept."""

from __future__ import annotations

import io
import re
import time
import zipfile

import pytest
from flask.testing import FlaskClient
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from botin.store.models import CorrectionRecord, DraftRecord, PriceRecord, ProductRecord
from tests.web.test_pages import HX, count, token

PAGES = ["/library/", "/library/?q=orla&only=rookies", "/library/1", "/library/2?format=jumbo", "/library/1/checklist",
         "/library/1/cheat-sheet", "/library/add", "/library/1/correct?table=parallels&field=run_text&key=base&key=slate&key="]  # fmt: skip
TEXTS = {"name": "Keirin 2027", "formats": "Hobby box: 24 packs of 8 cards", "checklist": "Base Set\n1 Orla Thorsby\nodd one out ???",
         "odds": "Copper parallel 1:4"}  # fmt: skip


@pytest.mark.parametrize("page", PAGES)
def test_pages_answer(client: FlaskClient, page: str) -> None:
    answer = client.get(page)
    assert answer.status_code == 200
    assert not re.search(r"<script(?![^>]*src=)|\son\w+=|\sstyle=|javascript:", answer.text)


@pytest.fixture(autouse=True)
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """A busy machine must not turn a short piece of work into one with a progress bar."""
    monkeypatch.setattr("botin.web.library.drafts.MOMENT", 60.0)


def give(client: FlaskClient, **more: object) -> str:
    data = {"csrf_token": token(client), "client_key": "g1", **TEXTS, **more}
    answer = client.post("/library/add", data=data, content_type="multipart/form-data")
    assert answer.status_code == 303, answer.text
    return answer.headers["Location"]


def test_paste_preview_mend_store(client: FlaskClient, session: Session) -> None:
    where, before = give(client), count(session, ProductRecord)
    page = client.get(where).text
    assert "odd one out ???" in page
    assert "1 line is not understood" in page
    assert "Store the product" not in page
    assert count(session, ProductRecord) == before
    data = {"csrf_token": token(client), "sheet": "checklist", "line": "3", "cell": "2 Fenn Lune - Saltmarsh Velo"}
    mended = client.post(f"{where}/line", data=data, headers=HX)
    assert "Store the product" in mended.text
    stored = client.post(f"{where}/store", data={"csrf_token": token(client), "client_key": "s1", "keep_mine": "yes"})
    assert stored.status_code == 303
    shown = client.get(stored.headers["Location"]).text
    assert "Keirin 2027" in shown
    assert "Fenn Lune" in shown
    assert count(session, ProductRecord) == before + 1


def test_storing_twice_stores_once(client: FlaskClient, session: Session) -> None:
    where = give(client, checklist="Base Set\n1 Orla Thorsby")
    data = {"csrf_token": token(client), "client_key": "s1", "keep_mine": "yes"}
    places = {client.post(f"{where}/store", data=data).headers["Location"] for _ in range(2)}
    assert len(places) == 1


def test_a_draft_that_is_not_ready_is_refused_in_words(client: FlaskClient, session: Session) -> None:
    where, before = give(client), count(session, ProductRecord)
    answer = client.post(f"{where}/store", data={"csrf_token": token(client), "client_key": "s1"})
    assert answer.status_code == 422
    assert "Nothing was stored" in answer.text
    assert count(session, ProductRecord) == before


def test_leave_out_and_throw_away(client: FlaskClient, session: Session) -> None:
    where = give(client)
    assert (
        "1 line is not understood"
        not in client.post(f"{where}/leave-out", data={"csrf_token": token(client)}, follow_redirects=True).text
    )
    client.post(f"{where}/discard", data={"csrf_token": token(client)})
    assert count(session, DraftRecord) == 0


def package() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("formats.csv", "format,packs_per_box,cards_per_pack\nhobby,24,8\n")
        archive.writestr("sections.csv", "section,kind\nbase,base\n")
        archive.writestr("cards.csv", "section,number,name\nbase,1,Orla Thorsby\n")
        archive.writestr("prices.csv", "section,number,price,currency\nbase,1,2.50,EUR\n")
    return out.getvalue()


def test_an_uploaded_package_brings_its_prices(client: FlaskClient, session: Session) -> None:
    before = count(session, PriceRecord)
    file = (io.BytesIO(package()), "keirin.zip")
    where = give(client, checklist="", odds="", formats="", files=file)
    assert "1</b> prices" in client.get(where).text
    client.post(f"{where}/store", data={"csrf_token": token(client), "client_key": "s1", "keep_mine": "yes"})
    assert count(session, PriceRecord) == before + 1


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"checklist": " ", "odds": ""}, "nothing to read yet"),
        ({"files": (io.BytesIO(b"x"), "a.pdf")}, "no kind of file"),
        ({"files": (io.BytesIO(b"x"), "a.zip")}, "cannot be opened as a zip"),
    ],
)
def test_what_cannot_be_read_keeps_what_was_typed(client: FlaskClient, more: dict[str, object], says: str) -> None:
    data = {"csrf_token": token(client), "client_key": "bad", **TEXTS, **more}
    answer = client.post("/library/add", data=data, content_type="multipart/form-data")
    assert answer.status_code == 422
    assert says in answer.text
    assert "Keirin 2027" in answer.text
    assert "Hobby box: 24 packs" in answer.text


def test_long_work_shows_its_progress(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("botin.web.library.drafts.MOMENT", 0.0)
    monkeypatch.setattr("botin.desk.catalog.drafts.view_draft", lambda *_: time.sleep(0.3))
    where = give(client)
    assert "/library/progress/" in where
    page = client.get(where)
    assert "<progress" in page.text
    for _ in range(200):
        answer = client.get(where, headers=HX)
        if "HX-Redirect" in answer.headers:
            break
        time.sleep(0.1)
    assert answer.headers["HX-Redirect"].startswith("/library/drafts/")
    assert client.get("/library/progress/unknown").status_code == 404


def test_a_second_import_shows_the_differences(client: FlaskClient) -> None:
    first = give(client, checklist="Base Set\n1 Orla Thorsby\n2 Fenn Lune")
    client.post(f"{first}/store", data={"csrf_token": token(client), "client_key": "s1", "keep_mine": "yes"})
    again = give(client, client_key="g2", checklist="Base Set\n1 Orla Thorsby - Harrow Bay RC\n3 Iska Glimhurst")
    page = client.get(again).text
    assert "is in the library already" in page
    assert re.search(r'cards</th><td class="num">1</td><td class="num">1</td><td class="num">1</td>', page)
    assert "Store the changes" in page


FIX = {"table": "parallels", "field": "run_text", "key": ["base", "slate", ""], "seen": "199", "client_key": "c1"}


def test_correcting_a_run(client: FlaskClient, session: Session) -> None:
    good = {**FIX, "csrf_token": token(client), "value": "299", "why": "stamped so"}
    assert client.post("/library/1/correct", data=good).status_code == 303
    page = client.get("/library/1").text
    assert "199 → 299" in page
    assert "stamped so" in page
    stale = client.post("/library/1/correct", data={**good, "client_key": "c2", "value": "399"})
    assert stale.status_code == 409
    assert session.scalar(select(func.count()).select_from(CorrectionRecord)) == 1


def test_a_bad_correction_is_answered_at_the_field(client: FlaskClient) -> None:
    answer = client.post(
        "/library/1/correct", data={**FIX, "csrf_token": token(client), "value": "lots", "why": "because"}
    )
    assert answer.status_code == 422
    assert "is no run" in answer.text
    assert 'value="lots"' in answer.text
    assert 'value="because"' in answer.text


@pytest.mark.parametrize(
    "query", ["", "?table=cards&field=id&key=1", "?table=parallels&field=run_text&key=no&key=no&key="]
)
def test_what_is_not_there_to_correct(client: FlaskClient, query: str) -> None:
    assert client.get(f"/library/1/correct{query}").status_code == 404


@pytest.mark.parametrize("kind", ["zip", "xlsx"])
def test_export_comes_as_a_file(client: FlaskClient, kind: str) -> None:
    answer = client.get(f"/library/1/export.{kind}")
    assert answer.headers["Content-Disposition"].endswith(f"banked-2026.{kind}")
    assert answer.data[:2] == b"PK"


def test_search_answers_with_a_fragment(client: FlaskClient) -> None:
    answer = client.get("/library/?q=orla", headers=HX)
    assert "<html" not in answer.text
    assert "Orla" in answer.text
    assert "Nothing found" in client.get("/library/?q=zzzz", headers=HX).text


def test_the_ladder_says_every_line_in_words(client: FlaskClient) -> None:
    page = client.get("/library/1").text
    rungs = re.findall(r'<g class="rung[^>]*aria-label="([^"]+)"', page)
    assert len(rungs) == 15  # as many as the odds of the hobby box have rows
    assert any("printed 1:15, 1:15, 1.60 a box" in words for words in rungs)
    assert all('tabindex="0"' in found for found in re.findall(r'<g class="rung[^>]*>', page))


def test_writes_need_the_token(client: FlaskClient) -> None:
    for path in ("/library/add", "/library/1/correct", "/library/look-again/1", "/library/drafts/1/store"):
        assert client.post(path).status_code == 400


def test_a_source_that_does_not_hang_together_is_named_once_above_its_lines(client: FlaskClient) -> None:
    lines = [
        "BASE SET",
        "",
        "Harrow Bay",
        "1 Orla Thorsby",
        "2 Dov Quill",
        "",
        "Tarn",
        "3 Jorik Munro",
        "4 Pia Worth",
    ]
    place = give(client, client_key="doubtful", checklist="\n".join(lines))
    page = client.get(place).text
    assert page.count("Not sure of checklist:") == 1
    assert "are they clubs?" in page
    plain = give(client, client_key="certain", checklist="Base\n1 Orla Thorsby - Tarn\n2 Dov Quill - Tarn")
    assert "Not sure of" not in client.get(plain).text
